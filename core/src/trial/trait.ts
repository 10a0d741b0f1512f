import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { UnitKind } from './structure.ts'
import { key, line, optionalText, words } from './text.ts'

const unit = z.string().refine(isUnit, 'Unknown measure.')
const code = words().min(1).max(12, 'A trait code is at most 12 characters.')
/** Which way is better; decides the words, never the test. */
const Direction = z.enum(['more', 'less', 'neither'])

/** What a treatment must keep to be chosen, whatever else it does: damage at most 2. */
const Limit = z.object({ side: z.enum(['at most', 'at least']), value: z.number() })

/** Something observed, as it is read in the field. */
export const Trait = z
  .object({
    key,
    code,
    name: line('Trait name', 80),
    /** The key of one of the kinds in `trait-kind/`, which know what else it needs. */
    kind: z.string(),
    /** Measure of its numbers; empty for a plain count, a stage, a date, words. */
    unit,
    /** Plausible range in `unit`; a value outside is asked about while one still stands there. */
    low: z.number().nullable(),
    high: z.number().nullable(),
    decimals: z.number().int().min(0).max(6),
    better: Direction,
    /** Described steps of a score, or the stages in their order. */
    steps: z.array(z.object({ score: z.number(), meaning: line('Meaning of a step', 200) })).max(20),
    /** How it is taken, so that two people take it alike. */
    method: optionalText('Method', 500),
    /** What it is read on: the treated unit, or each plant in it. */
    on: UnitKind.or(z.literal('unit')),
    /** How many are read on each (bags, quadrats, leaves); their reduction follows the kind. */
    samples: z.number().int().min(1).max(100),
    /** Visits at which it is taken; none: at each. */
    visits: z.array(key).max(60),
    /** Two people's readings of one thing: shown as two, or averaged because somebody asked for it. */
    observers: z.enum(['apart', 'averaged']),
    /** It was added when there were readings already. */
    late: z.boolean().optional(),
    limit: Limit.optional(),
  })
  .superRefine((trait, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    if (trait.low !== null && trait.high !== null && trait.low >= trait.high)
      complain(['high'], 'The highest plausible value must be above the lowest.')
  })
  .meta({ id: 'Trait' })
export type Trait = z.infer<typeof Trait>

/** One factor of a derived value: a product of traits, the harvested area and constants. */
export const DerivationTerm = z.object({
  of: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('trait'), trait: key }),
    z.object({ kind: z.literal('harvested area') }),
    z.object({ kind: z.literal('constant'), label: line('Constant', 80), value: z.number(), unit }),
  ]),
  power: z.union([z.literal(1), z.literal(-1)]),
  /** Use 1 − x of a share. */
  complement: z.boolean(),
})
export type DerivationTerm = z.infer<typeof DerivationTerm>

/**
 * A trait worked out from others. Yields of every crop are products: weight times what is
 * left after tare or moisture, over harvested area, over what a standard moisture leaves.
 */
export const DerivedTrait = z
  .object({
    key,
    code,
    name: line('Trait name', 80),
    unit,
    better: Direction,
    terms: z.array(DerivationTerm).min(1).max(12),
    limit: Limit.optional(),
  })
  .meta({ id: 'DerivedTrait' })
export type DerivedTrait = z.infer<typeof DerivedTrait>

/** An occasion on which readings are taken. */
export const Visit = z
  .object({ key, name: line('Visit', 60), on: z.iso.date('A date must be written YYYY-MM-DD.').nullable() })
  .meta({ id: 'Visit' })
export type Visit = z.infer<typeof Visit>
