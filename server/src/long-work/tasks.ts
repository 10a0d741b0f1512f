import type { SearchWatch } from '@canter/core/design'
import { FileError, fileFormats, unpackTrial, withNewIds } from '@canter/core/exchange'
import { parentPort, workerData } from 'node:worker_threads'
import { v7 as uuidv7 } from 'uuid'
import { perform, type Act } from '../http/acts.ts'
import { contentsOf } from '../store/contents.ts'
import { Reading } from '../store/store.ts'
import type { KeptSummary, Prepared } from '../store/trials.ts'
import { arrivalOf, type Arrival } from '../store/writing.ts'
import { Summaries, type Told } from './trial-summaries.ts'

/** What is done away from the thread that answers; each may take long, or meet a file made to harm. */
export interface Tasks {
  readonly unpack: (bytes: Uint8Array, copy: boolean) => Promise<Arrival>
  /** A trial with layouts and history as JSON; null when there is no such trial. */
  readonly trial: (trial: string) => Promise<string | null>
  /** What a change comes to; null when there is no such trial. Fails where it is refused. */
  readonly change: (trial: string, person: string, act: Act, watch?: SearchWatch) => Promise<Prepared<string> | null>
  /** Null: there is no such trial, or it has no plots and the format needs them. */
  readonly file: (trial: string, format: string) => Promise<{ title: string; bytes: Uint8Array } | 'no trial' | 'no plots'>
  readonly summaries: (deleted: boolean, kept: readonly KeptSummary[]) => Promise<Told>
}

/** How a failure is told across. */
export interface Failure {
  readonly where: string | null
  readonly message: string
  readonly code: string | null
}

export interface Asked {
  readonly n: number
  readonly task: keyof Tasks
  readonly given: readonly unknown[]
  /** Of work that is watched: set to 1 from outside when it is to end with what it has. */
  readonly stop?: Int32Array
}

export type Answer =
  | { readonly n: number; readonly value: unknown }
  | { readonly n: number; readonly failure: Failure }
  | { readonly n: number; readonly share: number; readonly efficiency: number }

let reading: Reading | null = null
let summaries: Summaries | null = null
const store = (): Reading => (reading ??= new Reading(workerData as string))

const tasks: Tasks = {
  async unpack(bytes, copy) {
    const contents = unpackTrial(bytes)
    return arrivalOf(copy ? withNewIds(contents, uuidv7) : contents)
  },

  async trial(trial) {
    const file = await store().trials.file(trial)
    return file && JSON.stringify(file)
  },

  async change(trial, person, act, watch) {
    const prepared = await store().trials.prepare(trial, person, (file, standing) => perform(act, file, standing, watch))
    return prepared && { ...prepared, changed: JSON.stringify(prepared.changed) }
  },

  async file(trial, key) {
    const format = fileFormats.find((each) => each.key === key)!
    const contents = await contentsOf(store(), trial)
    if (!contents) return 'no trial'
    if (format.needsLayout && contents.layouts.length === 0) return 'no plots'
    const made = await format.make(contents)
    return { title: contents.trial.question.title, bytes: typeof made === 'string' ? new TextEncoder().encode(made) : made }
  },

  async summaries(deleted, kept) {
    summaries ??= new Summaries(store())
    return summaries.all(deleted, kept)
  },
}

parentPort?.on('message', ({ n, task, given, stop }: Asked) => {
  const act = tasks[task] as (...given: readonly unknown[]) => Promise<unknown>
  const watch: SearchWatch | null = stop
    ? {
        progress: (share, efficiency) => parentPort!.postMessage({ n, share, efficiency } satisfies Answer),
        stopped: () => Atomics.load(stop, 0) === 1,
      }
    : null
  act(...given, ...(watch ? [watch] : [])).then(
    (value) => parentPort!.postMessage({ n, value } satisfies Answer),
    (error: unknown) => {
      const { message, code } = error as { message?: string; code?: string }
      const failure: Failure = { where: error instanceof FileError ? error.where : null, message: message ?? 'unknown', code: code ?? null }
      parentPort!.postMessage({ n, failure } satisfies Answer)
    },
  )
})
