import { z } from 'zod'
import { isUnit, sameMeasure } from '../quantity/index.ts'
import { Nutrient } from './nutrient.ts'
import { day, key, optionalText, words } from './text.ts'

/** Where and how something is put on, with what that way of doing it brings with it. */
interface Placement {
  readonly name: string
  readonly caution: string
  /** Stands in a part of the ground only, so that it is more concentrated there. */
  readonly inBand?: true
  /** Thrown over all the ground. */
  readonly spread?: true
}

/** All placements, in the order they are offered; adding one is a line here. */
const PLACEMENTS = {
  broadcast: {
    name: 'Broadcast',
    spread: true,
    caution:
      'Broadcast: spread to the edge of the plot and not beyond, in two directions with half each; not in wind, nor before heavy rain.',
  },
  incorporated: {
    name: 'Broadcast and worked in',
    spread: true,
    caution: 'Worked in: the untreated plots are worked just as deep. Keep clear of power take-off and blades; ask for buried lines first.',
  },
  band: {
    name: 'In a band beside the row',
    caution: 'In a band the same rate is more concentrated: keep it beside and below the seed, never against it, as the label says.',
    inBand: true,
  },
  furrow: {
    name: 'In the furrow with the seed',
    caution: 'With the seed, salt and ammonia hurt what germinates: no more in the furrow than the label allows for this crop and soil.',
    inBand: true,
  },
  seed: {
    name: 'On the seed',
    caution: 'Treated seed is not for food or feed. Nothing living goes on seed that was treated against fungi unless both labels say so.',
  },
  foliar: {
    name: 'On the leaves',
    caution:
      'On leaves: not in heat, strong sun or wind, not on wilted plants; screen the plots beside. What misses the leaf is in the soil.',
  },
  drench: {
    name: 'Drench',
    caution: 'Drench: moisten the pots the day before and give each its whole volume, so that nothing runs out below.',
  },
  sprench: {
    name: 'Drenching spray',
    caution:
      'Sprayed until it runs into the soil: how much a plant gets depends on its leaves, so measure what was used against what was planned.',
  },
  irrigation: {
    name: 'With the irrigation',
    caution: 'With the irrigation: a check valve keeps it out of the supply; the plots without it get the same water.',
  },
} as const satisfies Record<string, Placement>

const PlacementKey = z.enum(Object.keys(PLACEMENTS) as (keyof typeof PLACEMENTS)[])
export type PlacementKey = z.infer<typeof PlacementKey>
export const placements = PlacementKey.options.map((each) => ({ key: each, name: PLACEMENTS[each].name }))

export function placementOf(key: PlacementKey): Placement {
  return PLACEMENTS[key]
}

const measured = (...like: string[]) =>
  z.object({
    amount: z.number().positive('An amount is above nought.'),
    measure: z
      .string()
      .refine((text) => isUnit(text) && like.some((each) => sameMeasure(text, each)), `A measure such as ${like.join(', ')}.`),
  })

/**
 * What a reason was given for, as it was told then: what comes up later, a higher rate or another day, is not answered
 * by it. Nothing said (packages of before): all of it.
 */
export const Answered = z.array(words().max(1000)).max(10_000).nullish()

/** Of what stands in bands or furrows: how wide, and how far from one to the next, cm. */
const Band = z
  .object({
    width: z.number().positive('A width is above nought.').max(500),
    spacing: z.number().positive('A spacing is above nought.').max(2000),
  })
  .refine(({ width, spacing }) => width <= spacing, 'A band is no wider than it is from one to the next.')

/**
 * What is put on of a product: on every plot alike, or with the levels of a factor. The amount stands as it
 * was typed, of the whole season; a part of it goes on at each pass.
 */
export const Dose = z
  .object({
    key,
    /** Every plot alike; or a level of a factor; or each of its levels by that level's own amount; or one treatment alone. */
    to: z.union([z.object({ factor: key, level: key.nullable() }), z.object({ treatment: key })]).nullable(),
    product: key,
    /** What the amount is of. */
    of: z.union([z.enum(['product', 'active ingredient', 'seeds']), Nutrient]),
    /** Null: each level's own amount, in the factor's measure. */
    amount: z.number().min(0, 'An amount cannot be negative.').nullable(),
    measure: z.string().refine(isUnit, 'Unknown measure.'),
    /** Of an amount that is of no area, row or seed: what it is for. */
    per: z.enum(['unit', 'plant']),
    /** What carries it: water by area (a spray), or by plant or pot (a drench). */
    carrier: measured('L/ha', 'mL').nullable(),
    /** What does not get the product gets the carrier all the same. */
    carrierToAll: z.boolean(),
    /** What it is mixed in: how much it holds, and what stays in lines and pump, L. */
    tank: z
      .object({
        holds: z.number().positive('A tank holds something.').max(20000),
        dead: z.number().min(0, 'Never below nought.').max(1000),
      })
      .nullish(),
    placement: PlacementKey,
    /** cm it is mixed into, or placed at. */
    depth: z.number().positive('A depth is above nought.').max(200, 'A depth is at most 200 cm.').nullable(),
    band: Band.nullable(),
    /** What of it goes on when, %. */
    parts: z
      .array(
        z.object({ when: optionalText('When', 60), on: day.nullable(), share: z.number().positive('A share is above nought.').max(100) }),
      )
      .min(1, 'It goes on at least once.')
      .max(60, 'At most 60 passes.'),
    /** Why it is right here although a stated maximum is passed, an interval broken or the label not looked up. */
    reason: optionalText('Reason', 1000),
    answered: Answered,
  })
  .superRefine(({ parts, placement, band, to, amount }, context) => {
    const sum = parts.reduce((total, each) => total + each.share, 0)
    if (Math.abs(sum - 100) > 0.05) context.addIssue({ code: 'custom', path: ['parts'], message: `The parts come to ${Number(sum.toPrecision(6))} %, not to 100 %.` }) // prettier-ignore
    if (band && !placementOf(placement).inBand) context.addIssue({ code: 'custom', path: ['band'], message: 'A band is of what is put on in bands or furrows.' }) // prettier-ignore
    if (amount === null && !(to !== null && 'factor' in to && to.level === null)) context.addIssue({ code: 'custom', path: ['amount'], message: 'Give the amount.' }) // prettier-ignore
  })
  .meta({ id: 'Dose' })
export type Dose = z.infer<typeof Dose>

/** What really went out of a dose at a site, in the measure of its planned rate; of one level, or of all it is for. */
export const Actual = z
  .object({
    key,
    site: key,
    dose: key,
    /** Which of its parts, counted from 0. */
    part: z.number().int().min(0).max(59),
    level: key.nullable(),
    /** Of what was planned for that pass, the share that went out, %. */
    share: z.number().min(0).max(1000, 'At most ten times what was planned.'),
    how: z.enum(['calibrated', 'emptied', 'weighed back']),
    on: day.nullable(),
    note: optionalText('Note', 500),
    /** The worksheet it was found on. */
    sheet: key.nullable(),
  })
  .meta({ id: 'Actual' })
export type Actual = z.infer<typeof Actual>
