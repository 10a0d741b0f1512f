import { z } from 'zod'
import { Ground } from './ground.ts'
import { UnitKind } from './structure.ts'
import { key, line, optionalText } from './text.ts'

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

export const Site = z
  .object({
    key,
    name: line('Site name', 80),
    soil: optionalText('Soil', 500),
    ground: Ground,
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
