import { z } from 'zod'
import { day, id, key, words } from './text.ts'

export const UnitKind = z.enum([
  'site',
  'replicate',
  'block',
  'row',
  'column',
  'main plot',
  'subplot',
  'strip',
  'plot',
  'half plot',
  'pot',
  'plant',
  'sample',
  'bench',
  'bed',
  'demonstration',
  'plot-season',
  'reading',
])
export type UnitKind = z.infer<typeof UnitKind>

/** The newest way in which a plan is drawn from its seed: `design/random.ts` tells what each is. */
export const DRAW = 2

const Draw = z.number().int().min(1).max(DRAW, 'It was randomised by a newer version of Canter: update Canter to open it.')

const Assignment = z.enum(['randomised', 'constrained', 'systematic', 'not randomised'])

/**
 * What was randomised in what, at one site: the one thing the analysis reads to choose its
 * model and errors. `in` lists the kinds a kind lies in: several, when they cross (a plot
 * in a row and in a column).
 */
export const Structure = z
  .object({
    schema: z.literal(1),
    kinds: z
      .array(
        z.object({
          kind: UnitKind,
          in: z.array(UnitKind),
          /** The day from which units of this kind stand by themselves; absent: from the beginning. */
          from: day.optional(),
        }),
      )
      .min(1),
    factors: z.array(
      z.object({
        factor: key,
        /** The kind of unit this factor was applied to: its experimental unit. */
        appliedTo: UnitKind,
        /** The kind of unit inside which levels were dealt out anew; null: over the whole site. */
        within: UnitKind.nullable(),
        how: Assignment,
        /** The draw it was dealt out by, where it was drawn among units that stood already. */
        draw: Draw.optional(),
      }),
    ),
    controls: z.array(z.object({ factor: key, level: key })),
    seed: z.number().int().nonnegative().nullable(),
    /** Which draw made the plan from its seed (`design/random.ts`); absent: the first. */
    draw: Draw.optional(),
    /** Units that were swapped by hand after the draw, and how their factors had been dealt out before. */
    swapped: z
      .array(z.object({ a: id, b: id, how: z.record(z.string(), Assignment) }))
      .max(2000)
      .optional(),
  })
  .meta({ id: 'Structure' })
export type Structure = z.infer<typeof Structure>

const LevelByFactor = z.record(z.string(), z.string())

/** A thing on the ground that is treated or observed. It belongs to any number of other units. */
export const Unit = z
  .object({
    id,
    kind: UnitKind,
    /** What stands on its stake, e.g. plot 203. */
    code: words().min(1).max(20),
    in: z.array(id),
    /**
     * Its place in the grid of one unit that holds it, counted from 0. Without a row it is the
     * place in a run, which the ground breaks into rows. Null: it lies where its members lie.
     */
    at: z.object({ in: id, column: z.number().int().min(0), row: z.number().int().min(0).nullable() }).nullable(),
    /** Level of each factor as dealt out and as received; they differ only by a record that says why. */
    planned: LevelByFactor,
    received: LevelByFactor,
    /** By factor, how `received` came to differ: a label put right, or really given something else. */
    changes: z.record(z.string(), z.enum(['label corrected', 'misapplied'])),
    /** Metres. Turned about its middle, degrees anticlockwise, where the group it lies in is; absent: along the axes of the site. */
    place: z
      .object({
        x: z.number(),
        y: z.number(),
        width: z.number().positive(),
        length: z.number().positive(),
        turn: z.number().min(-360).max(360).optional(),
      })
      .nullable(),
    /** Position in walking order, from 1; null when it is not walked. */
    walk: z.number().int().positive().nullable(),
    /** What the design calls it, where its stake bears another number. */
    counted: words().min(1).max(20).optional(),
  })
  .meta({ id: 'Unit' })
export type Unit = z.infer<typeof Unit>

/** A laid-out site: the structure and its unit table. */
export const Layout = z.object({ siteKey: key, structure: Structure, units: z.array(Unit).max(20_000) }).meta({ id: 'Layout' })
export type Layout = z.infer<typeof Layout>
