import type { Estimates } from './estimates.ts'

export interface ManyToOne {
  /** λ_i of the product form ρ_ij = λ_i λ_j that fits the correlations best. */
  readonly lambda: Float64Array
  /** The correlations themselves, by rows. */
  readonly correlation: () => Float64Array[]
  /** Largest distance of a correlation from the product form. */
  readonly deviation: number
}

/**
 * Correlations among differences from a control. They have the product form exactly when the
 * means are uncorrelated or equally replicated; with plots lost from blocks they deviate a
 * little, and λ is the least-squares fit of log λ to log ρ, exact when the form holds.
 */
export function manyToOne({ values, covariance, differenceVariance }: Estimates, control: number): ManyToOne {
  const others = values.map((_, i) => i).filter((i) => i !== control)
  const m = others.length
  const deviations = others.map((i) => Math.sqrt(differenceVariance(i, control)))
  const ownVariance = covariance(control, control)
  const withControl = others.map((i) => covariance(i, control))
  const between = (a: number, b: number): number =>
    (covariance(others[a]!, others[b]!) - withControl[a]! - withControl[b]! + ownVariance) / (deviations[a]! * deviations[b]!)
  const rho = others.map((_, a) => Float64Array.from(others, (_other, b) => (a === b ? 1 : between(a, b))))
  const lambda = fitProduct(rho)
  let deviation = 0
  for (let a = 0; a < m; a++) for (let b = 0; b < a; b++) deviation = Math.max(deviation, Math.abs(rho[a]![b]! - lambda[a]! * lambda[b]!))
  return { lambda, correlation: () => rho, deviation }
}

function fitProduct(rho: readonly Float64Array[]): Float64Array {
  const m = rho.length
  if (m === 1) return Float64Array.of(0)
  if (m === 2) return new Float64Array(2).fill(Math.sqrt(Math.max(0, rho[0]![1]!)))
  const logs = new Float64Array(m)
  for (let a = 0; a < m; a++) for (let b = 0; b < m; b++) if (a !== b) logs[a]! += Math.log(Math.max(1e-6, rho[a]![b]!))
  const total = logs.reduce((sum, each) => sum + each, 0) / (2 * (m - 1))
  return logs.map((each) => Math.min(0.999999, Math.exp((each - total) / (m - 2))))
}
