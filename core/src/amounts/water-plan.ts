import { given, over, shownUnit, times, workedProduct, workedSum, type Worked } from '../quantity/index.ts'
import type { Site, Treatment, Treatments, Unit, Worksheet } from '../trial/index.ts'
import { irrigation, RUN_TIMES } from './calculation/irrigation.ts'
import { reckon } from './calculation/index.ts'
import { sizeOf, type DoseRow } from './dose-amounts.ts'
import { getsIt } from './doses.ts'
import { wholesIn, type Pass } from './passes.ts'
import { workedSheet } from './worksheet.ts'

/** Water for those of one level at one pass. */
export interface WaterTurn {
  readonly pass: Pass
  readonly row: DoseRow
  readonly name: string
  /** mm that are to reach the plants. */
  readonly depth: Worked
  /** L for one unit and for all of them, with what is lost on the way where a worksheet says it. */
  readonly each: Worked
  readonly all: Worked
  /** How long it runs, by what the worksheet knows of flow, drip lines or nozzles. */
  readonly runs: readonly Worked[]
  readonly units: readonly Unit[]
}

/** Water of one treatment over the season. */
export interface WaterTotal {
  readonly treatment: Treatment
  readonly depth: Worked
  readonly each: Worked
  /** Against the treatment that gets most: mm, and L for a unit. */
  readonly saved: { readonly depth: Worked; readonly each: Worked; readonly share: Worked } | null
}

export interface WaterPlan {
  readonly turns: readonly WaterTurn[]
  readonly totals: readonly WaterTotal[]
}

/** Worksheets of a site by which a depth becomes a run time. */
export function waterSheets(sheets: readonly Worksheet[], site: Pick<Site, 'key'>): Worksheet[] {
  return sheets.filter((sheet) => {
    if (sheet.calculation !== irrigation.key || (sheet.site !== null && sheet.site !== site.key)) return false
    const worked = workedSheet(sheet)
    return worked !== null && worked.reckoned.ok && RUN_TIMES.some((key) => worked.reckoned.ok && key in worked.reckoned.figures)
  })
}

/**
 * All water that is given as such at a site, pass by pass in the order to go, and each treatment's over the season.
 * Empty where water is no product of the trial. `sheet`: what is known there of flow, lines and losses.
 */
export function waterPlan(passes: readonly Pass[], treatments: Treatments, site: Site, sheet: Worksheet | null): WaterPlan {
  const size = sizeOf(site)
  const watered = passes.filter((pass) => pass.product.form === 'water')
  const turns = watered.flatMap((pass) =>
    pass.turns.flatMap((turn): WaterTurn[] => {
      const volume = turn.row?.passes[pass.part]?.volume
      if (!turn.row || !volume || turn.units.length === 0) return []
      const depth = workedProduct('Depth', 'mm', [times(volume), over(size.area)])
      const { each, runs } = delivered(depth, volume, size.area, sheet)
      return [
        {
          pass,
          row: turn.row,
          name: turn.name,
          depth,
          each,
          all: workedProduct('Water for the site', 'L', [times(each), times(given(`${size.kind}s`, wholesIn(turn), ''))]),
          runs,
          units: turn.units,
        },
      ]
    }),
  )
  const depths = treatments.list
    .filter((each) => !site.without.includes(each.key) && each.role !== 'shown')
    .map((treatment) => {
      const mine = turns.filter(({ row }) => getsIt(row.recipient, treatment))
      const season = (of: (turn: WaterTurn) => Worked, unit: string, label: string): Worked =>
        workedSum(label, unit, mine.map((turn) => workedProduct(of(turn).label, unit, [times(of(turn)), times(given('Passes', turn.pass.alike, ''))]))) // prettier-ignore
      return {
        treatment,
        depth: season((turn) => turn.depth, 'mm', 'Depth over the season'),
        each: season((turn) => turn.each, 'L', 'Water over the season'),
      }
    })
  const most = depths.reduce((top, each) => (each.depth.value > top.depth.value ? each : top), depths[0]!)
  const totals = depths.map((own): WaterTotal => {
    if (watered.length === 0 || own.depth.value >= most.depth.value * (1 - 1e-9)) return { ...own, saved: null }
    const depth = workedSum('Saved', 'mm', [most.depth], [own.depth])
    return {
      ...own,
      saved: {
        depth,
        each: workedSum('Saved', 'L', [most.each], [own.each]),
        share: workedProduct('Saved', '%', [times(depth), over(most.depth)]),
      },
    }
  })
  return { turns, totals: watered.length === 0 ? [] : totals }
}

/** What has to be given for a depth, and how long that runs: the worksheet's own working, with this depth and this area in it. */
function delivered(depth: Worked, volume: Worked, area: Worked, sheet: Worksheet | null): Pick<WaterTurn, 'each' | 'runs'> {
  const bare = workedProduct('Water to give', 'L', [times(volume)])
  if (!sheet) return { each: bare, runs: [] }
  const reckoned = reckon(irrigation, { ...sheet.given, depth: `${depth.value} mm`, area: `${area.value} m²` }, (unit) =>
    shownUnit(unit, sheet.system),
  )
  if (!reckoned.ok) return { each: bare, runs: [] }
  const { figures } = reckoned
  return { each: figures['water']!, runs: RUN_TIMES.flatMap((key) => figures[key] ?? []) }
}
