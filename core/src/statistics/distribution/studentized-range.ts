import { gaussLegendre } from './gauss-legendre.ts'
import { normalDensity, normalLower } from './normal.ts'
import { findRoot } from './root.ts'
import { scaleMixture } from './scale-mixture.ts'
import { tTwoSided } from './t.ts'

/**
 * P(Q > q) of the studentized range of `means` means with `df` error degrees of freedom:
 * the average over s of 1 − W(q s), where
 * 1 − W(w) = k ∫ φ(z) {Φ(z)^(k−1) − [Φ(z) − Φ(z−w)]^(k−1)} dz.
 */
export function studentizedRangeUpper(q: number, means: number, df: number): number {
  if (!(q > 0)) return 1
  if (means === 2) return tTwoSided(q / Math.SQRT2, df)
  const { points, weights } = scaleMixture(df)
  let sum = 0
  for (let i = 0; i < points.length; i++) {
    const weight = weights[i]!
    if (weight > 1e-18) sum += weight * rangeUpper(q * points[i]!, means)
  }
  return Math.min(1, Math.max(0, sum))
}

/** P(Q ≤ q): the average over s of W(q s) = k ∫ φ(z) [Φ(z) − Φ(z−w)]^(k−1) dz, accurate in the lower tail. */
export function studentizedRangeLower(q: number, means: number, df: number): number {
  if (!(q > 0)) return 0
  const { points, weights } = scaleMixture(df)
  let sum = 0
  for (let i = 0; i < points.length; i++) {
    const weight = weights[i]!
    if (weight > 1e-18) sum += weight * rangeLower(q * points[i]!, means)
  }
  return Math.min(1, Math.max(0, sum))
}

/** q with P(Q > q) = p. */
export function studentizedRangeQuantile(p: number, means: number, df: number): number {
  let high = 4
  while (studentizedRangeUpper(high, means, df) > p) high *= 1.5
  const target = Math.log(p)
  return findRoot((q) => Math.log(studentizedRangeUpper(q, means, df)) - target, high === 4 ? 0.01 : high / 1.5, high, 1e-10)
}

const PIECES = 8
const POINTS = 16
const REACH = 8.5
const grid = makeGrid()

function makeGrid(): { z: Float64Array; mass: Float64Array; lower: Float64Array } {
  const { nodes, weights } = gaussLegendre(POINTS)
  const size = PIECES * POINTS
  const z = new Float64Array(size)
  const mass = new Float64Array(size)
  const lower = new Float64Array(size)
  const half = REACH / PIECES
  for (let piece = 0, k = 0; piece < PIECES; piece++) {
    for (let i = 0; i < POINTS; i++, k++) {
      z[k] = -REACH + half * (2 * piece + 1) + half * nodes[i]!
      mass[k] = half * weights[i]! * normalDensity(z[k]!)
      lower[k] = normalLower(z[k]!)
    }
  }
  return { z, mass, lower }
}

function rangeUpper(w: number, means: number): number {
  let sum = 0
  for (let i = 0; i < grid.z.length; i++) {
    const whole = grid.lower[i]!
    const gone = normalLower(grid.z[i]! - w)
    if (gone === 0) continue
    // Φ^(k−1) − (Φ − δ)^(k−1), written so that it keeps its accuracy when δ is small.
    sum += grid.mass[i]! * whole ** (means - 1) * -Math.expm1((means - 1) * Math.log1p(-Math.min(1, gone / whole)))
  }
  return means * sum
}

function rangeLower(w: number, means: number): number {
  let sum = 0
  for (let i = 0; i < grid.z.length; i++) sum += grid.mass[i]! * (grid.lower[i]! - normalLower(grid.z[i]! - w)) ** (means - 1)
  return means * sum
}
