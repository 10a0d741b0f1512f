import { gammaTails } from './incomplete.ts'
import { quantileByTail } from './quantile.ts'

const tails = (x: number, df: number) => gammaTails(x / 2, df / 2)

/** P(X > x) of χ² with `df` degrees of freedom, full relative accuracy (Abramowitz & Stegun 26.4.19). */
export function chiSquaredUpper(x: number, df: number): number {
  return tails(x, df).upper
}

/** P(X ≤ x), full relative accuracy in the lower tail. */
export function chiSquaredLower(x: number, df: number): number {
  return tails(x, df).lower
}

/** log P(X > x), also where the probability underflows. */
export function chiSquaredUpperLog(x: number, df: number): number {
  return tails(x, df).logUpper
}

export function chiSquaredLowerLog(x: number, df: number): number {
  return tails(x, df).logLower
}

/** x with P(X ≤ x) = p. */
export function chiSquaredQuantile(p: number, df: number): number {
  return quantileByTail(
    p,
    (x) => chiSquaredLowerLog(x, df),
    (x) => chiSquaredUpperLog(x, df),
    df,
  )
}

/** P(X ≤ x) of a gamma variable with shape and scale. */
export function gammaLower(x: number, shape: number, scale: number): number {
  return gammaTails(x / scale, shape).lower
}

export function gammaUpper(x: number, shape: number, scale: number): number {
  return gammaTails(x / scale, shape).upper
}

/** log P(X ≤ x) of a gamma variable, also where the probability underflows. */
export function gammaLowerLog(x: number, shape: number, scale: number): number {
  return gammaTails(x / scale, shape).logLower
}

export function gammaUpperLog(x: number, shape: number, scale: number): number {
  return gammaTails(x / scale, shape).logUpper
}

export function gammaQuantile(p: number, shape: number, scale: number): number {
  return (scale / 2) * chiSquaredQuantile(p, 2 * shape)
}
