import type { FieldRecord } from '@canter/core/trial'
import { wrap, type Remote } from 'comlink'
import { useEffect, useRef, useState } from 'react'
import type { BookWorker } from './book-worker.ts'
import { tellTrouble } from './troubles.ts'

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

/** An answer of the book, or nothing: then what is on the screen may be old, and that is said. What was entered is kept apart from it. */
export async function answered<Answer>(asked: Promise<Answer>): Promise<Answer | undefined> {
  try {
    const answer = await asked
    tellTrouble('book', null)
    return answer
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error)
    tellTrouble('book', `This page may show old values (${why}). What was entered is kept on this device; open the page again.`)
    return undefined
  }
}

/** Records that this page, or another of this browser, has written or heard of. */
export async function tellBook(trial: string, records: FieldRecord[], gone: string[] = []): Promise<void> {
  const removed = gone.length > 0 ? await answered(book().remove(trial, gone)) : []
  const added = records.length > 0 ? await answered(book().add(trial, records)) : []
  const units = [...(removed ?? []), ...(added ?? [])]
  if (units.length > 0) bookChanged(trial, units)
}

export function bookChange(trial: string): Change {
  return changes.get(trial) ?? FIRST
}

/** Hears of every change of a trial, without drawing anything for it. */
export function onBookChange(trial: string, listener: () => void): () => void {
  let { count } = bookChange(trial)
  const hear = (): void => {
    if (bookChange(trial).count === count) return
    count = bookChange(trial).count
    listener()
  }
  listeners.add(hear)
  return () => listeners.delete(hear)
}

let outstanding = 0
let settled: (() => void)[] = []
let patience: ReturnType<typeof setTimeout> | undefined

/** Shows an answer of the book together with the others that were asked for at the same time, so that the page is drawn once. */
export function whenAnswered<Answer>(asked: Promise<Answer>, show: (answer: Answer) => void): void {
  outstanding++
  const flush = (): void => {
    clearTimeout(patience)
    patience = undefined
    const acts = settled
    settled = []
    for (const act of acts) act()
  }
  void answered(asked).then((answer) => {
    outstanding--
    if (answer !== undefined) settled.push(() => show(answer))
    if (outstanding === 0) flush()
    // A long answer does not hold the short ones for more than two frames.
    else patience ??= setTimeout(flush, 32)
  })
}

/** A slice of the book, asked for again whenever the trial changes; what was shown stays until the new one is there. */
export function useSlice<Slice>(trial: string, key: string | null, ask: (from: Remote<BookWorker>) => Promise<Slice>): Slice | undefined {
  const [slice, setSlice] = useState<{ key: string; value: Slice }>()
  const asking = useRef(ask)
  asking.current = ask
  useEffect(() => {
    if (key === null) return
    let latest = 0
    const fetch = (): void => {
      const own = ++latest
      whenAnswered(asking.current(book()), (value) => {
        if (own === latest) setSlice({ key, value })
      })
    }
    fetch()
    const leave = onBookChange(trial, fetch)
    return () => {
      latest = -1
      leave()
    }
  }, [trial, key])
  return slice && slice.key === key ? slice.value : undefined
}
