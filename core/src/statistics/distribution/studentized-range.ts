import { normalGrid, placeOf, type NormalGrid } from './normal-grid.ts'
import { normalLower } from './normal.ts'
import { tailQuantile } from './quantile.ts'
import { overScale } from './scale-mixture.ts'
import { tTwoSided, tUpperQuantile } from './t.ts'

/**
 * P(Q > q) of the studentized range of `means` means with `df` error degrees of freedom:
 * the average over s of 1 − W(q s), where
 * 1 − W(w) = k ∫ φ(z) {Φ(z)^(k−1) − [Φ(z) − Φ(z−w)]^(k−1)} dz.
 */
export function studentizedRangeUpper(q: number, means: number, df: number): number {
  if (q <= 0) return 1
  if (Number.isNaN(q)) return NaN
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
  if (q <= 0) return 0
  if (Number.isNaN(q)) return NaN
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
  if (means === 2) return Math.SQRT2 * tUpperQuantile(p / 2, df)
  // One pair alone needs less, Bonferroni's inequality over all pairs more.
  const low = Math.SQRT2 * tUpperQuantile(p / 2, df)
  const high = Math.SQRT2 * tUpperQuantile(p / (means * (means - 1)), df)
  return tailQuantile(p, (q) => studentizedRangeUpper(q, means, df), low, high)
}

/** φ is below 1e-13 of its top beyond this; the distribution functions beside it fall off on the lower side by themselves. */
const REACH = 7.8
const REACH_BELOW = -6.2
/** Beyond w/2, where the integrand of a far upper tail is largest and falls off twice as fast as φ. */
const BEYOND = 5.5

function rangeUpper(w: number, means: number): number {
  // A tail beyond any number.
  if (w > 2 * (38.6 - BEYOND)) return 0
  const grid = normalGrid(means)
  const { powers, start } = powersOf(grid, means)
  const end = placeOf(grid, Math.max(REACH, w / 2 + BEYOND))
  let sum = 0
  for (let i = start; i < end; i++) {
    const gone = normalLower(grid.z[i]! - w)
    if (gone > 0) sum += grid.mass[i]! * powers[i]! * lost(Math.min(1, gone / grid.lower[i]!), means - 1)
  }
  return means * sum
}

/** 1 − (1 − x)^n without cancellation where x is small. */
function lost(x: number, n: number): number {
  if (n * x < 1e-5) return n * x * (1 - ((n - 1) * x) / 2 + ((n - 1) * (n - 2) * x * x) / 6)
  if (n > 16) return -Math.expm1(n * Math.log1p(-x))
  // x Σ (1 − x)^j
  let [sum, power] = [1, 1]
  for (let j = 1; j < n; j++) sum += power *= 1 - x
  return x * sum
}

interface Powers {
  /** Φ(z)^(k−1) at the nodes. */
  readonly powers: Float64Array
  /** The first node at which it counts. */
  readonly start: number
}

// A pure memo: a grid of this step belongs to one number of means.
const known = new WeakMap<NormalGrid, Powers>()

function powersOf(grid: NormalGrid, means: number): Powers {
  let found = known.get(grid)
  if (!found) {
    const powers = grid.lower.map((each) => each ** (means - 1))
    const counts = powers.findIndex((each) => each > 1e-22)
    known.set(grid, (found = { powers, start: Math.max(counts, placeOf(grid, REACH_BELOW)) }))
  }
  return found
}

function rangeLower(w: number, means: number): number {
  const grid = normalGrid(means)
  const end = placeOf(grid, REACH)
  let sum = 0
  for (let i = placeOf(grid, -REACH); i < end; i++) sum += grid.mass[i]! * (grid.lower[i]! - normalLower(grid.z[i]! - w)) ** (means - 1)
  return means * sum
}
