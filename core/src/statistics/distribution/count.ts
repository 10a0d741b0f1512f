import { betaLower, betaLowerLog, betaUpper, betaUpperLog } from './beta.ts'
import { chiSquaredLower, chiSquaredLowerLog, chiSquaredUpper, chiSquaredUpperLog } from './chi-squared.ts'
import { betaTails } from './incomplete.ts'
import { discreteQuantile } from './quantile.ts'

const MOST = 2 ** 50

/** P(X ≤ k): the upper tail of a χ² (Abramowitz & Stegun 26.4.21). */
export function poissonLower(k: number, mean: number): number {
  return k < 0 ? 0 : chiSquaredUpper(2 * mean, 2 * (Math.floor(k) + 1))
}

/** P(X > k). */
export function poissonUpper(k: number, mean: number): number {
  return k < 0 ? 1 : chiSquaredLower(2 * mean, 2 * (Math.floor(k) + 1))
}

/** log P(X ≤ k), also where the probability underflows. */
export function poissonLowerLog(k: number, mean: number): number {
  return k < 0 ? -Infinity : chiSquaredUpperLog(2 * mean, 2 * (Math.floor(k) + 1))
}

export function poissonUpperLog(k: number, mean: number): number {
  return k < 0 ? 0 : chiSquaredLowerLog(2 * mean, 2 * (Math.floor(k) + 1))
}

export function poissonQuantile(p: number, mean: number): number {
  return discreteQuantile(p, (k) => poissonLower(k, mean), MOST)
}

/** P(X ≤ k): the upper tail of a beta (Abramowitz & Stegun 26.5.24). */
export function binomialLower(k: number, size: number, probability: number): number {
  if (k < 0) return 0
  return k >= size ? 1 : betaUpper(probability, Math.floor(k) + 1, size - Math.floor(k))
}

export function binomialUpper(k: number, size: number, probability: number): number {
  if (k < 0) return 1
  return k >= size ? 0 : betaLower(probability, Math.floor(k) + 1, size - Math.floor(k))
}

/** log P(X ≤ k), also where the probability underflows. */
export function binomialLowerLog(k: number, size: number, probability: number): number {
  if (k < 0) return -Infinity
  return k >= size ? 0 : betaUpperLog(probability, Math.floor(k) + 1, size - Math.floor(k))
}

export function binomialUpperLog(k: number, size: number, probability: number): number {
  if (k < 0) return 0
  return k >= size ? -Infinity : betaLowerLog(probability, Math.floor(k) + 1, size - Math.floor(k))
}

export function binomialQuantile(p: number, size: number, probability: number): number {
  return discreteQuantile(p, (k) => binomialLower(k, size, probability), size)
}

const negativeBinomialTails = (k: number, size: number, mean: number) =>
  betaTails(size / (size + mean), mean / (size + mean), size, Math.floor(k) + 1)

/** P(X ≤ k) of a negative binomial variable by size (dispersion) and mean. */
export function negativeBinomialLower(k: number, size: number, mean: number): number {
  return k < 0 ? 0 : negativeBinomialTails(k, size, mean).lower
}

export function negativeBinomialUpper(k: number, size: number, mean: number): number {
  return k < 0 ? 1 : negativeBinomialTails(k, size, mean).upper
}

/** log P(X ≤ k), also where the probability underflows. */
export function negativeBinomialLowerLog(k: number, size: number, mean: number): number {
  return k < 0 ? -Infinity : negativeBinomialTails(k, size, mean).logLower
}

export function negativeBinomialUpperLog(k: number, size: number, mean: number): number {
  return k < 0 ? 0 : negativeBinomialTails(k, size, mean).logUpper
}

export function negativeBinomialQuantile(p: number, size: number, mean: number): number {
  return discreteQuantile(p, (k) => negativeBinomialLower(k, size, mean), MOST)
}
