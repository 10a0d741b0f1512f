import { convert, formatPlain, given, over, times, withUnit, workedProduct, type Worked } from '../quantity/index.ts'
import { dayNumber, formOf, placementOf, type Product, type Trial } from '../trial/index.ts'
import { isDry, isSprayed, type DoseRow, type UnitSize } from './dose-amounts.ts'
import { byEach } from './rate.ts'

/** A day on which people read the trial, and whether it is the harvest. */
export interface PlannedVisit {
  readonly name: string
  readonly on: string
  readonly harvest: boolean
}

/** The visits that have a day. */
export function plannedVisits({ traits }: Pick<Trial, 'traits'>): PlannedVisit[] {
  const harvested = [...traits.observed, ...traits.derived].find((trait) => trait.key === traits.yieldTrait)
  const at = harvested && 'visits' in harvested ? harvested.visits : []
  return traits.visits.flatMap(({ key, name, on }) => (on === null ? [] : [{ name, on, harvest: at.includes(key) }]))
}

/** What a label says that has to be known before anything is put on; water and seed have no such label. */
const LABEL_FIELDS: readonly { readonly name: string; readonly missing: (product: Product) => boolean }[] = [
  { name: 'the maximum for one application', missing: (product) => product.labelMaximumPerApplication === null },
  { name: 'the maximum for the season', missing: (product) => product.labelMaximumPerSeason === null },
  { name: 'when people may go back in', missing: (product) => product.reentryHours === null },
  { name: 'the days before harvest', missing: (product) => product.preHarvestDays === null },
  { name: 'what to wear', missing: (product) => product.protection.trim() === '' },
]

/** What of the label is not stated, in words; none where nothing is missing. */
export function missingOfLabel(product: Product): string[] {
  if (product.form === 'water' || product.form === 'seed') return []
  return LABEL_FIELDS.filter(({ missing }) => missing(product)).map(({ name }) => name)
}

/**
 * What stops a sheet until a reason is on record: a stated maximum passed, an interval broken, a product past
 * its day, a label not looked up. Empty where nothing does. A rate of nothing stops nothing.
 */
export function stopsOf(row: DoseRow, size: UnitSize, visits: readonly PlannedVisit[]): string[] {
  const { product, dose, recipient } = row
  if (row.rate.value === 0) return []
  const name = recipient.named ? `${recipient.named.name}: ${product.product}` : product.product
  const missing = missingOfLabel(product)
  const dated = dose.parts.filter((part) => part.on !== null)
  return [
    ...overMaximum(row, size, name),
    ...dated.flatMap(({ on }) =>
      visits.flatMap((visit) => {
        const days = dayNumber(visit.on) - dayNumber(on!)
        if (days < 0) return []
        const early = visit.harvest && product.preHarvestDays !== null && days < product.preHarvestDays
        const shut = product.reentryHours !== null && days * 24 < product.reentryHours
        return [
          ...(early ? [`${product.product} on ${on} is ${days} days before ${visit.name}; the label asks ${product.preHarvestDays} days before harvest.`] : []), // prettier-ignore
          ...(shut ? [`${visit.name} on ${visit.on} falls within the ${product.reentryHours} h in which nobody goes back after ${product.product} on ${on}.`] : []), // prettier-ignore
        ]
      }),
    ),
    ...(product.live?.useBy && dated.some(({ on }) => on! > product.live!.useBy!) ? [`${product.product} is good until ${product.live.useBy}, and is to go on later than that.`] : []), // prettier-ignore
    ...(missing.length > 0 ? [`The label of ${product.product} is not looked up: ${missing.join(', ')}.`] : []),
  ]
}

function overMaximum({ product, passes, season, dose }: DoseRow, size: UnitSize, name: string): string[] {
  const measure = product.labelMeasure ?? 'kg/ha'
  const unit = (each: string): string => withUnit(each, measure)
  const perArea = (of: DoseRow['season']): number | null => {
    const amount = measure === 'kg/ha' ? of.mass : of.volume
    return amount && workedProduct('', measure, [times(amount), over(size.area)]).value
  }
  const checks = [
    { most: product.labelMaximumPerApplication, of: Math.max(...passes.map((each) => perArea(each) ?? NaN)), when: 'for one application' },
    { most: product.labelMaximumPerSeason, of: perArea(season) ?? NaN, when: 'for the season' },
  ]
  // Of what each pot gets a maximum by area says little; that it is by hand to be held against the label is told among the cautions.
  if (byEach(dose) && size.single) return []
  return checks.flatMap(({ most, of, when }) =>
    most !== null && of > most * (1 + 1e-9)
      ? [`${name} comes to ${unit(formatPlain(of, 4))} of product ${when}; the stated maximum is ${unit(formatPlain(most, 6))}.`]
      : [],
  )
}

/** Below this a dry product is usually not spread evenly over a plot, g/m²: some grains in a hand's breadth. */
export const SPREADABLE = 5

/** g/m² at its smallest pass of a dry product that is too little to be spread evenly; null where it is enough, or is not spread dry. */
export function tooSmallDry(row: DoseRow, spreadable: number | null | undefined): number | null {
  if (!isDry(row) || row.massPerArea === null || row.rate.value === 0) return null
  const smallest = (convert(row.massPerArea.value, 'kg/ha', 'g/m²') * Math.min(...row.dose.parts.map((part) => part.share))) / 100
  return smallest < (spreadable ?? SPREADABLE) ? smallest : null
}

/** What is to be minded with the amounts of one dose: of these figures and no others. `spreadable`: as it is set for the trial, g/m². */
export function doseCautions(row: DoseRow, spreadable: number | null | undefined): string[] {
  const { product, dose, strength, massPerArea, season } = row
  if (row.rate.value === 0) return []
  const small = tooSmallDry(row, spreadable)
  const band = dose.band && massPerArea ? (massPerArea.value * dose.band.spacing) / dose.band.width : null
  const checkByHand = byEach(dose) && (product.labelMaximumPerApplication !== null || product.labelMaximumPerSeason !== null)
  return [
    ...(band === null ? [] : [`In its bands it stands as if ${withUnit(formatPlain(band, 3), 'kg/ha')} of product were spread: ${formatPlain(dose.band!.spacing / dose.band!.width, 3)} times as much as over all.`]), // prettier-ignore
    ...(dose.depth !== null && massPerArea ? [`Mixed ${formatPlain(dose.depth, 3)} cm deep: ${inSoil(massPerArea, dose.depth)} of product in a litre of soil. The same rate mixed half as deep is twice that.`] : []), // prettier-ignore
    ...(small === null ? [] : [`${formatPlain(small, 2)} g/m² is below the ${formatPlain(spreadable ?? SPREADABLE, 3)} g/m² that can be spread evenly dry, when grains lie further apart than a hand: put it on in solution (worksheet “A dose too small to spread dry”), or mixed into ten times its weight of dry sand, crosswise.`]), // prettier-ignore
    ...(strength && product.harmAbove && strength.value > product.harmAbove / 2 ? [marginInWords(strength.value, product.harmAbove)] : []),
    ...(product.notAt ? [`Not to be put on: ${product.notAt}.`] : []),
    ...(checkByHand ? ['Its stated maximum is by area and this is for each plant or pot: hold it against the label by hand.'] : []),
    ...(season.mass || season.volume || dose.of !== 'active ingredient' ? [] : ['State the density, so that it can be weighed too.']),
  ]
}

/** What is to be minded with a way of putting on and with what a product is, whatever its amount. */
export function handlingCautions(row: DoseRow): string[] {
  const { product, dose, rate } = row
  if (rate.value === 0) return []
  return [
    placementOf(dose.placement).caution,
    ...(product.harm ? [`${product.product}: ${product.harm}`] : []),
    ...(product.seasons && product.seasons > 1 ? [`${product.product}: one rate is meant for ${product.seasons} seasons, not again next season on the same ground.`] : []), // prettier-ignore
    ...(product.live ? liveCautions(product.product, product.live) : []),
    ...(dose.carrier && formOf(product)?.settles ? [`${product.product} settles: shake the can or keep the tank stirred, and give the last plot the same as the first.`] : []), // prettier-ignore
    ...(isSprayed(row) ? ['Spray carries to the next plot: in still air, with a screen, the nozzle low.'] : []),
  ]
}

function inSoil(rate: Worked, depth: number): string {
  const { value } = workedProduct('', 'mg/L', [times(rate), over(given('', depth, 'cm'))])
  return value < 1000 ? withUnit(formatPlain(value, 3), 'mg') : withUnit(formatPlain(value / 1000, 3), 'g')
}

function marginInWords(strength: number, harm: number): string {
  const [is, most] = [`${formatPlain(strength, 3)} mg/L`, `${formatPlain(harm, 4)} mg/L at which it harms the crop`]
  return strength > harm
    ? `${is} is above the ${most}.`
    : `${is} leaves a margin of ${formatPlain(harm / strength, 2)} times to the ${most}: a pot done twice is harmed.`
}

function liveCautions(name: string, { keepBelow, openHours }: NonNullable<Product['live']>): string[] {
  return [
    `${name} is alive: ${keepBelow === null ? 'keep it cool' : `keep it below ${formatPlain(keepBelow, 3)} °C`} and out of the sun, and off seed treated against fungi${openHours === null ? '' : `; use it within ${formatPlain(openHours, 3)} h of opening`}.`, // prettier-ignore
    'Untreated plots first, with tools that never touched it; clean hands, boots and tools after it.',
  ]
}
