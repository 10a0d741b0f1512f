import { gaussLegendre } from './gauss-legendre.ts'
import { normalDensity, normalLower, normalUpper } from './normal.ts'
import { findRoot } from './root.ts'
import { overScale } from './scale-mixture.ts'

/**
 * P(max |T_i| > t) for comparisons with one control, whose correlations have the product
 * form ρ_ij = λ_i λ_j (C. W. Dunnett, JASA 50, 1955): 1 − E_s ∫ φ(z) Π_i [Φ((t s + λ_i z)/√(1−λ_i²)) −
 * Φ((−t s + λ_i z)/√(1−λ_i²))] dz. With unequal replication λ_i = √(n_i/(n_i+n_0)).
 */
export function dunnettUpper(t: number, lambda: ArrayLike<number>, df: number): number {
  if (!(t > 0)) return 1
  const groups = groupEqual(lambda)
  return Math.min(
    1,
    Math.max(
      0,
      overScale(df, (s) => outsideGiven(t * s, groups)),
    ),
  )
}

/** t with P(max |T_i| > t) = p. */
export function dunnettQuantile(p: number, lambda: ArrayLike<number>, df: number): number {
  return upperQuantile(p, (t) => dunnettUpper(t, lambda, df))
}

/** P(max T_i > t), for a question asked in one direction only. */
export function dunnettUpperOneSided(t: number, lambda: ArrayLike<number>, df: number): number {
  const groups = groupEqual(lambda)
  return Math.min(
    1,
    Math.max(
      0,
      overScale(df, (s) => outsideGiven(t * s, groups, true)),
    ),
  )
}

/** t with P(max T_i > t) = p. */
export function dunnettQuantileOneSided(p: number, lambda: ArrayLike<number>, df: number): number {
  return upperQuantile(p, (t) => dunnettUpperOneSided(t, lambda, df))
}

function upperQuantile(p: number, upper: (t: number) => number): number {
  let high = 3
  while (upper(high) > p) high *= 1.5
  const target = Math.log(p)
  return findRoot((t) => Math.log(upper(t)) - target, high === 3 ? 0.01 : high / 1.5, high, 1e-10)
}

type Group = { lambda: number; scale: number; count: number }

function groupEqual(lambda: ArrayLike<number>): Group[] {
  const groups: Group[] = []
  for (let i = 0; i < lambda.length; i++) {
    const value = lambda[i]!
    const same = groups.find((group) => Math.abs(group.lambda - value) < 1e-14)
    if (same) same.count++
    else groups.push({ lambda: value, scale: 1 / Math.sqrt(1 - value * value), count: 1 })
  }
  return groups
}

const POINTS = 16
const REACH = 8.5

/** The probability that one of the comparisons lies beyond `limit` when the error is known. */
function outsideGiven(limit: number, groups: readonly Group[], oneSided = false): number {
  const { nodes, weights } = gaussLegendre(POINTS)
  // The integrand of a far tail is largest near λ times the limit, and rises within √(1 − λ²).
  let [far, steep] = [REACH, 1]
  for (const { lambda, scale } of groups) {
    far = Math.max(far, lambda * Math.abs(limit) + 6.1)
    steep = Math.max(steep, scale)
  }
  far = Math.min(far, 38.6)
  const pieces = Math.ceil((2 * far * Math.max(1, steep / 2)) / 1.7 - 1e-9)
  const half = far / pieces
  let sum = 0
  for (let piece = 0; piece < pieces; piece++) {
    for (let i = 0; i < POINTS; i++) {
      const z = -far + half * (2 * piece + 1) + half * nodes[i]!
      let logInside = 0
      for (const group of groups) {
        const shift = group.lambda * z
        const above = normalLower((shift - limit) * group.scale)
        const miss = oneSided ? above : above + normalUpper((limit + shift) * group.scale)
        logInside += group.count * Math.log1p(-Math.min(1, miss))
      }
      sum += weights[i]! * normalDensity(z) * -Math.expm1(logInside)
    }
  }
  return sum * half
}
