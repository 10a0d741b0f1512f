import { stirlingRest } from './mass.ts'

/** Terms this much smaller than their sum are left out. */
const NEGLIGIBLE = 1e-18
/** Two rules agree: the finer one then errs by the square of this, or less. */
const AGREEMENT = 1e-6

/**
 * The mean of `given(s)` over the law of s = √(χ²(df)/df), the ratio of an estimated to a true
 * standard deviation: what is not known of the error, averaged out.
 * Density of v = log s: 2 (df/2)^(df/2) / Γ(df/2) exp(df v − df e^(2v)/2).
 *
 * Trapezoidal rule in v, where the integrand is smooth and falls off fast at both ends, so that
 * the rule converges exponentially in its step (Trefethen & Weideman, SIAM Review 56, 2014). It
 * is summed outwards from its largest term, wherever that lies, so that small tails keep their
 * relative accuracy, and the step is halved until the sums agree, so that a `given` that rises
 * steeply is met with more points.
 */
export function overScale(df: number, given: (s: number) => number): number {
  if (df === Infinity) return given(1)
  if (!(df > 0)) return NaN
  const half = df / 2
  // log of 2 half^half / Γ(half) e^−half: the density at v = 0.
  const constant = Math.log(2) - stirlingRest(half) + 0.5 * Math.log(half / (2 * Math.PI))
  const term = (v: number): number => {
    const weight = Math.exp(constant + df * v - half * Math.expm1(2 * v))
    return weight > 0 ? weight * given(Math.exp(v)) : 0
  }
  let step = Math.min(0.25, 1.1 / Math.sqrt(2 * df))
  const terms = new Map<number, number>()
  const at = (k: number): number => {
    let value = terms.get(k)
    if (value === undefined) terms.set(k, (value = term(k * step)))
    return value
  }
  const reach = { low: Math.ceil((800 / df + 6) / step), high: Math.ceil((4 + 300 / df) / step) }
  const top = largest(at, reach)
  if (top === null) return 0
  let [low, high] = [top, top]
  let sum = at(top)
  for (let added = sum; added > NEGLIGIBLE * sum && low > -reach.low; sum += added) added = at(--low)
  for (let added = sum; added > NEGLIGIBLE * sum && high < reach.high; sum += added) added = at(++high)
  let mean = sum * step
  for (let halved = 0; halved < 8; halved++) {
    let between = 0
    for (let k = low; k < high; k++) between += term((k + 0.5) * step)
    const finer = 0.5 * (mean + between * step)
    const settled = Math.abs(finer - mean) <= AGREEMENT * finer
    mean = finer
    if (settled) break
    step /= 2
    low *= 2
    high *= 2
  }
  return mean
}

/** Where the terms of a hill are largest, climbing from 0, or from the nearest term that has not underflowed. */
function largest(at: (k: number) => number, reach: { low: number; high: number }): number | null {
  let k = 0
  for (let away = 1; at(k) === 0; away++) {
    if (away > reach.low && away > reach.high) return null
    k = away <= reach.low && at(-away) > 0 ? -away : away <= reach.high ? away : -away
  }
  while (k > -reach.low && at(k - 1) > at(k)) k--
  while (k < reach.high && at(k + 1) > at(k)) k++
  return k
}
