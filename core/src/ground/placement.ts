import type { Ground, Unit } from '../trial/index.ts'

export interface Rectangle {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly length: number
}

/** Columns and rows of plots in one block that holds `plots` plots. */
export function blockShape(plots: number, ground: Pick<Ground, 'columnsPerBlock'>): { columns: number; rows: number } {
  const columns = Math.max(1, Math.min(ground.columnsPerBlock, plots))
  return { columns, rows: Math.ceil(plots / columns) }
}

/** The rectangle of a block (counted from 0), borders left outside. Metres. */
export function blockRectangle(block: number, plots: number, ground: Ground): Rectangle {
  const { columns, rows } = blockShape(plots, ground)
  const width = columns * ground.plotWidth + (columns - 1) * ground.plotGap
  const length = rows * ground.plotLength + (rows - 1) * ground.rowAlley
  const across = block % ground.blocksAcross
  const back = Math.floor(block / ground.blocksAcross)
  return { x: ground.border + across * (width + ground.blockAlley), y: ground.border + back * (length + ground.blockAlley), width, length }
}

/** Row and column of a position (from 0) within its block; serpentine rows run back and forth. */
function positionCell(position: number, columns: number, serpentine: boolean): { row: number; column: number } {
  const row = Math.floor(position / columns)
  const along = position % columns
  return { row, column: serpentine && row % 2 === 1 ? columns - 1 - along : along }
}

/** The rectangle of a plot by block and position, both counted from 0. Metres. */
export function plotRectangle(block: number, position: number, plots: number, ground: Ground): Rectangle {
  const at = blockRectangle(block, plots, ground)
  const { row, column } = positionCell(position, blockShape(plots, ground).columns, ground.serpentine)
  return {
    x: at.x + column * (ground.plotWidth + ground.plotGap),
    y: at.y + row * (ground.plotLength + ground.rowAlley),
    width: ground.plotWidth,
    length: ground.plotLength,
  }
}

/** Width and length of the whole trial, borders included. Metres. */
export function siteExtent(blocks: number, plots: number, ground: Ground): { width: number; length: number } {
  let width = 0
  let length = 0
  for (let block = 0; block < blocks; block++) {
    const at = blockRectangle(block, plots, ground)
    width = Math.max(width, at.x + at.width + ground.border)
    length = Math.max(length, at.y + at.length + ground.border)
  }
  return { width, length }
}

/** Gives every plot its place and its turn in walking order; other units are returned as they are. */
export function placeUnits(units: readonly Unit[], ground: Ground): Unit[] {
  const blocks = units.filter((unit) => unit.kind === 'block')
  const blockOf = new Map(blocks.map((block, i) => [block.id, i]))
  const members: Unit[][] = blocks.map(() => [])
  for (const unit of units) {
    if (unit.kind !== 'plot') continue
    const block = unit.in.map((id) => blockOf.get(id)).find((found) => found !== undefined)
    if (block !== undefined) members[block]!.push(unit)
  }
  const placed = new Map<string, Unit>()
  members.forEach((plots, block) =>
    plots.forEach((plot, position) => placed.set(plot.id, { ...plot, place: { ...plotRectangle(block, position, plots.length, ground) } })),
  )
  walkingOrder(members.map((plots) => plots.map((plot) => placed.get(plot.id)!))).forEach((plot, i) =>
    placed.set(plot.id, { ...plot, walk: i + 1 }),
  )
  return units.map((unit) => placed.get(unit.id) ?? unit)
}

/**
 * Block by block, so that a change in the day or the crew falls between blocks and not
 * inside one; rows run to and fro, and each block is entered at the corner nearest to
 * where the last one ended.
 */
function walkingOrder(blocks: readonly (readonly Unit[])[]): Unit[] {
  const order: Unit[] = []
  for (const plots of blocks) {
    const candidates = [false, true].flatMap((back) => [false, true].map((right) => serpentine(plots, back, right)))
    const last = order.at(-1)
    const start = (path: readonly Unit[]): number => (last && path[0] ? distance(last, path[0]) : 0)
    const best = candidates.reduce((a, b) => (start(b) < start(a) ? b : a))
    order.push(...best)
  }
  return order
}

function serpentine(plots: readonly Unit[], fromBack: boolean, fromRight: boolean): Unit[] {
  const rows = new Map<number, Unit[]>()
  for (const plot of plots) rows.set(plot.place!.y, [...(rows.get(plot.place!.y) ?? []), plot])
  const ys = [...rows.keys()].sort((a, b) => (fromBack ? b - a : a - b))
  return ys.flatMap((y, i) => {
    const row = rows.get(y)!.sort((a, b) => a.place!.x - b.place!.x)
    return (i % 2 === 1) !== fromRight ? row.reverse() : row
  })
}

function distance(a: Unit, b: Unit): number {
  return Math.abs(a.place!.x - b.place!.x) + Math.abs(a.place!.y - b.place!.y)
}
