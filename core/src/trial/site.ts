import { z } from 'zod'
import { Ground } from './ground.ts'
import { UnitKind } from './structure.ts'
import { id, key, line, optionalText } from './text.ts'

/** Which design a site is laid out by, and what that design is told. */
export const DesignChoice = z
  .object({
    key: z.string().min(1).max(40),
    /** How often everything is repeated; what one repeat is, the design says (a block, a square). */
    replicates: z
      .number({ error: 'Replicates are a whole number.' })
      .int()
      .min(1, 'At least one replicate.')
      .max(50, 'At most 50 replicates.'),
    /** What is treated: a plot, a pot, a bed. */
    unit: UnitKind,
    /** Plants that are observed one by one in each; 0 when the unit is observed as a whole. */
    plants: z.number().int().min(0).max(50, 'At most 50 plants in a unit.'),
    /** What one goes to when walking: each treated unit, or each plant in it. */
    walked: z.enum(['unit', 'plant']),
    /** Factors by what they are put on, where a design has units of several sizes. */
    placed: z.record(z.string(), z.array(key)),
    /** What else a design asks (a size of block, a line along which main plots lie); what is not named is as is usual for it. */
    settings: z.record(z.string(), z.union([z.number().finite(), z.boolean(), z.string().max(200)])).default({}),
  })
  .meta({ id: 'DesignChoice' })
export type DesignChoice = z.infer<typeof DesignChoice>

/** What is known of a piece of ground before anything is laid out on it. */
export const SiteFacts = z.object({
  place: optionalText('Place', 200),
  history: optionalText('History', 2000),
  /** What it suffers from: a wet corner, a track, water that runs on from above. */
  troubles: optionalText('What it suffers from', 1000),
  /** What grew there before, by year. */
  crops: z
    .array(z.object({ season: z.number().int().min(1900, 'A season is a year.').max(2200, 'A season is a year.'), crop: line('Crop', 80) }))
    .max(60),
  soilTests: z
    .array(
      z.object({
        on: z.iso.date({ error: 'The day of a soil test is a date.' }),
        depth: optionalText('Depth', 40),
        found: line('What the soil test found', 500),
      }),
    )
    .max(60),
})
export type SiteFacts = z.infer<typeof SiteFacts>

const noFacts: SiteFacts = { place: '', history: '', troubles: '', crops: [], soilTests: [] }

export const Site = z
  .object({
    key,
    name: line('Site name', 80),
    soil: optionalText('Soil', 500),
    ground: Ground,
    facts: SiteFacts.default(noFacts),
    /** What on the shelf it started from; a change there changes nothing here until somebody takes it over. */
    shelf: id.nullable().default(null),
    design: DesignChoice,
    /** Treatments of the trial that this site does not have. */
    without: z.array(key).max(500).default([]),
    /** The year its crop is of, where that is not the trial's. */
    season: z.number().int().min(1900, 'The season is a year.').max(2200, 'The season is a year.').nullable().default(null),
    /** The site whose plots these are, in a later season; null: ground of its own. */
    again: key.nullable().default(null),
  })
  .meta({ id: 'Site' })
export type Site = z.infer<typeof Site>

/** What is said of a site besides its name, ground and design, as long as nobody has said it. */
export const bareSite = { facts: noFacts, shelf: null, without: [], season: null, again: null } satisfies Partial<Site>
