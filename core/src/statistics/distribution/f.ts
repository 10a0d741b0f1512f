import betainc from '@stdlib/math-base-special-betainc'
import { quantileByTail } from './quantile.ts'

/** P(F > f) with df1 and df2 degrees of freedom, exact in the upper tail (Abramowitz & Stegun 26.6.2). */
export function fUpper(f: number, df1: number, df2: number): number {
  if (!(f > 0)) return 1
  const load = df1 * f
  return load > df2 ? betainc(df2 / (df2 + load), df2 / 2, df1 / 2) : betainc(load / (df2 + load), df1 / 2, df2 / 2, true, true)
}

/** P(F ≤ f), exact in the lower tail. */
export function fLower(f: number, df1: number, df2: number): number {
  return f > 0 ? fUpper(1 / f, df2, df1) : 0
}

/** f with P(F ≤ f) = p. */
export function fQuantile(p: number, df1: number, df2: number): number {
  return quantileByTail(
    p,
    (f) => fLower(f, df1, df2),
    (f) => fUpper(f, df1, df2),
    1,
  )
}

/** f with P(F > f) = p, 0 < p < 1. */
export function fUpperQuantile(p: number, df1: number, df2: number): number {
  return 1 / fQuantile(p, df2, df1)
}
