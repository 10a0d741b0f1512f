import { plotArea } from '../ground/index.ts'
import { convert, formatPlain, over, shownUnit, times, workedProduct, type UnitSystem, type Worked } from '../quantity/index.ts'
import type { Site, Unit, Worksheet } from '../trial/index.ts'
import { calculationOf, calculations, reckon, type Calculation, type PassFact, type Reckoned, type SiteFact } from './calculation/index.ts'
import { isSprayed, type DoseRow } from './dose-amounts.ts'
import { wholesIn, type Pass } from './passes.ts'

/** A worksheet with what it comes to; null where this version has no such calculation. */
export function workedSheet(
  sheet: Pick<Worksheet, 'calculation' | 'given' | 'system'>,
): { calculation: Calculation; reckoned: Reckoned } | null {
  const calculation = calculationOf(sheet.calculation)
  return calculation ? { calculation, reckoned: reckon(calculation, sheet.given, (unit) => shownUnit(unit, sheet.system)) } : null
}

/** One turn of a pass: what goes on, at which of its parts, and how many whole units get it. */
export interface PassTurn {
  readonly row: DoseRow
  readonly part: number
  /** Units that are gone over, with those that get the carrier alone. */
  readonly over: number
  /** From how little on a dry product is spread in this trial, g/m²; null: what is usual. */
  readonly spreadable: number | null
}

/** What is known at a site, and of a pass there, of what a calculation asks, as a person of this system types it. */
export function knownAt(
  calculation: Calculation,
  site: Site,
  units: readonly Unit[],
  system: UnitSystem,
  turn: PassTurn | null = null,
): Record<string, string> {
  return Object.fromEntries(
    calculation.inputs.flatMap((input) => {
      const { from } = input
      const value = !from ? null : from in OF_PASS ? turn && OF_PASS[from as PassFact](turn, site) : ofSite(from as SiteFact, site, units) // prettier-ignore
      if (value === null) return []
      const unit = shownUnit(input.unit, system)
      return [[input.key, formatPlain(convert(value, input.unit, unit), 7)]]
    }),
  )
}

/** A calculation that can be begun for a pass, for one of its levels or for all that get it. */
export interface PassWorksheet {
  readonly calculation: Calculation
  readonly title: string
  /** The level it is for; null: for all that get it. */
  readonly level: string | null
  readonly given: Readonly<Record<string, string>>
  readonly pass: NonNullable<Worksheet['pass']>
}

/** All that can be worked out for a pass, filled in with what is known: of levels that would be filled in alike once. */
export function worksheetsFor(
  { turns, part }: Pick<Pass, 'turns' | 'part'>,
  site: Site,
  system: UnitSystem,
  spreadable: number | null | undefined,
): PassWorksheet[] {
  const some = turns.flatMap((turn) => (turn.row && turn.row.rate.value > 0 && turn.units.length > 0 ? [{ row: turn.row, units: turn.units, wholes: wholesIn(turn) }] : [])) // prettier-ignore
  const all = turns.reduce((sum, turn) => sum + (turn.row || turn.carrier ? wholesIn(turn) : 0), 0)
  return calculations.flatMap((calculation) => {
    const own = some.filter(({ row }) => calculation.suits?.(row, spreadable ?? null) ?? false)
    const filled = own.map(({ row, units, wholes }) => ({ row, given: knownAt(calculation, site, units, system, { row, part, over: isSprayed(row) ? all : wholes, spreadable: spreadable ?? null }) })) // prettier-ignore
    // What may be left out and is not the same for all levels is left out, so that one worksheet does for them all.
    const differs = (key: string): boolean => new Set(filled.map(({ given }) => given[key])).size > 1
    const left = new Set(calculation.inputs.flatMap(({ key, optional }) => (optional && differs(key) ? [key] : [])))
    const alike = filled.length === some.length && !calculation.inputs.some(({ key }) => !left.has(key) && differs(key))
    return (alike ? filled.slice(0, 1) : filled).map(({ row, given }): PassWorksheet => {
      const level = alike ? null : (row.recipient.level?.key ?? null)
      const title = [calculation.name, row.product.product, ...(level === null ? [] : [row.recipient.level!.name])].join(', ').slice(0, 120)
      const kept = alike ? Object.fromEntries(Object.entries(given).filter(([key]) => !left.has(key))) : given
      return {
        calculation,
        title,
        level: level === null ? null : row.recipient.level!.name,
        given: kept,
        pass: { dose: row.dose.key, part, level },
      }
    })
  })
}

/** Of one turn of a pass, in the measures that calculations keep. */
const OF_PASS: Readonly<Record<PassFact, (turn: PassTurn, site: Site) => number | null>> = {
  'volume rate': ({ row }, site) => (isSprayed(row) ? byArea(row.carrier, 'L/ha', site) : null),
  'product rate': ({ row, part }, site) => byArea(row.passes[part]?.mass, 'kg/ha', site),
  'product volume rate': ({ row, part }, site) => byArea(row.passes[part]?.volume, 'L/ha', site),
  depth: ({ row, part }, site) => byArea(row.passes[part]?.volume, 'mm', site),
  'pass area': ({ over: units }, { ground }) => (units * plotArea(ground).value) / 1e4,
  tank: ({ row }) => row.dose.tank?.holds ?? null,
  'spread dry from': ({ spreadable }) => spreadable,
}

function byArea(amount: Worked | null | undefined, unit: string, { ground }: Site): number | null {
  return amount ? workedProduct('', unit, [times(amount), over(plotArea(ground))]).value : null
}

/** In the measures that calculations keep: m², m, cm. */
function ofSite(from: SiteFact, { ground, design }: Site, units: readonly Unit[]): number | null {
  switch (from) {
    case 'plot area':
      return plotArea(ground).value
    case 'plot length':
      return ground.plotLength
    case 'rows':
      return ground.rows?.count ?? null
    case 'row spacing':
      return ground.rows ? ground.rows.spacing * 100 : null
    case 'units': {
      const count = units.filter((unit) => unit.kind === design.unit).length
      return count > 0 ? count : null
    }
  }
}
