import { normalQuantile, normalUpper } from '../distribution/normal.ts'

export interface ShapiroWilk {
  readonly w: number
  readonly p: number
}

/**
 * Shapiro–Wilk by Royston's approximation (Applied Statistics 44, 1995, AS R94), 3 ≤ n ≤ 5000:
 * exact weights for n = 3, else polynomial corrections of the two outermost; p from the
 * normal approximation of log(1 − W).
 */
export function shapiroWilk(values: ArrayLike<number>): ShapiroWilk {
  const x = Float64Array.from(values).sort()
  const n = x.length
  if (n < 3 || n > 5000) throw new RangeError('Shapiro–Wilk takes 3 to 5000 values')
  const weights = shapiroWeights(n)
  // Centred on a middle value first, so that a large offset costs no digits.
  const origin = x[n >> 1]!
  const mean = x.reduce((sum, each) => sum + (each - origin), 0) / n + origin
  let top = 0
  let total = 0
  let length = 0
  for (let i = 0; i < n; i++) {
    top += weights[i]! * (x[i]! - mean)
    total += (x[i]! - mean) ** 2
    length += weights[i]! ** 2
  }
  const w = Math.min(1, (top * top) / (total * length))
  return { w, p: pOf(w, n) }
}

function shapiroWeights(n: number): Float64Array {
  const a = new Float64Array(n)
  if (n === 3) {
    a[0] = -Math.SQRT1_2
    a[2] = Math.SQRT1_2
    return a
  }
  const m = Float64Array.from({ length: n }, (_, i) => normalQuantile((i + 1 - 0.375) / (n + 0.25)))
  const squares = m.reduce((sum, each) => sum + each * each, 0)
  const root = 1 / Math.sqrt(n)
  const last = polynomial([0, 0.221157, -0.147981, -2.07119, 4.434685, -2.706056], root) + m[n - 1]! / Math.sqrt(squares)
  const outer = n > 5 ? 2 : 1
  let phi: number
  if (outer === 2) {
    const second = polynomial([0, 0.042981, -0.293762, -1.752461, 5.682633, -3.582633], root) + m[n - 2]! / Math.sqrt(squares)
    phi = (squares - 2 * m[n - 1]! ** 2 - 2 * m[n - 2]! ** 2) / (1 - 2 * last ** 2 - 2 * second ** 2)
    a[n - 2] = second
    a[1] = -second
  } else phi = (squares - 2 * m[n - 1]! ** 2) / (1 - 2 * last ** 2)
  a[n - 1] = last
  a[0] = -last
  for (let i = outer; i < n - outer; i++) a[i] = m[i]! / Math.sqrt(phi)
  return a
}

function pOf(w: number, n: number): number {
  if (n === 3) {
    const p = (6 / Math.PI) * (Math.asin(Math.sqrt(w)) - Math.asin(Math.sqrt(0.75)))
    return Math.max(0, Math.min(1, p))
  }
  const y = Math.log1p(-w)
  if (n <= 11) {
    const gamma = polynomial([-2.273, 0.459], n)
    if (y >= gamma) return 1e-99
    const mean = polynomial([0.544, -0.39978, 0.025054, -6.714e-4], n)
    const sd = Math.exp(polynomial([1.3822, -0.77857, 0.062767, -0.0020322], n))
    return normalUpper((-Math.log(gamma - y) - mean) / sd)
  }
  const logN = Math.log(n)
  const mean = polynomial([-1.5861, -0.31082, -0.083751, 0.0038915], logN)
  const sd = Math.exp(polynomial([-0.4803, -0.082676, 0.0030302], logN))
  return normalUpper((y - mean) / sd)
}

function polynomial(coefficients: readonly number[], x: number): number {
  return coefficients.reduceRight((sum, c) => sum * x + c, 0)
}

/** Skewness m₃/m₂^1.5 and excess kurtosis m₄/m₂² − 3, moments with divisor n. */
export function shape(values: ArrayLike<number>): { skewness: number; excessKurtosis: number } {
  const n = values.length
  let mean = 0
  for (let i = 0; i < n; i++) mean += values[i]! / n
  let [m2, m3, m4] = [0, 0, 0]
  for (let i = 0; i < n; i++) {
    const d = values[i]! - mean
    m2 += d ** 2 / n
    m3 += d ** 3 / n
    m4 += d ** 4 / n
  }
  return { skewness: m3 / m2 ** 1.5, excessKurtosis: m4 / m2 ** 2 - 3 }
}

/** Anderson–Darling A² for the normal with estimated mean and deviation, and its p (Stephens; D'Agostino & Stephens 1986, table 4.9). */
export function andersonDarling(values: ArrayLike<number>): { a2: number; p: number } {
  const x = Float64Array.from(values).sort()
  const n = x.length
  const mean = x.reduce((sum, each) => sum + each, 0) / n
  const sd = Math.sqrt(x.reduce((sum, each) => sum + (each - mean) ** 2, 0) / (n - 1))
  let sum = 0
  for (let i = 0; i < n; i++) {
    const below = normalUpper(-(x[i]! - mean) / sd)
    const above = normalUpper((x[n - 1 - i]! - mean) / sd)
    sum += (2 * i + 1) * (Math.log(below) + Math.log(above))
  }
  const a2 = -n - sum / n
  const a = a2 * (1 + 0.75 / n + 2.25 / n ** 2)
  const p =
    a < 0.2
      ? 1 - Math.exp(-13.436 + 101.14 * a - 223.73 * a * a)
      : a < 0.34
        ? 1 - Math.exp(-8.318 + 42.796 * a - 59.938 * a * a)
        : a < 0.6
          ? Math.exp(0.9177 - 4.279 * a - 1.38 * a * a)
          : a < 10
            ? Math.exp(1.2937 - 5.709 * a + 0.0186 * a * a)
            : 3.7e-24
  return { a2, p }
}
