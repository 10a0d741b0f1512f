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

/** How often each trial has changed since this page was opened. */
const changes = new Map<string, number>()
const listeners = new Set<() => void>()

export function bookChanged(trial: string): void {
  changes.set(trial, bookCount(trial) + 1)
  for (const listener of listeners) listener()
}

export function bookCount(trial: string): number {
  return changes.get(trial) ?? 0
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

/** Records that this page, or another of this browser, has heard of. Most of them are known already, and then nothing is asked again. */
export async function tellBook(trial: string, records: FieldRecord[], gone: string[] = []): Promise<void> {
  const removed = gone.length > 0 ? await answered(book().remove(trial, gone)) : []
  const added = records.length > 0 ? await answered(book().add(trial, records)) : []
  if ((removed?.length ?? 0) + (added?.length ?? 0) > 0) bookChanged(trial)
}

/** Records made on this page: new for certain, so that what shows them asks in the same breath. */
export function enterInBook(trial: string, records: FieldRecord[]): void {
  void answered(book().add(trial, records))
  bookChanged(trial)
}

/** Hears of every change of a trial, without drawing anything for it. */
export function onBookChange(trial: string, listener: () => void): () => void {
  let count = bookCount(trial)
  const hear = (): void => {
    if (bookCount(trial) === count) return
    count = bookCount(trial)
    listener()
  }
  listeners.add(hear)
  return () => listeners.delete(hear)
}

let outstanding = 0
let settled: (() => void)[] = []
let awaited: (() => void)[] = []
let patience: ReturnType<typeof setTimeout> | undefined
/** Milliseconds, two frames, that one answer waits for the others. */
const PATIENCE = 32

/** Shows an answer of the book together with the others that were asked for at the same time, so that the page is drawn once. */
export function whenAnswered<Answer>(asked: Promise<Answer>, show: (answer: Answer) => void): void {
  outstanding++
  void answered(asked).then((answer) => {
    outstanding--
    if (answer !== undefined) settled.push(() => show(answer))
    if (outstanding === 0) ready()
    // A long answer does not hold the short ones.
    else patience ??= setTimeout(ready, PATIENCE)
  })
}

function ready(): void {
  clearTimeout(patience)
  patience = undefined
  if (awaited.length === 0) return showAnswers()
  for (const go of awaited) go()
  awaited = []
  // Whoever waited may show them together with what it does next.
  setTimeout(showAnswers)
}

/** Shows what has been answered; within a change of the page, as one with it. */
export function showAnswers(): void {
  const acts = settled
  settled = []
  for (const act of acts) act()
}

/** Resolves when all that was asked of the book is there to be shown, and after two frames in any case. */
export async function answersThere(): Promise<void> {
  if (outstanding === 0) return
  await new Promise<void>((resolve) => {
    awaited.push(resolve)
    setTimeout(resolve, PATIENCE)
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
