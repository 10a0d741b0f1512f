import { cholesky, combine, dense, eigen, inverse, solve, times, traceOfProduct, transpose, type Dense } from '../matrix/dense.ts'
import type { RemlFit } from './variance-components.ts'

/** A linear function of the fixed effects, or several tested together: one row each. */
export interface MixedTest {
  readonly f: number
  readonly numeratorDf: number
  readonly denominatorDf: number
}

export interface MixedEstimate {
  readonly estimate: number
  readonly se: number
  readonly df: number
}

/**
 * Satterthwaite's degrees of freedom from the observed information of the variances (Giesbrecht & Burns
 * 1985; several rows: Fai & Cornelius 1996, by the eigenvectors of their covariance). Variances at zero
 * are no parameters.
 */
export function satterthwaite(fit: RemlFit): {
  estimate(row: Float64Array): MixedEstimate
  test(rows: readonly Float64Array[]): MixedTest
} {
  const free = freeOf(fit)
  const spread = inverse(subset(fit.observedInformation, free))
  const dfOf = (row: Dense): number => {
    const held = times(row, fit.covariance)
    const variance = quadratic(row, fit.covariance)
    const gradient = dense(free.length, 1, (k) => quadratic(held, fit.first[free[k]!]!))
    return (2 * variance ** 2) / quadratic(transpose(gradient), spread)
  }
  return {
    estimate: (row) => {
      const of = rowOf(row)
      return { estimate: value(fit, row), se: Math.sqrt(quadratic(of, fit.covariance)), df: dfOf(of) }
    },
    test: (rows) => {
      const l = rowsOf(rows)
      const { values, vectors } = eigen(times(times(l, fit.covariance), transpose(l)))
      const turned = times(transpose(vectors), l)
      const each = rows.map((_, i) => dense(1, l.columns, (_row, j) => turned.values[i * l.columns + j]!))
      const f = each.reduce((sum, row, i) => sum + value(fit, row.values) ** 2 / values[i]!, 0) / rows.length
      const dfs = each.map(dfOf)
      if (rows.length === 1) return { f, numeratorDf: 1, denominatorDf: dfs[0]! }
      const expected = dfs.reduce((sum, df) => sum + (df > 2 ? df / (df - 2) : 0), 0)
      const denominatorDf = expected > rows.length ? (2 * expected) / (expected - rows.length) : 0
      return { f, numeratorDf: rows.length, denominatorDf }
    },
  }
}

/**
 * Kenward and Roger's adjusted covariance, scaled F and degrees of freedom (Biometrics 53, 1997), from
 * the expected information. Variances at zero are no parameters.
 */
export function kenwardRoger(fit: RemlFit): {
  /** Adjusted, of two linear functions of the fixed effects. */
  covarianceOf(a: Float64Array, b: Float64Array): number
  estimate(row: Float64Array): MixedEstimate
  test(rows: readonly Float64Array[]): MixedTest
} {
  const free = freeOf(fit)
  const phi = fit.covariance
  const w = inverse(subset(fit.expectedInformation, free))
  const at = (i: number, j: number): number => w.values[i * w.columns + j]!
  let middle = dense(phi.rows, phi.columns)
  free.forEach((k, i) =>
    free.forEach((l, j) => {
      const term = combine(1, fit.second[k]![l]!, -1, times(times(fit.first[k]!, phi), fit.first[l]!))
      middle = combine(1, middle, at(i, j), term)
    }),
  )
  const covariance = combine(1, phi, 2, times(times(phi, middle), phi))
  const test = (rows: readonly Float64Array[]): MixedTest => {
    const q = rows.length
    const l = rowsOf(rows)
    const theta = times(transpose(l), solve(cholesky(times(times(l, phi), transpose(l))), l))
    const turned = free.map((k) => times(times(times(theta, phi), fit.first[k]!), phi))
    const traces = turned.map((each) => {
      let sum = 0
      for (let i = 0; i < each.rows; i++) sum += each.values[i * each.columns + i]!
      return sum
    })
    let [a1, a2] = [0, 0]
    free.forEach((_, i) =>
      free.forEach((__, j) => {
        a1 += at(i, j) * traces[i]! * traces[j]!
        a2 += at(i, j) * traceOfProduct(turned[i]!, turned[j]!)
      }),
    )
    const { scale, df } = scaled(a1, a2, q)
    const values = dense(q, 1, (i) => value(fit, rows[i]!))
    const adjusted = cholesky(times(times(l, covariance), transpose(l)))
    return { f: (scale * times(transpose(values), solve(adjusted, values)).values[0]!) / q, numeratorDf: q, denominatorDf: df }
  }
  return {
    covarianceOf: (a, b) => times(times(rowOf(a), covariance), transpose(rowOf(b))).values[0]!,
    // One row needs no matrices of the size of the effects: pairs of many means are asked for.
    estimate: (row) => {
      const of = rowOf(row)
      const held = times(of, phi)
      const variance = times(held, transpose(of)).values[0]!
      const shares = free.map((k) => quadratic(held, fit.first[k]!) / variance)
      let a = 0
      shares.forEach((one, i) => shares.forEach((other, j) => (a += at(i, j) * one * other)))
      return { estimate: value(fit, row), se: Math.sqrt(quadratic(of, covariance)), df: scaled(a, a, 1).df }
    },
    test,
  }
}

/** Scale and denominator degrees of freedom that match the first two moments of the Wald statistic. */
function scaled(a1: number, a2: number, q: number): { scale: number; df: number } {
  // What does not depend on the variances is known as if they were.
  if (a2 < 1e-14) return { scale: 1, df: Infinity }
  const b = (a1 + 6 * a2) / (2 * q)
  const g = ((q + 1) * a1 - (q + 4) * a2) / ((q + 2) * a2)
  const under = 3 * q + 2 * (1 - g)
  const [c1, c2, c3] = [g / under, (q - g) / under, (q + 2 - g) / under]
  const mean = 1 / (1 - a2 / q)
  const variance = ((2 / q) * (1 + c1 * b)) / ((1 - c2 * b) ** 2 * (1 - c3 * b))
  const rho = variance / (2 * mean ** 2)
  const df = 4 + (q + 2) / (q * rho - 1)
  return { scale: df / (mean * (df - 2)), df }
}

function freeOf({ variances, zero }: RemlFit): number[] {
  return variances.flatMap((_, i) => (zero[i] ? [] : [i]))
}

function subset(of: Dense, keep: readonly number[]): Dense {
  return dense(keep.length, keep.length, (i, j) => of.values[keep[i]! * of.columns + keep[j]!]!)
}

function rowOf(row: Float64Array): Dense {
  return { rows: 1, columns: row.length, values: row }
}

function rowsOf(rows: readonly Float64Array[]): Dense {
  return dense(rows.length, rows[0]!.length, (i, j) => rows[i]![j]!)
}

/** r A rᵀ. */
function quadratic(row: Dense, of: Dense): number {
  return times(times(row, of), transpose(row)).values[0]!
}

function value({ beta }: RemlFit, row: Float64Array): number {
  return row.reduce((sum, each, i) => sum + each * beta[i]!, 0)
}
