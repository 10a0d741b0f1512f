import { normalGrid, placeOf } from './normal-grid.ts'
import { normalLower, normalUpper } from './normal.ts'
import { tailQuantile } from './quantile.ts'
import { overScale } from './scale-mixture.ts'
import { tUpperQuantile } from './t.ts'

/**
 * P(max |T_i| > t) for comparisons with one control, whose correlations have the product
 * form ρ_ij = λ_i λ_j (C. W. Dunnett, JASA 50, 1955): 1 − E_s ∫ φ(z) Π_i [Φ((t s + λ_i z)/√(1−λ_i²)) −
 * Φ((−t s + λ_i z)/√(1−λ_i²))] dz. With unequal replication λ_i = √(n_i/(n_i+n_0)).
 */
export function dunnettUpper(t: number, lambda: ArrayLike<number>, df: number): number {
  if (t <= 0) return 1
  if (Number.isNaN(t)) return NaN
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
  return tailQuantile(p, (t) => dunnettUpper(t, lambda, df), tUpperQuantile(p / 2, df), tUpperQuantile(p / 2 / lambda.length, df))
}

/** P(max T_i > t), for a question asked in one direction only. */
export function dunnettUpperOneSided(t: number, lambda: ArrayLike<number>, df: number): number {
  if (Number.isNaN(t)) return NaN
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
  return tailQuantile(p, (t) => dunnettUpperOneSided(t, lambda, df), tUpperQuantile(p, df), tUpperQuantile(p / lambda.length, df))
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

const REACH = 7.8
/** Beyond λ times the limit, where the integrand of a far tail is largest. */
const BEYOND = 7.5

/** The probability that one of the comparisons lies beyond `limit` when the error is known. */
function outsideGiven(limit: number, groups: readonly Group[], oneSided = false): number {
  let [far, steepness] = [REACH, 1]
  for (const { lambda, scale, count } of groups) {
    far = Math.max(far, lambda * Math.abs(limit) + BEYOND)
    steepness += count * (lambda * scale) ** 2
  }
  const grid = normalGrid(steepness)
  const end = placeOf(grid, far)
  // With both sides counted, z and −z are alike.
  const start = oneSided ? placeOf(grid, -far) : grid.back
  let sum = 0
  for (let i = start; i < end; i++) {
    let logInside = 0
    for (const { lambda, scale, count } of groups) {
      const shift = lambda * grid.z[i]!
      const above = normalLower((shift - limit) * scale)
      const miss = oneSided ? above : above + normalUpper((limit + shift) * scale)
      logInside += count * Math.log1p(-Math.min(1, miss))
    }
    sum += grid.mass[i]! * -Math.expm1(logInside) * (oneSided || i === grid.back ? 1 : 2)
  }
  return sum
}
