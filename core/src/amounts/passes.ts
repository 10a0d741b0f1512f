import { given, over, sameMeasure, times, workedProduct, workedSum, type Worked } from '../quantity/index.ts'
import { formOf, hygieneClasses, type Dose, type HygieneClass, type Product, type Site, type Unit } from '../trial/index.ts'
import { leading, shrinks, type DoseRow } from './dose-amounts.ts'
import { byOwnAmount } from './doses.ts'
import { leftOf, type Remaining } from './remaining.ts'

/** One time that something goes out at a site: all of one product, in the order to go. */
export interface Pass {
  /** Dose and part: what it is known by. */
  readonly key: string
  readonly product: Product
  /** The dose it is of: the first of them, where levels that get the same product alike were said one by one. */
  readonly dose: Dose
  readonly doses: readonly Dose[]
  /** All that goes on at it. */
  readonly rows: readonly DoseRow[]
  readonly part: number
  /** So many passes are all alike, this the first of them. */
  readonly alike: number
  readonly when: string
  readonly on: string | null
  readonly turns: readonly Turn[]
  /** Product in all at the site. */
  readonly all: Worked
  /** Carrier in all, L, with what the untreated get. */
  readonly carrier: Worked | null
}

/** What one group of units gets in a pass. */
export interface Turn {
  /** null: carrier alone, or nothing at all, before everything else. */
  readonly row: DoseRow | null
  readonly name: string
  readonly each: Worked | null
  /** The same by volume where it is weighed, and where it is counted by weight. */
  readonly or: Worked | null
  readonly carrier: Worked | null
  readonly all: Worked | null
  readonly mix: Mix | null
  readonly units: readonly Unit[]
  /** Of those the ones of which a part is gone, with what that part gets. */
  readonly lesser: readonly Lesser[]
}

/** A unit of which a part is gone: it gets less, at the same rate. */
export interface Lesser {
  readonly unit: Unit
  /** The share that remains. */
  readonly left: number
  readonly each: Worked | null
  readonly carrier: Worked | null
}

/** What is stirred together for one turn, with what stays in lines and pump. */
export interface Mix {
  /** L in all. */
  readonly volume: Worked
  /** Product in it; null of the carrier alone. */
  readonly product: Worked | null
  /** Tanks filled to the top, and what is in the last one; no tank stated: one mix. */
  readonly full: number
  readonly last: Worked
  /** Product for a full tank, and for the last. */
  readonly perFull: Worked | null
  readonly perLast: Worked | null
  /** Water that a rinse of the tank takes, L: a tenth of it, put on the ground that was just treated. */
  readonly rinse: Worked | null
}

/**
 * Every pass at a site, those that have a day by it, in the order of the doses else; each its untreated units first,
 * then low to high. `units` are those of the site, `left` what remains of those that are not whole: on the day of
 * a pass, by now where it has none.
 */
export function passesOf(rows: readonly DoseRow[], site: Site, units: readonly Unit[], left: Remaining = new Map()): Pass[] {
  const treated = units.filter((unit) => unit.kind === site.design.unit)
  const unitOf = new Map(rows.map((row) => [row.dose, leading(row.season, row.product).unit]))
  const kinds = ['g', 'mL', '']
  const measuredOut = (dose: Dose): string => kinds.find((each) => sameMeasure(each, unitOf.get(dose)!)) ?? ''
  const found = together([...new Set(rows.map((row) => row.dose))], measuredOut).flatMap((doses) => {
    const own = rows.filter((row) => doses.includes(row.dose))
    const some = own[0]!
    const { dose } = some
    const shrinking = left.size > 0 && shrinks(dose, { single: site.design.unit === 'pot' || site.design.unit === 'plant' })
    return dose.parts.flatMap((part, i): Pass[] => {
      const same = (other: typeof part | undefined): boolean => other !== undefined && other.share === part.share && [other, part].every((each) => each.when === '' && each.on === null) // prettier-ignore
      if (same(dose.parts[i - 1])) return []
      const after = dose.parts.slice(i + 1).findIndex((each) => !same(each))
      const alike = 1 + (after === -1 ? dose.parts.length - i - 1 : after)
      const given_ = own
        .filter((row) => row.rate.value > 0)
        .sort((a, b) => leading(a.passes[i]!, a.product).value - leading(b.passes[i]!, b.product).value)
      const lessOf = lesserIn(shrinking ? left : new Map(), part.on)
      const stands = (all: readonly Unit[]): readonly Unit[] => (left.size === 0 ? all : all.filter((unit) => leftOf(left, unit.id, part.on) > 0)) // prettier-ignore
      const got = new Set(given_.flatMap((row) => row.units.map((unit) => unit.id)))
      const rest = stands(treated).filter((unit) => !got.has(unit.id))
      const turns = [
        ...(rest.length > 0 ? [untreated(dose, some, rest, lessOf)] : []),
        ...given_.map((row): Turn => {
          const amounts = row.passes[i]!
          const each = leading(amounts, row.product)
          const or = each === amounts.mass ? (amounts.volume ?? amounts.count) : amounts.mass
          const own = stands(row.units)
          const lesser = lessOf(own, each, row.carrier)
          const wholes = wholesIn({ units: own, lesser })
          return { row, name: row.recipient.named?.name ?? `Every ${site.design.unit}`, each, or, carrier: row.carrier, all: forUnits(each, wholes, site.design.unit, 'site'), mix: mixOf(dose, row.carrier, each, wholes), units: own, lesser } // prettier-ignore
        }),
      ]
      const sums = turns.flatMap((turn) => turn.all ?? [])
      const largest = sums.reduce((most, each) => (each.unit === 'kg' || each.unit === 'L' ? each.unit : most), sums[0]?.unit ?? '')
      const water = turns.flatMap((turn) => (turn.carrier ? [workedProduct(turn.carrier.label, 'L', [times(turn.carrier), times(given('Units', wholesIn(turn), ''))])] : [])) // prettier-ignore
      return [
        {
          key: `${dose.key}.${i + 1}`,
          alike,
          product: some.product,
          dose,
          doses,
          rows: own,
          part: i,
          when: part.when,
          on: part.on,
          turns,
          all: sums.length === 0 ? given('Product in all', 0, leading(some.season, some.product).unit) : sums.length === 1 ? sums[0]! : workedSum('Product in all', largest, sums), // prettier-ignore
          carrier: water.length === 0 ? null : workedSum('Carrier in all', 'L', water),
        },
      ]
    })
  })
  const order = new Map(found.map((pass, i) => [pass, i]))
  const day = (pass: Pass): string => pass.on ?? '9999'
  return found.sort((a, b) => day(a).localeCompare(day(b)) || order.get(a)! - order.get(b)!)
}

/**
 * Doses that go out together: one alone; or several that put the same product on, in the same way and on the same
 * days, on different levels of one factor: whoever has the can in hand goes once. `measuredOut`: by weight, by volume
 * or counted, where that is known; what is not measured out alike is not one pass.
 */
export function together(doses: readonly Dose[], measuredOut: (dose: Dose) => string = () => ''): Dose[][] {
  const groups: { readonly like: string; readonly own: Dose[] }[] = []
  const named = ({ to }: Dose): string | null => (to === null ? null : 'factor' in to ? to.level : to.treatment)
  for (const dose of doses) {
    const like = `${measuredOut(dose)} ${likeOf(dose)}`
    const group = groups.find((each) => each.like === like && !each.own.some((other) => named(other) === named(dose)))
    if (group) group.own.push(dose)
    else groups.push({ like, own: [dose] })
  }
  return groups.map(({ own }) => own)
}

/** How a dose of one level goes out; its own key for what goes to all, or to each level by its own amount. */
function likeOf({ key, to, amount, product, placement, depth, band, carrier, carrierToAll, tank, parts }: Dose): string {
  if (to === null || amount === null) return key
  return JSON.stringify(['factor' in to ? to.factor : null, product, placement, depth, band, carrier, carrierToAll, tank ?? null, parts])
}

type LessOf = (units: readonly Unit[], each: Worked | null, carrier: Worked | null) => Lesser[]

/** Of some units those that are not whole, with what of an amount and its carrier they get. */
function lesserIn(left: Remaining, day: string | null): LessOf {
  return (units, each, carrier) => {
    if (left.size === 0) return []
    return units.flatMap((unit): Lesser[] => {
      const share = leftOf(left, unit.id, day)
      const of = (whole: Worked | null): Worked | null => whole && workedProduct(whole.label, whole.unit, [times(whole), times(given('Of it that remains', 100 * share, '%'))]) // prettier-ignore
      return share === 1 ? [] : [{ unit, left: share, each: of(each), carrier: of(carrier) }]
    })
  }
}

/** So many whole units a turn comes to. */
export function wholesIn({ units, lesser }: Pick<Turn, 'units' | 'lesser'>): number {
  return units.length - lesser.reduce((sum, { left }) => sum + 1 - left, 0)
}

function untreated(dose: Dose, some: DoseRow, units: readonly Unit[], lessOf: LessOf): Turn {
  const blank = dose.carrierToAll ? some.carrier : null
  const lesser = lessOf(units, null, blank)
  return {
    row: null,
    name: blank ? 'Carrier alone' : byOwnAmount(dose) ? 'Untreated' : 'Without it',
    each: null,
    or: null,
    carrier: blank,
    all: null,
    mix: mixOf(dose, blank, null, wholesIn({ units, lesser })),
    units,
    lesser,
  }
}

/** A rinse takes so much of what a tank holds. */
const RINSE = 0.1

function mixOf(dose: Dose, carrier: Worked | null, each: Worked | null, count: number): Mix | null {
  if (!carrier || count === 0) return null
  const out = workedProduct('To be put on', 'L', [times(carrier), times(given('Units', count, ''))])
  const dead = dose.tank ? given('Stays in lines and pump', dose.tank.dead, 'L') : null
  const volume = dead && dead.value > 0 ? workedSum('Mixed in all', 'L', [out, dead]) : out
  const unit = each && (each.unit === '' ? '' : each.unit)
  const inVolume = (of: Worked): Worked | null => each && workedProduct('Product in it', unit!, [times(each), over(carrier), times(of)])
  const holds = dose.tank?.holds ?? Infinity
  const full = holds >= volume.value * (1 - 1e-9) ? 0 : Math.floor(volume.value / holds + 1e-9)
  const tank = given('A full tank', Number.isFinite(holds) ? holds : volume.value, 'L')
  const last = full === 0 ? volume : given('In the last tank', Math.max(0, volume.value - full * holds), 'L')
  return {
    volume,
    product: inVolume(volume),
    full,
    last,
    perFull: full > 0 ? inVolume(tank) : null,
    perLast: last.value > 0 ? inVolume(last) : null,
    rinse: dose.tank ? workedProduct('Rinse', 'L', [times(tank), times(given('Of a tank', RINSE * 100, '%'))]) : null,
  }
}

/** Of a site from so much on it is told in kilograms or litres, g or mL. */
const LARGE = 100

/** What one unit gets, times so many of them. */
export function forUnits(each: Worked, count: number, kind: string, of: 'block' | 'site'): Worked {
  const larger = of === 'site' && each.value * count >= LARGE ? { g: 'kg', mL: 'L' }[each.unit] : undefined
  return workedProduct(of === 'site' ? 'Product for the site' : 'Product per block', larger ?? each.unit, [times(each), times(given(`${kind}s`, count, ''))]) // prettier-ignore
}

/** What has to be done between two passes that follow one another with the same tools. */
export function cleanOut(before: Product | null, next: Product): string | null {
  const nameOf = (each: HygieneClass): string => hygieneClasses.find(({ key }) => key === each)!.name
  const was = before?.hygiene ?? null
  const comes = next.hygiene ?? null
  if (before === null || was === comes) return null
  if (was !== null)
    return `After ${before.product} (${nameOf(was)}) clean out everything it touched before ${next.product}: rinse three times, nozzles and sieves by hand, water of the last rinse where the label says.`
  return `${next.product} is a ${nameOf(comes!)}: with tools of its own, or clean them after it.`
}

/** The order things go into a tank, by their form: water first; the order of a label holds before this one. */
export function mixingOrder(products: readonly Product[]): Product[] {
  const mixed = (product: Product): number => formOf(product)?.mixed ?? 4
  return products.filter((product) => formOf(product)?.mixed !== null).sort((a, b) => mixed(a) - mixed(b))
}

/** By unit what it gets in a pass: the product, or the carrier alone; null of what gets nothing. */
export function givenIn(pass: Pass): ReadonlyMap<string, Worked | null> {
  return new Map(
    pass.turns.flatMap((turn) => {
      const less = new Map(turn.lesser.map((own) => [own.unit.id, own]))
      return turn.units.map(
        (unit) => [unit.id, less.get(unit.id)?.each ?? turn.each ?? less.get(unit.id)?.carrier ?? turn.carrier] as const,
      )
    }),
  )
}
