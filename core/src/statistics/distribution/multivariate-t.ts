import { normalLower, normalQuantile } from './normal.ts'
import { chiSquaredLower } from './chi-squared.ts'

export interface Integral {
  readonly value: number
  /** Three standard errors over the random shifts: an estimate of the error, not a bound. */
  readonly error: number
}

/**
 * P(lower < T < upper) of the multivariate t with any correlation matrix (df Infinity: normal),
 * by randomly shifted lattice points after the conditioning of Genz (J. Comp. Graph. Stat. 1,
 * 1992; with Bretz, J. Statist. Comput. Simul. 63, 1999). The shifts come from the seed, so the
 * same call gives the same answer. Shapes: m limits, m × m correlation by rows.
 */
export function multivariateT(
  lower: ArrayLike<number>,
  upper: ArrayLike<number>,
  correlation: readonly ArrayLike<number>[],
  df: number,
  options: { readonly seed?: number; readonly points?: number; readonly shifts?: number } = {},
): Integral {
  const m = lower.length
  const root = cholesky(correlation)
  const { points = 1021, shifts = 12, seed = 1 } = options
  const chance = generator(seed)
  const steps = richtmyer(m)
  const scale = scaleTable(df)
  const estimates = new Float64Array(shifts)
  const u = new Float64Array(m)
  const y = new Float64Array(m)
  for (let shift = 0; shift < shifts; shift++) {
    const offset = Float64Array.from({ length: m }, chance)
    let sum = 0
    for (let k = 1; k <= points; k++) {
      // The tent map makes the integrand periodic, which the lattice rewards.
      for (let j = 0; j < m; j++) u[j] = Math.abs(2 * ((k * steps[j]! + offset[j]!) % 1) - 1)
      sum += conditioned(lower, upper, root, u, scale(u[m - 1]!), y)
    }
    estimates[shift] = sum / points
  }
  const value = estimates.reduce((sum, each) => sum + each, 0) / shifts
  const spread = estimates.reduce((sum, each) => sum + (each - value) ** 2, 0)
  return { value: Math.min(1, Math.max(0, value)), error: 3 * Math.sqrt(spread / (shifts * (shifts - 1))) }
}

/** P(max |T_i| > t), or P(max T_i > t) one-sided. */
export function multivariateTUpper(
  t: number,
  correlation: readonly ArrayLike<number>[],
  df: number,
  options: { readonly seed?: number; readonly points?: number; readonly oneSided?: boolean } = {},
): Integral {
  const m = correlation.length
  const low = options.oneSided ? -Infinity : -t
  const inside = multivariateT(new Float64Array(m).fill(low), new Float64Array(m).fill(t), correlation, df, options)
  return { value: Math.max(0, 1 - inside.value), error: inside.error }
}

/** The probability along one line of uniform numbers: each variable inside its limits given those before it, held in `y`. */
function conditioned(
  lower: ArrayLike<number>,
  upper: ArrayLike<number>,
  root: readonly Float64Array[],
  u: Float64Array,
  s: number,
  y: Float64Array,
): number {
  const m = lower.length
  let probability = 1
  for (let i = 0; i < m; i++) {
    const row = root[i]!
    let mean = 0
    for (let j = 0; j < i; j++) mean += row[j]! * y[j]!
    const low = below(lower[i]!, s, mean, row[i]!)
    const width = below(upper[i]!, s, mean, row[i]!) - low
    probability *= width
    if (probability <= 0) return 0
    if (i < m - 1) y[i] = normalQuantile(Math.min(1 - 1e-16, Math.max(1e-300, low + u[i]! * width)))
  }
  return probability
}

/** Φ of a limit in the scale of what is left; one without end stays so, also at a scale of nought. */
function below(limit: number, s: number, mean: number, own: number): number {
  return Number.isFinite(limit) ? normalLower((limit * s - mean) / own) : limit > 0 ? 1 : 0
}

function cholesky(matrix: readonly ArrayLike<number>[]): Float64Array[] {
  const root: Float64Array[] = []
  matrix.forEach((row, i) => {
    const out = new Float64Array(matrix.length)
    for (let j = 0; j <= i; j++) {
      let sum = row[j]!
      for (let k = 0; k < j; k++) sum -= out[k]! * (root[j]?.[k] ?? out[k]!)
      if (i !== j) out[j] = sum / root[j]![j]!
      // A correlation of one leaves nothing of its own; a hair keeps the division whole.
      else out[j] = Math.sqrt(Math.max(1e-14, sum))
    }
    root.push(out)
  })
  return root
}

/** Square roots of primes: irrational steps of a good lattice in any dimension (Richtmyer). */
function richtmyer(m: number): Float64Array {
  const primes: number[] = []
  for (let n = 2; primes.length < m; n++) if (primes.every((prime) => n % prime !== 0)) primes.push(n)
  return Float64Array.from(primes, (prime) => Math.sqrt(prime) % 1)
}

// A pure memo: the same df always gives the same table.
const scales = new Map<number, (u: number) => number>()

/** s = sqrt(χ²(df)/df) as a function of a uniform number: its distribution function tabulated finely and turned round. */
function scaleTable(df: number): (u: number) => number {
  if (df === Infinity) return () => 1
  const known = scales.get(df)
  if (known) return known
  const size = 4000
  const high = 1 + 10 / Math.sqrt(2 * df) + 6 / df
  const below = Float64Array.from({ length: size + 1 }, (_, i) => chiSquaredLower(df * ((high * i) / size) ** 2, df))
  const scale = (u: number): number => {
    let [left, right] = [0, size]
    while (right - left > 1) {
      const middle = (left + right) >> 1
      if (below[middle]! <= u) left = middle
      else right = middle
    }
    const width = below[right]! - below[left]!
    const share = width > 0 ? Math.min(1, (u - below[left]!) / width) : 0.5
    return (high * (left + share)) / size
  }
  if (scales.size > 50) scales.clear()
  scales.set(df, scale)
  return scale
}

/** Uniform numbers from a seed (mulberry32), enough for shifts. */
function generator(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let z = state
    z = Math.imul(z ^ (z >>> 15), z | 1)
    z ^= z + Math.imul(z ^ (z >>> 7), z | 61)
    return ((z ^ (z >>> 14)) >>> 0) / 4294967296
  }
}
