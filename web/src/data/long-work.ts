import type { Progress } from '@canter/core/analysis'
import { proxy, wrap, type Remote } from 'comlink'
import { useSyncExternalStore } from 'react'
import type { AnalysisWorker } from './analysis-worker.ts'

/** Somebody stopped it. */
export class Stopped extends Error {}
/** The worker it ran in was ended for another's sake: it may be asked again. */
class Interrupted extends Error {}

type Report = (progress: Progress) => void

interface Running {
  progress: Progress | null
  readonly reject: (error: Error) => void
}

let held: { worker: Worker; remote: Remote<AnalysisWorker> } | null = null
const running = new Map<string, Running>()
const listeners = new Set<() => void>()

function tell(): void {
  for (const listener of listeners) listener()
}

/** Heavy sums, in a worker of their own; `key` names them while they run. */
export function longWork<T>(key: string, call: (remote: Remote<AnalysisWorker>, report: Report) => Promise<T>): Promise<T> {
  if (!held) {
    const worker = new Worker(new URL('./analysis-worker.ts', import.meta.url), { type: 'module' })
    held = { worker, remote: wrap<AnalysisWorker>(worker) }
  }
  const { remote } = held
  return new Promise<T>((resolve, reject) => {
    const own: Running = { progress: null, reject }
    running.set(key, own)
    const report: Report = (progress) => {
      own.progress = progress
      tell()
    }
    const ended = (): void => {
      if (running.get(key) === own) running.delete(key)
      tell()
    }
    call(remote, proxy(report)).then(resolve, reject).finally(ended)
    tell()
  })
}

/** Ends the worker; what else ran in it is asked again. */
export function stopWork(key: string): void {
  if (!running.has(key) || !held) return
  held.worker.terminate()
  held = null
  for (const [each, { reject }] of running) reject(each === key ? new Stopped('Stopped') : new Interrupted('Interrupted'))
  running.clear()
  tell()
}

/** Where some work stands: undefined while it does not run, null before its first step. */
export function useProgress(key: string): Progress | null | undefined {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => void listeners.delete(listener)
    },
    () => (running.has(key) ? (running.get(key)!.progress ?? null) : undefined),
  )
}

/** Work that was interrupted is asked again; what failed or was stopped is not. */
export const askedAgain = {
  retry: (count: number, error: Error): boolean => error instanceof Interrupted && count < 5,
  retryDelay: 0,
} as const
