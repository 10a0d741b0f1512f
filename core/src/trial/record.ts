import { z } from 'zod'
import { id, instant, key, line } from './text.ts'

/** What was read, with what the person typed. Values are in the trait's unit. */
export const ReadingValue = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('number'), value: z.number(), typed: z.string().max(60) }),
  z.object({ kind: z.literal('below limit'), limit: z.number(), typed: z.string().max(60) }),
  z.object({ kind: z.literal('score'), value: z.number(), typed: z.string().max(60) }),
  z.object({ kind: z.literal('yes/no'), value: z.boolean() }),
  z.object({ kind: z.literal('date'), value: z.iso.date() }),
  z.object({ kind: z.literal('stage'), value: z.string().max(60) }),
  z.object({ kind: z.literal('text'), value: z.string().max(2000) }),
  z.object({ kind: z.literal('file'), name: z.string().max(200), hash: z.string().max(128) }),
  z.object({ kind: z.literal('missing'), reason: line('Reason', 200) }),
])
export type ReadingValue = z.infer<typeof ReadingValue>

const who = {
  id,
  at: instant,
  person: id,
  /** Which device wrote it, e.g. to find a phone with a wrong clock. */
  device: z.string().trim().min(1).max(60),
}

export const Reading = z
  .object({
    type: z.literal('reading'),
    ...who,
    unit: id,
    trait: key,
    occasion: key,
    /** Running number of the plant or sample within the unit, from 1. */
    replicate: z.number().int().min(1).max(10000),
    observer: id,
    value: ReadingValue,
    /** Readings this one corrects. */
    supersedes: z.array(id).max(20),
    /** Out of the plausible range and said to be right all the same. */
    confirmed: z.boolean(),
  })
  .meta({ id: 'Reading' })
export type Reading = z.infer<typeof Reading>

export const FLAGS = ['washed out', 'run-on water', 'grazed', 'mown by mistake', 'wrong treatment', 'lost', 'other'] as const

/** Said about a unit (or the whole trial): a remark, a flag, or that it is left out of the analysis. */
export const Note = z
  .object({
    type: z.literal('note'),
    ...who,
    unit: id.nullable(),
    /** The trait it concerns; null: all. */
    trait: key.nullable(),
    kind: z.enum(['remark', 'flag', 'left out']),
    flag: z.enum(FLAGS).nullable(),
    text: line('Text', 2000),
  })
  .meta({ id: 'Note' })
export type Note = z.infer<typeof Note>

/** Something done to the ground. */
export const Operation = z
  .object({
    type: z.literal('operation'),
    ...who,
    kind: z.enum(['planted', 'applied', 'harvested']),
    siteKey: key,
    /** The day it was done. */
    on: z.iso.date(),
    text: z.string().trim().max(2000),
  })
  .meta({ id: 'Operation' })
export type Operation = z.infer<typeof Operation>

/** Takes back an earlier record as if it had not been made; the row itself stays. */
export const Retraction = z
  .object({ type: z.literal('retraction'), ...who, retracts: id, reason: z.string().trim().max(500) })
  .meta({ id: 'Retraction' })
export type Retraction = z.infer<typeof Retraction>

export const FieldRecord = z.discriminatedUnion('type', [Reading, Note, Operation, Retraction]).meta({ id: 'FieldRecord' })
export type FieldRecord = z.infer<typeof FieldRecord>

/** A record as the server holds it: with its sequence number, the sync cursor. */
export const StoredRecord = z.object({ seq: z.number().int().positive(), record: FieldRecord }).meta({ id: 'StoredRecord' })
export type StoredRecord = z.infer<typeof StoredRecord>
