import { given, over, times, workedProduct, workedSum, type Worked } from '../quantity/index.ts'
import { formOf, Nutrient, nutrientName, nutrientOf, type Site, type Treatment, type Treatments } from '../trial/index.ts'
import { getsIt } from './doses.ts'
import { doseAmounts, shareOf, sizeOf, type Dosed, type DoseRow } from './dose-amounts.ts'

/** All that one treatment gets over the season: what every plot gets, and what comes with its levels. */
export interface TreatmentTotal {
  readonly treatment: Treatment
  /** kg/ha; mg a pot where pots are treated. None of a nutrient: not there. */
  readonly nutrients: ReadonlyMap<Nutrient, Worked>
  /** Water, mm: given as such, and what carries the rest. */
  readonly water: Worked | null
  readonly rows: readonly DoseRow[]
}

export interface Totals {
  readonly totals: readonly TreatmentTotal[]
  /** Those met in any treatment, in their order. */
  readonly nutrients: readonly Nutrient[]
  /** Nutrients in which treatments differ beside what is varied. */
  readonly differsAlsoIn: readonly Nutrient[]
  /** Whether the water that treatments get differs, where water is not what is varied. */
  readonly watersDiffer: boolean
  /** All that is not as even as it seems, in words. */
  readonly flags: readonly string[]
}

/** What each treatment gets at a site in all, and what its treatments differ in beside what is varied. */
export function treatmentTotals(treatments: Treatments, amounts: Dosed, site: Site): Totals {
  const { rows } = doseAmounts(treatments, amounts, site, [])
  const size = sizeOf(site)
  const list = treatments.list.filter((each) => !site.without.includes(each.key) && each.role !== 'shown')
  const totals = list.map((treatment): TreatmentTotal => {
    const mine = rows.filter(({ recipient }) => getsIt(recipient, treatment))
    const nutrients = new Map<Nutrient, Worked>()
    for (const nutrient of Nutrient.options) {
      const parts = mine.flatMap((row) => {
        const share = shareOf(row.product, nutrient)
        const of = share?.unit === '%' ? row.season.mass : row.season.volume
        if (!share || !of || of.value === 0) return []
        const label = `${nutrient} from ${row.product.product}`
        return [size.single ? workedProduct(label, 'mg', [times(of), times(share)], nutrient) : workedProduct(label, 'kg/ha', [times(of), times(share), over(size.area)], nutrient)] // prettier-ignore
      })
      if (parts.length > 0) nutrients.set(nutrient, parts.length === 1 ? { ...parts[0]!, label: `${nutrient} in all` } : { ...workedSum(`${nutrient} in all`, size.single ? 'mg' : 'kg/ha', parts), of: nutrient }) // prettier-ignore
    }
    return { treatment, nutrients, water: waterOf(mine, rows, size.area), rows: mine }
  })
  const nutrients = Nutrient.options.filter((each) => totals.some((total) => total.nutrients.has(each)))
  const varied = variedNutrients(treatments, rows)
  const unequal = (values: readonly number[]): boolean => Math.max(...values) - Math.min(...values) > 1e-9 * Math.max(...values)
  const differsAlsoIn = nutrients.filter(
    (each) => !varied.has(each) && unequal(totals.map((total) => total.nutrients.get(each)?.value ?? 0)),
  )
  const waterVaried = rows.some((row) => row.product.form === 'water' && row.recipient.named !== null)
  const watersDiffer = !waterVaried && unequal(totals.map((total) => total.water?.value ?? 0))
  return { totals, nutrients, differsAlsoIn, watersDiffer, flags: [...unmatched(treatments, rows), ...carriers(rows, watersDiffer, totals), ...wetters(rows, list), ...shapes(treatments, rows)] } // prettier-ignore
}

/** mm of rain that the water is worth, the carrier of what a treatment does not get too where that goes on all. */
function waterOf(mine: readonly DoseRow[], all: readonly DoseRow[], area: Worked): Worked | null {
  const parts = mine.flatMap((row): Worked[] => {
    const itself = row.product.form === 'water' ? row.season.volume : null
    const carrier = row.carrier && row.rate.value > 0 ? workedProduct(`Water with ${row.product.product}`, 'mL', [times(row.carrier), times(given('Passes', row.dose.parts.length, ''))]) : null // prettier-ignore
    return [...(itself ? [itself] : []), ...(carrier ? [carrier] : [])]
  })
  const blanks = new Map<string, DoseRow>()
  for (const row of all) {
    const got = mine.some((each) => each.dose === row.dose && each.rate.value > 0)
    if (row.dose.carrierToAll && row.carrier && !got && !blanks.has(row.dose.key)) blanks.set(row.dose.key, row)
  }
  for (const row of blanks.values())
    parts.push(workedProduct(`Water alone, as with ${row.product.product}`, 'mL', [times(row.carrier!), times(given('Passes', row.dose.parts.length, ''))])) // prettier-ignore
  return parts.length === 0 ? null : workedProduct('As rain', 'mm', [times(workedSum('Water in all', 'mL', parts)), over(area)])
}

/** Nutrients that are what is asked about: of a rate's levels, and what the levels of another factor are given by. */
function variedNutrients({ factors }: Treatments, rows: readonly DoseRow[]): Set<Nutrient> {
  const found = new Set<Nutrient>()
  for (const factor of factors) {
    const own = nutrientOf(factor)
    if (own) found.add(own)
  }
  for (const { dose, recipient } of rows) {
    const of = Nutrient.safeParse(dose.of)
    if (recipient.factor !== null && of.success) found.add(of.data)
  }
  return found
}

/** Sources of one nutrient or active ingredient that are not compared at one rate of it. */
function unmatched({ factors }: Treatments, rows: readonly DoseRow[]): string[] {
  return factors.flatMap((factor) => {
    // Of a ladder of rates the rate is what is asked about.
    if (factor.kind === 'rate') return []
    const own = rows.filter((row) => row.recipient.factor?.key === factor.key && row.rate.value > 0)
    const measured = [...new Set(own.map((row) => row.dose.of))].filter((of) => of !== 'product' && of !== 'seeds')
    return measured.flatMap((of) => {
      const sums = new Map<string, { name: string; value: number }>()
      for (const { recipient, amount } of own.filter((row) => row.dose.of === of)) {
        const { key, name } = recipient.level!
        sums.set(key, { name, value: (sums.get(key)?.value ?? 0) + amount.value })
      }
      const values = [...sums.values()]
      if (values.length < 2 || Math.max(...values.map((each) => each.value)) <= Math.min(...values.map((each) => each.value)) * (1 + 1e-9)) return [] // prettier-ignore
      const name = Nutrient.safeParse(of).success ? nutrientName(of as Nutrient).toLowerCase() : 'the active ingredient'
      return [`${listed(values.map((each) => each.name))} are not matched on ${name}: what the product does and what its rate does cannot be told apart.`] // prettier-ignore
    })
  })
}

function carriers(rows: readonly DoseRow[], differ: boolean, totals: readonly TreatmentTotal[]): string[] {
  if (!differ) return []
  const most = Math.max(...totals.map((each) => each.water?.value ?? 0))
  const carrying = [...new Set(rows.filter((row) => row.carrier && row.recipient.named !== null && !row.dose.carrierToAll).map((row) => row.product.product))] // prettier-ignore
  return carrying.length === 0
    ? []
    : [
        `Not all get the water that carries ${listed(carrying)}, as much as ${most.toPrecision(2)} mm of rain: give what does not get the product its carrier alone.`,
      ]
}

/** A wetter or oil that comes with some levels and not with others. */
function wetters(rows: readonly DoseRow[], list: readonly Treatment[]): string[] {
  return rows
    .filter((row) => formOf(row.product)?.wets && row.recipient.named !== null && row.rate.value > 0)
    .filter(({ recipient }) => list.some((each) => !getsIt(recipient, each)))
    .map((row) => `${row.product.product} goes with ${row.recipient.named!.name} and not with all: what it does by itself is not told apart. Put it with the carrier of all.`) // prettier-ignore
}

/** One factor's levels in different states: dissolved here, dry there. */
function shapes({ factors }: Treatments, rows: readonly DoseRow[]): string[] {
  return factors.flatMap((factor) => {
    const own = rows.filter((row) => row.recipient.factor?.key === factor.key && row.rate.value > 0 && !formOf(row.product)?.wets)
    const states = [...new Set(own.flatMap((row) => (row.product.form ? [stateOf(row)] : [])))]
    return states.length > 1 ? [`${factor.name} comes ${states.join(' here, ')} there: that is part of the treatment, and is not told apart from it.`] : [] // prettier-ignore
  })
}

function stateOf({ product, dose }: DoseRow): string {
  const form = formOf(product)!
  return dose.carrier === null && !form.poured ? 'dry' : form.settles ? 'as a suspension' : 'in solution'
}

export function listed(names: readonly string[]): string {
  return names.length > 1 ? `${names.slice(0, -1).join(', ')} and ${names.at(-1)!}` : (names[0] ?? '')
}
