import type { FieldRecord } from '@canter/core/trial'
import { wrap, type Remote } from 'comlink'
import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import type { BookWorker } from './book-worker.ts'

let remote: Remote<BookWorker> | null = null

/** The book of the open trials, in its worker. */
export function book(): Remote<BookWorker> {
  remote ??= wrap<BookWorker>(new Worker(new URL('./book-worker.ts', import.meta.url), { type: 'module' }))
  return remote
}

/** What changed last in a trial: a count that grows, and the units that may say something else; null for all. */
interface Change {
  readonly count: number
  readonly units: ReadonlySet<string> | null
}

const FIRST: Change = { count: 0, units: null }
const changes = new Map<string, Change>()
const listeners = new Set<() => void>()

export function bookChanged(trial: string, units: Iterable<string> | null): void {
  changes.set(trial, { count: (changes.get(trial)?.count ?? 0) + 1, units: units && new Set(units) })
  for (const listener of listeners) listener()
}

/** Records that this page, or another of this browser, has written or heard of. */
export async function tellBook(trial: string, records: FieldRecord[], gone: string[] = []): Promise<void> {
  const removed = gone.length > 0 ? await book().remove(trial, gone) : []
  const added = records.length > 0 ? await book().add(trial, records) : []
  if (removed.length + added.length > 0) bookChanged(trial, [...removed, ...added])
}

export function useBookChange(trial: string): Change {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => changes.get(trial) ?? FIRST,
  )
}

/** A slice of the book, asked for again whenever the trial changes; what was shown stays until the new one is there. */
export function useSlice<Slice>(trial: string, key: string | null, ask: (from: Remote<BookWorker>) => Promise<Slice>): Slice | undefined {
  const { count } = useBookChange(trial)
  const [slice, setSlice] = useState<{ key: string; value: Slice }>()
  const asking = useRef(ask)
  asking.current = ask
  useEffect(() => {
    if (key === null) return
    let current = true
    void asking.current(book()).then(
      (value) => current && setSlice({ key, value }),
      () => undefined,
    )
    return () => {
      current = false
    }
  }, [trial, key, count])
  return slice && slice.key === key ? slice.value : undefined
}
