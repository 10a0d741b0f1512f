import { comparisonMethod, linearEstimates, type Comparison, type MarginalMean, type Side } from '../src/statistics/index.ts'

/** All pairs of means of a linear fit, at the level of the cases. */
export function pairs(means: readonly MarginalMean[], ms: number, df: number, method: string): Comparison[] {
  return comparisonMethod(method).compare(linearEstimates(means, ms, df), { level: 0.05, control: -1, side: 'two-sided' })
}

export function against(means: readonly MarginalMean[], control: number, ms: number, df: number, side: Side = 'two-sided'): Comparison[] {
  return comparisonMethod('dunnett').compare(linearEstimates(means, ms, df), { level: 0.05, control, side })
}
