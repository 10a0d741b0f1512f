import { tTwoSided } from '../distribution/t.ts'
import { adjustP, type Adjustment } from './adjust.ts'
import { comparePairs, type Comparison } from './comparison.ts'
import type { Estimates } from './estimates.ts'

/** All pairs by their own t, their p values adjusted for how many there are. Pairs with no error of their own are no part of the family. */
export function adjustedPairs(estimates: Estimates, how: Adjustment, critical: (df: number) => number): Comparison[] {
  const rows = comparePairs(estimates, critical, (df) => (t) => tTwoSided(t, df))
  const judged = rows.filter((row) => Number.isFinite(row.p))
  const adjusted = adjustP(
    judged.map((row) => row.p),
    how,
  )
  const pOf = new Map(judged.map((row, i) => [row, adjusted[i]!]))
  return rows.map((row) => ({ ...row, p: pOf.get(row) ?? NaN }))
}
