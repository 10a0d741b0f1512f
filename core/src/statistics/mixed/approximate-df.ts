import {
  cholesky,
  combine,
  dense,
  eigen,
  inverse,
  solve,
  times,
  timesTransposed,
  traceOfProduct,
  transpose,
  type Cholesky,
  type Dense,
} from '../matrix/dense.ts'
import { freeOf, type MixedFit } from './mixed-fit.ts'

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

/** Several linear functions of the fixed effects, known together: each, and each pair of them. */
export interface MixedFamily {
  at(i: number): MixedEstimate
  /** i less j. */
  difference(i: number, j: number): MixedEstimate
  covariance(i: number, j: number): number
}

/** Tests and estimates of linear functions of the fixed effects, by one of the methods for degrees of freedom. */
export interface MixedInference {
  readonly method: DfMethod
  estimate(row: Float64Array): MixedEstimate
  family(rows: readonly Float64Array[]): MixedFamily
  test(rows: readonly Float64Array[]): MixedTest
}

export type DfMethod = 'kenward-roger' | 'satterthwaite'

/**
 * Satterthwaite's degrees of freedom from the observed information of the variances (Giesbrecht & Burns
 * 1985; several rows: Fai & Cornelius 1996, by the eigenvectors of their covariance). Variances at zero
 * are no parameters.
 */
export function satterthwaite(fit: MixedFit): MixedInference {
  const free = freeOf(fit)
  const spread = inverse(subset(fit.observedInformation(), free))
  const changes = free.map((k) => fit.changes()[k]!)
  /** From the variance of a function and what each parameter changes in it. */
  const dfOf = (variance: number, change: (k: number) => number): number => {
    let sum = 0
    for (let i = 0; i < free.length; i++) {
      for (let j = 0; j < free.length; j++) sum += spread.values[i * free.length + j]! * change(i) * change(j)
    }
    // What does not depend on the variances is known as if they were.
    return sum > 1e-28 * variance ** 2 ? (2 * variance ** 2) / sum : Infinity
  }
  const estimate = (row: Float64Array): MixedEstimate => {
    const variance = quadratic(row, fit.covariance)
    const own = changes.map((each) => quadratic(row, each))
    return { estimate: value(fit, row), se: Math.sqrt(variance), df: dfOf(variance, (k) => own[k]!) }
  }
  return {
    method: 'satterthwaite',
    estimate,
    family: (rows) => {
      const all = among(rows, fit.covariance)
      const own = changes.map((each) => among(rows, each))
      const values = rows.map((row) => value(fit, row))
      const n = rows.length
      return {
        at: (i) => ({ estimate: values[i]!, se: Math.sqrt(all[i * n + i]!), df: dfOf(all[i * n + i]!, (k) => own[k]![i * n + i]!) }),
        difference: (i, j) => {
          const variance = between(all, n, i, j)
          return { estimate: values[i]! - values[j]!, se: Math.sqrt(variance), df: dfOf(variance, (k) => between(own[k]!, n, i, j)) }
        },
        covariance: (i, j) => all[i * n + j]!,
      }
    },
    test: (rows) => {
      const l = rowsOf(rows)
      const { values, vectors } = eigen(timesTransposed(times(l, fit.covariance), l))
      const turned = times(transpose(vectors), l)
      const each = rows.map((_, i) => turned.values.slice(i * l.columns, (i + 1) * l.columns))
      const f = each.reduce((sum, row, i) => sum + value(fit, row) ** 2 / values[i]!, 0) / rows.length
      const dfs = each.map((row, i) => dfOf(values[i]!, (k) => quadratic(row, changes[k]!)))
      if (rows.length === 1) return { f, numeratorDf: 1, denominatorDf: dfs[0]! }
      const expected = dfs.reduce((sum, df) => sum + (df > 2 ? (df === Infinity ? 1 : df / (df - 2)) : 0), 0)
      const denominatorDf = expected > rows.length ? (2 * expected) / (expected - rows.length) : 0
      return { f, numeratorDf: rows.length, denominatorDf }
    },
  }
}

/**
 * Kenward and Roger's adjusted covariance, scaled F and degrees of freedom (Biometrics 53, 1997), from
 * the expected information; for covariances linear in their parameters. A variance that came out at zero
 * stays a parameter, since that it is zero is not known: without it tests of small layouts claim too often.
 * Throws RangeError where the fit has no expansion.
 */
export function kenwardRoger(fit: MixedFit): MixedInference {
  const { expansion } = fit
  if (!expansion) throw new RangeError('Kenward and Roger’s method needs a covariance that is linear in its parameters')
  const phi = fit.covariance
  const { free, w } = informed(fit, expansion.expectedInformation())
  const at = (i: number, j: number): number => w.values[i * w.columns + j]!
  const first = free.map((k) => expansion.first()[k]!)
  const held = first.map((each) => times(each, phi))
  let middle = dense(phi.rows, phi.columns)
  free.forEach((k, i) =>
    free.forEach((l, j) => {
      if (j > i) return
      const term = combine(1, expansion.second(k, l), -1, times(held[i]!, first[j]!))
      middle = combine(1, middle, at(i, j), term)
      if (j < i) middle = combine(1, middle, at(i, j), transpose(term))
    }),
  )
  const covariance = combine(1, phi, 2, times(times(phi, middle), phi))
  const changes = held.map((each) => times(phi, each))
  /** One function: what each parameter changes in its variance, over the variance, is all that matters. */
  const dfOf = (variance: number, change: (k: number) => number): number => {
    let a = 0
    for (let i = 0; i < free.length; i++) for (let j = 0; j < free.length; j++) a += (at(i, j) * change(i) * change(j)) / variance ** 2
    return scaled(a, 0, 1).df
  }
  return {
    method: 'kenward-roger',
    estimate: (row) => {
      const variance = quadratic(row, phi)
      const own = changes.map((each) => quadratic(row, each))
      return { estimate: value(fit, row), se: rootOf(quadratic(row, covariance), variance), df: dfOf(variance, (k) => own[k]!) }
    },
    family: (rows) => {
      const n = rows.length
      const [all, adjusted] = [among(rows, phi), among(rows, covariance)]
      const own = changes.map((each) => among(rows, each))
      const values = rows.map((row) => value(fit, row))
      return {
        at: (i) => ({
          estimate: values[i]!,
          se: rootOf(adjusted[i * n + i]!, all[i * n + i]!),
          df: dfOf(all[i * n + i]!, (k) => own[k]![i * n + i]!),
        }),
        difference: (i, j) => ({
          estimate: values[i]! - values[j]!,
          se: rootOf(between(adjusted, n, i, j), between(all, n, i, j)),
          df: dfOf(between(all, n, i, j), (k) => between(own[k]!, n, i, j)),
        }),
        covariance: (i, j) => adjusted[i * n + j]!,
      }
    },
    test: (rows) => {
      const q = rows.length
      const l = rowsOf(rows)
      const own = cholesky(timesTransposed(times(l, phi), l))
      const turned = changes.map((each) => solve(own, timesTransposed(times(l, each), l)))
      const traces = turned.map((each) => {
        let sum = 0
        for (let i = 0; i < each.rows; i++) sum += each.values[i * each.columns + i]!
        return sum
      })
      // What is left of each once its like part is taken out: so two traces of nearly the same size are never taken from each other.
      const left = turned.map((each, k) => dense(q, q, (i, j) => each.values[i * q + j]! - (i === j ? traces[k]! / q : 0)))
      let [a1, uneven] = [0, 0]
      free.forEach((_, i) =>
        free.forEach((__, j) => {
          a1 += at(i, j) * traces[i]! * traces[j]!
          uneven += at(i, j) * traceOfProduct(left[i]!, left[j]!)
        }),
      )
      const { scale, df } = scaled(a1, uneven, q)
      const values = dense(q, 1, (i) => value(fit, rows[i]!))
      // Of hardly known variances the adjustment may leave no covariance: then that before it.
      const adjusted = choleskyOr(timesTransposed(times(l, covariance), l), own)
      return { f: (scale * times(transpose(values), solve(adjusted, values)).values[0]!) / q, numeratorDf: q, denominatorDf: df }
    },
  }
}

/** All parameters with the inverse of their information; without those at their bound where it cannot be turned round with them. */
function informed(fit: MixedFit, information: Dense): { free: number[]; w: Dense } {
  const all = fit.values.map((_, i) => i)
  const total = fit.values.reduce((sum, value) => sum + Math.abs(value), 0)
  // Of one of which the values say nothing at all (no units of its kind are left to compare) it cannot be said that it is zero.
  if (
    fit.parameters.every(({ kind }) => kind === 'variance') &&
    all.some((i) => !(information.values[i * all.length + i]! * total * total > UNKNOWN))
  )
    throw new RangeError('The values say nothing of one of the variances')
  try {
    return { free: all, w: turnedRound(information) }
  } catch (error) {
    const free = freeOf(fit)
    if (!(error instanceof RangeError) || free.length === all.length) throw error
    return { free, w: turnedRound(subset(information, free)) }
  }
}

/** Information times the square of the total variance below which nothing is known of a variance: two degrees of freedom have 1. */
const UNKNOWN = 1e-9

/** Of an adjusted variance; of that before it where the adjustment leaves none. */
function rootOf(adjusted: number, before: number): number {
  return Math.sqrt(adjusted > 0 ? adjusted : before)
}

function choleskyOr(of: Dense, otherwise: Cholesky): Cholesky {
  try {
    return cholesky(of)
  } catch (error) {
    if (error instanceof RangeError) return otherwise
    throw error
  }
}

/** Least eigenvalue, over a diagonal of ones, below which an information is singular but for rounding. */
const SINGULAR = 1e-11

function turnedRound(information: Dense): Dense {
  const size = information.rows
  const root = Array.from({ length: size }, (_, i) => Math.sqrt(information.values[i * size + i]!))
  const { values } = eigen(dense(size, size, (i, j) => information.values[i * size + j]! / (root[i]! * root[j]!)))
  if (!(Math.min(...values) > SINGULAR)) throw new RangeError('The units do not tell these variances apart')
  return inverse(information)
}

/** Below this v − u is rounding. */
const DUST = 1e-10
/** (v − u) / u² up to which the moments decide, and from which the functions are taken as if they depended alike. */
const [OWN, ALIKE] = [0.25, 0.5]

/**
 * Scale and denominator degrees of freedom that match the first two moments of the Wald statistic, from
 * Kenward and Roger's A1 and `uneven`: A2 less A1 / q, which is what the tested functions differ in how their
 * variances depend on the parameters; zero where all depend alike, as with one function or one error.
 *
 * Their expressions divide by 1 − A2 / q (and its square), which is zero at two degrees of freedom, where
 * numerators are zero too. With r = A1 / A2, e = r − q, u = 1 − A2 / q and v = 1 − c2 B, in their notation,
 * v − u = A2 e ((q + 1) r − 2) / (2 q d (q + 2)), 2 (1 + c1 B) + q (1 − c3 B) = (q + 2) v and
 * 4 (1 + c1 B) + (q − 2) (1 − c3 B) = (q + 2) + (q + 1) e B / d: what cancels is taken out before it is divided.
 *
 * Near two degrees of freedom the mean of F is close to infinite, and its reciprocal u is small: where v − u is
 * not smaller still the ratio of the two says nothing of the scale (it passes through zero and below). There the
 * functions are taken as if they depended alike, which is what the expressions come to as v − u goes to zero.
 */
function scaled(a1: number, uneven: number, q: number): { scale: number; df: number } {
  const a2 = a1 / q + uneven
  // What does not depend on the variances is known as if they were.
  if (a2 < 1e-14) return { scale: 1, df: Infinity }
  const r = a1 / a2
  const e = (-q * uneven) / a2
  const d = (3 * q * q + 10 * q + 12 - 2 * (q + 1) * r) / (q + 2)
  const b = (a2 * (r + 6)) / (2 * q)
  const share = 1 + ((q + 1) * e * b) / ((q + 2) * d)
  const away = (a2 * e * ((q + 1) * r - 2)) / (2 * q * d * (q + 2))
  const alike = { scale: share, df: d / b + ((q + 1) * e) / (q + 2) }
  // Where the information is all but singular nothing is known to judge by, nor can this be.
  if (!(alike.df > 0 && share > 0)) return { scale: 1, df: d / b }
  const u = 1 - a2 / q
  const near = Math.abs(away) < DUST ? 1 : Math.min(1, Math.max(0, (Math.abs(away) / (u * u) - OWN) / (ALIKE - OWN)))
  if (near === 1) return alike
  const v = u + away
  const third = 1 - ((4 - ((q + 1) * e) / (q + 2)) * b) / d
  const apart = away * (u + v)
  const df = 4 + ((q + 2) * v * v * third) / (((q + 2) * b * u * u) / d - apart * third)
  const scale = (u * ((q + 2) * share * u * u + (q - 2) * apart * third)) / ((q + 2) * v * u * u + q * apart * third)
  return { scale: scale + near * (alike.scale - scale), df: df + near * (alike.df - df) }
}

function subset(of: Dense, keep: readonly number[]): Dense {
  return dense(keep.length, keep.length, (i, j) => of.values[keep[i]! * of.columns + keep[j]!]!)
}

function rowsOf(rows: readonly Float64Array[]): Dense {
  const columns = rows[0]!.length
  const values = new Float64Array(rows.length * columns)
  rows.forEach((row, i) => values.set(row, i * columns))
  return { rows: rows.length, columns, values }
}

/** L A Lᵀ of rows that are zero at most places, by rows. */
function among(rows: readonly Float64Array[], of: Dense): Float64Array {
  const n = rows.length
  const p = of.columns
  const places = rows.map((row) => [...row.keys()].filter((j) => row[j] !== 0))
  const found = new Float64Array(n * n)
  const held = new Float64Array(p)
  for (let i = 0; i < n; i++) {
    held.fill(0)
    for (const a of places[i]!) {
      const factor = rows[i]![a]!
      for (let b = 0; b < p; b++) held[b]! += factor * of.values[a * p + b]!
    }
    for (let j = 0; j <= i; j++) {
      let sum = 0
      for (const b of places[j]!) sum += held[b]! * rows[j]![b]!
      found[i * n + j] = found[j * n + i] = sum
    }
  }
  return found
}

/** Of the difference of two. */
function between(of: Float64Array, n: number, i: number, j: number): number {
  return of[i * n + i]! + of[j * n + j]! - 2 * of[i * n + j]!
}

/** r A rᵀ. */
function quadratic(row: Float64Array, of: Dense): number {
  let sum = 0
  for (let i = 0; i < row.length; i++) {
    const factor = row[i]!
    if (factor === 0) continue
    for (let j = 0; j < row.length; j++) sum += factor * of.values[i * of.columns + j]! * row[j]!
  }
  return sum
}

function value({ beta }: Pick<MixedFit, 'beta'>, row: Float64Array): number {
  let sum = 0
  for (let i = 0; i < row.length; i++) sum += row[i]! * beta[i]!
  return sum
}
