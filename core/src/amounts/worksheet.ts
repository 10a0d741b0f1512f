import { plotArea } from '../ground/index.ts'
import { formatPlain, shownUnit, convert, type UnitSystem } from '../quantity/index.ts'
import type { Site, Unit, Worksheet } from '../trial/index.ts'
import { calculationOf, reckon, type Calculation, type CalculationInput, type Reckoned } from './calculation/index.ts'

/** A worksheet with what it comes to; null where this version has no such calculation. */
export function workedSheet(
  sheet: Pick<Worksheet, 'calculation' | 'given' | 'system'>,
): { calculation: Calculation; reckoned: Reckoned } | null {
  const calculation = calculationOf(sheet.calculation)
  return calculation ? { calculation, reckoned: reckon(calculation, sheet.given, (unit) => shownUnit(unit, sheet.system)) } : null
}

/** What is known at a site of what a calculation asks, as a person of this system types it. */
export function knownAt(calculation: Calculation, site: Site, units: readonly Unit[], system: UnitSystem): Record<string, string> {
  return Object.fromEntries(
    calculation.inputs.flatMap((input) => {
      const value = input.from && ofSite(input.from, site, units)
      if (value === undefined || value === null) return []
      const unit = shownUnit(input.unit, system)
      return [[input.key, formatPlain(convert(value, input.unit, unit), 7)]]
    }),
  )
}

/** In the measures that calculations keep: m², m, cm. */
function ofSite(from: NonNullable<CalculationInput['from']>, { ground, design }: Site, units: readonly Unit[]): number | null {
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
