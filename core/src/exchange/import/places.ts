import type { Unit } from '../../trial/index.ts'
import type { Plot } from './plots.ts'

/** What tells where plots lie: their measures, their rows and columns, or only the order in their blocks. */
export function placing(plots: readonly Plot[]): 'metres' | 'grid' | 'order' {
  const distinct = (of: (plot: Plot) => string): boolean => new Set(plots.map(of)).size === plots.length
  if (plots.every((plot) => plot.x !== null && plot.y !== null) && distinct((plot) => `${plot.x} ${plot.y}`)) return 'metres'
  if (
    plots.every((plot) => Number.isInteger(plot.row) && Number.isInteger(plot.column)) &&
    distinct((plot) => `${plot.row} ${plot.column}`)
  )
    return 'grid'
  return 'order'
}

/** Row and column of each plot in the grid of the site, from 0. */
export function ranksOf(plots: readonly Plot[], along: ReturnType<typeof placing>): Map<Plot, { column: number; row: number }> {
  if (along === 'order') return new Map()
  const of = (plot: Plot, way: 'column' | 'row'): number =>
    along === 'grid' ? plot[way]! : Math.round(20 * (way === 'column' ? plot.x! : plot.y!))
  const lines = (way: 'column' | 'row'): number[] => [...new Set(plots.map((plot) => of(plot, way)))].sort((a, b) => a - b)
  const [columns, rows] = [lines('column'), lines('row')]
  const from = { column: columns[0]!, row: rows[0]! }
  const cellOf = (plot: Plot): { column: number; row: number } =>
    along === 'grid'
      ? { column: of(plot, 'column') - from.column, row: of(plot, 'row') - from.row }
      : { column: columns.indexOf(of(plot, 'column')), row: rows.indexOf(of(plot, 'row')) }
  const found = new Map(plots.map((plot) => [plot, cellOf(plot)] as const))
  // Gaps of a thousand rows, or two plots in one cell, are no grid.
  const cells = new Set([...found.values()].map(({ column, row }) => `${column} ${row}`))
  const wide = [...found.values()].some(({ column, row }) => column > 2000 || row > 2000)
  return cells.size < plots.length || wide ? new Map<Plot, { column: number; row: number }>() : found
}

/** Measures and turns of the walk that the table holds stand as they are there. */
export function placedAsSaid(
  units: readonly Unit[],
  plots: readonly Plot[],
  lines: ReadonlyMap<number, string>,
  size: { plotWidth: number; plotLength: number },
): Unit[] {
  const plotOf = new Map(plots.map((plot) => [lines.get(plot.line)!, plot]))
  const walked = plots.every((plot) => plot.walk !== null) ? [...plots].sort((a, b) => a.walk! - b.walk!) : null
  const turn = new Map(walked?.map((plot, i) => [lines.get(plot.line)!, i + 1]))
  const metres = placing(plots) === 'metres'
  const placed = units.map((unit): Unit => {
    const plot = plotOf.get(unit.id)
    if (!plot) return unit
    const place = metres
      ? {
          x: plot.x!,
          y: plot.y!,
          width: plot.width ?? size.plotWidth,
          length: plot.length ?? size.plotLength,
          ...(plot.turn ? { turn: plot.turn } : {}),
        }
      : unit.place
    return { ...unit, place, walk: turn.get(unit.id) ?? unit.walk }
  })
  return metres ? aroundMembers(placed) : placed
}

/** Groups lie where their plots do. */
function aroundMembers(units: readonly Unit[]): Unit[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const inside = (unit: Unit, id: string): boolean =>
    unit.in.some((above) => above === id || (index.has(above) && inside(index.get(above)!, id)))
  const plots = units.filter((unit) => unit.walk !== null)
  return units.map((unit): Unit => {
    if (unit.walk !== null || unit.kind === 'site') return unit
    const places = plots.filter((plot) => inside(plot, unit.id)).map((plot) => plot.place!)
    if (places.length === 0) return unit
    const [x, y] = [Math.min(...places.map((each) => each.x)), Math.min(...places.map((each) => each.y))]
    const [right, back] = [Math.max(...places.map((each) => each.x + each.width)), Math.max(...places.map((each) => each.y + each.length))]
    return { ...unit, place: { x, y, width: right - x, length: back - y } }
  })
}
