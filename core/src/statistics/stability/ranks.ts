import { chiSquaredUpper } from '../distribution/chi-squared.ts'
import { correlation } from '../sample/two-sample.ts'

/** Ranks from the smallest, ties sharing their mean. */
function ranksOf(values: readonly number[]): number[] {
  const order = [...values.keys()].sort((a, b) => values[a]! - values[b]!)
  const ranks = values.map(() => 0)
  for (let from = 0; from < order.length;) {
    let to = from
    while (to + 1 < order.length && values[order[to + 1]!] === values[order[from]!]) to++
    for (let i = from; i <= to; i++) ranks[order[i]!] = (from + to) / 2 + 1
    from = to + 1
  }
  return ranks
}

/** Spearman's rank correlation, ties shared. */
export function spearman(a: readonly number[], b: readonly number[]): number {
  return correlation(Float64Array.from(ranksOf(a)), Float64Array.from(ranksOf(b))).r
}

/** Kendall's τ-b. */
export function kendall(a: readonly number[], b: readonly number[]): number {
  let [sum, inA, inB] = [0, 0, 0]
  for (let i = 0; i < a.length; i++) {
    for (let j = 0; j < i; j++) {
      const [da, db] = [Math.sign(a[i]! - a[j]!), Math.sign(b[i]! - b[j]!)]
      sum += da * db
      inA += Math.abs(da)
      inB += Math.abs(db)
    }
  }
  return sum / Math.sqrt(inA * inB)
}

/** Kendall's W of several rankings of the same items, with correction for ties, and its χ² (Kendall & Gibbons 1990). */
export function concordance(rankings: readonly (readonly number[])[]): { w: number; chiSquared: number; df: number; p: number } {
  const [m, n] = [rankings.length, rankings[0]!.length]
  const ranks = rankings.map(ranksOf)
  const sums = Array.from({ length: n }, (_, i) => ranks.reduce((sum, own) => sum + own[i]!, 0))
  const spread = sums.reduce((sum, each) => sum + (each - (m * (n + 1)) / 2) ** 2, 0)
  const ties = ranks.reduce((sum, own) => {
    const counts = new Map<number, number>()
    own.forEach((rank) => counts.set(rank, (counts.get(rank) ?? 0) + 1))
    return sum + [...counts.values()].reduce((all, t) => all + (t ** 3 - t), 0)
  }, 0)
  const w = (12 * spread) / (m ** 2 * (n ** 3 - n) - m * ties)
  const chiSquared = m * (n - 1) * w
  return { w, chiSquared, df: n - 1, p: chiSquaredUpper(chiSquared, n - 1) }
}
