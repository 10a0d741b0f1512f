import { z } from 'zod'
import { fate } from './fate.ts'
import { note } from './note.ts'
import { operation } from './operation.ts'
import { reading } from './reading.ts'
import type { RecordKind } from './record-kind.ts'
import { retraction } from './retraction.ts'

/** All kinds of record; adding one is its file and its name here. */
const KINDS = [reading, note, operation, fate, retraction] as const

type SchemasOf<Kinds extends readonly { schema: unknown }[]> = { -readonly [Place in keyof Kinds]: Kinds[Place]['schema'] }

export const FieldRecord = z
  .discriminatedUnion('type', KINDS.map((kind) => kind.schema) as unknown as SchemasOf<typeof KINDS>)
  .meta({ id: 'FieldRecord' })
export type FieldRecord = z.infer<typeof FieldRecord>

/** The same, each taking whatever record is given: whoever looks one up has asked for its type. */
export const recordKinds = KINDS as unknown as readonly RecordKind<FieldRecord>[]

export function recordKind(type: FieldRecord['type']): RecordKind<FieldRecord> {
  return recordKinds.find((each) => each.type === type)!
}

/** A record as the server holds it: with its sequence number, the sync cursor. */
export const StoredRecord = z.object({ seq: z.number().int().positive(), record: FieldRecord }).meta({ id: 'StoredRecord' })
export type StoredRecord = z.infer<typeof StoredRecord>

export { Fate } from './fate.ts'
export { FLAGS, Note } from './note.ts'
export { Operation } from './operation.ts'
export { Reading } from './reading.ts'
export { Retraction } from './retraction.ts'
export { numberIn, type RecordFrame, type RecordKind } from './record-kind.ts'
