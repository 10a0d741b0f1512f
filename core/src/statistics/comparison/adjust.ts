/** p values adjusted for having asked several questions at once; none grows above 1. */
export type Adjustment = 'bonferroni' | 'sidak' | 'holm' | 'benjamini-hochberg'

export function adjustP(p: readonly number[], how: Adjustment): number[] {
  const m = p.length
  switch (how) {
    case 'bonferroni':
      return p.map((each) => Math.min(1, m * each))
    case 'sidak':
      // 1 − (1 − p)^m, written so that small p keep their digits.
      return p.map((each) => -Math.expm1(m * Math.log1p(-each)))
    case 'holm':
      return stepwise(p, 'up', (each, rank) => (m - rank) * each)
    case 'benjamini-hochberg':
      return stepwise(p, 'down', (each, rank) => (m / (rank + 1)) * each)
  }
}

/**
 * Adjusts in order of p (rank 0 the smallest) and keeps the order: running maximum from the
 * smallest (Holm, Scand. J. Stat. 6, 1979) or running minimum from the largest
 * (Benjamini & Hochberg, JRSS B 57, 1995).
 */
function stepwise(p: readonly number[], from: 'up' | 'down', scale: (p: number, rank: number) => number): number[] {
  const order = p.map((_, i) => i).sort((a, b) => p[a]! - p[b]!)
  const result = new Array<number>(p.length)
  let bound = from === 'up' ? 0 : 1
  for (let step = 0; step < order.length; step++) {
    const rank = from === 'up' ? step : order.length - 1 - step
    const scaled = scale(p[order[rank]!]!, rank)
    bound = from === 'up' ? Math.max(bound, scaled) : Math.min(bound, scaled)
    result[order[rank]!] = Math.min(1, bound)
  }
  return result
}
