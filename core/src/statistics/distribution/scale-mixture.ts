import gammaln from '@stdlib/math-base-special-gammaln'
import { gaussLegendre } from './gauss-legendre.ts'

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

function build(df: number): { points: Float64Array; weights: Float64Array } {
  const constant = Math.log(2) + (df / 2) * Math.log(df / 2) - gammaln(df / 2)
  const logDensity = (s: number): number => constant + (df - 1) * Math.log(s) - (df * s * s) / 2
  const spread = 1 / Math.sqrt(2 * df)
  const low = Math.max(0, 1 - 14 * spread)
  const high = 1 + 14 * spread + 4 / df
  const pieces = df < 4 ? 32 : 12
  const { nodes, weights: rule } = gaussLegendre(16)
  const points = new Float64Array(pieces * 16)
  const weights = new Float64Array(pieces * 16)
  const half = (high - low) / pieces / 2
  for (let piece = 0, k = 0; piece < pieces; piece++) {
    const middle = low + half * (2 * piece + 1)
    for (let i = 0; i < 16; i++, k++) {
      const s = middle + half * nodes[i]!
      points[k] = s
      weights[k] = s > 0 ? half * rule[i]! * Math.exp(logDensity(s)) : 0
    }
  }
  return { points, weights }
}
