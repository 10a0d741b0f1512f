import { dunnettQuantile, dunnettQuantileOneSided, dunnettUpper, dunnettUpperOneSided } from '../distribution/dunnett.ts'
import { fUpper, fUpperQuantile } from '../distribution/f.ts'
import { multivariateTUpper } from '../distribution/multivariate-t.ts'
import { tailQuantile } from '../distribution/quantile.ts'
import { studentizedRangeQuantile, studentizedRangeUpper } from '../distribution/studentized-range.ts'
import { tTwoSided, tUpperQuantile } from '../distribution/t.ts'
import { differenceFactor, type MarginalMean } from '../linear/marginal-means.ts'
import { adjustP, type Adjustment } from './adjust.ts'
import { manyToOne } from './many-to-one.ts'
import { smoothTail } from './smooth-tail.ts'

export type PairMethod = 'lsd' | 'tukey' | 'scheffe' | 'student-newman-keuls' | Adjustment

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
  /** Limits at the level asked for; NaN for stepwise methods, which have none. */
  readonly lower: number
  readonly upper: number
  /** What a difference must exceed to be called real by this method; NaN for stepwise methods. */
  readonly threshold: number
  readonly estimable: boolean
}

/** Above this count of ordered pairs the tail is tabulated once instead of integrated for each. */
const MANY = 100

/** All pairs of means by the method, the smaller index first. */
export function pairwise(means: readonly MarginalMean[], ms: number, df: number, level: number, method: PairMethod): Comparison[] {
  const k = means.length
  const critical = criticalT(method, k, df, level)
  const adjusted = singleStep(method, k, df)
  const result: Comparison[] = []
  for (let a = 0; a < k; a++) for (let b = a + 1; b < k; b++) result.push(compare(means, a, b, ms, df, critical, adjusted))
  if (method === 'student-newman-keuls') return studentNewmanKeuls(means, result, df)
  if (method === 'lsd' || method === 'tukey' || method === 'scheffe') return result
  const p = adjustP(
    result.map((each) => each.p),
    method,
  )
  return result.map((each, i) => ({ ...each, p: p[i]! }))
}

/** The multiplier of the SED of single-step methods over all pairs of k means; NaN for stepwise ones. */
export function criticalT(method: PairMethod, k: number, df: number, level: number): number {
  const pairs = (k * (k - 1)) / 2
  switch (method) {
    case 'lsd':
      return tUpperQuantile(level / 2, df)
    case 'tukey':
      return studentizedRangeQuantile(level, k, df) / Math.SQRT2
    case 'scheffe':
      return Math.sqrt((k - 1) * fUpperQuantile(level, k - 1, df))
    case 'bonferroni':
      return tUpperQuantile(level / 2 / pairs, df)
    case 'sidak':
      return tUpperQuantile(-Math.expm1(Math.log1p(-level) / pairs) / 2, df)
    default:
      return NaN
  }
}

/** The p value of one pair by its own t; for the others the unadjusted one, adjusted afterwards. */
function singleStep(method: PairMethod, k: number, df: number): (t: number) => number {
  if (method === 'scheffe') return (t) => fUpper((t * t) / (k - 1), k - 1, df)
  if (method !== 'tukey') return (t) => tTwoSided(t, df)
  const exact = (t: number): number => studentizedRangeUpper(Math.SQRT2 * t, k, df)
  const tail = k * (k - 1) > MANY ? smoothTail(exact, 0.05, 12) : exact
  return (t) => tail(Math.abs(t))
}

/**
 * Student–Newman–Keuls: a pair that spans r ordered means is held against the range of r, and
 * never called different inside a set that is not: its p is the largest over the spans that
 * enclose it.
 */
function studentNewmanKeuls(means: readonly MarginalMean[], pairs: readonly Comparison[], df: number): Comparison[] {
  const k = means.length
  const order = means.map((_, i) => i).sort((a, b) => means[b]!.estimate - means[a]!.estimate)
  const place = new Int32Array(k)
  order.forEach((index, i) => (place[index] = i))
  const own = new Map<number, number>()
  for (const pair of pairs) {
    const [i, j] = [Math.min(place[pair.a]!, place[pair.b]!), Math.max(place[pair.a]!, place[pair.b]!)]
    own.set(i * k + j, studentizedRangeUpper(Math.SQRT2 * Math.abs(pair.t), j - i + 1, df))
  }
  // From the widest span inwards, each takes the larger of its own p and those around it.
  for (let span = k - 2; span >= 1; span--) {
    for (let i = 0; i + span < k; i++) {
      const j = i + span
      const around = [i > 0 ? own.get((i - 1) * k + j)! : 0, j < k - 1 ? own.get(i * k + j + 1)! : 0]
      own.set(i * k + j, Math.max(own.get(i * k + j)!, ...around))
    }
  }
  return pairs.map((pair) => ({
    ...pair,
    p: own.get(Math.min(place[pair.a]!, place[pair.b]!) * k + Math.max(place[pair.a]!, place[pair.b]!))!,
  }))
}

/** Which way a difference from the control counts. */
export type Side = 'two-sided' | 'greater' | 'less'

/** Above this the correlations are no longer of product form, and the general integral is used. */
const PRODUCT_FORM = 0.01
/** A comparison that is nearly the common part itself makes the product integral a step, and slow. */
const NEAR_ONE = 0.995

/** Each mean against the control, single-step Dunnett; asked in one direction, the other limit is infinite. */
export function againstControl(
  means: readonly MarginalMean[],
  control: number,
  ms: number,
  df: number,
  level: number,
  side: Side = 'two-sided',
): Comparison[] {
  const { lambda, correlation, deviation } = manyToOne(means, control)
  const oneSided = side !== 'two-sided'
  const productForm = deviation <= PRODUCT_FORM && Math.max(...lambda) <= NEAR_ONE
  const product = oneSided ? dunnettUpperOneSided : dunnettUpper
  const rho = productForm ? [] : correlation()
  // The general integral grows dear with the number of comparisons.
  const points = lambda.length <= 8 ? 4001 : 1021
  const upper = (t: number): number => (productForm ? product(t, lambda, df) : multivariateTUpper(t, rho, df, { oneSided, points }).value)
  const critical = productForm ? (oneSided ? dunnettQuantileOneSided : dunnettQuantile)(level, lambda, df) : generalCritical(upper)
  const tail = productForm && !oneSided && means.length > 80 ? smoothTail(upper, 0.05, 12) : upper
  /** From the same integral as p, so that a limit passes zero exactly where p passes the level; between one comparison alone and Bonferroni's. */
  function generalCritical(of: (t: number) => number): number {
    const each = oneSided ? level : level / 2
    return tailQuantile(level, of, tUpperQuantile(each, df), tUpperQuantile(each / lambda.length, df), 1e-6)
  }
  const counted = (t: number): number => (oneSided ? (side === 'greater' ? t : -t) : Math.abs(t))
  return means.flatMap((_, a) => {
    if (a === control) return []
    const row = compare(means, a, control, ms, df, critical, (t) => tail(counted(t)))
    return [{ ...row, lower: side === 'less' ? -Infinity : row.lower, upper: side === 'greater' ? Infinity : row.upper }]
  })
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
