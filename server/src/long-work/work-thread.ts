import { Worker } from 'node:worker_threads'
import { FileError } from '@canter/core/exchange'
import type { Answer, Asked, Tasks } from './tasks.ts'

interface Waiting {
  readonly resolve: (value: unknown) => void
  readonly reject: (error: unknown) => void
  readonly timer: ReturnType<typeof setTimeout>
  readonly watch: Watched | null
}

/** Work that tells how far it is, and can be ended with what it has. */
export interface Watched {
  progress(share: number, efficiency: number): void
  /** One number in shared memory: 1 ends it. */
  readonly stop: Int32Array
}

/** It took longer, or more memory, than anything honest does. */
export class TooMuch extends Error {}

interface Limits {
  readonly milliseconds: number
  readonly megabytes: number
  /** After so long without work it is let go, and its memory with it; null: it stays. */
  readonly idle: number | null
}

/** From the sources, as the tests run it, Node needs to be told how to read them. */
const FROM_SOURCE = `import('tsx/esm/api').then(({ register }) => {
  register()
  return import(${JSON.stringify(new URL('./tasks.ts', import.meta.url).href)})
})`

/** A worker that does what would hold other requests. Begun when it is first needed, and anew after it had to be stopped. */
export class WorkThread {
  readonly #database: string
  readonly #limits: Limits
  readonly #waiting = new Map<number, Waiting>()
  #worker: Worker | null = null
  #n = 0
  #rest: ReturnType<typeof setTimeout> | undefined

  constructor(database: string, limits: Limits) {
    this.#database = database
    this.#limits = limits
  }

  /** Throws FileError for a file that cannot be read, TooMuch when it was stopped. */
  ask<Task extends keyof Tasks>(task: Task, ...given: Parameters<Tasks[Task]>): ReturnType<Tasks[Task]> {
    return this.#ask(task, null, given)
  }

  /** The same, told of while it goes on. */
  askWatched<Task extends keyof Tasks>(task: Task, watch: Watched, ...given: Parameters<Tasks[Task]>): ReturnType<Tasks[Task]> {
    return this.#ask(task, watch, given)
  }

  #ask<Task extends keyof Tasks>(task: Task, watch: Watched | null, given: Parameters<Tasks[Task]>): ReturnType<Tasks[Task]> {
    clearTimeout(this.#rest)
    const worker = (this.#worker ??= this.#begin())
    const n = ++this.#n
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => void this.#end(new TooMuch('It took too long.')), this.#limits.milliseconds)
      this.#waiting.set(n, { resolve: resolve as (value: unknown) => void, reject, timer, watch })
      worker.postMessage({ n, task, given, ...(watch ? { stop: watch.stop } : {}) } satisfies Asked)
    }) as ReturnType<Tasks[Task]>
  }

  async close(): Promise<void> {
    await this.#end(new Error('The server is closing.'))
  }

  #begin(): Worker {
    const limits = {
      workerData: this.#database,
      resourceLimits: { maxOldGenerationSizeMb: this.#limits.megabytes, maxYoungGenerationSizeMb: 32 },
    }
    const worker = import.meta.url.endsWith('.ts')
      ? new Worker(FROM_SOURCE, { ...limits, eval: true, execArgv: ['--conditions', 'source'] })
      : new Worker(new URL('./tasks.js', import.meta.url), limits)
    worker.unref()
    worker.on('message', (answer: Answer) => {
      const waiting = this.#waiting.get(answer.n)
      if (!waiting) return
      if ('share' in answer) {
        waiting.watch?.progress(answer.share, answer.efficiency)
        return
      }
      this.#waiting.delete(answer.n)
      clearTimeout(waiting.timer)
      if (this.#limits.idle !== null && this.#waiting.size === 0)
        this.#rest = setTimeout(() => void this.#end(new Error('It rests.')), this.#limits.idle).unref()
      if ('value' in answer) waiting.resolve(answer.value)
      else waiting.reject(errorOf(answer.failure))
    })
    worker.on('error', (error: NodeJS.ErrnoException) => {
      if (this.#worker !== worker) return
      void this.#end(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? new TooMuch('It took too much memory.') : error)
    })
    return worker
  }

  async #end(error: Error): Promise<void> {
    clearTimeout(this.#rest)
    const worker = this.#worker
    this.#worker = null
    for (const { reject, timer } of this.#waiting.values()) {
      clearTimeout(timer)
      reject(error)
    }
    this.#waiting.clear()
    await worker?.terminate()
  }
}

function errorOf({ where, message, code }: { where: string | null; message: string; code: string | null }): Error {
  if (where !== null) return new FileError(where, message.startsWith(`${where}: `) ? message.slice(where.length + 2) : message)
  return Object.assign(new Error(message), code === null ? {} : { code })
}
