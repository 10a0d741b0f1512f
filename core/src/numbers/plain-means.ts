import { isExtra, treatmentOn, type Layout, type Treatments, type Unit } from '../trial/index.ts'
import type { TrialBook } from './trial-book.ts'

/**
 * Plain means of a trait at a visit by treatment, units left out not counted, with how many of those that
 * were started they stand on; absent where a treatment has no value.
 */
export function plainMeans(
  book: TrialBook,
  layouts: readonly Layout[],
  treatments: Treatments,
  trait: string,
  visit: string,
): Map<string, { mean: number; n: number; started: number }> {
  const sums = new Map<string, { sum: number; n: number }>()
  const index = new Map<string, Unit>(layouts.flatMap(({ units }) => units.map((unit) => [unit.id, unit] as const)))
  const { observations, leftOut } = book.observations(trait, visit)
  const kinds = new Set(observations.map(({ unit }) => index.get(unit)?.kind))
  const started = new Map<string, number>()
  for (const unit of index.values()) {
    const key = kinds.has(unit.kind) && !isExtra(unit, index) ? treatmentOn(unit, index, treatments)?.key : undefined
    if (key !== undefined) started.set(key, (started.get(key) ?? 0) + 1)
  }
  for (const { unit } of observations) {
    const value = book.value(unit, trait, visit)
    const treatment = treatmentOn(index.get(unit)!, index, treatments)
    if (!treatment || value.kind !== 'value' || value.worked === null || leftOut.has(unit) || isExtra(index.get(unit)!, index)) continue
    const known = sums.get(treatment.key) ?? { sum: 0, n: 0 }
    sums.set(treatment.key, { sum: known.sum + value.worked.value, n: known.n + 1 })
  }
  return new Map([...sums].map(([key, { sum, n }]) => [key, { mean: sum / n, n, started: started.get(key) ?? n }]))
}
