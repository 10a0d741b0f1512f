import { given, over, times, workedProduct, type Worked } from '../quantity/index.ts'
import { Nutrient, nutrientOf, type Product, type Site, type Treatments } from '../trial/index.ts'
import { shareOf, type Dosed } from './dose-amounts.ts'
import { nonNegativeLeastSquares } from './least-squares.ts'
import { treatmentTotals, type TreatmentTotal } from './totals.ts'

/** What one treatment is given besides, so that all get as much of what is not asked about. */
export interface Balanced {
  readonly total: TreatmentTotal
  /** Of each further product, in their order, in the measure of the totals (kg/ha; mg a pot); nothing of one that is not needed. */
  readonly add: readonly Worked[]
  /** Of each nutrient: what it comes to then, what was wanted, and what is missing or too much. */
  readonly nutrients: readonly { readonly nutrient: Nutrient; readonly wanted: number; readonly comes: number }[]
  /** Whether all is as wanted, to a hundredth of it. */
  readonly exact: boolean
}

/**
 * Further products that bring each treatment to the most that any of them gets of each nutrient, and leave
 * what is varied as it is. Solved for each treatment by least squares with nothing below zero, each
 * nutrient held against the most that is wanted of it; where that cannot be met exactly what is left is told.
 */
export function balanceTreatments(treatments: Treatments, amounts: Dosed, site: Site, further: readonly Product[]): Balanced[] {
  const { totals } = treatmentTotals(treatments, amounts, site)
  const brought = further.map((product) => new Map(Nutrient.options.flatMap((each) => (byWeight(product, each) > 0 ? [[each, byWeight(product, each)] as const] : [])))) // prettier-ignore
  const varied = new Set([
    ...treatments.factors.flatMap((factor) => nutrientOf(factor) ?? []),
    ...totals.flatMap(({ rows }) =>
      rows.flatMap(({ dose, recipient }) => (recipient.named && Nutrient.safeParse(dose.of).success ? [dose.of as Nutrient] : [])),
    ),
  ])
  const among = Nutrient.options.filter((each) => totals.some((total) => total.nutrients.has(each)) || brought.some((product) => product.has(each))) // prettier-ignore
  const unit = totals.flatMap((total) => [...total.nutrients.values()])[0]?.unit ?? 'kg/ha'
  const most = new Map(among.map((each) => [each, Math.max(...totals.map((total) => total.nutrients.get(each)?.value ?? 0))]))
  return totals.map((total): Balanced => {
    const has = (each: Nutrient): number => total.nutrients.get(each)?.value ?? 0
    const wanted = (each: Nutrient): number => (varied.has(each) ? has(each) : most.get(each)!)
    // A kilogram too little of one that is wanted in grams is not a kilogram of nitrogen: each counts by what is wanted of it.
    const weight = (each: Nutrient): number => 1 / Math.max(most.get(each)!, 1)
    const columns = brought.map((product) => among.map((each) => (product.get(each) ?? 0) * weight(each)))
    const solved = nonNegativeLeastSquares(columns, among.map((each) => (wanted(each) - has(each)) * weight(each))) // prettier-ignore
    const nutrients = among.map((nutrient) => ({
      nutrient,
      wanted: wanted(nutrient),
      comes: has(nutrient) + brought.reduce((sum, product, j) => sum + (product.get(nutrient) ?? 0) * solved[j]!, 0),
    }))
    return {
      total,
      add: further.map((product, j) => given(product.product, solved[j]!, unit)),
      nutrients,
      exact: nutrients.every(({ nutrient, wanted: want, comes }) => Math.abs(comes - want) <= 0.01 * Math.max(most.get(nutrient)!, 1)),
    }
  })
}

/** kg of a nutrient in a kg of product; of one that states it by volume, by its density. */
function byWeight(product: Product, nutrient: Nutrient): number {
  const share = shareOf(product, nutrient)
  if (!share) return 0
  if (share.unit === '%') return share.value / 100
  return product.density ? workedProduct('', '', [times(share), over(given('', product.density, 'kg/L'))]).value : 0
}

/** A source of a nutrient matched with others: what of it makes so much, and what else comes with it. */
export interface Matched {
  readonly product: Product
  /** kg/ha of product, for half, the whole and double of the rate. */
  readonly rates: readonly [Worked, Worked, Worked]
  readonly others: readonly { readonly nutrient: Nutrient; readonly rate: Worked }[]
}

/** Several products at one rate of a nutrient, kg/ha; those that have none of it are left out. */
export function matchSources(products: readonly Product[], nutrient: Nutrient, rate: number): Matched[] {
  const wanted = given(`Rate of ${nutrient}`, rate, 'kg/ha', nutrient)
  return products.flatMap((product): Matched[] => {
    const share = byWeight(product, nutrient)
    if (share === 0) return []
    const whole = (name: string, times_: number): Worked =>
      workedProduct(`${product.product}, ${name}`, 'kg/ha', [times({ ...wanted, value: rate * times_ }), over(given(`${nutrient} in ${product.product}`, share * 100, '%'))]) // prettier-ignore
    const rates = [whole('half', 0.5), whole('whole', 1), whole('double', 2)] as const
    return [
      {
        product,
        rates,
        others: Nutrient.options.flatMap(
          (each) =>
          each === nutrient || byWeight(product, each) === 0
            ? []
            : [{ nutrient: each, rate: workedProduct(`${each} with it`, 'kg/ha', [times(rates[1]), times(given(`${each} in ${product.product}`, byWeight(product, each) * 100, '%'))], each) }], // prettier-ignore
        ),
      },
    ]
  })
}
