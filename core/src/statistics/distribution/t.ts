import betainc from '@stdlib/math-base-special-betainc'
import { findRoot } from './root.ts'
import { normalQuantile, normalUpper } from './normal.ts'

/** P(T > t) of Student's t with `df` degrees of freedom (Infinity allowed), exact in both tails. */
export function tUpper(t: number, df: number): number {
  if (df === Infinity) return normalUpper(t)
  if (t < 0) return 1 - tUpper(-t, df)
  // P(T > t) = I(df/(df+t²); df/2, 1/2) / 2 (Abramowitz & Stegun 26.7.1), its complement near t = 0.
  const square = t * t
  return square < df ? 0.5 * betainc(square / (df + square), 0.5, df / 2, true, true) : 0.5 * betainc(df / (df + square), df / 2, 0.5)
}

/** P(T ≤ t), exact in both tails. */
export function tLower(t: number, df: number): number {
  return tUpper(-t, df)
}

/** P(|T| > |t|). */
export function tTwoSided(t: number, df: number): number {
  return Math.min(1, 2 * tUpper(Math.abs(t), df))
}

/** t with P(T > t) = p, 0 < p < 1. */
export function tUpperQuantile(p: number, df: number): number {
  if (p === 0.5) return 0
  if (p > 0.5) return -tUpperQuantile(1 - p, df)
  if (df === Infinity) return -normalQuantile(p)
  let high = 2
  while (tUpper(high, df) > p) high *= 2
  const target = Math.log(p)
  return findRoot((t) => Math.log(tUpper(t, df)) - target, 0, high, 1e-14)
}
