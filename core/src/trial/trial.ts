import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { Factor } from './factor.ts'
import { Ground } from './ground.ts'
import { Layout } from './structure.ts'
import { DerivedTrait, Trait } from './trait.ts'
import { id, instant, key, line, optionalText } from './text.ts'

export const Question = z.object({
  askedBy: optionalText('Who asked', 200),
  why: optionalText('Why', 2000),
  /** What was expected before the trial, kept to set against what came. */
  expected: optionalText('Expected', 1000),
  hostedBy: optionalText('Host', 200),
  paidBy: optionalText('Who paid', 200),
})
export type Question = z.infer<typeof Question>

export const Site = z.object({ key, name: line('Site name', 80), ground: Ground, soil: optionalText('Soil', 500) }).meta({ id: 'Site' })
export type Site = z.infer<typeof Site>

/** A product that carries a nutrient, and what its label allows. Rates in kg of product per hectare. */
export const Supply = z.object({
  product: line('Product', 120),
  /** Share of each nutrient in the product by weight, %, in elements. */
  analysis: z.partialRecord(z.enum(['N', 'P', 'K', 'S', 'Mg']), z.number().min(0).max(100, 'An analysis is at most 100 %.')),
  applications: z.number().int().min(1).max(12),
  labelMaximumPerApplication: z.number().positive().nullable(),
  labelMaximumPerSeason: z.number().positive().nullable(),
  /** Hours before people may go back in; days before harvest. */
  reentryHours: z.number().min(0).max(10000).nullable(),
  preHarvestDays: z.number().min(0).max(1000).nullable(),
  protection: optionalText('Protective equipment', 500),
  /** Why a rate above the label maximum is applied all the same. */
  overMaximumReason: optionalText('Reason', 1000),
})
export type Supply = z.infer<typeof Supply>

/** What money the trial is judged by. */
export const Economics = z.object({
  currency: z.string().trim().min(1).max(4),
  /** money/t of clean root (or of the yield trait). */
  pricePerTonne: z.number().min(0),
  /** Quality scale: the price holds at `baseQuality` % and changes by `percentPerPoint` % of it for each point. */
  baseQuality: z.number().min(0).max(100),
  percentPerPoint: z.number().min(0).max(100),
  /** money/kg of product. */
  productPrice: z.number().min(0),
  /** money/ha for each pass that a treated plot needs. */
  applicationCost: z.number().min(0),
  /** Level everything is held against. */
  reference: key.nullable(),
})
export type Economics = z.infer<typeof Economics>

/** Given to every plot alike: stands in the report, so that nobody asks later. */
export const CommonOperation = z.object({ what: line('What', 120), amount: optionalText('How much', 120), when: optionalText('When', 60) })
export type CommonOperation = z.infer<typeof CommonOperation>

const draft = {
  title: line('Title', 120),
  crop: line('Crop', 80),
  season: z.number({ error: 'The season is a year.' }).int().min(1900).max(2200),
  question: Question,
  factors: z.array(Factor).min(1, 'A trial needs a factor.').max(1, 'This version lays out one factor.'),
  traits: z.array(Trait).min(1, 'A trial needs a trait to be observed.').max(60),
  derived: z.array(DerivedTrait).max(30),
  response: key,
  /** Which trait is the marketed yield, and which its quality on the price scale. */
  yieldTrait: key.nullable(),
  qualityTrait: key.nullable(),
  smallestDifference: z
    .object({ value: z.number().positive('The smallest difference must be above zero.'), unit: z.string().refine(isUnit) })
    .nullable(),
  significance: z.number().min(0.001).max(0.5),
  replicates: z.number().int().min(1, 'At least one replicate.').max(50, 'At most 50 replicates.'),
  sites: z.array(Site).min(1).max(1, 'This version lays out one site.'),
  common: z.array(CommonOperation).max(60),
  supply: Supply.nullable(),
  economics: Economics.nullable(),
}

export const TrialDraft = z
  .object(draft)
  .superRefine((trial, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const keys = [...trial.traits, ...trial.derived].map((trait) => trait.key)
    const twice = keys.find((each, i) => keys.indexOf(each) !== i)
    if (twice) complain(['traits'], `Two traits have the key “${twice}”.`)
    if (!keys.includes(trial.response)) complain(['response'], 'The response that matters is not among the traits.')
    for (const field of ['yieldTrait', 'qualityTrait'] as const) {
      const chosen = trial[field]
      if (chosen !== null && !keys.includes(chosen)) complain([field], `“${chosen}” is not among the traits.`)
    }
    const earlier = new Set(trial.traits.map((trait) => trait.key))
    trial.derived.forEach((derived, i) => {
      for (const term of derived.terms) {
        if (term.of.kind === 'trait' && !earlier.has(term.of.trait))
          complain(['derived', i], `${derived.name} needs “${term.of.trait}”, which is not a trait before it.`)
      }
      earlier.add(derived.key)
    })
    if (trial.economics?.reference && !trial.factors[0]?.levels.some((level) => level.key === trial.economics?.reference))
      complain(['economics', 'reference'], 'The reference treatment is not a level of the factor.')
  })
  .meta({ id: 'TrialDraft' })
export type TrialDraft = z.infer<typeof TrialDraft>

/** A shared fact, edited against its version number. */
export const Trial = z
  .object({ id, version: z.number().int().positive(), ...draft, createdAt: instant, deletedAt: instant.nullable() })
  .meta({ id: 'Trial' })
export type Trial = z.infer<typeof Trial>

/** One line of a trial's own history; append-only. */
export const TrialEvent = z
  .object({
    id,
    at: instant,
    person: id,
    kind: z.enum(['created', 'edited', 'randomised', 'treatment changed', 'deleted', 'restored', 'imported']),
    reason: z.string(),
    /** In words, for reading. */
    what: z.string(),
    before: z.unknown(),
    after: z.unknown(),
  })
  .meta({ id: 'TrialEvent' })
export type TrialEvent = z.infer<typeof TrialEvent>

/** A trial with its layout and history, as the API hands it out. */
export const TrialFile = z.object({ trial: Trial, layout: Layout.nullable(), events: z.array(TrialEvent) }).meta({ id: 'TrialFile' })
export type TrialFile = z.infer<typeof TrialFile>
