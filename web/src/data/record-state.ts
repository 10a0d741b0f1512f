import { liveQuery } from 'dexie'
import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useMemo, useSyncExternalStore } from 'react'
import { localStore, type LocalRecord } from './local-store.ts'
import { Sync } from './sync.ts'
import { tellTrouble } from './troubles.ts'

export interface RecordState {
  readonly waiting: number
  readonly refused: readonly LocalRecord[]
  /** Whether the server answered last time. */
  readonly online: boolean
}

interface Kept {
  readonly waiting: number
  readonly refused: readonly LocalRecord[]
}

const NOTHING: Kept = { waiting: 0, refused: [] }

/** What this device's store says of a trial, asked once a change however many parts of the page show it. */
class KeptWatch {
  static readonly #all = new Map<string, KeptWatch>()
  static of(trial: string): KeptWatch {
    const found = this.#all.get(trial) ?? new KeptWatch(trial)
    this.#all.set(trial, found)
    return found
  }

  readonly #trial: string
  readonly #listeners = new Set<() => void>()
  #kept = NOTHING
  #leave: (() => void) | undefined

  private constructor(trial: string) {
    this.#trial = trial
  }

  readonly now = (): Kept => this.#kept

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener)
    this.#leave ??= this.#watch()
    return () => {
      this.#listeners.delete(listener)
      if (this.#listeners.size > 0) return
      this.#leave?.()
      this.#leave = undefined
    }
  }

  #watch(): () => void {
    const of = (state: LocalRecord['state']) => localStore.records.where({ trial: this.#trial, state })
    const asked = liveQuery(async (): Promise<Kept> => {
      const [waiting, refused] = await Promise.all([of('waiting').count(), of('refused').toArray()])
      return { waiting, refused }
    })
    const watched = asked.subscribe({
      next: (kept) => {
        // The same nothing is no news to whoever shows it.
        const { waiting, refused } = this.#kept
        if (kept.waiting === waiting && kept.refused.length === 0 && refused.length === 0) return
        this.#kept = kept
        for (const listener of this.#listeners) listener()
      },
      error: (error: unknown) => tellTrouble('records', `This page cannot say what waits on this device (${String(error)}).`),
    })
    return () => watched.unsubscribe()
  }
}

/** What waits on this device and what was not taken, live. */
export function useRecordState(trial: string): RecordState {
  const watch = KeptWatch.of(trial)
  const kept = useSyncExternalStore(watch.subscribe, watch.now)
  const online = useOnline(trial)
  return useMemo(() => ({ ...kept, online }), [kept, online])
}

/**
 * Whether what this device knows of a trial can be shown: it has heard of it, or cannot hear.
 * Starts sending and fetching. A device that has never heard of the trial waits for its first word
 * from the server before it says there is nothing.
 */
export function useHeard(trial: string): boolean {
  const heard = useLiveQuery(async () => (await localStore.cursors.get(trial)) !== undefined, [trial])
  const sync = Sync.of(trial)
  const online = useOnline(trial)
  const settled = useSyncExternalStore(sync.subscribe, sync.settled)
  useEffect(() => void sync.wake(), [sync])
  return heard !== undefined && (heard || (settled && !online))
}

function useOnline(trial: string): boolean {
  const sync = Sync.of(trial)
  return useSyncExternalStore(sync.subscribe, sync.answered)
}
