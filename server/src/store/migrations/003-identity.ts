import { v7 as uuidv7 } from 'uuid'
import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '003-identity'

/** Which store this is, how often it was put back from a backup, and what lists show of each trial. */
export async function up({ act }: Run): Promise<void> {
  await act('CREATE TABLE store (id TEXT PRIMARY KEY, epoch INTEGER NOT NULL)')
  await act('INSERT INTO store (id, epoch) VALUES (?, 1)', [uuidv7()])
  // Made again from the records wherever it is missing or behind; nothing is known from here alone.
  await act('CREATE TABLE summary (trial_id TEXT PRIMARY KEY, version INTEGER NOT NULL, seq INTEGER NOT NULL, body JSON NOT NULL)')
  // Trials that are being taken from a package, piece by piece: not there for anybody until the last piece is.
  await act('CREATE TABLE arriving (trial_id TEXT PRIMARY KEY)')
  // Without it the units of a layout are looked for one by one when it is taken off.
  await act('CREATE INDEX membership_of ON membership (in_unit_id)')
  await act('PRAGMA application_id = 1130458740')
}
