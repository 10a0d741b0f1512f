import { chiSquaredUpper } from '../distribution/chi-squared.ts'
import { fUpper } from '../distribution/f.ts'

export interface VarianceTest {
  readonly statistic: number
  readonly df: number
  readonly df2: number
  readonly p: number
}

/** Bartlett's test of equal variances, with its correction factor (Proc. R. Soc. A 160, 1937). */
export function bartlettTest(groups: readonly { ms: number; df: number }[]): VarianceTest {
  const total = groups.reduce((sum, each) => sum + each.df, 0)
  const pooled = groups.reduce((sum, each) => sum + each.df * each.ms, 0) / total
  const k = groups.length
  const logs = groups.reduce((sum, each) => sum + each.df * Math.log(each.ms), 0)
  const correction = 1 + (groups.reduce((sum, each) => sum + 1 / each.df, 0) - 1 / total) / (3 * (k - 1))
  const statistic = (total * Math.log(pooled) - logs) / correction
  return { statistic, df: k - 1, df2: Infinity, p: chiSquaredUpper(statistic, k - 1) }
}

/** One-way F of |y − centre|: Levene's test about means, Brown and Forsythe's about medians. */
export function leveneTest(groups: readonly ArrayLike<number>[], centre: 'mean' | 'median'): VarianceTest {
  const spreads = groups.map((group) => {
    const at = centre === 'mean' ? mean(group) : median(group)
    return Array.from(group, (each) => Math.abs(each - at))
  })
  const n = spreads.reduce((sum, each) => sum + each.length, 0)
  const grand = spreads.reduce((sum, each) => sum + each.reduce((s, v) => s + v, 0), 0) / n
  let between = 0
  let within = 0
  for (const each of spreads) {
    const own = mean(each)
    between += each.length * (own - grand) ** 2
    for (const value of each) within += (value - own) ** 2
  }
  const df = groups.length - 1
  const df2 = n - groups.length
  const statistic = between / df / (within / df2)
  return { statistic, df, df2, p: fUpper(statistic, df, df2) }
}

function mean(values: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < values.length; i++) sum += values[i]!
  return sum / values.length
}

function median(values: ArrayLike<number>): number {
  const sorted = Array.from(values).sort((a, b) => a - b)
  const middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}
