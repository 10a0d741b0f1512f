import { fUpper } from '../distribution/f.ts'
import { normalUpper } from '../distribution/normal.ts'
import { tTwoSided } from '../distribution/t.ts'
import { leverages, type LinearFit } from '../linear/least-squares.ts'

export interface ResidualTable {
  readonly leverage: Float64Array
  /** Over their own standard error. */
  readonly internal: Float64Array
  /** Over the standard error found without the observation. */
  readonly external: Float64Array
  readonly cook: Float64Array
}

/** Residuals of all kinds (Cook & Weisberg, Residuals and Influence in Regression, 1982). */
export function residualTable(fit: LinearFit): ResidualTable {
  const leverage = leverages(fit)
  const df = fit.residualDf
  const p = fit.qr.rank
  const internal = fit.residuals.map((e, i) => (e * Math.sqrt(fit.weights?.[i] ?? 1)) / Math.sqrt(fit.residualMs * (1 - leverage[i]!)))
  return {
    leverage,
    internal,
    // Where nothing is left without it, an observation lies infinitely far; rounding must not make that no number.
    external: internal.map((r) => r * Math.sqrt((df - 1) / Math.max(0, df - r * r))),
    cook: internal.map((r, i) => (r * r * leverage[i]!) / (p * (1 - leverage[i]!))),
  }
}

/** The largest deleted residual: two-sided t on df − 1, times the number of observations (Bonferroni). */
export function outlierTest(
  fit: LinearFit,
  { external }: ResidualTable = residualTable(fit),
): { index: number; external: number; p: number } {
  let index = 0
  external.forEach((each, i) => {
    if (Math.abs(each) > Math.abs(external[index]!)) index = i
  })
  return { index, external: external[index]!, p: Math.min(1, external.length * tTwoSided(external[index]!, fit.residualDf - 1)) }
}

/** Tukey's one degree of freedom for non-additivity of a complete two-way table, observation by row and column code. */
export function nonAdditivity(
  y: Float64Array,
  row: Int32Array,
  column: Int32Array,
  residual: { ss: number; df: number },
): { ss: number; f: number; p: number } {
  const effects = (codes: Int32Array): Float64Array => {
    const k = Math.max(...codes) + 1
    const sums = new Float64Array(k)
    const counts = new Float64Array(k)
    codes.forEach((code, i) => {
      sums[code]! += y[i]!
      counts[code]!++
    })
    const grand = y.reduce((sum, each) => sum + each, 0) / y.length
    return sums.map((sum, c) => sum / counts[c]! - grand)
  }
  const [a, b] = [effects(row), effects(column)]
  const square = (v: Float64Array): number => v.reduce((sum, each) => sum + each * each, 0)
  const product = y.reduce((sum, each, i) => sum + each * a[row[i]!]! * b[column[i]!]!, 0)
  const ss = product ** 2 / (square(a) * square(b))
  const f = ss / ((residual.ss - ss) / (residual.df - 1))
  return { ss, f, p: fUpper(f, 1, residual.df - 1) }
}

/** Lag-one correlation and Durbin–Watson statistic of residuals in walking order. */
export function serialCorrelation(e: ArrayLike<number>): { r1: number; durbinWatson: number } {
  let [square, product, difference] = [0, 0, 0]
  for (let i = 0; i < e.length; i++) {
    square += e[i]! ** 2
    if (i === 0) continue
    product += e[i - 1]! * e[i]!
    difference += (e[i]! - e[i - 1]!) ** 2
  }
  return { r1: product / square, durbinWatson: difference / square }
}

export interface Moran {
  readonly i: number
  /** Sums of the weights that the variances are made of. */
  readonly s0: number
  readonly s1: number
  readonly s2: number
  readonly expectation: number
  readonly varianceRandomised: number
  readonly varianceNormal: number
  readonly zRandomised: number
  readonly pRandomised: number
  readonly zNormal: number
  readonly pNormal: number
}

/**
 * Moran's I of values on the plan, weight 1 for each pair of neighbours given, with variance
 * under randomisation and under normality (Cliff & Ord, Spatial Processes, 1981).
 */
export function moran(values: ArrayLike<number>, neighbours: readonly (readonly [number, number])[]): Moran {
  const n = values.length
  let mean = 0
  for (let i = 0; i < n; i++) mean += values[i]! / n
  const z = Float64Array.from(values, (each) => each - mean)
  const degree = new Float64Array(n)
  let cross = 0
  for (const [a, b] of neighbours) {
    cross += 2 * z[a]! * z[b]!
    degree[a]!++
    degree[b]!++
  }
  const s0 = 2 * neighbours.length
  const s1 = 4 * neighbours.length
  const s2 = degree.reduce((sum, each) => sum + (2 * each) ** 2, 0)
  const squares = z.reduce((sum, each) => sum + each ** 2, 0)
  const kurtosis = (n * z.reduce((sum, each) => sum + each ** 4, 0)) / squares ** 2
  const i = ((n / s0) * cross) / squares
  const expectation = -1 / (n - 1)
  const varianceNormal = (n * n * s1 - n * s2 + 3 * s0 * s0) / ((n * n - 1) * s0 * s0) - expectation ** 2
  const top = n * ((n * n - 3 * n + 3) * s1 - n * s2 + 3 * s0 * s0) - kurtosis * ((n * n - n) * s1 - 2 * n * s2 + 6 * s0 * s0)
  const varianceRandomised = top / ((n - 1) * (n - 2) * (n - 3) * s0 * s0) - expectation ** 2
  const test = (variance: number): { z: number; p: number } => {
    const value = (i - expectation) / Math.sqrt(variance)
    return { z: value, p: 2 * normalUpper(Math.abs(value)) }
  }
  const [randomised, normal] = [test(varianceRandomised), test(varianceNormal)]
  return {
    i,
    s0,
    s1,
    s2,
    expectation,
    varianceRandomised,
    varianceNormal,
    zRandomised: randomised.z,
    pRandomised: randomised.p,
    zNormal: normal.z,
    pNormal: normal.p,
  }
}
