import gammaln from '@stdlib/math-base-special-gammaln'
import { binomialWeightLog, deviancePart, stirlingRest } from './mass.ts'

/**
 * Both tails of a distribution at one place and their logs. Each tail has full relative accuracy;
 * the logs go on where the tails themselves underflow.
 */
export interface Tails {
  lower: number
  upper: number
  logLower: number
  logUpper: number
}

export const NONE_BELOW: Tails = { lower: 0, upper: 1, logLower: -Infinity, logUpper: 0 }
export const ALL_BELOW: Tails = { lower: 1, upper: 0, logLower: 0, logUpper: -Infinity }

/** The other side of the same distribution. */
export function turned({ lower, upper, logLower, logUpper }: Tails): Tails {
  return { lower: upper, upper: lower, logLower: logUpper, logUpper: logLower }
}

/** Tails from the log of the lower one; `upper` is worked out by itself where the rest would have lost digits. */
function fromLower(logLower: number, upper: () => number): Tails {
  const lower = Math.exp(logLower)
  const logUpper = lower > 0.95 ? upper() : Math.log1p(-lower)
  return {
    lower,
    upper: lower > 0.95 ? Math.exp(logUpper) : 1 - lower,
    logLower: lower > 0.95 ? Math.log1p(-Math.exp(logUpper)) : logLower,
    logUpper,
  }
}

/**
 * Tails of a gamma variable of scale 1: the series of positive terms below the mean, the continued
 * fraction above it (Abramowitz & Stegun 6.5.29 and 6.5.31), the factor before them by Loader's
 * deviance, so that nothing cancels however large the shape.
 */
export function gammaTails(x: number, shape: number): Tails {
  if (Number.isNaN(x) || !(shape > 0)) return { lower: NaN, upper: NaN, logLower: NaN, logUpper: NaN }
  if (x <= 0) return NONE_BELOW
  if (x === Infinity) return ALL_BELOW
  // log of x^a e^−x / Γ(a + 1)
  const factor = -stirlingRest(shape) - deviancePart(shape, x) - 0.5 * Math.log(2 * Math.PI * shape)
  const above = (): number => factor + Math.log(shape) - Math.log(gammaFraction(x, shape))
  if (x >= Math.max(1, shape)) return turned(fromLower(above(), () => factor + Math.log(gammaSeries(x, shape))))
  return fromLower(factor + Math.log(gammaSeries(x, shape)), x > 1 ? above : () => Math.log(gammaAboveSmall(x, shape)))
}

function gammaSeries(x: number, shape: number): number {
  let [sum, term] = [1, 1]
  for (let i = 1; term > sum * 1e-17; i++) sum += term *= x / (shape + i)
  return sum
}

function gammaFraction(x: number, shape: number): number {
  return continuedFraction(
    x + 1 - shape,
    (i) => i * (shape - i),
    (i) => x + 2 * i + 1 - shape,
  )
}

/** P(X > x) for x ≤ 1 and a small shape, where the lower tail is close to 1: the alternating series 6.5.29 without its first term. */
function gammaAboveSmall(x: number, shape: number): number {
  let [sum, term] = [0, 1]
  for (let i = 1; Math.abs(term) > 1e-18; i++) {
    term *= -x / i
    sum += (term * shape) / (shape + i)
  }
  const log = shape * Math.log(x) - gammaln(1 + shape)
  return -Math.expm1(log) - Math.exp(log) * sum
}

/**
 * Tails of a beta variable at x, where `rest` is 1 − x to all its digits: the continued fraction
 * (Abramowitz & Stegun 26.5.8) from the side below the mean, the factor before it by Loader's deviance.
 */
export function betaTails(x: number, rest: number, a: number, b: number): Tails {
  if (Number.isNaN(x) || !(a > 0) || !(b > 0)) return { lower: NaN, upper: NaN, logLower: NaN, logUpper: NaN }
  if (x <= 0) return NONE_BELOW
  if (rest <= 0) return ALL_BELOW
  const factor = binomialWeightLog(a, b, x, rest) - Math.log(a + b)
  const below = (): number => factor + Math.log(b) - Math.log(betaFraction(x, a, b))
  const above = (): number => factor + Math.log(a) - Math.log(betaFraction(rest, b, a))
  if (x * (a + b + 2) < a + 1) return fromLower(below(), b * x < 1 ? () => Math.log(betaAboveSmall(x, a, b)) : above)
  return turned(fromLower(above(), a * rest < 1 ? () => Math.log(betaAboveSmall(rest, b, a)) : below))
}

/** P(X > x) for small x and a, where the lower tail is close to 1: the power series (26.5.4 expanded) without its first term. */
function betaAboveSmall(x: number, a: number, b: number): number {
  let [sum, term] = [0, 1]
  for (let i = 1; Math.abs(term) > 1e-18; i++) {
    term *= ((i - b) / i) * x
    sum += (term * a) / (a + i)
  }
  const log = a * Math.log(x) + gammaln(a + b) - gammaln(b) - gammaln(a + 1)
  return -Math.expm1(log) - Math.exp(log) * sum
}

function betaFraction(x: number, a: number, b: number): number {
  return continuedFraction(
    1,
    (step) => {
      const i = Math.floor(step / 2)
      const scale = (a + step - 1) * (a + step)
      return step % 2 === 0 ? (i * (b - i) * x) / scale : -((a + i) * (a + b + i) * x) / scale
    },
    () => 1,
  )
}

/** b₀ + a₁/(b₁ + a₂/(b₂ + …)) by the modified Lentz algorithm. */
function continuedFraction(first: number, over: (step: number) => number, under: (step: number) => number): number {
  const off = (value: number): number => value || 1e-300
  let value = off(first)
  let [c, d] = [value, 0]
  for (let step = 1; step < 1_000_000; step++) {
    d = 1 / off(under(step) + over(step) * d)
    c = off(under(step) + over(step) / c)
    value *= c * d
    if (Math.abs(c * d - 1) < 3e-16) break
  }
  return value
}
