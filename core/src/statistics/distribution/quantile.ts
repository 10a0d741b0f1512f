import { findRoot } from './root.ts'

/**
 * Quantile of a positive continuous variable from the logs of its two tails. The root is sought in
 * log x against the log of the smaller tail, so that it keeps its relative accuracy however far out.
 */
export function quantileByTail(p: number, lowerLog: (x: number) => number, upperLog: (x: number) => number, start: number): number {
  if (p <= 0) return 0
  if (p >= 1) return Infinity
  const low = p <= 0.5
  const target = Math.log(low ? p : 1 - p)
  const miss = (logX: number): number => {
    const x = Math.exp(logX)
    // A tail that is none at all, or underflowed, is below any target.
    return low ? Math.max(lowerLog(x), -1e6) - target : target - Math.max(upperLog(x), -1e6)
  }
  let left = Math.log(start) - 1
  let right = Math.log(start) + 1
  for (let step = 1; miss(left) > 0 && step < 2000; step *= 2) left -= step
  for (let step = 1; miss(right) < 0 && step < 2000; step *= 2) right += step
  return Math.exp(findRoot(miss, left, right, 1e-15))
}

/**
 * Smallest whole number k with P(X ≤ k) ≥ p, from the distribution function. `p` is met when
 * the function reaches it to within rounding.
 */
export function discreteQuantile(p: number, lower: (k: number) => number, most: number): number {
  const reaches = (k: number): boolean => lower(k) >= p * (1 - 64 * Number.EPSILON)
  let high = 1
  while (high < most && !reaches(high)) high *= 2
  let low = -1
  high = Math.min(high, most)
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2)
    if (reaches(middle)) high = middle
    else low = middle
  }
  return high
}

/** The place between `low` and `high` where a falling tail probability is p, which holds at one of the ends at the latest. */
export function tailQuantile(p: number, upper: (x: number) => number, low: number, high: number, tolerance = 1e-10): number {
  const target = Math.log(p)
  const miss = (x: number): number => Math.log(upper(x)) - target
  const [atLow, atHigh] = [miss(low), miss(high)]
  if (atLow <= 0) return low
  if (atHigh >= 0) return high
  return findRoot(miss, low, high, tolerance)
}
