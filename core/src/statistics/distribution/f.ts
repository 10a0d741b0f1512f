import { ALL_BELOW, betaTails, gammaTails, NONE_BELOW, turned, type Tails } from './incomplete.ts'
import { quantileByTail } from './quantile.ts'

/** Tails of F with df1 and df2 degrees of freedom (Abramowitz & Stegun 26.6.2); one of them may be Infinity. */
function tails(f: number, df1: number, df2: number): Tails {
  if (f <= 0) return NONE_BELOW
  if (f === Infinity) return ALL_BELOW
  if (df2 === Infinity) return gammaTails((f * df1) / 2, df1 / 2)
  if (df1 === Infinity) return turned(gammaTails(df2 / f / 2, df2 / 2))
  const load = (df1 / df2) * f
  return betaTails(load === Infinity ? 1 : load / (1 + load), 1 / (1 + load), df1 / 2, df2 / 2)
}

/** P(F > f), exact in the upper tail. */
export function fUpper(f: number, df1: number, df2: number): number {
  return tails(f, df1, df2).upper
}

/** P(F ≤ f), exact in the lower tail. */
export function fLower(f: number, df1: number, df2: number): number {
  return tails(f, df1, df2).lower
}

/** log P(F > f), also where the probability underflows. */
export function fUpperLog(f: number, df1: number, df2: number): number {
  return tails(f, df1, df2).logUpper
}

export function fLowerLog(f: number, df1: number, df2: number): number {
  return tails(f, df1, df2).logLower
}

/** f with P(F ≤ f) = p. */
export function fQuantile(p: number, df1: number, df2: number): number {
  return quantileByTail(
    p,
    (f) => fLowerLog(f, df1, df2),
    (f) => fUpperLog(f, df1, df2),
    1,
  )
}

/** f with P(F > f) = p, 0 < p < 1. */
export function fUpperQuantile(p: number, df1: number, df2: number): number {
  return 1 / fQuantile(p, df2, df1)
}
