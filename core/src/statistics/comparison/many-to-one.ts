import { covarianceFactor, differenceFactor, varianceFactor } from '../linear/marginal-means.ts'
import type { LinearFunction } from '../linear/least-squares.ts'

/**
 * λ_i of the product form ρ_ij = λ_i λ_j of the correlations among differences from a
 * control. Exact when the means are uncorrelated or equally replicated; with plots lost
 * from blocks the correlations deviate a little from the form, and λ is the root of the
 * mean correlation of each difference with the others.
 */
export function manyToOneLambda(means: readonly LinearFunction[], control: number): Float64Array {
  const others = means.map((_, i) => i).filter((i) => i !== control)
  const m = others.length
  const base = means[control]!
  const deviations = others.map((i) => Math.sqrt(differenceFactor(means[i]!, base)))
  if (m === 1) return Float64Array.of(0)
  const baseVariance = varianceFactor(base)
  const withBase = others.map((i) => covarianceFactor(means[i]!, base))
  const correlation = (a: number, b: number): number =>
    (covarianceFactor(means[others[a]!]!, means[others[b]!]!) - withBase[a]! - withBase[b]! + baseVariance) /
    (deviations[a]! * deviations[b]!)

  const sums = new Float64Array(m)
  let total = 0
  for (let a = 0; a < m; a++) {
    for (let b = a + 1; b < m; b++) {
      const r = correlation(a, b)
      sums[a]! += r
      sums[b]! += r
      total += 2 * r
    }
  }
  if (m === 2) {
    const shared = Math.sqrt(Math.max(0, total / 2))
    return Float64Array.of(shared, shared)
  }
  // Least-squares fit of log λ to log ρ: exact for a true product form.
  const logs = new Float64Array(m)
  for (let a = 0; a < m; a++) for (let b = 0; b < m; b++) if (a !== b) logs[a]! += Math.log(Math.max(1e-6, correlation(a, b)))
  const sumLogs = logs.reduce((s, v) => s + v, 0) / (2 * (m - 1))
  return Float64Array.from(logs, (each) => Math.min(0.999999, Math.exp((each - sumLogs) / (m - 2))))
}
