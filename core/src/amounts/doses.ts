import { SUPPLY, nutrientOf, type Amounts, type Dose, type Factor, type Level, type Product, type Treatments } from '../trial/index.ts'

/**
 * All that is put on in a trial: what its treatments' nutrient is given by stands first, in as many equal
 * parts as it has applications, then what was said besides.
 */
export function dosesOf({ factors }: Pick<Treatments, 'factors'>, { supply, doses }: Pick<Amounts, 'supply' | 'doses'>): Dose[] {
  const stated = doses ?? []
  const factor = factors.find((each) => nutrientOf(each) !== null)
  if (!supply || !factor || stated.some((each) => each.to?.factor === factor.key && each.to.level === null)) return [...stated]
  const { applications } = supply
  const main: Dose = {
    key: SUPPLY,
    to: { factor: factor.key, level: null },
    product: SUPPLY,
    of: nutrientOf(factor)!,
    amount: null,
    measure: factor.measure,
    per: 'unit',
    carrier: null,
    carrierToAll: false,
    placement: 'broadcast',
    depth: null,
    band: null,
    parts: Array.from({ length: applications }, () => ({ when: '', on: null, share: 100 / applications })),
    reason: supply.overMaximumReason,
  }
  return [main, ...stated]
}

export function productOf({ supply, products }: Pick<Amounts, 'supply' | 'products'>, key: string): Product | undefined {
  return key === SUPPLY ? (supply ?? undefined) : products?.find((each) => each.key === key)
}

/** Who gets a dose, and how much of it: one entry for each level, or one alone for every plot. */
export interface Recipient {
  readonly factor: Factor | null
  readonly level: Level | null
  /** In the dose's measure. */
  readonly amount: number
}

/** Levels that are no longer varied get nothing: what was said of them stays written, and comes to nothing. */
export function recipientsOf({ to, amount }: Pick<Dose, 'to' | 'amount'>, { factors }: Pick<Treatments, 'factors'>): Recipient[] {
  if (to === null) return [{ factor: null, level: null, amount: amount ?? 0 }]
  const factor = factors.find((each) => each.key === to.factor)
  const levels = factor?.levels.filter((each) => to.level === null || each.key === to.level) ?? []
  return levels.map((level) => ({ factor: factor!, level, amount: amount ?? level.amount ?? 0 }))
}
