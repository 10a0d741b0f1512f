import betainc from '@stdlib/math-base-special-betainc'
import { findRoot } from './root.ts'

/** P(F > f) with df1 and df2 degrees of freedom, exact in the upper tail (Abramowitz & Stegun 26.6.2). */
export function fUpper(f: number, df1: number, df2: number): number {
  if (!(f > 0)) return 1
  const load = df1 * f
  return load > df2 ? betainc(df2 / (df2 + load), df2 / 2, df1 / 2) : betainc(load / (df2 + load), df1 / 2, df2 / 2, true, true)
}

/** f with P(F > f) = p, 0 < p < 1. */
export function fUpperQuantile(p: number, df1: number, df2: number): number {
  let high = 2
  while (fUpper(high, df1, df2) > p) high *= 2
  const target = Math.log(p)
  return findRoot((f) => Math.log(fUpper(f, df1, df2)) - target, 0, high, 1e-14)
}
