import gammainc from '@stdlib/math-base-special-gammainc'
import { quantileByTail } from './quantile.ts'

/** P(X > x) of χ² with `df` degrees of freedom, full relative accuracy (Abramowitz & Stegun 26.4.19). */
export function chiSquaredUpper(x: number, df: number): number {
  return x > 0 ? gammainc(x / 2, df / 2, true, true) : 1
}

/** P(X ≤ x), full relative accuracy in the lower tail. */
export function chiSquaredLower(x: number, df: number): number {
  return x > 0 ? gammainc(x / 2, df / 2, true, false) : 0
}

/** x with P(X ≤ x) = p. */
export function chiSquaredQuantile(p: number, df: number): number {
  return quantileByTail(
    p,
    (x) => chiSquaredLower(x, df),
    (x) => chiSquaredUpper(x, df),
    df,
  )
}

/** P(X ≤ x) of a gamma variable with shape and scale. */
export function gammaLower(x: number, shape: number, scale: number): number {
  return x > 0 ? gammainc(x / scale, shape, true, false) : 0
}

export function gammaUpper(x: number, shape: number, scale: number): number {
  return x > 0 ? gammainc(x / scale, shape, true, true) : 1
}

export function gammaQuantile(p: number, shape: number, scale: number): number {
  return (scale / 2) * chiSquaredQuantile(p, 2 * shape)
}
