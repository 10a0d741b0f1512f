import type { AnovaRow, Comparison, Contrast, DfMethod, Likelihood } from '../statistics/index.ts'
import type { Checks } from './checks.ts'
import type { Evidence, EvidenceClass } from './evidence.ts'
import type { TermStability } from './stability.ts'
import type { Claim } from './claims/claim.ts'
import type { Vocabulary } from './claims/vocabulary.ts'
import type { AnalysedTrait, AnalysisOptions, Method } from './request.ts'

/** Numbers that do not exist are NaN here and null in JSON. */
export interface Analysis {
  readonly kind: 'tested' | 'described'
  /** Why nothing was tested; null when something was. */
  readonly notTested: NotTested | null
  readonly trait: AnalysedTrait
  readonly significance: number
  readonly options: AnalysisOptions
  readonly model: { readonly words: string; readonly symbols: string }
  /** The kind of unit an observation is. */
  readonly unit: string
  readonly observations: number
  readonly missing: number
  readonly leftOut: number
  /** Of the response as it was observed. */
  readonly grandMean: number
  readonly tests: readonly TestRow[]
  /** Coarse to fine. */
  readonly errors: readonly ErrorRow[]
  /** Where a mixed model was fitted: the variance of each kind of unit or random term, the observed units last; else null. */
  readonly components: readonly { readonly unit: string; readonly variance: number; readonly se: number }[] | null
  /** All else of a mixed model; null where none was fitted. */
  readonly mixed: MixedResult | null
  /** By term of the treatments: a factor, or factors joined by `:`. */
  readonly terms: Readonly<Record<string, TermResult>>
  readonly contrasts: readonly ContrastRow[]
  readonly covariates: readonly CovariateRow[]
  /** By term, how its levels go along with the sites: of three or more at three sites or more. */
  readonly stability: Readonly<Record<string, TermStability>>
  /** The scale of tests, means and differences, when it is not that of the response. */
  readonly scale: { readonly name: string; readonly bias: string } | null
  readonly checks: Checks
  readonly residuals: readonly ResidualRow[]
  readonly cautions: readonly Caution[]
  /** Names and units that claims are told with. */
  readonly vocabulary: Vocabulary
  /** What is claimed, the most weighty first; all that is said of the answer is said from these. */
  readonly claims: readonly Claim[]
  /** The claims in plain words, metric. */
  readonly sentences: readonly Sentence[]
}

export interface MixedResult {
  readonly likelihood: Likelihood
  readonly df: DfMethod
  /** In reference-level coding; criteria count fixed effects and covariance parameters. */
  readonly minusTwoLogLikelihood: number
  readonly aic: number
  readonly bic: number
  /** Kinds of unit whose differences are taken out first. */
  readonly takenOut: readonly string[]
  /** How errors are spread and go together, where they are not all alike and apart. */
  readonly errors: { readonly key: string; readonly name: string } | null
  readonly parameters: readonly MixedParameter[]
  /** Of all, every level of what is fixed counted alike. */
  readonly mean: {
    readonly estimate: number
    readonly se: number
    readonly df: number
    readonly t: number
    readonly p: number
    readonly lower: number
    readonly upper: number
  }
  /** Best linear unbiased predictions of random effects, with the root of their prediction error variance. */
  readonly predictions: readonly { readonly term: string; readonly level: string; readonly effect: number; readonly se: number }[]
  /** Of error variances by group, by restricted likelihood ratio against one for all; null where not asked. */
  readonly errorTest: { readonly chiSquared: number; readonly df: number; readonly p: number } | null
  /** Ways in which errors over dates or ground may go together, least AIC first, then what they are held against. */
  readonly models: readonly MixedModelRow[]
}

export interface MixedModelRow {
  readonly key: string
  readonly name: string
  /** Of the covariance. */
  readonly parameters: number
  readonly minusTwoLogLikelihood: number
  readonly aic: number
  readonly bic: number
  readonly used: boolean
}

/** A parameter of the covariance. */
export interface MixedParameter {
  readonly name: string
  readonly kind: 'variance' | 'covariance' | 'correlation' | 'range' | 'nugget'
  readonly of: 'random' | 'errors' | 'residual'
  readonly value: number
  /** NaN at a bound. */
  readonly se: number
  /** Came to rest at zero. */
  readonly atBound: boolean
  /** Of a random term, by restricted likelihood ratio against a model without it. */
  readonly test: { readonly chiSquared: number; readonly df: number; readonly p: number } | null
}

export interface NotTested {
  readonly reason: 'one level' | 'constant' | 'no error df' | 'no error' | 'unbalanced errors'
  readonly text: string
}

export interface TestRow extends AnovaRow {
  /** The kind of unit whose differences it is held against. */
  readonly stratum: string
  readonly errorDf: number
  /** The test it is a part of, whose degrees of freedom it shares: parts of whole treatments. */
  readonly partOf?: string
}

export interface ErrorRow {
  readonly stratum: string
  readonly df: number
  readonly ss: number
  readonly ms: number
  /** %, root of the mean square over the grand mean, on the scale of the analysis. */
  readonly cv: number
  /** Where each site, or another group, has an error of its own: its mean square, and the root of that over the mean there, %. */
  readonly groups?: readonly { readonly level: string; readonly ms: number; readonly cv: number }[]
}

export interface TermResult {
  readonly term: string
  readonly factors: readonly string[]
  /** Of its weakest comparison. */
  readonly evidence: Evidence
  readonly means: readonly MeanRow[]
  /** The level that is the control; null without one. */
  readonly control: string | null
  readonly comparisons: Readonly<Partial<Record<Method, readonly ComparisonRow[]>>>
  /** Levels that share a letter are not told apart; not for Dunnett's method. */
  readonly letters: Readonly<Partial<Record<Method, Readonly<Record<string, string>>>>>
  /** Standard errors of differences over all pairs. */
  readonly sed: Spread
  /** Least significant differences of each pair alone. */
  readonly lsd: Spread
  /** Of an interaction of two: does the one factor matter at each level of the other. */
  readonly simpleEffects: readonly SimpleEffectRow[]
}

export interface MeanRow {
  /** Levels of several factors joined by `:`. */
  readonly level: string
  readonly n: number
  /** Adjusted for blocks, lost plots and covariates; the plain mean where nothing could be fitted. */
  readonly mean: number
  readonly se: number
  readonly df: number
  readonly lower: number
  readonly upper: number
  /** Lowest and highest observation, as observed. */
  readonly min: number
  readonly max: number
  /** 100 × mean / mean of the control; NaN without a control, or where that is not above zero. */
  readonly percentOfControl: number
  /** On the scale of the response, when the analysis was on another. */
  readonly back: Back | null
}

export interface Back {
  readonly mean: number
  readonly lower: number
  readonly upper: number
  /** Corrected for the bend of the scale, where that is known; else NaN. */
  readonly biasCorrected: number
}

/** Limits are those of the method at the level set; NaN for stepwise methods, which have none. */
export interface ComparisonRow extends Omit<Comparison, 'a' | 'b' | 'estimable'> {
  /** Levels; the difference is a minus b. */
  readonly a: string
  readonly b: string
  readonly evidence: Evidence
  /** Of a log scale: how many times b, with limits. */
  readonly ratio: { readonly estimate: number; readonly lower: number; readonly upper: number } | null
  readonly equivalence: EquivalenceRow | null
  /** What t must pass by the method; NaN for stepwise methods. */
  readonly critical: number
}

export interface EquivalenceRow {
  readonly margin: number
  /** Of two one-sided tests: below the level, the difference lies inside ± the margin. */
  readonly p: number
  readonly equivalent: boolean
}

export interface ContrastRow extends Omit<Contrast, 'ss' | 'estimable'> {
  readonly name: string
  /** At this site alone, with the error of all; null over all. */
  readonly site: string | null
  readonly term: string
  readonly coefficients: Readonly<Record<string, number>>
  /** Of a trend over amounts: its degree, and by what the estimate is to be multiplied to be a slope, or the coefficient of a power. */
  readonly trend: { readonly factor: string; readonly degree: number; readonly scale: number } | null
  /** Added when there were readings already. */
  readonly late: boolean
  readonly evidence: Evidence
  /** p allowing for all contrasts of the list, over all or at its site; Scheffé's for all that could be thought of. */
  readonly adjusted: {
    readonly bonferroni: number
    readonly holm: number
    readonly sidak: number
    readonly benjaminiHochberg: number
    readonly scheffe: number
  }
}

export interface SimpleEffectRow {
  readonly factor: string
  readonly within: string
  readonly level: string
  readonly df: number
  readonly errorDf: number
  readonly f: number
  readonly p: number
}

export interface CovariateRow {
  readonly name: string
  /** Where means are adjusted. */
  readonly at: number
  readonly min: number
  readonly max: number
  /** What one more of it adds: over all, or by level of the first factor. */
  readonly slopes: readonly {
    readonly level: string | null
    readonly slope: number
    readonly se: number
    readonly df: number
    readonly t: number
    readonly p: number
    readonly lower: number
    readonly upper: number
  }[]
  /** Whether treatments differ in their slope. */
  readonly equalSlopes: { readonly df: number; readonly errorDf: number; readonly f: number; readonly p: number }
  /** Whether treatments changed the covariate itself. */
  readonly byTreatment: { readonly f: number; readonly p: number }
}

export interface ResidualRow {
  readonly unit: string
  readonly code: string
  /** Treatment: levels of all factors joined by `:`. */
  readonly level: string
  readonly value: number
  readonly samples: number
  /** Of counts and shares; else NaN. */
  readonly exposure: number
  readonly fitted: number
  readonly residual: number
  /** Over its own standard error (internally studentised). */
  readonly studentised: number
  /** Over the standard error found without it (externally studentised). */
  readonly deleted: number
  readonly leverage: number
  /** Cook's distance. */
  readonly cook: number
  /** Of a mixed model: less what the fixed effects say, and less the predictions too; else NaN. */
  readonly marginal: number
  readonly conditional: number
}

export interface Spread {
  readonly mean: number
  readonly min: number
  readonly max: number
}

export type CautionKind =
  | 'not tested'
  | 'few error degrees of freedom'
  | 'missing'
  | 'left out'
  | 'as received'
  | 'what happened'
  | 'identity'
  | 'not randomised'
  | 'samples'
  | 'bounds'
  | 'heterogeneous'
  | 'confounded'
  | 'extrapolated'
  | 'ground trend'
  | 'scale'
  | 'not shared'
  | 'drawn later'
  | 'site and season'
  | 'simpler model'
  | 'at zero'
  | 'few units'

export interface Caution {
  readonly kind: CautionKind
  readonly text: string
}

export interface Sentence {
  readonly text: string
  readonly evidence: EvidenceClass
  readonly why: string
  /** The kind of claim it tells, or that it was planned; of what is said beside the claims, `beside`. */
  readonly about: Claim['kind'] | 'planned' | 'beside'
}
