import { z } from 'zod'
import { Layout } from './structure.ts'
import { Site } from './site.ts'
import { Traits } from './traits.ts'
import { Treatments } from './treatment.ts'
import { Actual, Answered, Dose } from './dose.ts'
import { Product, TrialProduct } from './product.ts'
import { id, instant, key, line, optionalText, words } from './text.ts'

/** What is asked, by whom and why, and how sure one wants to be. */
export const Question = z
  .object({
    title: line('Title', 120),
    crop: line('Crop', 80),
    season: z.number({ error: 'The season is a year.' }).int().min(1900, 'The season is a year.').max(2200, 'The season is a year.'),
    askedBy: optionalText('Who asked', 200),
    why: optionalText('Why', 2000),
    /** What was expected before the trial, kept to set against what came. */
    expected: optionalText('Expected', 1000),
    hostedBy: optionalText('Host', 200),
    paidBy: optionalText('Who paid', 200),
    significance: z.number().min(0.001).max(0.5),
  })
  .meta({ id: 'Question' })
export type Question = z.infer<typeof Question>

/** The product that carries the nutrient that is varied: how often it goes on, in equal parts. */
export const Supply = Product.extend({
  applications: z.number().int().min(1).max(12),
  /** Why a rate above the label maximum is applied all the same. */
  overMaximumReason: optionalText('Reason', 1000),
  answered: Answered,
})
export type Supply = z.infer<typeof Supply>

/** Given to every plot alike: stands in the report, so that nobody asks later. */
export const CommonOperation = z.object({ what: line('What', 120), amount: optionalText('How much', 120), when: optionalText('When', 60) })
export type CommonOperation = z.infer<typeof CommonOperation>

/** A calculation that is kept with the trial: what was given, as it was typed. What it comes to follows from that. */
export const Worksheet = z
  .object({
    key,
    calculation: z.string().regex(/^[a-z][a-z0-9-]{0,39}$/, 'A calculation is named in small letters.'),
    title: line('Title', 120),
    /** The site it is of; null: of none alone. */
    site: key.nullable(),
    /** The day it was made or measured. */
    on: z.iso.date('A date must be written YYYY-MM-DD.').nullable(),
    given: z.record(z.string().max(40), words().max(4000, 'What is given is at most 4000 characters: a year of days, and no more.')),
    /** The measures that figures without one were typed in. */
    system: z.enum(['metric', 'us']),
    note: optionalText('Note', 2000),
    /** The pass it is for, as a calibration is: of one level, or of all that get it. */
    pass: z.object({ dose: key, part: z.number().int().min(0).max(59), level: key.nullable() }).nullish(),
  })
  .meta({ id: 'Worksheet' })
export type Worksheet = z.infer<typeof Worksheet>

/** What the product of the varied nutrient, and what is put on of it, are called. */
export const SUPPLY = 'supply'

function ownKeys(all: readonly { readonly key: string }[]): boolean {
  return new Set(all.map((each) => each.key)).size === all.length
}

export const Amounts = z
  .object({
    supply: Supply.nullable(),
    common: z.array(CommonOperation).max(60),
    /** Further products of this trial, and what is put on of them; none where nothing stands here. */
    products: z.array(TrialProduct).max(60, 'At most 60 products.').refine(ownKeys, 'Two products have one key.').nullish(),
    doses: z.array(Dose).max(200, 'At most 200 doses.').refine(ownKeys, 'Two doses have one key.').nullish(),
    /** g/m² of a dry product below which it is not spread dry here; none: what is usual. */
    spreadable: z.number().positive('A weight is above nought.').max(1000, 'At most 1000 g/m².').nullish(),
    /** What really went out, where that was found. */
    actual: z.array(Actual).max(1000).refine(ownKeys, 'Two of what went out have one key.').nullish(),
    /** Calculations kept with the trial; none where nothing stands here. */
    sheets: z.array(Worksheet).max(100, 'At most 100 worksheets.').refine(ownKeys, 'Two worksheets have one key.').nullish(),
  })
  .superRefine(({ doses, products }, context) => {
    const known = new Set([SUPPLY, ...(products ?? []).map((each) => each.key)])
    doses?.forEach((dose, i) => {
      if (!known.has(dose.product))
        context.addIssue({
          code: 'custom',
          path: ['doses', i, 'product'],
          message: `It is of “${dose.product}”, which is no product of this trial.`,
        })
    })
  })
  .meta({ id: 'Amounts' })
export type Amounts = z.infer<typeof Amounts>

const price = z.number().min(0, 'A price is never below zero.').max(1e9).nullable()

/** What money the trial is judged by; null is what nobody has stated, and is never filled in. */
export const Prices = z
  .object({
    currency: words().min(1).max(4),
    /** money/t of the yield trait. */
    pricePerTonne: price,
    /** Quality scale: the price holds at `baseQuality` % and changes by `percentPerPoint` % of it for each point. */
    baseQuality: z.number().min(0).max(100).nullable(),
    percentPerPoint: z.number().min(0).max(100).nullable(),
    /** money/kg of product. */
    productPrice: price,
    /** money/ha for each pass that a treated plot needs. */
    applicationCost: price,
    /** money/ha by treatment, of what else it costs: seed, work, material. */
    otherCost: z.record(z.string(), z.number().min(0).max(1e9)),
    /** Treatment everything is held against. */
    reference: key.nullable(),
  })
  .meta({ id: 'Prices' })
export type Prices = z.infer<typeof Prices>

/** The parts of a trial that are edited, each against a version of its own. */
const sections = {
  question: Question,
  treatments: Treatments,
  traits: Traits,
  sites: z.array(Site).min(1, 'A trial needs a site.').max(20, 'At most 20 sites.'),
  amounts: Amounts,
  prices: Prices,
}

/** What a new trial is made from. Whether its parts fit each other is judged by `document/`. */
export const TrialDraft = z.object(sections).meta({ id: 'TrialDraft' })
export type TrialDraft = z.infer<typeof TrialDraft>

export const Trial = z
  .object({
    id,
    /** Grows with every change, whatever its section. */
    version: z.number().int().positive(),
    /** By section: `question`, `treatments`, `traits`, `amounts`, `prices`, `sites` (which there are), `site:KEY`. */
    versions: z.record(z.string(), z.number().int().positive()),
    ...sections,
    createdAt: instant,
    deletedAt: instant.nullable(),
  })
  .meta({ id: 'Trial' })
export type Trial = z.infer<typeof Trial>

/** One line of a trial's own history; append-only. */
export const TrialEvent = z
  .object({
    id,
    at: instant,
    person: id,
    kind: z.enum([
      'created',
      'edited',
      'randomised',
      'treatment changed',
      'swapped',
      'drawn',
      'added',
      'deleted',
      'restored',
      'imported',
      'undone',
    ]),
    /** The section it changed; null when it changed none. */
    section: z.string().nullable(),
    reason: words(),
    /** In words, for reading. */
    what: words(),
    /** What it changed, as it was and as it became: enough to turn it back, and no more. */
    before: z.unknown(),
    after: z.unknown(),
    /** The event it turned back. */
    undoes: id.nullable(),
  })
  .meta({ id: 'TrialEvent' })
export type TrialEvent = z.infer<typeof TrialEvent>

/** A trial with its layouts, one a site at most, and its history, as the API hands it out. */
export const TrialFile = z.object({ trial: Trial, layouts: z.array(Layout), events: z.array(TrialEvent) }).meta({ id: 'TrialFile' })
export type TrialFile = z.infer<typeof TrialFile>
