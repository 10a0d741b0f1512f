import { plotArea } from '../ground/index.ts'
import { given, over, sameMeasure, times, workedProduct, type Worked } from '../quantity/index.ts'
import {
  formOf,
  marksOn,
  Nutrient,
  nutrientName,
  placementOf,
  treatmentWith,
  type Amounts,
  type Dose,
  type Product,
  type Site,
  type Treatments,
  type Unit,
} from '../trial/index.ts'
import { dosesOf, productOf, recipientsOf, type Recipient } from './doses.ts'
import { byEach, rateBasis, type RateBasis } from './rate.ts'
import { leftOf, type Remaining } from './remaining.ts'

/** One amount, by weight, by volume and counted: what of it is known. In g, in mL, and as a number. */
export interface Quantities {
  readonly mass: Worked | null
  readonly volume: Worked | null
  readonly count: Worked | null
}

/** What of one dose one plot, pot or bed gets. */
export interface DoseRow {
  readonly dose: Dose
  readonly product: Product
  readonly recipient: Recipient
  /** As it was typed, over the season; of a solution its strength at each pass. */
  readonly rate: Worked
  /** What the rate is of (the nutrient, the active ingredient, the product), for one unit over the season. */
  readonly amount: Worked
  /** For one unit over the season, and at each pass. */
  readonly season: Quantities
  readonly passes: readonly Quantities[]
  /** What carries it at each pass, mL for one unit; and the active ingredient in it, mg/L: the product where it states none. */
  readonly carrier: Worked | null
  readonly strength: Worked | null
  /** kg/ha of product over the season; null where its weight is not known. */
  readonly massPerArea: Worked | null
  /** The same as it is measured out, kg/ha or L/ha; null of what is counted, and of pots. */
  readonly perArea: Worked | null
  /** The units that get it, by what they are now; with what was lost since. */
  readonly units: readonly Unit[]
  /** So many whole units those are at its first pass: what is gone by then counts for none, and one of which a part was lost by what remains. */
  readonly wholes: number
}

export interface DoseProblem {
  readonly dose: Dose
  readonly problem: string
}

/** Measures of one treated unit that rates are for. */
export interface UnitSize {
  readonly kind: string
  /** A pot or a plant: what it gets is told by itself, not by area. */
  readonly single: boolean
  readonly area: Worked
  /** All its crop rows, m; null where rows are not known. */
  readonly row: Worked | null
  readonly plants: Worked | null
}

export function sizeOf({ ground, design }: Pick<Site, 'ground' | 'design'>): UnitSize {
  const { rows, plotLength } = ground
  const single = design.unit === 'pot' || design.unit === 'plant'
  const row = rows ? workedProduct('Row in it', 'm', [times(given('Rows', rows.count, '')), times(given('Length', plotLength, 'm'))]) : null
  const plants = single
    ? given('Plants', 1, '')
    : row && rows?.plants
      ? workedProduct('Plants', '', [times(row), over(given('Plant spacing', rows.plants, 'm'))])
      : null
  return { kind: design.unit, single, area: plotArea(ground), row, plants }
}

/** What is asked of a trial's amounts. */
export type Dosed = Pick<Amounts, 'supply' | 'products' | 'doses'>

/**
 * All that goes on at a site, dose by dose and level by level, for one unit and for all. `units` are those of
 * its layout or outline, as they are now; nothing is measured out any more for what is gone, and less for what
 * is not whole (`left`).
 */
export function doseAmounts(
  treatments: Treatments,
  amounts: Dosed,
  site: Site,
  units: readonly Unit[],
  left: Remaining = new Map(),
): { readonly rows: DoseRow[]; readonly problems: DoseProblem[] } {
  const size = sizeOf(site)
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const treated = units.filter((unit) => unit.kind === site.design.unit)
  const which = units.some((unit) => Object.keys(unit.received).length > 0) ? 'received' : 'planned'
  const marks = new Map(treated.map((unit) => [unit.id, marksOn(unit, index, which)]))
  const rows: DoseRow[] = []
  const problems: DoseProblem[] = []
  for (const dose of dosesOf(treatments, amounts)) {
    const product = productOf(amounts, dose.product)
    if (!product) continue
    for (const recipient of recipientsOf(dose, treatments)) {
      const { factor, level, treatment } = recipient
      const seed = seedFor(recipient, treatments, amounts, size)
      const worked = workedDose({ dose, product, recipient, size, seed })
      if (typeof worked === 'string') {
        if (!problems.some((each) => each.dose === dose && each.problem === worked)) problems.push({ dose, problem: worked })
        continue
      }
      const own = treated.filter((unit) =>
        treatment
          ? treatmentWith(marks.get(unit.id)!, treatments)?.key === treatment.key
          : factor === null || marks.get(unit.id)![factor.key] === level!.key,
      )
      rows.push({ ...worked, units: own, wholes: wholesOf(own, left, shrinks(dose, size), dose.parts[0]!.on) })
    }
  }
  return { rows, problems }
}

/**
 * Spread over the ground as it is, without water: said of its form, or where nothing is said of one that has no
 * density. What goes into a row or on the seed is metered there, however little it is.
 */
export function isDry({ product, dose }: Pick<DoseRow, 'product' | 'dose'>): boolean {
  if (dose.carrier !== null || !placementOf(dose.placement).spread) return false
  const form = formOf(product)
  return form ? form.mixed === null && product.form !== 'seed' : !product.density
}

/** Carried by so much water for an area. */
export function isSprayed({ dose }: Pick<DoseRow, 'dose'>): boolean {
  return dose.carrier !== null && rateBasis({ measure: dose.carrier.measure, carrier: null })?.basis === 'area'
}

/** So many whole units these come to. */
function wholesOf(units: readonly Unit[], left: Remaining, shrinking: boolean, day: string | null): number {
  if (left.size === 0) return units.length
  const shares = units.map((unit) => leftOf(left, unit.id, day)).filter((share) => share > 0)
  return shrinking ? shares.reduce((sum, share) => sum + share, 0) : shares.length
}

/** Whether a plot of which a part is gone gets less of it: not what is so much for each plot or pot, whatever its size. */
export function shrinks(dose: Dose, size: Pick<UnitSize, 'single'>): boolean {
  return !size.single && !(byEach(dose) && dose.per === 'unit')
}

/** One dose for one unit, every figure worked; a string says what is missing. */
export function workedDose({
  dose,
  product,
  recipient,
  size,
  seed = null,
}: {
  readonly dose: Dose
  readonly product: Product
  readonly recipient: Recipient
  readonly size: UnitSize
  /** Seed in one unit, g, where something is put on by the weight of it. */
  readonly seed?: Worked | null
}): Omit<DoseRow, 'units' | 'wholes'> | string {
  const kind = rateBasis(dose)
  if (!kind) return `“${dose.measure}” is no rate that can be measured out.`
  const ofWhat = Nutrient.safeParse(dose.of)
  const rate = given('Rate', recipient.amount, dose.measure, ofWhat.success ? ofWhat.data : undefined)
  const carrier = carrierOf(dose, size)
  if (typeof carrier === 'string') return carrier
  const base = kind.gives === 'mass' ? (kind.basis === 'solution' ? 'mg' : 'g') : kind.gives === 'volume' ? 'mL' : ''
  const what = ofWhat.success ? nutrientName(ofWhat.data) : dose.of === 'product' ? product.product : dose.of === 'seeds' ? 'Seeds that germinate' : (product.active?.name ?? 'Active ingredient') // prettier-ignore
  const measure = { area: size.area, row: size.row, seed, solution: carrier, unit: dose.per === 'plant' ? size.plants : given(`For each ${size.kind}`, 1, '') }[kind.basis] // prettier-ignore
  if (!measure) return MISSING[kind.basis as keyof typeof MISSING]
  const amount = workedProduct(`${what} for one ${size.kind}`, base, [times(rate), times(measure)])
  // By area or row the rate of the product itself is told first, as one knows it from the bag, and then what a plot gets of it.
  const staged = BY[kind.basis]
  const whole = kind.basis === 'solution'
  const made = staged ? ofProduct(dose, product, kind.gives, rate, staged, 'over the season') : ofProduct(dose, product, kind.gives, amount, PER_UNIT, `for one ${size.kind}`) // prettier-ignore
  if (typeof made === 'string') return made
  const forUnit = (of: Quantities): Quantities => (staged ? onUnit(of, measure, size.kind) : of)
  // What stands as a strength goes on at that strength each time; all else in its parts.
  const passes = dose.parts.map((part) => forUnit(whole || dose.parts.length === 1 ? made : scaled(made, given('Part that goes on at this pass', part.share, '%')))) // prettier-ignore
  const season = forUnit(whole && dose.parts.length > 1 ? scaled(made, given('Passes', dose.parts.length, '')) : made)
  const first = passes[0]!
  const strength = carrier && strengthOf(product, first, carrier)
  const massPerArea = season.mass ? workedProduct('Product over the season', 'kg/ha', [times(season.mass), over(size.area)]) : null
  const all = whole && dose.parts.length > 1 ? workedProduct(amount.label, base, [times(amount), times(given('Passes', dose.parts.length, ''))]) : amount // prettier-ignore
  const perArea = kind.basis === 'area' && !size.single ? leading(made, product) : perAreaOf(leading(season, product), size)
  return { dose, product, recipient, rate, amount: all, season, passes, carrier, strength, massPerArea, perArea: perArea?.unit === '/m²' || product.form === 'water' ? null : perArea } // prettier-ignore
}

/** Of the active ingredient in what is put on, mg/L; of the product itself where it states none. */
function strengthOf(product: Product, { mass, volume }: Quantities, carrier: Worked): Worked | null {
  const content = contentOf(product)
  if (!content) return mass && workedProduct(`${product.product} in what is put on`, 'mg/L', [times(mass), over(carrier)])
  const of = isShare(content.unit) ? mass : volume
  return of && workedProduct(`${product.active!.name} in what is put on`, 'mg/L', [times(of), times(content), over(carrier)])
}

function contentOf({ active, product }: Product): Worked | null {
  return active && active.content !== null ? given(`${active.name} in ${product}`, active.content, active.measure) : null
}

/** What measured-out amounts are told in. */
interface Measures {
  readonly mass: string
  readonly volume: string
  readonly count: string
}
const PER_UNIT: Measures = { mass: 'g', volume: 'mL', count: '' }
const BY: Readonly<Partial<Record<RateBasis, Measures>>> = {
  area: { mass: 'kg/ha', volume: 'L/ha', count: '/m²' },
  row: { mass: 'g/m', volume: 'mL/m', count: '/m' },
}

function perAreaOf(each: Worked, size: UnitSize): Worked | null {
  if (each.unit === '' || size.single) return null
  return workedProduct('Product over the season', sameMeasure(each.unit, 'g') ? 'kg/ha' : 'L/ha', [times(each), over(size.area)])
}

/** From so much on, in g or mL, one unit's amount is told in kilograms or litres. */
const LARGE = 10_000

/** A rate by area or row on one unit. */
function onUnit({ mass, volume, count }: Quantities, measure: Worked, kind: string): Quantities {
  const on = (of: Worked | null, unit: string, larger: string, what: string): Worked | null => {
    const found = of && workedProduct(`${what} for one ${kind}`, unit, [times(of), times(measure)])
    return found && found.value >= LARGE ? workedProduct(found.label, larger, found.terms!) : found
  }
  return { mass: on(mass, 'g', 'kg', 'Product'), volume: on(volume, 'mL', 'L', 'Product by volume'), count: on(count, '', '', 'Number') }
}

const MISSING = {
  row: 'A rate by length of row needs the rows: state how many rows a plot has and how far apart, under Ground.',
  seed: 'A rate by weight of seed needs the seed: say what of seed goes on every plot, as one of the things that are put on.',
  solution: 'A strength needs the volume that is put on: by area (400 L/ha), or for each plant or pot (60 mL).',
  unit: 'A rate for each plant needs the plants: state the plant spacing in the row, under Ground.',
} as const

function carrierOf({ carrier, per }: Dose, size: UnitSize): Worked | null | string {
  if (!carrier) return null
  const volume = given('Volume put on', carrier.amount, carrier.measure)
  try {
    return workedProduct(`Volume for one ${size.kind}`, 'mL', [times(volume), times(size.area)])
  } catch {
    if (per === 'plant' && !size.plants) return MISSING.unit
    return workedProduct(`Volume for one ${size.kind}`, 'mL', [times(volume), ...(per === 'plant' ? [times(size.plants!)] : [])])
  }
}

/** From what a rate is of to the product itself: by its analysis, its content, or the weight of its seed; all in measures of one kind. */
function ofProduct(
  dose: Dose,
  product: Product,
  gives: 'mass' | 'volume' | 'count',
  rate: Worked,
  measures: Measures,
  what: string,
): Quantities | string {
  // prettier-ignore
  const label = `Product ${what}`
  const nutrient = Nutrient.safeParse(dose.of)
  const itself = rate.unit === measures[gives] ? rate : workedProduct(label, measures[gives], [times(rate)])
  const only = (key: keyof Quantities, of: Worked): Quantities => ({ mass: null, volume: null, count: null, [key]: of })
  if (dose.of === 'product') return withDensity(product, only(gives, itself), measures, label)
  if (dose.of === 'seeds') {
    if (gives === 'mass') return only('mass', itself)
    if (gives === 'volume') return 'Seed is counted or weighed: a volume of it differs with how it lies.'
    const { kernelWeight = null, germination = null } = product.seed ?? {}
    if (kernelWeight === null || germination === null) return `State of ${product.product} what a kernel weighs and how many of a hundred germinate.` // prettier-ignore
    const count = workedProduct('Seeds to sow', measures.count, [times(itself), over(given('Germination', germination, '%'))])
    return { count, mass: workedProduct(label, measures.mass, [times(count), times(given('Weight of a kernel', kernelWeight, 'mg'))]), volume: null } // prettier-ignore
  }
  if (gives !== 'mass') return `A rate of ${nutrient.success ? nutrientName(nutrient.data).toLowerCase() : 'an active ingredient'} is a weight (kg/ha, g/m², mg/L); a rate of the product may be a volume.` // prettier-ignore
  const share = nutrient.success ? shareOf(product, nutrient.data) : contentOf(product)
  if (!share) return nutrient.success
      ? `${product.product} states no ${nutrient.data}: type its analysis in % ${nutrient.data}.`
      : `State what active ingredient ${product.product} has, and how much of it.` // prettier-ignore
  const terms = [times(rate), over(share)]
  const found = isShare(share.unit) ? only('mass', workedProduct(label, measures.mass, terms)) : only('volume', workedProduct(`${label}, by volume`, measures.volume, terms)) // prettier-ignore
  return withDensity(product, found, measures, label)
}

function isShare(unit: string): boolean {
  return unit === '%' || unit === 'g/kg' || unit === 'mg/kg'
}

/** What a product has of a nutrient: a share of its weight, or a weight in its volume; null where it states none. */
export function shareOf(product: Product, nutrient: Nutrient): Worked | null {
  const share = product.analysis[nutrient] ?? 0
  return share > 0 ? given(`${nutrient} in ${product.product}`, share, product.analysisBy === 'volume' ? '% w/v' : '%') : null
}

function withDensity({ density }: Product, known: Quantities, measures: Measures, label: string): Quantities {
  if (!density || (known.mass && known.volume)) return known
  const of = given('Density', density, 'kg/L')
  if (known.mass) return { ...known, volume: workedProduct(`${label}, by volume`, measures.volume, [times(known.mass), over(of)]) }
  if (known.volume) return { ...known, mass: workedProduct(label, measures.mass, [times(known.volume), times(of)]) }
  return known
}

/** The same of all that is known, times a figure. */
function scaled({ mass, volume, count }: Quantities, by: Worked): Quantities {
  const times_ = (of: Worked | null): Worked | null => of && workedProduct(of.label, of.unit, [times(of), times(by)])
  return { mass: times_(mass), volume: times_(volume), count: times_(count) }
}

/** What is measured out: what is poured by volume, all else by weight, where that is known; else as it is known. */
export function leading({ mass, volume, count }: Quantities, product: Product): Worked {
  return ((formOf(product)?.poured ? (volume ?? mass) : (mass ?? volume)) ?? count)!
}

/** Seed that a unit of this level gets, g: of every plot alike, or with the same level. */
function seedFor({ factor, level, treatment }: Recipient, treatments: Treatments, amounts: Dosed, size: UnitSize): Worked | null {
  const sown = dosesOf(treatments, amounts).flatMap((dose): Worked[] => {
    const product = productOf(amounts, dose.product)
    if (!product || (product.form !== 'seed' && dose.of !== 'seeds')) return []
    if (rateBasis(dose)?.basis === 'seed') return []
    const recipient = recipientsOf(dose, treatments).find((each) => each.named === null || (each.named.key === (level ?? treatment)?.key && each.factor?.key === factor?.key)) // prettier-ignore
    const worked = recipient && workedDose({ dose, product, recipient, size })
    return worked && typeof worked !== 'string' && worked.season.mass ? [worked.season.mass] : []
  })
  return sown[0] ?? null
}
