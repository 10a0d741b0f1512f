import type { Estimates } from './estimates.ts'

export interface Comparison {
  /** Indices of the estimates; the difference is a minus b. */
  readonly a: number
  readonly b: number
  readonly difference: number
  readonly sed: number
  readonly df: number
  readonly t: number
  readonly p: number
  /** Limits at the level asked for; NaN for stepwise methods, which have none. */
  readonly lower: number
  readonly upper: number
  /** What a difference must exceed to be called real by this method; NaN for stepwise methods. */
  readonly threshold: number
  readonly estimable: boolean
}

/** Which way a difference from the control counts. */
export type Side = 'two-sided' | 'greater' | 'less'

export interface ComparisonRequest {
  /** The level of significance. */
  readonly level: number
  /** Index of the estimate others are held against; −1 without one. */
  readonly control: number
  readonly side: Side
}

/** One file a method, all of this shape; the list is in `methods.ts`. */
export interface ComparisonMethod {
  readonly key: string
  /** What it does, in words, and whose school it is. */
  readonly name: string
  readonly school: string
  /** Which chance of being wrong it holds. */
  readonly controls: string
  /** Every pair, or each against a control. */
  readonly pairs: 'all' | 'control'
  /** Defined only where all differences have one error. */
  readonly needsOneError: boolean
  compare(estimates: Estimates, request: ComparisonRequest): Comparison[]
}

/** One comparison: what its difference must pass is `critical` times its standard error. */
export function compareTwo(estimates: Estimates, a: number, b: number, critical: number, tail: (t: number) => number): Comparison {
  const difference = estimates.values[a]! - estimates.values[b]!
  const sed = Math.sqrt(estimates.differenceVariance(a, b))
  const t = difference / sed
  const threshold = critical * sed
  return {
    a,
    b,
    difference,
    sed,
    df: estimates.df(a, b),
    t,
    p: tail(t),
    lower: difference - threshold,
    upper: difference + threshold,
    threshold,
    estimable: estimates.estimable(a) && estimates.estimable(b),
  }
}

/** All pairs, the smaller index first. A layout has few kinds of difference: quantile and tail of each df are made once. */
export function comparePairs(
  estimates: Estimates,
  critical: (df: number) => number,
  tail: (df: number) => (t: number) => number,
): Comparison[] {
  const known = new Map<string, { critical: number; tail: (t: number) => number }>()
  const at = (df: number) => {
    const key = df.toPrecision(10)
    const found = known.get(key) ?? { critical: critical(df), tail: tail(df) }
    known.set(key, found)
    return found
  }
  const k = estimates.values.length
  const result: Comparison[] = []
  for (let a = 0; a < k; a++) {
    for (let b = a + 1; b < k; b++) {
      const own = at(estimates.df(a, b))
      result.push(compareTwo(estimates, a, b, own.critical, own.tail))
    }
  }
  return result
}

export function pairCount(k: number): number {
  return (k * (k - 1)) / 2
}
