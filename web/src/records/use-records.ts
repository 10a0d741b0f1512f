import type { FieldRecord } from '@canter/core/trial'
import { useLiveQuery } from 'dexie-react-hooks'
import { useEffect, useMemo, useSyncExternalStore } from 'react'
import { localStore, type LocalRecord } from './local-store.ts'
import { Sync } from './sync.ts'

export interface Records {
  readonly ready: boolean
  readonly records: readonly FieldRecord[]
  readonly waiting: number
  readonly refused: readonly LocalRecord[]
  /** Whether the server answered last time. */
  readonly online: boolean
}

const NONE: readonly LocalRecord[] = []

/** All records of a trial on this device, live; starts sending and fetching. */
export function useRecords(trial: string): Records {
  // Rows and cursor in one look, so that what is fetched is never seen half.
  const kept = useLiveQuery(
    () =>
      localStore.transaction('r', localStore.records, localStore.cursors, async () => ({
        rows: await localStore.records.where({ trial }).toArray(),
        cursor: await localStore.cursors.get(trial),
      })),
    [trial],
  )
  const sync = Sync.of(trial)
  const online = useSyncExternalStore(sync.subscribe, sync.answered)
  const settled = useSyncExternalStore(sync.subscribe, sync.settled)
  useEffect(() => void sync.wake(), [sync])
  return useMemo(() => {
    const all = kept?.rows ?? NONE
    const refused = all.filter((row) => row.state === 'refused')
    return {
      // A device that has never heard of the trial waits for its first word from the server before it says there is nothing.
      ready: kept !== undefined && (kept.cursor !== undefined || (settled && !online)),
      records: all.filter((row) => row.state !== 'refused').map((row) => row.record),
      waiting: all.filter((row) => row.state === 'waiting').length,
      refused,
      online,
    }
  }, [kept, online, settled])
}
