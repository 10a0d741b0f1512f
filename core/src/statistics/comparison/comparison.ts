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

interface Judge {
  readonly critical: number
  readonly tail: (t: number) => number
}

/**
 * All pairs, the smaller index first. A layout has few kinds of difference: quantile and tail of each df
 * are made once. Of a mixed model each pair has df of its own: where a tail is `dear`, it is made at a few
 * and read off between them.
 */
export function comparePairs(
  estimates: Estimates,
  critical: (df: number) => number,
  tail: (df: number) => (t: number) => number,
  dear = false,
): Comparison[] {
  const known = new Map<string, Judge>()
  const k = estimates.values.length
  const make = (df: number): Judge => ({ critical: critical(df), tail: tail(df) })
  const between = dear ? betweenDfs(estimates, make) : null
  const at = (df: number): Judge => {
    const key = df.toPrecision(10)
    const found = known.get(key) ?? (between ? between(df) : make(df))
    known.set(key, found)
    return found
  }
  const result: Comparison[] = []
  for (let a = 0; a < k; a++) {
    for (let b = a + 1; b < k; b++) {
      const own = at(estimates.df(a, b))
      result.push(compareTwo(estimates, a, b, own.critical, own.tail))
    }
  }
  return result
}

const NODES = 5

/** Quantile and log tail are smooth in 1/df: read off a polynomial through a few (Chebyshev points); null where df are few. */
function betweenDfs({ values, df }: Estimates, make: (df: number) => Judge): ((df: number) => Judge) | null {
  const seen = new Set<string>()
  let [low, high] = [Infinity, 0]
  for (let a = 0; a < values.length; a++)
    for (let b = a + 1; b < values.length; b++) {
      const own = df(a, b)
      seen.add(own.toPrecision(10))
      low = Math.min(low, own)
      high = Math.max(high, own)
    }
  if (seen.size <= NODES || !(low > 0) || !Number.isFinite(high)) return null
  const [from, to] = [1 / high, 1 / low]
  const nodes = Array.from(
    { length: NODES },
    (_, j) => (from + to) / 2 + ((to - from) / 2) * Math.cos((Math.PI * (2 * j + 1)) / (2 * NODES)),
  )
  const made = nodes.map((each) => make(1 / each))
  return (own) => {
    const x = 1 / own
    const shares = nodes.map((node, j) =>
      nodes.reduce((product, other, i) => (i === j ? product : (product * (x - other)) / (node - other)), 1),
    )
    const read = (of: (judge: Judge) => number): number => made.reduce((sum, judge, j) => sum + shares[j]! * of(judge), 0)
    return {
      critical: read((judge) => judge.critical),
      tail: (t) => {
        const log = read((judge) => Math.log(judge.tail(t)))
        return Number.isFinite(log) ? Math.min(1, Math.exp(log)) : made[0]!.tail(t)
      },
    }
  }
}

export function pairCount(k: number): number {
  return (k * (k - 1)) / 2
}
