import { chiSquaredLower, chiSquaredUpper } from './chi-squared.ts'
import { betaTails } from './incomplete.ts'
import { poissonMass } from './mass.ts'
import { normalLower, normalUpper } from './normal.ts'
import { quantileByTail } from './quantile.ts'
import { findRoot } from './root.ts'
import { overScale } from './scale-mixture.ts'

/** A Poisson mixture of positive terms, summed outwards from its middle until nothing is added. */
function poissonMixture(mean: number, term: (j: number) => number): number {
  const middle = Math.floor(mean)
  if (Number.isNaN(term(middle))) return NaN
  let sum = 0
  for (let j = middle; j >= 0; j--) {
    const added = poissonMass(j, mean) * term(j)
    sum += added
    if (added < sum * 1e-17 && j < middle - 10) break
  }
  for (let j = middle + 1; j < middle + 100000; j++) {
    const added = poissonMass(j, mean) * term(j)
    sum += added
    if (added < sum * 1e-17 && j > middle + 10) break
  }
  return sum
}

export function noncentralChiSquaredLower(x: number, df: number, ncp: number): number {
  return ncp === 0 ? chiSquaredLower(x, df) : poissonMixture(ncp / 2, (j) => chiSquaredLower(x, df + 2 * j))
}

export function noncentralChiSquaredUpper(x: number, df: number, ncp: number): number {
  return ncp === 0 ? chiSquaredUpper(x, df) : poissonMixture(ncp / 2, (j) => chiSquaredUpper(x, df + 2 * j))
}

export function noncentralChiSquaredQuantile(p: number, df: number, ncp: number): number {
  return quantileByTail(
    p,
    (x) => Math.log(noncentralChiSquaredLower(x, df, ncp)),
    (x) => Math.log(noncentralChiSquaredUpper(x, df, ncp)),
    df + ncp,
  )
}

/** P(F ≤ f) as a Poisson mixture of beta probabilities (Johnson, Kotz & Balakrishnan, vol. 2, ch. 30). */
export function noncentralFLower(f: number, df1: number, df2: number, ncp: number): number {
  if (f <= 0) return 0
  const [x, rest] = [(df1 * f) / (df1 * f + df2), df2 / (df1 * f + df2)]
  return poissonMixture(ncp / 2, (j) => betaTails(x, rest, df1 / 2 + j, df2 / 2).lower)
}

export function noncentralFUpper(f: number, df1: number, df2: number, ncp: number): number {
  if (f <= 0) return 1
  const [x, rest] = [(df1 * f) / (df1 * f + df2), df2 / (df1 * f + df2)]
  return poissonMixture(ncp / 2, (j) => betaTails(x, rest, df1 / 2 + j, df2 / 2).upper)
}

export function noncentralFQuantile(p: number, df1: number, df2: number, ncp: number): number {
  return quantileByTail(
    p,
    (f) => Math.log(noncentralFLower(f, df1, df2, ncp)),
    (f) => Math.log(noncentralFUpper(f, df1, df2, ncp)),
    1 + ncp / df1,
  )
}

/** P(T ≤ t) of the noncentral t: the average over the scale of Φ(t s − δ). */
export function noncentralTLower(t: number, df: number, ncp: number): number {
  return overScale(df, (s) => normalLower(t * s - ncp))
}

export function noncentralTUpper(t: number, df: number, ncp: number): number {
  return overScale(df, (s) => normalUpper(t * s - ncp))
}

export function noncentralTQuantile(p: number, df: number, ncp: number): number {
  const low = p <= 0.5
  const target = Math.log(low ? p : 1 - p)
  const miss = (t: number): number => {
    const tail = low ? noncentralTLower(t, df, ncp) : noncentralTUpper(t, df, ncp)
    const value = tail > 0 ? Math.log(tail) - target : -1e6
    return low ? value : -value
  }
  let [left, right] = [ncp - 2, ncp + 2]
  for (let step = 2; miss(left) > 0; step *= 2) left -= step
  for (let step = 2; miss(right) < 0; step *= 2) right += step
  return findRoot(miss, left, right, 1e-13)
}
