import { findRoot } from './root.ts'

/**
 * Quantile of a positive continuous variable from its two tails. The root is sought in log x
 * against the log of the smaller tail, so that it keeps its relative accuracy however far out.
 */
export function quantileByTail(p: number, lower: (x: number) => number, upper: (x: number) => number, start: number): number {
  if (p <= 0) return 0
  if (p >= 1) return Infinity
  const low = p <= 0.5
  const target = Math.log(low ? p : 1 - p)
  const miss = (logX: number): number => {
    const x = Math.exp(logX)
    const tail = low ? lower(x) : upper(x)
    // An underflowed tail is below any target.
    const value = tail > 0 ? Math.log(tail) - target : -1e6
    return low ? value : -value
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
