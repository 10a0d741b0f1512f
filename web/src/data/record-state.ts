import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useMemo, useSyncExternalStore } from 'react'
import { localStore, type LocalRecord } from './local-store.ts'
import { Sync } from './sync.ts'

export interface RecordState {
  /** Whether what this device knows of the trial can be shown: it has heard of it, or cannot hear. */
  readonly ready: boolean
  readonly waiting: number
  readonly refused: readonly LocalRecord[]
  /** Whether the server answered last time. */
  readonly online: boolean
}

const NONE: readonly LocalRecord[] = []

/** What waits on this device and what was not taken, live; starts sending and fetching. */
export function useRecordState(trial: string): RecordState {
  const kept = useLiveQuery(
    async () => ({
      waiting: await localStore.records.where({ trial, state: 'waiting' }).count(),
      refused: await localStore.records.where({ trial, state: 'refused' }).toArray(),
      heard: (await localStore.cursors.get(trial)) !== undefined,
    }),
    [trial],
  )
  const sync = Sync.of(trial)
  const online = useSyncExternalStore(sync.subscribe, sync.answered)
  const settled = useSyncExternalStore(sync.subscribe, sync.settled)
  useEffect(() => void sync.wake(), [sync])
  return useMemo(
    () => ({
      // A device that has never heard of the trial waits for its first word from the server before it says there is nothing.
      ready: kept !== undefined && (kept.heard || (settled && !online)),
      waiting: kept?.waiting ?? 0,
      refused: kept?.refused ?? NONE,
      online,
    }),
    [kept, online, settled],
  )
}
