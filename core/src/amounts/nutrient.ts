import { given, over, times, workedProduct, type Worked } from '../quantity/index.ts'
import { nutrientName, nutrientOf, type Factor, type Level, type Nutrient, type Supply, type Treatments } from '../trial/index.ts'
import { listed } from './totals.ts'

/** The factor whose levels are amounts of a nutrient, if any. */
export function nutrientFactor({ factors }: Pick<Treatments, 'factors'>): Factor | undefined {
  return factors.find((factor) => nutrientOf(factor) !== null)
}

/** kg/ha of product for a rate of a nutrient, or why it cannot be said. */
export function productRate(
  factor: Factor,
  level: Level,
  supply: Supply | null,
): { ok: true; rate: Worked; nutrientRate: Worked } | { ok: false; problem: string } {
  const nutrient = nutrientOf(factor)!
  if (!supply) return { ok: false, problem: `Choose the product that carries the ${nutrient} and type its analysis.` }
  const share = supply.analysis[nutrient]
  if (!share) return { ok: false, problem: `${supply.product} states no ${nutrient}: type its analysis in % ${nutrient}.` }
  const nutrientRate = given(`Rate of ${nutrient}`, level.amount ?? 0, factor.measure, nutrient)
  try {
    const rate = workedProduct('Product over the season', 'kg/ha', [
      times(nutrientRate),
      over(given(`${nutrient} in ${supply.product}`, share, '%')),
    ])
    return { ok: true, rate, nutrientRate }
  } catch {
    return { ok: false, problem: `Amounts are worked out for rates in mass per area; these are in ${factor.measure}.` }
  }
}

/** That treatments differ in more than what is varied, and what follows from that. */
export function differsInWords(varied: string, others: readonly Nutrient[]): string {
  const told = listed(others.map((each) => `${nutrientName(each).toLowerCase()} (${each})`))
  return `The treatments differ also in ${told}: what ${others.length > 1 ? 'these do' : 'it does'} cannot be told from what ${varied} does, unless it is put on all plots alike from another product.`
}
