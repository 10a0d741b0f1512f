import type { Dense } from '../../matrix/dense.ts'
import type { CovarianceParameter } from '../mixed-fit.ts'

export interface ErrorParameter extends CovarianceParameter {
  /** Bounds that are not reached, but for a lower one that says so. */
  readonly lower: number
  readonly upper: number
  /** Whether it may come to rest at its lower bound. */
  readonly restsAtLower?: boolean
}

/** How the errors of observations are spread and go together. */
export interface ErrorModel {
  readonly key: string
  /** In words, as it stands in a report. */
  readonly name: string
  readonly parameters: readonly ErrorParameter[]
  /** Whether the covariance is a sum of its parameters, each times a matrix that is known. */
  readonly linear: boolean
  /** Observations of different groups are independent; null: all go together. */
  readonly groups: Int32Array | null
  /** Sets of values to begin from, given the variance of the errors and residuals of the fixed effects; the likeliest is taken. */
  starts(variance: number, residuals: Float64Array): readonly (readonly number[])[]
  /** Covariance of the errors of some observations, and what one more of each parameter changes in it; null: nothing. */
  at(values: readonly number[], rows: Int32Array): { readonly covariance: Dense; readonly changes: readonly (Dense | null)[] }
}

/** A symmetric matrix over some observations, from each pair. */
export function overPairs(rows: Int32Array, of: (a: number, b: number) => number): Dense {
  const n = rows.length
  const values = new Float64Array(n * n)
  for (let i = 0; i < n; i++) for (let j = 0; j <= i; j++) values[i * n + j] = values[j * n + i] = of(rows[i]!, rows[j]!)
  return { rows: n, columns: n, values }
}
