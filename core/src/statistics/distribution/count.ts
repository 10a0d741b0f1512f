import gammaln from '@stdlib/math-base-special-gammaln'
import { betaLower, betaUpper } from './beta.ts'
import { chiSquaredLower, chiSquaredUpper } from './chi-squared.ts'
import { discreteQuantile } from './quantile.ts'

const MOST = 2 ** 50

export function poissonMass(k: number, mean: number): number {
  return Math.exp(k * Math.log(mean) - mean - gammaln(k + 1))
}

/** P(X ≤ k): the upper tail of a χ² (Abramowitz & Stegun 26.4.21). */
export function poissonLower(k: number, mean: number): number {
  return k < 0 ? 0 : chiSquaredUpper(2 * mean, 2 * (Math.floor(k) + 1))
}

/** P(X > k). */
export function poissonUpper(k: number, mean: number): number {
  return k < 0 ? 1 : chiSquaredLower(2 * mean, 2 * (Math.floor(k) + 1))
}

export function poissonQuantile(p: number, mean: number): number {
  return discreteQuantile(p, (k) => poissonLower(k, mean), MOST)
}

export function binomialMass(k: number, size: number, probability: number): number {
  const choose = gammaln(size + 1) - gammaln(k + 1) - gammaln(size - k + 1)
  return Math.exp(choose + k * Math.log(probability) + (size - k) * Math.log1p(-probability))
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

export function binomialQuantile(p: number, size: number, probability: number): number {
  return discreteQuantile(p, (k) => binomialLower(k, size, probability), size)
}

/** Negative binomial by size (dispersion) and mean: variance mean + mean²/size. */
export function negativeBinomialMass(k: number, size: number, mean: number): number {
  const choose = gammaln(k + size) - gammaln(size) - gammaln(k + 1)
  return Math.exp(choose + size * Math.log(size / (size + mean)) + k * Math.log(mean / (size + mean)))
}

export function negativeBinomialLower(k: number, size: number, mean: number): number {
  return k < 0 ? 0 : betaLower(size / (size + mean), size, Math.floor(k) + 1)
}

export function negativeBinomialUpper(k: number, size: number, mean: number): number {
  return k < 0 ? 1 : betaUpper(size / (size + mean), size, Math.floor(k) + 1)
}

export function negativeBinomialQuantile(p: number, size: number, mean: number): number {
  return discreteQuantile(p, (k) => negativeBinomialLower(k, size, mean), MOST)
}
