import { marksOf, type Treatment } from '../trial/index.ts'
import type { DesignedUnits, DesignRequest } from './design.ts'
import { UnitMaker } from './units.ts'

/**
 * The units of a design with one more for each treatment that is only shown: beside the trial, in the
 * order listed, in no block and dealt out by nobody. They are read like all others and tested with none.
 */
export function withShown({ structure, units }: DesignedUnits, request: DesignRequest, shown: readonly Treatment[]): DesignedUnits {
  if (shown.length === 0) return { structure, units }
  const { choice, treatments } = request
  const make = new UnitMaker(request)
  const site = units.find((unit) => unit.kind === 'site')!
  const beside = make.group('demonstration', 'S', [site], null)
  shown.forEach((treatment, i) =>
    make.treated(`S${i + 1}`, [beside], { in: beside.id, column: i, row: null }, marksOf(treatment, treatments.factors)),
  )
  const kinds = structure.kinds.map((each) => (each.kind === choice.unit ? { ...each, in: [...each.in, 'demonstration' as const] } : each))
  return { structure: { ...structure, kinds: [...kinds, { kind: 'demonstration', in: ['site'] }] }, units: [...units, ...make.units] }
}
