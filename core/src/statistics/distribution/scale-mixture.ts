import gammaln from '@stdlib/math-base-special-gammaln'

/**
 * Points and weights of the law of s = sqrt(χ²(df)/df), the ratio of an estimated to a true
 * standard deviation, for averaging a probability over what is not known of the error.
 * Density: 2 (df/2)^(df/2) / Γ(df/2) s^(df−1) exp(−df s²/2).
 */
export function scaleMixture(df: number): { points: Float64Array; weights: Float64Array } {
  const known = mixtures.get(df)
  if (known) return known
  const made = df === Infinity ? { points: Float64Array.of(1), weights: Float64Array.of(1) } : build(df)
  if (mixtures.size > 200) mixtures.clear()
  mixtures.set(df, made)
  return made
}

// A pure memo: the same df always gives the same table.
const mixtures = new Map<number, { points: Float64Array; weights: Float64Array }>()

/**
 * Trapezoidal rule in log s, where the density is smooth and falls off fast at both ends, so
 * that the rule converges exponentially in its step (Trefethen & Weideman, SIAM Review 56, 2014).
 */
function build(df: number): { points: Float64Array; weights: Float64Array } {
  const constant = Math.log(2) + (df / 2) * Math.log(df / 2) - gammaln(df / 2)
  // Half a standard deviation of log s: the error of the rule, about exp(−2π²/0.5²), is below rounding.
  const step = Math.min(0.1, 0.5 / Math.sqrt(2 * df))
  const points: number[] = []
  const weights: number[] = []
  for (let v = -Math.ceil(44 / df / step + 9 / Math.sqrt(2 * df) / step) * step; v < 4; v += step) {
    const s = Math.exp(v)
    const weight = step * Math.exp(constant + df * v - (df * s * s) / 2)
    if (weight < 1e-20) continue
    points.push(s)
    weights.push(weight)
  }
  return { points: Float64Array.from(points), weights: Float64Array.from(weights) }
}
