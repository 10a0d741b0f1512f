import { covarianceFactor, differenceFactor, type MarginalMean } from '../linear/marginal-means.ts'

/**
 * Estimates with what is known of their chance errors: all that comparing them needs, whatever
 * model they come from. Indices run from 0 to `values.length − 1`.
 */
export interface Estimates {
  readonly values: readonly number[]
  /** Of two estimates; NaN where only the variance of their difference is known. */
  readonly covariance: (a: number, b: number) => number
  readonly differenceVariance: (a: number, b: number) => number
  /** Degrees of freedom of the difference. */
  readonly df: (a: number, b: number) => number
  /** Whether every difference has the same error and degrees of freedom behind it. */
  readonly oneError: boolean
  readonly estimable: (a: number) => boolean
}

/** Marginal means of a linear fit with error mean square `ms` on `df` degrees of freedom. */
export function linearEstimates(means: readonly MarginalMean[], ms: number, df: number): Estimates {
  return {
    values: means.map((mean) => mean.estimate),
    covariance: (a, b) => ms * covarianceFactor(means[a]!, means[b]!),
    differenceVariance: (a, b) => ms * differenceFactor(means[a]!, means[b]!),
    df: () => df,
    oneError: true,
    estimable: (a) => means[a]!.estimable,
  }
}
