import { doseAmounts, getsIt, nutrientFactor, productRate, sizeOf, type DoseRow } from '../amounts/index.ts'
import { given, over, times, workedProduct, workedSum, type Worked } from '../quantity/index.ts'
import { SUPPLY, type Dose, type Prices, type Product, type Site, type Treatment, type Trial } from '../trial/index.ts'

export type TreatmentCost = { ok: true; cost: Worked } | { ok: false; problem: string }

type Costed = Pick<Trial, 'treatments' | 'amounts' | 'sites'>

/** What a price of a product is for; of the main product the price of the trial stands before that of its label. */
export function priceOf(key: string, product: Product, prices: Pick<Prices, 'productPrice'>): NonNullable<Product['price']> | null {
  return key === SUPPLY && prices.productPrice !== null ? { amount: prices.productPrice, per: 'kg' } : (product.price ?? null)
}

/** Products by which treatments differ, that of the nutrient first; what every plot gets alike costs every treatment the same. */
export function costedProducts({ treatments, amounts, sites }: Costed): { readonly key: string; readonly product: Product }[] {
  const rows = sites.flatMap((site) => differing(treatments, amounts, site).rows)
  const found = new Map(rows.filter((row) => row.rate.value > 0).map((row) => [row.dose.product, row.product]))
  return [...found].map(([key, product]) => ({ key, product })).sort((a, b) => Number(b.key === SUPPLY) - Number(a.key === SUPPLY))
}

function differing(treatments: Costed['treatments'], amounts: Costed['amounts'], site: Site): ReturnType<typeof doseAmounts> {
  // What a code costs would tell what it stands for.
  if (treatments.blinded) return { rows: [], problems: [] }
  const { rows, problems } = doseAmounts(treatments, amounts, site, [])
  return { rows: rows.filter((row) => row.dose.to !== null), problems: problems.filter(({ dose }) => dose.to !== null) }
}

/**
 * What each treatment costs, money/ha, mean over the sites: the products and passes by which it differs from others,
 * and what else was stated. A rate of nothing needs no product and no pass; what every plot gets is not counted.
 * Nothing is taken for nought that nobody stated: what the other costs of a treatment are said to be covers that.
 * Of a blinded trial only those are counted.
 */
export function costsOf(trial: Costed, prices: Prices): (treatment: Treatment) => TreatmentCost {
  const { treatments, amounts, sites } = trial
  const factor = treatments.blinded ? undefined : nutrientFactor(treatments)
  const bySite = sites.map((site) => ({ site, ...differing(treatments, amounts, site) }))
  return (treatment) => {
    const other = prices.otherCost[treatment.key]
    const level = factor?.levels.find((each) => each.key === treatment.levels[factor.key])
    const grown = bySite.filter(({ site }) => !site.without.includes(treatment.key))
    const perSite: Worked[][] = []
    for (const { site, rows, problems } of grown.length > 0 ? grown : bySite) {
      const mine = rows.filter((row) => row.rate.value > 0 && getsIt(row.recipient, treatment))
      const lacking = problems.find(({ dose }) => reaches(dose, treatment))
      if (lacking && other === undefined) return { ok: false, problem: `${lacking.problem} Until then its cost is not known.` }
      // A rate of a nutrient that nothing brings.
      if (factor && level && level.amount !== 0 && !mine.some((row) => row.recipient.factor?.key === factor.key)) {
        const product = productRate(factor, level, amounts.supply)
        if (!product.ok) return { ok: false, problem: `${product.problem} Until then its cost is not known.` }
      }
      const costs: Worked[] = []
      for (const row of mine) {
        const cost = costOfRow(row, site, prices)
        // What was typed of a treatment's other costs covers what has no price, but not the product of the nutrient.
        if (typeof cost !== 'string') costs.push(cost)
        else if (other === undefined || row.dose.product === SUPPLY) return { ok: false, problem: `${cost}: without it nothing is said of money.` } // prettier-ignore
      }
      const passes = passesOf(mine)
      const must = other === undefined || mine.some((row) => row.dose.product === SUPPLY)
      if (passes > 0 && prices.applicationCost === null && must)
        return { ok: false, problem: 'State what each pass costs (0 if nothing): without it nothing is said of money.' }
      if (passes > 0 && prices.applicationCost !== null)
        costs.push(workedProduct('Passes', 'money/ha', [times(given('Passes', passes, '')), times(given('A pass', prices.applicationCost, 'money/ha'))])) // prettier-ignore
      perSite.push(costs)
    }
    // Beside treatments that get something, one that gets nothing costs nothing.
    const silent = bySite.every(({ rows, problems }) => rows.length + problems.length === 0)
    if (silent && other === undefined && !factor && treatment.role !== 'untreated control')
      return { ok: false, problem: `State what ${treatment.name} costs per hectare (0 if nothing): without it nothing is said of money.` }
    const sums = perSite.map((costs) => workedSum('What goes on', 'money/ha', costs))
    const mean = sums.length === 0 ? 0 : sums.reduce((sum, each) => sum + each.value, 0) / sums.length
    return { ok: true, cost: given('Cost of the treatment', mean + (other ?? 0), 'money/ha') }
  }
}

/** Whether a dose is for this treatment, whether or not it can be worked out. */
function reaches({ to }: Dose, treatment: Treatment): boolean {
  if (to === null) return false
  if ('treatment' in to) return to.treatment === treatment.key
  return to.factor in treatment.levels && (to.level === null || treatment.levels[to.factor] === to.level)
}

/** Product for a hectare at its price; a string says what is not stated. */
function costOfRow(row: DoseRow, site: Site, prices: Prices): Worked | string {
  const { product, dose, season } = row
  const price = priceOf(dose.product, product, prices)
  if (!price) return dose.product === SUPPLY ? 'State the price of the product' : `State the price of ${product.product}, or what the treatments that get it cost besides` // prettier-ignore
  const amount = price.per === 'kg' ? season.mass : season.volume
  if (!amount) return `The price of ${product.product} is for a ${price.per === 'kg' ? 'kilogram' : 'litre'}: state its density` // prettier-ignore
  const of = given(`Price of ${product.product}`, price.amount, price.per === 'kg' ? 'money/kg' : 'money/L')
  return workedProduct(product.product, 'money/ha', [times(amount), over(sizeOf(site).area), times(of)])
}

/** How often somebody goes over a plot of it: what is in one tank on one day goes out at once. */
function passesOf(rows: readonly DoseRow[]): number {
  const trips = new Set<string>()
  for (const { dose } of rows)
    dose.parts.forEach((part, i) => {
      const { carrier } = dose
      trips.add(part.on !== null && carrier ? `${part.on} ${carrier.amount} ${carrier.measure}` : `${dose.key} ${i}`)
    })
  return trips.size
}
