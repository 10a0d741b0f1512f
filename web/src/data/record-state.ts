import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useMemo, useSyncExternalStore } from 'react'
import { localStore, type LocalRecord } from './local-store.ts'
import { Sync } from './sync.ts'

export interface RecordState {
  readonly waiting: number
  readonly refused: readonly LocalRecord[]
  /** Whether the server answered last time. */
  readonly online: boolean
}

const NONE: readonly LocalRecord[] = []

/** What waits on this device and what was not taken, live. */
export function useRecordState(trial: string): RecordState {
  const kept = useLiveQuery(
    async () => ({
      waiting: await localStore.records.where({ trial, state: 'waiting' }).count(),
      refused: await localStore.records.where({ trial, state: 'refused' }).toArray(),
    }),
    [trial],
  )
  const online = useOnline(trial)
  return useMemo(() => ({ waiting: kept?.waiting ?? 0, refused: kept?.refused ?? NONE, online }), [kept, online])
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
