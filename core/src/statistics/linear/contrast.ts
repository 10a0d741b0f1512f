import { tTwoSided, tUpperQuantile } from '../distribution/t.ts'
import type { LinearFunction } from './least-squares.ts'

export interface Contrast {
  readonly estimate: number
  readonly se: number
  readonly df: number
  readonly t: number
  readonly p: number
  readonly lower: number
  readonly upper: number
  /** Sum of squares of the single degree of freedom. */
  readonly ss: number
  readonly estimable: boolean
}

/** Σ c_i × mean_i with its test against the error mean square. Shapes: one coefficient a mean. */
export function contrast(
  means: readonly LinearFunction[],
  coefficients: ArrayLike<number>,
  ms: number,
  df: number,
  level = 0.05,
): Contrast {
  const size = means[0]!.root.length
  const root = new Float64Array(size)
  let estimate = 0
  let estimable = true
  means.forEach((mean, i) => {
    const c = coefficients[i]!
    if (c === 0) return
    estimate += c * mean.estimate
    estimable &&= mean.estimable
    for (let k = 0; k < size; k++) root[k]! += c * mean.root[k]!
  })
  const factor = root.reduce((sum, each) => sum + each * each, 0)
  const se = Math.sqrt(ms * factor)
  const t = estimate / se
  const half = tUpperQuantile(level / 2, df) * se
  return {
    estimate,
    se,
    df,
    t,
    p: tTwoSided(t, df),
    lower: estimate - half,
    upper: estimate + half,
    ss: (estimate * estimate) / factor,
    estimable,
  }
}

/**
 * Orthogonal polynomial coefficients of degree 1 … n − 1 for any spacing, each of unit length
 * and with the last coefficient positive (three-term recurrence of the discrete inner product).
 */
export function orthogonalPolynomials(x: ArrayLike<number>, degree = x.length - 1): Float64Array[] {
  const n = x.length
  const basis: Float64Array[] = [new Float64Array(n).fill(1 / Math.sqrt(n))]
  let centre = 0
  for (let i = 0; i < n; i++) centre += x[i]! / n
  for (let d = 1; d <= degree; d++) {
    const next = Float64Array.from(basis[d - 1]!, (value, i) => value * (x[i]! - centre))
    // Orthogonalised twice: once is not enough for digits when rates are crowded.
    for (let pass = 0; pass < 2; pass++) {
      for (const earlier of basis) {
        const along = next.reduce((sum, value, i) => sum + value * earlier[i]!, 0)
        for (let i = 0; i < n; i++) next[i]! -= along * earlier[i]!
      }
    }
    const length = Math.sqrt(next.reduce((sum, value) => sum + value * value, 0))
    const sign = next[n - 1]! < 0 ? -1 : 1
    for (let i = 0; i < n; i++) next[i]! *= sign / length
    basis.push(next)
  }
  return basis.slice(1)
}
