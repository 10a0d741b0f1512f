import { dunnettQuantile, dunnettQuantileOneSided, dunnettUpper, dunnettUpperOneSided } from '../distribution/dunnett.ts'
import { multivariateTUpper } from '../distribution/multivariate-t.ts'
import { tailQuantile } from '../distribution/quantile.ts'
import { tUpperQuantile } from '../distribution/t.ts'
import { compareTwo, type Comparison, type ComparisonMethod, type ComparisonRequest } from './comparison.ts'
import type { Estimates } from './estimates.ts'
import { manyToOne } from './many-to-one.ts'
import { smoothTail } from './smooth-tail.ts'

/** Above this the correlations are no longer of product form, and the general integral is used. */
const PRODUCT_FORM = 0.01
/** A comparison that is nearly the common part itself makes the product integral a step, and slow. */
const NEAR_ONE = 0.995

/** Each against the control, single-step Dunnett; asked in one direction, the other limit is infinite. */
export const dunnett: ComparisonMethod = {
  key: 'dunnett',
  name: 'Against the control',
  school: 'Dunnett',
  controls: 'Each treatment against the control only. The chance of any false difference among these comparisons is held at the level set.',
  pairs: 'control',
  needsOneError: true,
  compare: againstControl,
}

/** More comparisons than this are read off the product form, put right by the general integral at a few limits. */
const MANY = 12
/** Of the product form that is put right, parts so near each other count as equal: what that changes is put right with it. */
const ALIKE = 0.02
/** Where the two are held against each other; at nought and far out they are the same. */
const HELD_AT = [1.5, 2.3, 3.1] as const
const THE_SAME = 5.5

/**
 * The tail of the nearest product form times what the general integral is of it, that ratio drawn
 * straight between a few limits on the log scale: it is near one and changes slowly, so the error is
 * that of the integral there, about half a per cent of p.
 */
function corrected(product: (t: number) => number, general: (t: number) => number): (t: number) => number {
  const at = [0, ...HELD_AT, THE_SAME]
  const logs = [0, ...HELD_AT.map((t) => Math.log(general(t) / product(t))), 0]
  return (t) => {
    const high = at.findIndex((each) => each > t)
    if (high <= 0) return product(t)
    const share = (t - at[high - 1]!) / (at[high]! - at[high - 1]!)
    return Math.min(1, product(t) * Math.exp(logs[high - 1]! + share * (logs[high]! - logs[high - 1]!)))
  }
}

function againstControl(estimates: Estimates, { level, control, side }: ComparisonRequest): Comparison[] {
  const count = estimates.values.length
  const df = estimates.df(control, control === 0 ? 1 : 0)
  const { lambda, correlation, deviation } = manyToOne(estimates, control)
  const oneSided = side !== 'two-sided'
  const productForm = deviation <= PRODUCT_FORM && Math.max(...lambda) <= NEAR_ONE
  const product = oneSided ? dunnettUpperOneSided : dunnettUpper
  const rho = productForm ? [] : correlation()
  // The general integral grows dear with the number of comparisons.
  const points = lambda.length <= 8 ? 4001 : lambda.length <= 30 ? 1021 : 509
  const general = (t: number): number => multivariateTUpper(t, rho, df, { oneSided, points }).value
  const many = lambda.length > MANY && Math.max(...lambda) < NEAR_ONE - ALIKE / 2
  const alike = lambda.map((each) => Math.round(each / ALIKE) * ALIKE)
  const upper = productForm
    ? (t: number): number => product(t, lambda, df)
    : many
      ? corrected((t) => product(t, alike, df), general)
      : general
  const critical = productForm ? (oneSided ? dunnettQuantileOneSided : dunnettQuantile)(level, lambda, df) : generalCritical(upper)
  const tail = productForm && !oneSided && count > 80 ? smoothTail(upper, 0.05, 12) : upper
  /** From the same integral as p, so that a limit passes zero exactly where p passes the level; between one comparison alone and Bonferroni's. */
  function generalCritical(of: (t: number) => number): number {
    const each = oneSided ? level : level / 2
    return tailQuantile(level, of, tUpperQuantile(each, df), tUpperQuantile(each / lambda.length, df), 1e-6)
  }
  const counted = (t: number): number => (oneSided ? (side === 'greater' ? t : -t) : Math.abs(t))
  return estimates.values.flatMap((_, a) => {
    if (a === control) return []
    const row = compareTwo(estimates, a, control, critical, (t) => tail(counted(t)))
    return [{ ...row, lower: side === 'less' ? -Infinity : row.lower, upper: side === 'greater' ? Infinity : row.upper }]
  })
}
