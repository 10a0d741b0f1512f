import betainc from '@stdlib/math-base-special-betainc'
import { findRoot } from './root.ts'

/** P(X ≤ x) of a beta variable, full relative accuracy in the lower tail. */
export function betaLower(x: number, a: number, b: number): number {
  return x <= 0 ? 0 : x >= 1 ? 1 : betainc(x, a, b, true, false)
}

export function betaUpper(x: number, a: number, b: number): number {
  return x <= 0 ? 1 : x >= 1 ? 0 : betainc(x, a, b, true, true)
}

/** x with P(X ≤ x) = p, sought in the logit of x so that both ends keep their accuracy. */
export function betaQuantile(p: number, a: number, b: number): number {
  if (p <= 0) return 0
  if (p >= 1) return 1
  const low = p <= 0.5
  const target = Math.log(low ? p : 1 - p)
  const miss = (logit: number): number => {
    const x = 1 / (1 + Math.exp(-logit))
    const tail = low ? betaLower(x, a, b) : betaUpper(x, a, b)
    const value = tail > 0 ? Math.log(tail) - target : -1e6
    return low ? value : -value
  }
  let [left, right] = [-1, 1]
  while (miss(left) > 0 && left > -700) left *= 2
  while (miss(right) < 0 && right < 700) right *= 2
  return 1 / (1 + Math.exp(-findRoot(miss, left, right, 1e-15)))
}
