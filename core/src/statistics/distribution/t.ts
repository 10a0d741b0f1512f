import { betaTails, type Tails } from './incomplete.ts'
import { findRoot } from './root.ts'
import { normalQuantile, normalUpper, normalUpperLog } from './normal.ts'

/** From here, in units of √df, the tail falls as a pure power: its relative error is the square of the inverse. */
const FAR = 1e8

/** Tails of |T| beyond and within t ≥ 0: P(|T| > t) = I(df/(df+t²); df/2, 1/2) (Abramowitz & Stegun 26.7.1). */
function within(t: number, df: number): Tails {
  const square = (t / Math.sqrt(df)) ** 2
  return betaTails(1 / (1 + square), square / (1 + square), df / 2, 0.5)
}

/** P(T > t) of Student's t with `df` degrees of freedom (Infinity allowed), exact in both tails. */
export function tUpper(t: number, df: number): number {
  if (df === Infinity) return normalUpper(t)
  if (t < 0) return 1 - tUpper(-t, df)
  return t > FAR * Math.sqrt(df) ? Math.exp(tUpperLog(t, df)) : 0.5 * within(t, df).lower
}

/** P(T ≤ t), exact in both tails. */
export function tLower(t: number, df: number): number {
  return tUpper(-t, df)
}

/** log P(T > t), also where the probability underflows. */
export function tUpperLog(t: number, df: number): number {
  if (df === Infinity) return normalUpperLog(t)
  if (t < 0) return Math.log1p(-tUpper(-t, df))
  const far = FAR * Math.sqrt(df)
  return Math.log(0.5) + within(Math.min(t, far), df).logLower - (t > far ? df * Math.log(t / far) : 0)
}

/** log P(T ≤ t). */
export function tLowerLog(t: number, df: number): number {
  return tUpperLog(-t, df)
}

/** P(|T| > |t|). */
export function tTwoSided(t: number, df: number): number {
  return Math.min(1, 2 * tUpper(Math.abs(t), df))
}

/** t with P(T > t) = p, 0 < p < 1. */
export function tUpperQuantile(p: number, df: number): number {
  if (!(df > 0)) return NaN
  if (p === 0.5) return 0
  if (p > 0.5) return -tUpperQuantile(1 - p, df)
  if (df === Infinity) return -normalQuantile(p)
  let high = 2
  while (tUpper(high, df) > p) high *= 2
  const target = Math.log(p)
  return findRoot((t) => tUpperLog(t, df) - target, 0, high, 1e-14)
}
