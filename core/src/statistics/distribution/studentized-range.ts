import { gaussLegendre } from './gauss-legendre.ts'
import { normalDensity, normalLower } from './normal.ts'
import { findRoot } from './root.ts'
import { overScale } from './scale-mixture.ts'
import { tTwoSided } from './t.ts'

/**
 * P(Q > q) of the studentized range of `means` means with `df` error degrees of freedom:
 * the average over s of 1 − W(q s), where
 * 1 − W(w) = k ∫ φ(z) {Φ(z)^(k−1) − [Φ(z) − Φ(z−w)]^(k−1)} dz.
 */
export function studentizedRangeUpper(q: number, means: number, df: number): number {
  if (!(q > 0)) return 1
  if (means === 2) return tTwoSided(q / Math.SQRT2, df)
  return Math.min(
    1,
    Math.max(
      0,
      overScale(df, (s) => rangeUpper(q * s, means)),
    ),
  )
}

/** P(Q ≤ q): the average over s of W(q s) = k ∫ φ(z) [Φ(z) − Φ(z−w)]^(k−1) dz, accurate in the lower tail. */
export function studentizedRangeLower(q: number, means: number, df: number): number {
  if (!(q > 0)) return 0
  return Math.min(
    1,
    Math.max(
      0,
      overScale(df, (s) => rangeLower(q * s, means)),
    ),
  )
}

/** q with P(Q > q) = p. */
export function studentizedRangeQuantile(p: number, means: number, df: number): number {
  let high = 4
  while (studentizedRangeUpper(high, means, df) > p) high *= 1.5
  const target = Math.log(p)
  return findRoot((q) => Math.log(studentizedRangeUpper(q, means, df)) - target, high === 4 ? 0.01 : high / 1.5, high, 1e-10)
}

const POINTS = 16
const REACH = 8.5
/** Beyond w/2, where the integrand of a far upper tail is largest and twice as narrow as φ. */
const BEYOND = 6.1

interface Grid {
  z: Float64Array
  mass: Float64Array
  lower: Float64Array
}

const grids = new Map<number, Grid>()

/** Composite Gauss–Legendre nodes from −8.5 up, in pieces of `width`; `pieces` of them. */
function gridOf(width: number, pieces: number): Grid {
  const key = pieces + width / 100
  let grid = grids.get(key)
  if (!grid) {
    const { nodes, weights } = gaussLegendre(POINTS)
    const z = Float64Array.from(
      { length: pieces * POINTS },
      (_, k) => -REACH + width * (Math.floor(k / POINTS) + 0.5 + nodes[k % POINTS]! / 2),
    )
    const mass = z.map((each, k) => (width / 2) * weights[k % POINTS]! * normalDensity(each))
    grids.set(key, (grid = { z, mass, lower: z.map(normalLower) }))
    if (grids.size > 100) grids.clear()
  }
  return grid
}

/** The power of many means makes the integrand narrower, about as their root; more so in the lower tail. */
const widthOf = (means: number, easy: number): number => (2 * REACH) / 8 / Math.ceil(Math.sqrt(means / easy))

function rangeUpper(w: number, means: number): number {
  const width = widthOf(means, 60)
  // A tail beyond any number is none, and its grid would have no end.
  if (w > 76) return 0
  const grid = gridOf(width, Math.ceil((REACH + Math.max(REACH, w / 2 + BEYOND)) / width - 1e-9))
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
  const width = widthOf(means, 12)
  const grid = gridOf(width, Math.round((2 * REACH) / width))
  let sum = 0
  for (let i = 0; i < grid.z.length; i++) sum += grid.mass[i]! * (grid.lower[i]! - normalLower(grid.z[i]! - w)) ** (means - 1)
  return means * sum
}
