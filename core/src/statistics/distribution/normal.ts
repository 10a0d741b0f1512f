import erfc from '@stdlib/math-base-special-erfc'
import erfcinv from '@stdlib/math-base-special-erfcinv'

const ROOT_TWO = Math.SQRT2
const DENSITY_AT_ZERO = 1 / Math.sqrt(2 * Math.PI)

export function normalDensity(z: number): number {
  return DENSITY_AT_ZERO * Math.exp(-0.5 * z * z)
}

/** P(Z ≤ z), full relative accuracy in the lower tail. */
export function normalLower(z: number): number {
  return 0.5 * erfc(-z / ROOT_TWO)
}

/** P(Z > z), full relative accuracy in the upper tail. */
export function normalUpper(z: number): number {
  return 0.5 * erfc(z / ROOT_TWO)
}

/** z with P(Z ≤ z) = p, 0 < p < 1. */
export function normalQuantile(p: number): number {
  return -ROOT_TWO * erfcinv(2 * p)
}
