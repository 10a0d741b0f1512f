import { cholesky, dense, inverse, type Dense } from '../matrix/dense.ts'

import type { Classification } from '../linear/design-matrix.ts'

export type Likelihood = 'REML' | 'ML'

/**
 * y = X β + Σ Z_k u_k + e with u_k ~ N(0, σ²_k I), e ~ N(0, σ²_e I). All that follows needs only the
 * products of the columns of X, the Z_k and y, so that the work grows with the number of effects and
 * not of observations (Henderson 1984; Lynch & Walsh 1998, ch. 26–27).
 */
export interface MixedModel {
  readonly y: Float64Array
  /** Columns of X, independent of each other. */
  readonly fixed: readonly Float64Array[]
  /** A code below zero: the observation has none of this term's effects. */
  readonly random: readonly Classification[]
}

/** What stands in the covariance of the observations. */
export interface CovarianceParameter {
  /** Its random term, or what it is of the errors. */
  readonly name: string
  readonly kind: 'variance' | 'covariance' | 'correlation' | 'range' | 'nugget'
}

/** Predictions of a random term, with the root of their prediction error variance, level by level. */
export interface Predictions {
  readonly effects: Float64Array
  readonly errors: Float64Array
}

/**
 * A fitted mixed model: all that tests, means and differences need of it, whichever way it was fitted.
 * Derivatives and informations are worked out when they are asked for.
 */
export interface MixedFit {
  readonly likelihood: Likelihood
  readonly parameters: readonly CovarianceParameter[]
  readonly values: readonly number[]
  /** Those that came to rest at their bound, as a variance at zero: they are no parameters. */
  readonly bounded: readonly boolean[]
  readonly converged: boolean
  readonly iterations: number
  /** log|V| + log|XᵀV⁻¹X| + rᵀV⁻¹r + (n − p) log 2π; of ML without the second term, and n log 2π. */
  readonly minusTwoLogLikelihood: number
  readonly observations: number
  readonly beta: Float64Array
  /** (XᵀV⁻¹X)⁻¹. */
  readonly covariance: Dense
  /** What a parameter more of it changes in the covariance of the fixed effects. */
  changes(): readonly Dense[]
  /** Of the log-likelihood, by all parameters. */
  observedInformation(): Dense
  /** What Kenward and Roger's method needs; null where V is not linear in its parameters, or the work would be too large. */
  readonly expansion: Expansion | null
  /** By random term, in the order given. */
  predictions(): readonly Predictions[]
  /** Observed less what the fixed effects say; and less the predictions too. */
  residuals(): { readonly marginal: Float64Array; readonly conditional: Float64Array }
}

export interface Expansion {
  expectedInformation(): Dense
  /** XᵀV⁻¹ V_k V⁻¹X. */
  first(): readonly Dense[]
  /** XᵀV⁻¹ V_k V⁻¹ V_l V⁻¹X. */
  second(k: number, l: number): Dense
}

/**
 * The same fitted to y less its mean, since sums of squares of a large level lose the digits of what varies about it.
 * Only where the first fixed column is the intercept, which then takes the mean up again.
 */
export function centred<M extends Pick<MixedModel, 'y' | 'fixed'>>(model: M, fit: (model: M) => MixedFit): MixedFit {
  if (!model.fixed[0]?.every((value) => value === 1)) return fit(model)
  const from = model.y[0]!
  const mean = from + model.y.reduce((sum, value) => sum + (value - from), 0) / model.y.length
  const found = fit({ ...model, y: model.y.map((value) => value - mean) })
  return { ...found, beta: found.beta.map((value, i) => (i === 0 ? value + mean : value)) }
}

/** Parameters that were free to move. */
export function freeOf({ bounded }: Pick<MixedFit, 'bounded'>): number[] {
  return bounded.flatMap((each, i) => (each ? [] : [i]))
}

/** Akaike's and Schwarz's criteria; under REML the fixed effects are no parameters of the likelihood, but are counted where asked for. */
export function criteria(fit: MixedFit): { aic: number; bic: number; aicCovarianceOnly: number } {
  const covariance = freeOf(fit).length
  const all = covariance + fit.beta.length
  const n = fit.likelihood === 'REML' ? fit.observations - fit.beta.length : fit.observations
  return {
    aic: fit.minusTwoLogLikelihood + 2 * all,
    bic: fit.minusTwoLogLikelihood + Math.log(n) * covariance + (fit.likelihood === 'ML' ? Math.log(n) * fit.beta.length : 0),
    aicCovarianceOnly: fit.minusTwoLogLikelihood + 2 * covariance,
  }
}

/** Worked out when first asked for. */
export function once<T>(work: () => T): () => T {
  let held: { value: T } | null = null
  return () => (held ??= { value: work() }).value
}

/** Standard errors of the parameters from the observed information; NaN of those at their bound, and where it cannot be turned round. */
export function parameterErrors(fit: MixedFit): number[] {
  const free = freeOf(fit)
  const information = fit.observedInformation()
  try {
    const spread = inverse(dense(free.length, free.length, (i, j) => information.values[free[i]! * information.columns + free[j]!]!))
    return fit.values.map((_, i) => (free.includes(i) ? Math.sqrt(spread.values[free.indexOf(i) * (free.length + 1)]!) : NaN))
  } catch (error) {
    if (error instanceof RangeError) return fit.values.map(() => NaN)
    throw error
  }
}

/** log|XᵀX|, by which restricted likelihoods in two codings of the same effects differ. */
export function logDeterminantOf(columns: readonly Float64Array[]): number {
  const p = columns.length
  const inner = (a: Float64Array, b: Float64Array): number => {
    let sum = 0
    for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!
    return sum
  }
  return cholesky(dense(p, p, (i, j) => inner(columns[i]!, columns[j]!))).logDeterminant
}
