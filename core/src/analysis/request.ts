import { z } from 'zod'
import { comparisonMethods, dateModels, groundModels } from '../statistics/index.ts'
import { UnitKind, type Structure, type Unit } from '../trial/index.ts'

/** What cannot be analysed at all, and why, in words for the person who asked. */
export class AnalysisError extends Error {}

export const TraitKind = z.enum(['continuous', 'count', 'share', 'score'])
/**
 * How several values of one treated unit are brought together: continuous by their mean, counts
 * and shares by their totals over what was looked at, ordered scores by their mean with a caution.
 */
export type TraitKind = z.infer<typeof TraitKind>

export interface AnalysedTrait {
  readonly key: string
  readonly name: string
  readonly unit: string
  readonly kind: TraitKind
  /** Its name in the middle of a sentence; as it is written when not given. */
  readonly said?: string
  /** Which way is better, for the words; neither when not given. */
  readonly better?: 'more' | 'less' | 'neither'
  /** The smallest difference worth knowing, in its unit. */
  readonly smallest?: number
}

/** How a level is spoken of: by its name as it was written, or by its amount in the unit of whoever reads. */
export interface Said {
  readonly name: string
  readonly amount?: { readonly value: number; readonly unit: string; readonly of?: string }
}

export interface AnalysedFactor {
  readonly key: string
  /** How it is called in the model; its key when not given. */
  readonly name?: string
  /** In their order. */
  readonly levels: readonly string[]
  /** Amounts of a quantitative factor, by level. */
  readonly amounts?: Readonly<Record<string, number>>
  /** The level others are compared with. */
  readonly control?: string
  /** Further levels that are controls or standards. */
  readonly controls?: readonly string[]
  /** Of its amounts. */
  readonly measure?: string
  /** Of levels that are spoken of otherwise than by their key. */
  readonly said?: Readonly<Record<string, Said>>
  /** Where its levels are whole treatments: the factors they are combinations of. */
  readonly parts?: readonly TreatmentPart[]
}

/** One of the factors that whole treatments are combinations of. */
export interface TreatmentPart {
  readonly key: string
  readonly name?: string
  readonly levels: readonly string[]
  readonly amounts?: Readonly<Record<string, number>>
  readonly measure?: string
  readonly said?: Readonly<Record<string, Said>>
  /** Its level by treatment; a treatment without one stands outside the combinations. */
  readonly of: Readonly<Record<string, string>>
  /** How it was dealt out, where that is not as the whole treatments were. */
  readonly how?: Structure['factors'][number]['how']
}

function keysOf<T extends { readonly key: string }>(models: readonly T[]): [string, ...string[]] {
  return models.map((each) => each.key) as [string, ...string[]]
}

const Method = z.enum(comparisonMethods.map((method) => method.key) as [string, ...string[]])
export type Method = string

export const SCALES = ['none', 'log', 'log10', 'log(y + 1)', 'square root', 'square root of (y + 1/2)', 'arcsine', 'logit'] as const

export const AnalysisOptions = z.strictObject({
  significance: z.number().gt(0).lt(1).default(0.05),
  /** One method or several; when not given, Dunnett for a factor with a control, Tukey for all else. */
  method: z.union([Method, z.array(Method).min(1)]).optional(),
  /** Which way a difference from the control counts, for Dunnett's method. */
  side: z.enum(['two-sided', 'greater', 'less']).default('two-sided'),
  /** Which question the tests of an unbalanced layout answer: I in order, II after all that do not contain the term, III after all others. */
  tests: z.enum(['I', 'II', 'III']).default('I'),
  /** Pairs are only compared below a significant F (the protected LSD). */
  protect: z.boolean().default(false),
  /** How levels averaged over count in an adjusted mean: each alike, or as often as they were observed. */
  weights: z.enum(['equal', 'observed']).default('equal'),
  /** Kinds of unit to be taken out as fixed terms, though a factor was applied to them; left out, they are errors of their own. */
  fixed: z.array(UnitKind).default([]),
  /**
   * What is a sample of many, so that its differences are chance: kinds of unit to which no factor was
   * applied, factors (entries), or their crossings joined by `:`.
   */
  random: z.array(z.string().min(1)).default([]),
  /** Levels of a random factor that keep a mean of their own, as checks among new entries; the others share one. */
  checks: z.record(z.string(), z.array(z.string()).min(1)).default({}),
  /** A kind of unit or factor for each level of which errors have a variance of their own. */
  errorBy: z.string().min(1).optional(),
  /** The same units read at several dates: the factor of the dates, the kind of unit, and how its dates go together. */
  dates: z
    .strictObject({
      occasion: z.string().min(1),
      subject: UnitKind,
      covariance: z.enum(['best', ...keysOf(dateModels)]).default('best'),
    })
    .optional(),
  /** How plots go together by where they lie, in place of their blocks. */
  ground: z.enum(['best', ...keysOf(groundModels)]).optional(),
  /** Of several errors: whose degrees of freedom; by default Kenward and Roger's where they can be had. */
  df: z.enum(['kenward-roger', 'satterthwaite']).optional(),
  /** Of variances: restricted likelihood, or the full one, to compare fixed parts. */
  likelihood: z.enum(['REML', 'ML']).default('REML'),
  /** Terms of the treatments, to be used instead of the full factorial. */
  terms: z.array(z.array(z.string()).min(1)).optional(),
  /** Comparisons planned beforehand: a coefficient for each level of the term; coefficients must sum to zero. */
  contrasts: z
    .array(
      z.strictObject({
        name: z.string().min(1),
        term: z.array(z.string()).min(1),
        coefficients: z.record(z.string(), z.number()),
        /** Of a trend over amounts: the estimate times the scale is its slope, or the coefficient of its power. */
        trend: z.strictObject({ factor: z.string(), degree: z.int().min(1).max(4), scale: z.number() }).optional(),
        /** Added when there were readings already: a lead to follow. */
        late: z.boolean().optional(),
      }),
    )
    .default([]),
  /** Quantitative factors whose trend is split into linear, quadratic, … parts. */
  polynomials: z.array(z.string()).default([]),
  /** Differences smaller than this count as none: each pair is also tested for equivalence. In the trait's unit. */
  equivalence: z.number().positive().optional(),
  /** Traits of the same units that the response is adjusted for. */
  covariates: z.array(z.string()).default([]),
  /** Value of a covariate at which means are adjusted; its mean when not given. */
  at: z.record(z.string(), z.number()).default({}),
  /** One slope on the covariate for all treatments, or one for each. */
  slopes: z.enum(['common', 'separate']).default('common'),
  /** Scale of the analysis; means are brought back. */
  scale: z.union([z.enum(SCALES), z.strictObject({ power: z.number().min(-5).max(5) })]).default('none'),
})
export type AnalysisOptions = z.infer<typeof AnalysisOptions>

/** A value taken on a unit, whose place on the ground the unit knows. */
export interface Observed {
  readonly unit: string
  readonly visit?: string
  readonly value: number
  /** Readings behind the value, where it is more than one. */
  readonly samples?: number
  /** Of counts and shares: how many plants, or how much ground, was looked at. */
  readonly exposure?: number
  /** The true value lies below, or above, what could be read: no figure to average. */
  readonly bound?: 'below' | 'above'
}

/** Readings and what was applied to what: all the analysis looks at. */
export interface AnalysisRequest {
  readonly structure: Structure
  readonly units: readonly Unit[]
  readonly factors: readonly AnalysedFactor[]
  readonly trait: AnalysedTrait
  /** Of one visit; units without one count as missing. */
  readonly observations: readonly Observed[]
  /** Units left out with a reason. */
  readonly leftOut?: ReadonlySet<string>
  readonly covariates?: ReadonlyMap<string, ReadonlyMap<string, number>>
  readonly options: AnalysisOptions
  /** Told what is being done, often; what it throws stops the work. */
  readonly onProgress?: (progress: Progress) => void
}

/** The same without some of its factors, in the layout too. */
export function withoutFactors(request: AnalysisRequest, gone: ReadonlySet<string>): AnalysisRequest {
  const { factors, structure } = request
  return {
    ...request,
    factors: factors.filter((each) => !gone.has(each.key)),
    structure: {
      ...structure,
      factors: structure.factors.filter((each) => !gone.has(each.factor)),
      controls: structure.controls.filter((each) => !gone.has(each.factor)),
    },
  }
}

/** Where long work stands. */
export interface Progress {
  /** In words that follow “Working it out: ”. */
  readonly doing: string
  /** Of a search whose end is not known; null where there are no steps. */
  readonly step: number | null
}
