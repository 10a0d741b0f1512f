import { betaTails } from './incomplete.ts'
import { findRoot } from './root.ts'

const tails = (x: number, a: number, b: number) => betaTails(x, 1 - x, a, b)

/** P(X ≤ x) of a beta variable, full relative accuracy in the lower tail. */
export function betaLower(x: number, a: number, b: number): number {
  return tails(x, a, b).lower
}

export function betaUpper(x: number, a: number, b: number): number {
  return tails(x, a, b).upper
}

/** log P(X ≤ x), also where the probability underflows. */
export function betaLowerLog(x: number, a: number, b: number): number {
  return tails(x, a, b).logLower
}

export function betaUpperLog(x: number, a: number, b: number): number {
  return tails(x, a, b).logUpper
}

/** x with P(X ≤ x) = p, sought in the logit of x so that both ends keep their accuracy. */
export function betaQuantile(p: number, a: number, b: number): number {
  if (p <= 0) return 0
  if (p >= 1) return 1
  const low = p <= 0.5
  const target = Math.log(low ? p : 1 - p)
  const miss = (logit: number): number => {
    const { logLower, logUpper } = betaTails(1 / (1 + Math.exp(-logit)), 1 / (1 + Math.exp(logit)), a, b)
    return low ? Math.max(logLower, -1e6) - target : target - Math.max(logUpper, -1e6)
  }
  let [left, right] = [-1, 1]
  while (miss(left) > 0 && left > -700) left *= 2
  while (miss(right) < 0 && right < 700) right *= 2
  return 1 / (1 + Math.exp(-findRoot(miss, left, right, 1e-15)))
}
