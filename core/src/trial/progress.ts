import { z } from 'zod'
import { Operation } from './record-kind/index.ts'

/** Where a trial is in its season, from what is on record alone. */
export const Stage = z.enum(['question', 'laid out', 'planted', 'measuring', 'measured'])
export type Stage = z.infer<typeof Stage>

/** Readings taken (missing with a reason counts) of readings expected. */
export const Tally = z.object({ readings: z.number(), expected: z.number() })
export type Tally = z.infer<typeof Tally>

export const Progress = z
  .object({
    stage: Stage,
    ...Tally.shape,
    /** By site and by visit. */
    sites: z.record(z.string(), Tally),
    visits: z.record(z.string(), Tally),
    /** Sites that are marked planted, the first marking of each. */
    planted: z.array(Operation),
    /** Units that something is on record to have happened to. */
    happened: z.number().int().nonnegative().default(0),
    conflicts: z.number(),
    /** Whether any reading stands or was ever taken. */
    measured: z.boolean(),
    /** The one thing that needs a decision or an act next. */
    next: z.string(),
  })
  .meta({ id: 'Progress' })
export type Progress = z.infer<typeof Progress>
