import { z } from 'zod'
import { FieldRecord, StoredRecord } from './record.ts'
import { Progress } from './season-stage.ts'
import { id, key, line } from './text.ts'
import { Trial, TrialDraft } from './trial.ts'

/** Bodies and replies of the HTTP API; one definition for server, browser and OpenAPI. */
const version = z.number().int().positive()
const reason = z.string().trim().max(1000).default('')

export const TrialEdit = z.object({ version, trial: TrialDraft, reason }).meta({ id: 'TrialEdit' })
export type TrialEdit = z.infer<typeof TrialEdit>

export const VersionedRequest = z.object({ version, reason }).meta({ id: 'VersionedRequest' })
export type VersionedRequest = z.infer<typeof VersionedRequest>

export const LayoutRequest = z
  .object({ version, seed: z.number().int().min(0).max(2147483647, 'A seed is at most 2147483647.'), reason })
  .meta({ id: 'LayoutRequest' })
export type LayoutRequest = z.infer<typeof LayoutRequest>

/** A plot that carries another treatment than the plan said: a label put right, or a real mistake. */
export const TreatmentChange = z
  .object({ version, level: key, change: z.enum(['label corrected', 'misapplied']), reason: line('Reason', 1000) })
  .meta({ id: 'TreatmentChange' })
export type TreatmentChange = z.infer<typeof TreatmentChange>

export const RecordBatch = z
  .object({ records: z.array(FieldRecord).min(1, 'No records were sent.').max(500, 'Send at most 500 records at a time.') })
  .meta({ id: 'RecordBatch' })

export const RecordOutcome = z
  .object({
    id,
    /** already: the same record was there; conflict: another record has this id; refused: it does not fit the trial. */
    status: z.enum(['saved', 'already', 'conflict', 'refused']),
    seq: z.number().int().positive().nullable(),
    detail: z.string(),
  })
  .meta({ id: 'RecordOutcome' })
export type RecordOutcome = z.infer<typeof RecordOutcome>

/** `latest` is the newest record of the trial: below a client's cursor it tells that the store is another one. */
export const RecordsReply = z
  .object({ records: z.array(StoredRecord), cursor: z.number().int().nonnegative(), latest: z.number().int().nonnegative() })
  .meta({ id: 'RecordsReply' })
export type RecordsReply = z.infer<typeof RecordsReply>

export const TrialSummary = z
  .object({
    ...Trial.pick({ id: true, version: true, title: true, crop: true, season: true, deletedAt: true, replicates: true }).shape,
    site: z.string(),
    treatments: z.number().int(),
    plots: z.number().int(),
    progress: Progress,
  })
  .meta({ id: 'TrialSummary' })
export type TrialSummary = z.infer<typeof TrialSummary>

/** RFC 9457 problem: what is wrong, where, and what to do. */
export const Problem = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.number().int(),
    detail: z.string(),
    errors: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
    /** With 409 on a shared fact: what stands now, to be shown beside what was sent. */
    current: z.unknown().optional(),
    outcomes: z.array(RecordOutcome).optional(),
  })
  .meta({ id: 'Problem' })
export type Problem = z.infer<typeof Problem>
