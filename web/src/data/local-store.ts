import type { FieldRecord, HeldMark, TrialFile } from '@canter/core/trial'
import { Dexie, type EntityTable } from 'dexie'

/** A record on this device. `waiting` ones are the outbox; `refused` ones stay to be seen and mended; `aside` ones were refused and let go by a person. */
export interface LocalRecord {
  id: string
  trial: string
  record: FieldRecord
  state: 'waiting' | 'sent' | 'refused' | 'aside'
  problem: string
}

/** How far this device has heard of a trial, and what the store said it held up to there. */
export interface Cursor {
  trial: string
  cursor: number
  held?: HeldMark
  store?: string
}

interface KeptTrial {
  id: string
  file: TrialFile
}

/** The browser's own store: what Walk writes first, and what it reads with no signal. */
export const localStore = new Dexie('canter') as Dexie & {
  records: EntityTable<LocalRecord, 'id'>
  cursors: EntityTable<Cursor, 'trial'>
  trials: EntityTable<KeptTrial, 'id'>
}

localStore.version(1).stores({ records: 'id, trial, [trial+state]', cursors: 'trial', trials: 'id' })
