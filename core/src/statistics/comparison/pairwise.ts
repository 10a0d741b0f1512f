import { dunnettQuantile, dunnettUpper } from '../distribution/dunnett.ts'
import { studentizedRangeQuantile, studentizedRangeUpper } from '../distribution/studentized-range.ts'
import { tTwoSided, tUpperQuantile } from '../distribution/t.ts'
import { smoothTail } from './smooth-tail.ts'
import { differenceFactor, type MarginalMean } from '../linear/marginal-means.ts'
import { manyToOneLambda } from './many-to-one.ts'

export type ComparisonMethod = 'lsd' | 'tukey' | 'dunnett'

export interface Comparison {
  /** Indices of the means; the difference is a minus b. */
  readonly a: number
  readonly b: number
  readonly difference: number
  readonly sed: number
  readonly df: number
  readonly t: number
  readonly p: number
  readonly lower: number
  readonly upper: number
  /** What a difference must exceed to be called real by this method. */
  readonly threshold: number
  readonly estimable: boolean
}

/** Above this count of ordered pairs the tail is tabulated once instead of integrated for each. */
const MANY = 100

/** All pairs of means by the method (`lsd` or `tukey`), the smaller index first. */
export function pairwise(means: readonly MarginalMean[], ms: number, df: number, level: number, method: 'lsd' | 'tukey'): Comparison[] {
  const k = means.length
  const critical = method === 'lsd' ? tUpperQuantile(level / 2, df) : studentizedRangeQuantile(level, k, df) / Math.SQRT2
  const exact = (t: number): number => studentizedRangeUpper(Math.SQRT2 * t, k, df)
  const tail = k * (k - 1) > MANY ? smoothTail(exact, 0.05, 12) : exact
  const adjusted = (t: number): number => (method === 'lsd' ? tTwoSided(t, df) : tail(Math.abs(t)))
  const result: Comparison[] = []
  for (let a = 0; a < k; a++) for (let b = a + 1; b < k; b++) result.push(compare(means, a, b, ms, df, critical, adjusted))
  return result
}

/** Each mean against the control, single-step two-sided Dunnett. */
export function againstControl(means: readonly MarginalMean[], control: number, ms: number, df: number, level: number): Comparison[] {
  const lambda = manyToOneLambda(means, control)
  const critical = dunnettQuantile(level, lambda, df)
  const exact = (t: number): number => dunnettUpper(t, lambda, df)
  const tail = means.length > 80 ? smoothTail(exact, 0.05, 12) : exact
  return means.flatMap((_, a) => (a === control ? [] : [compare(means, a, control, ms, df, critical, (t) => tail(Math.abs(t)))]))
}

function compare(
  means: readonly MarginalMean[],
  a: number,
  b: number,
  ms: number,
  df: number,
  critical: number,
  adjusted: (t: number) => number,
): Comparison {
  const first = means[a]!
  const second = means[b]!
  const difference = first.estimate - second.estimate
  const sed = Math.sqrt(ms * differenceFactor(first, second))
  const t = difference / sed
  const threshold = critical * sed
  return {
    a,
    b,
    difference,
    sed,
    df,
    t,
    p: adjusted(t),
    lower: difference - threshold,
    upper: difference + threshold,
    threshold,
    estimable: first.estimable && second.estimable,
  }
}
