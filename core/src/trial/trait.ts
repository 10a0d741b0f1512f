import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { UnitKind } from './structure.ts'
import { key, line, optionalText } from './text.ts'

const unit = z.string().refine(isUnit, 'Unknown measure.')
const code = z.string().trim().min(1).max(12, 'A trait code is at most 12 characters.')
/** Which way is better; decides the words, never the test. */
const Direction = z.enum(['more', 'less', 'neither'])

/** Something observed, as it is read in the field. */
export const Trait = z
  .object({
    key,
    code,
    name: line('Trait name', 80),
    /** Of the kinds in `trait-kind/`. */
    kind: z.enum(['number', 'count', 'share', 'score', 'yes-no', 'date', 'stage', 'text']),
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
  })
  .superRefine((trait, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    if (trait.low !== null && trait.high !== null && trait.low >= trait.high)
      complain(['high'], 'The highest plausible value must be above the lowest.')
    if (trait.kind === 'stage' && trait.steps.length < 2) complain(['steps'], 'Name at least two stages, in their order.')
    if (trait.kind === 'score' && (trait.low === null || trait.high === null))
      complain(['low'], 'A score needs its lowest and its highest step.')
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
  .object({ key, code, name: line('Trait name', 80), unit, better: Direction, terms: z.array(DerivationTerm).min(1).max(12) })
  .meta({ id: 'DerivedTrait' })
export type DerivedTrait = z.infer<typeof DerivedTrait>

/** An occasion on which readings are taken. */
export const Visit = z
  .object({ key, name: line('Visit', 60), on: z.iso.date('A date must be written YYYY-MM-DD.').nullable() })
  .meta({ id: 'Visit' })
export type Visit = z.infer<typeof Visit>

export const Traits = z
  .object({
    observed: z.array(Trait).min(1, 'A trial needs a trait to be observed.').max(60),
    derived: z.array(DerivedTrait).max(30),
    visits: z.array(Visit).min(1, 'A trial needs a visit.').max(60),
    response: key,
    /** Which trait is the marketed yield, and which its quality on the price scale. */
    yieldTrait: key.nullable(),
    qualityTrait: key.nullable(),
    smallestDifference: z
      .object({ value: z.number().positive('The smallest difference must be above zero.'), unit: z.string().refine(isUnit) })
      .nullable(),
  })
  .superRefine((traits, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const all = [...traits.observed, ...traits.derived]
    const keys = all.map((trait) => trait.key)
    const twice = keys.find((each, i) => keys.indexOf(each) !== i)
    if (twice) complain(['observed'], `Two traits have the key “${twice}”.`)
    if (!keys.includes(traits.response)) complain(['response'], 'The response that matters is not among the traits.')
    for (const field of ['yieldTrait', 'qualityTrait'] as const) {
      const chosen = traits[field]
      if (chosen !== null && !keys.includes(chosen)) complain([field], `“${chosen}” is not among the traits.`)
    }
    const visits = traits.visits.map((each) => each.key)
    const sameVisit = visits.find((each, i) => visits.indexOf(each) !== i)
    if (sameVisit) complain(['visits'], `Two visits have the key “${sameVisit}”.`)
    traits.observed.forEach((trait, i) => {
      const strange = trait.visits.find((each) => !visits.includes(each))
      if (strange) complain(['observed', i, 'visits'], `${trait.name} is taken at “${strange}”, which is no visit.`)
    })
    const earlier = new Set(traits.observed.map((trait) => trait.key))
    traits.derived.forEach((derived, i) => {
      for (const term of derived.terms) {
        if (term.of.kind === 'trait' && !earlier.has(term.of.trait))
          complain(['derived', i], `${derived.name} needs “${term.of.trait}”, which is not a trait before it.`)
      }
      earlier.add(derived.key)
    })
  })
  .meta({ id: 'Traits' })
export type Traits = z.infer<typeof Traits>

/** Visits at which an observed or derived trait has values, in their order. */
export function visitsOf(traits: Traits, traitKey: string): readonly string[] {
  const all = traits.visits.map((each) => each.key)
  const observed = traits.observed.find((each) => each.key === traitKey)
  if (observed) return observed.visits.length === 0 ? all : all.filter((each) => observed.visits.includes(each))
  const derived = traits.derived.find((each) => each.key === traitKey)
  if (!derived) return []
  const inputs = derived.terms.flatMap((term) => (term.of.kind === 'trait' ? [visitsOf(traits, term.of.trait)] : []))
  // What is taken once serves every visit of what is taken often; taken once each, the last has the value.
  const often = inputs.filter((each) => each.length > 1)
  if (often.length > 0) return all.filter((each) => often.every((visits) => visits.includes(each)))
  const last = Math.max(...inputs.map((visits) => all.indexOf(visits[0] ?? '')))
  return last >= 0 ? [all[last]!] : []
}
