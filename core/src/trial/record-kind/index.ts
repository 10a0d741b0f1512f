import { z } from 'zod'
import { Note, note } from './note.ts'
import { Operation, operation } from './operation.ts'
import { Reading, reading } from './reading.ts'
import type { RecordKind } from './record-kind.ts'
import { Retraction, retraction } from './retraction.ts'

export const FieldRecord = z.discriminatedUnion('type', [Reading, Note, Operation, Retraction]).meta({ id: 'FieldRecord' })
export type FieldRecord = z.infer<typeof FieldRecord>

/** All kinds of record, each typed by its own file; adding one is its file, its schema above and its name here. */
export const recordKinds = [reading, note, operation, retraction] as unknown as readonly RecordKind<FieldRecord>[]

export function recordKind(type: FieldRecord['type']): RecordKind<FieldRecord> {
  return recordKinds.find((each) => each.type === type)!
}

/** A record as the server holds it: with its sequence number, the sync cursor. */
export const StoredRecord = z.object({ seq: z.number().int().positive(), record: FieldRecord }).meta({ id: 'StoredRecord' })
export type StoredRecord = z.infer<typeof StoredRecord>

export { FLAGS, Note } from './note.ts'
export { Operation } from './operation.ts'
export { Reading } from './reading.ts'
export { Retraction } from './retraction.ts'
export { numberIn, type RecordFrame, type RecordKind } from './record-kind.ts'
