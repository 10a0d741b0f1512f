import {
  SUPPLY,
  nutrientOf,
  type Amounts,
  type Dose,
  type Factor,
  type Level,
  type Product,
  type Treatment,
  type Treatments,
} from '../trial/index.ts'

/**
 * All that is put on in a trial: what its treatments' nutrient is given by stands first, in as many equal
 * parts as it has applications, then what was said besides.
 */
export function dosesOf({ factors }: Pick<Treatments, 'factors'>, { supply, doses }: Pick<Amounts, 'supply' | 'doses'>): Dose[] {
  const stated = doses ?? []
  const factor = factors.find((each) => nutrientOf(each) !== null)
  if (!supply || !factor || stated.some((each) => byOwnAmount(each, factor.key))) return [...stated]
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
    answered: supply.answered ?? null,
  }
  return [main, ...stated]
}

export function productOf({ supply, products }: Pick<Amounts, 'supply' | 'products'>, key: string): Product | undefined {
  return key === SUPPLY ? (supply ?? undefined) : products?.find((each) => each.key === key)
}

/** Who gets a dose, and how much of it: one entry for each level or treatment, or one alone for every plot. */
export interface Recipient {
  readonly factor: Factor | null
  readonly level: Level | null
  readonly treatment: Treatment | null
  /** Of the level or treatment; null: of every plot. */
  readonly named: { readonly key: string; readonly code: string; readonly name: string } | null
  /** In the dose's measure. */
  readonly amount: number
}

/** Levels and treatments that are there no more get nothing: what was said of them stays written, and comes to nothing. */
export function recipientsOf(
  { to, amount }: Pick<Dose, 'to' | 'amount'>,
  { factors, list }: Pick<Treatments, 'factors' | 'list'>,
): Recipient[] {
  const nobody = { factor: null, level: null, treatment: null, named: null, amount: amount ?? 0 }
  if (to === null) return [nobody]
  if ('treatment' in to)
    return list.filter((each) => each.key === to.treatment).map((treatment) => ({ ...nobody, treatment, named: treatment }))
  const factor = factors.find((each) => each.key === to.factor)
  const levels = factor?.levels.filter((each) => to.level === null || each.key === to.level) ?? []
  return levels.map((level) => ({ ...nobody, factor: factor!, level, named: level, amount: amount ?? level.amount ?? 0 }))
}

/** Whether a treatment gets what goes to a recipient. */
export function getsIt({ factor, level, treatment }: Recipient, of: Treatment): boolean {
  return treatment ? treatment.key === of.key : factor === null || of.levels[factor.key] === level!.key
}

/** Whether it is each level of a factor that gets a dose, by its own amount. */
export function byOwnAmount({ to }: Pick<Dose, 'to'>, factor?: string): boolean {
  return to !== null && 'factor' in to && to.level === null && (factor === undefined || to.factor === factor)
}

/** The factor whose levels get it; none of every plot, and of a single treatment. */
export function factorOf({ to }: Pick<Dose, 'to'>, { factors }: Pick<Treatments, 'factors'>): Factor | undefined {
  return to !== null && 'factor' in to ? factors.find((each) => each.key === to.factor) : undefined
}
