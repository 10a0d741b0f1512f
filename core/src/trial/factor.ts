import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { Nutrient } from './nutrient.ts'
import { key, line, words } from './text.ts'

/** What an amount is of. */
export const AmountOf = z.discriminatedUnion('what', [
  z.object({ what: z.literal('nutrient'), nutrient: Nutrient }),
  z.object({ what: z.literal('product'), name: line('Product', 120) }),
  z.object({ what: z.literal('active ingredient'), name: line('Active ingredient', 120) }),
])
export type AmountOf = z.infer<typeof AmountOf>

/** One pass of a practice: the tool and how deep it works. */
const Pass = z.object({
  tool: line('Tool', 60),
  /** cm; null where it has no depth. */
  depth: z.number().positive('A depth is above zero.').max(200, 'A depth is at most 200 cm.').nullable(),
})
export type Pass = z.infer<typeof Pass>

/** A level of a factor: one of the things it is varied to. */
export const Level = z
  .object({
    key,
    /** Short code on stakes, plan and charts. */
    code: words().min(1, 'A level needs a code.').max(8, 'A code is at most 8 characters, so that it can be read on a stake.'),
    name: line('Level name', 80),
    /** Another name it goes by: a regional one, or what a blinded product turned out to be. */
    second: line('Second name', 80).optional(),
    /** The class it is a member of: a root form, a type of product. */
    class: line('Class', 40).optional(),
    /**
     * What it turned out to be, on a day: what was called `was` till then is this; or is the same as another
     * level, and both are read as one from then on. What was dealt out stays written as it was.
     */
    identity: z
      .object({ on: z.iso.date('A date must be written YYYY-MM-DD.'), was: line('What it was called', 80), same: key.nullable() })
      .optional(),
    /** Of a practice: what is done, in this order. */
    passes: z.array(Pass).min(1).max(12).optional(),
    /** In the factor's measure; null for a level that is not a quantity. */
    amount: z.number({ error: 'The amount of a level must be a number.' }).nonnegative('An amount cannot be negative.').nullable(),
  })
  .meta({ id: 'Level' })
export type Level = z.infer<typeof Level>

/** What a factor is: told apart by this, never by what a field happens to hold. */
export interface FactorKind {
  readonly key: 'rate' | 'kind' | 'timing' | 'practice' | 'place'
  readonly name: string
  readonly about: string
  /** Whether levels are amounts of something. */
  readonly amounts: 'always' | 'sometimes' | 'never'
  /** Measures offered first. */
  readonly measures: readonly string[]
  /** Shown in grey where nothing is typed yet. */
  readonly example: { readonly factor: string; readonly levels: readonly string[] }
}

/** All kinds of factor; adding one is a line here. */
export const factorKinds: readonly FactorKind[] = [
  {
    key: 'rate',
    name: 'Rates: how much of something',
    about: 'A ladder of amounts of a nutrient, a product, an active ingredient, water or seed.',
    amounts: 'always',
    measures: ['kg/ha', 't/ha', 'L/ha', 'g/m²', 'mm', 'mg/L', 'g/L', '%', '/m²', '/m', 'g', 'kg', 'mL', 'L', 'cm'],
    example: { factor: 'Nitrogen', levels: ['none', '60 kg N/ha', '120 kg N/ha'] },
  },
  {
    key: 'kind',
    name: 'Kinds: which one',
    about: 'Varieties, products, mixes, stocks: things that differ in what they are.',
    amounts: 'never',
    measures: [],
    example: { factor: 'Cultivar', levels: ['early cultivar', 'main cultivar'] },
  },
  {
    key: 'timing',
    name: 'Timing: when',
    about: 'Dates, stages, or days and weeks after an event.',
    amounts: 'sometimes',
    measures: ['d', 'wk'],
    example: { factor: 'Planting date', levels: ['early April', 'early May'] },
  },
  {
    key: 'practice',
    name: 'Practice: how it is done',
    about: 'Tillage, mowing, covers, ridges, pruning: a way of working, or how deep, high or often.',
    amounts: 'sometimes',
    measures: ['cm', 'mm', 'm', 'd'],
    example: { factor: 'Tillage', levels: ['ploughed', 'no till'] },
  },
  {
    key: 'place',
    name: 'Place: where it stands',
    about: 'Containers, benches, beds, positions; or how large they are.',
    amounts: 'sometimes',
    measures: ['L', 'mL', 'cm', 'm'],
    example: { factor: 'Container', levels: ['clay pot', 'tray cell'] },
  },
]

export function factorKind(key: string): FactorKind {
  return factorKinds.find((each) => each.key === key)!
}

/** Names that mean something else in a model or on a unit. */
export const RESERVED: ReadonlySet<string> = new Set([
  'outside',
  'treatment',
  'site',
  'block',
  'row',
  'column',
  'strip',
  'plot',
  'subplot',
  'pot',
  'plant',
  'sample',
  'bench',
  'bed',
])

/** What is varied on purpose. */
export const Factor = z
  .object({
    key: key.refine((each) => !RESERVED.has(each), 'This key names something else: choose another.'),
    name: line('Factor name', 80),
    kind: z.enum(['rate', 'kind', 'timing', 'practice', 'place']),
    /** Measure of the amounts; empty when the levels are no amounts. */
    measure: z.string().refine(isUnit, 'Unknown measure.'),
    of: AmountOf.nullable(),
    /** Of times that are counted: what they are counted from, e.g. “emergence”. */
    after: line('Event', 80).optional(),
    /** What its classes are, where its levels are members of such: “root form”. */
    classes: line('What the classes are', 60).optional(),
    levels: z.array(Level).max(500, 'At most 500 levels.'),
    /**
     * Of what was drawn among units that stood already: the day from which it is varied (before it every
     * unit was at the first level), and which treatment each that came of it was made from.
     */
    drawn: z.object({ on: z.iso.date('A date must be written YYYY-MM-DD.'), from: z.record(z.string(), z.string()) }).optional(),
  })
  .superRefine((factor, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const { amounts } = factorKind(factor.kind)
    if (amounts === 'always' && factor.measure === '') complain(['measure'], 'Rates need a measure, e.g. kg/ha.')
    if (amounts === 'never' && factor.measure !== '') complain(['measure'], 'These levels are no amounts: leave the measure empty.')
    if (factor.of !== null && factor.kind !== 'rate') complain(['of'], 'Only rates are amounts of something.')
    const seen = { key: new Set<string>(), code: new Set<string>() }
    if (factor.levels.length > 1 && factor.levels.filter((level) => (level.identity?.same ?? null) === null).length < 2)
      complain(['levels'], 'All levels would be one: there would be nothing left to compare.')
    factor.levels.forEach((level, i) => {
      if (seen.key.has(level.key)) complain(['levels', i, 'key'], `The key “${level.key}” is used twice.`)
      if (seen.code.has(level.code)) complain(['levels', i, 'code'], `The code “${level.code}” is used twice.`)
      seen.key.add(level.key)
      seen.code.add(level.code)
      const same = level.identity?.same ?? null
      const other = factor.levels.find((each) => each.key === same)
      if (same !== null && (!other || other === level || (other.identity?.same ?? null) !== null))
        complain(['levels', i, 'identity'], `${level.code} is said to be the same as “${same}”, which is no level that stands for itself.`)
      if (factor.measure !== '' && level.amount === null)
        complain(['levels', i, 'amount'], `Level ${level.code} needs an amount in ${factor.measure}.`)
      if (factor.measure === '' && level.amount !== null)
        complain(['levels', i, 'amount'], `Level ${level.code} has an amount but no measure.`)
    })
  })
  .meta({ id: 'Factor' })
export type Factor = z.infer<typeof Factor>

/** A factor of a kind with nothing filled in: what is known of it follows from its kind alone. */
export function emptyFactor(key: string, kind: Factor['kind'] = 'rate'): Factor {
  return { key, name: '', kind, measure: kind === 'rate' ? 'kg/ha' : '', of: null, levels: [] }
}

/** The nutrient a factor's amounts are of, if any. */
export function nutrientOf(factor: Pick<Factor, 'of'>): Nutrient | null {
  return factor.of?.what === 'nutrient' ? factor.of.nutrient : null
}
