import type { Ground, Unit, UnitKind } from '../trial/index.ts'

export interface Rectangle {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly length: number
}

/** Kinds that are a part of the treated unit: they share its area out. */
const INSIDE: ReadonlySet<UnitKind> = new Set(['plant', 'sample'])
/** Groups inside a block. */
const GROUPS: ReadonlySet<UnitKind> = new Set(['main plot', 'subplot', 'strip'])

interface Grid {
  readonly of: Unit
  readonly cells: readonly { readonly unit: Unit; readonly row: number; readonly column: number }[]
  readonly width: number
  readonly length: number
  /** One cell, and the way to the next. */
  readonly cell: { readonly width: number; readonly length: number }
  readonly gap: { readonly x: number; readonly y: number }
}

/**
 * Gives every unit its place: those with a place in a grid by that grid, from the inside out;
 * those without (rows, columns, the site) the rectangle around what lies in them. `walked` units
 * get their turn in walking order.
 */
export function placeUnits(units: readonly Unit[], ground: Ground, walked: UnitKind): Unit[] {
  const held = new Map<string, Unit[]>()
  for (const unit of units) if (unit.at) pushTo(held, unit.at.in, unit)
  const grids = new Map<string, Grid>()
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const roots = units.filter((unit) => unit.at === null && held.has(unit.id))
  const places = new Map<string, Rectangle>()
  let x = ground.border
  for (const root of roots) {
    const { width } = sizeOf(root, held, grids, ground)
    put(root, { x, y: ground.border }, held, grids, ground, places)
    x += width + ground.blockAlley
  }
  boundAround(units, index, places)
  const order = walkingOrder(units, walked, places, index)
  return units.map((unit) => {
    const place = unit.kind === 'site' ? null : (places.get(unit.id) ?? null)
    return { ...unit, place: place && { ...place }, walk: order.get(unit.id) ?? null }
  })
}

/** Size of a unit: of the treated one as set, of others what their grid takes. */
function sizeOf(
  unit: Unit,
  held: ReadonlyMap<string, Unit[]>,
  grids: Map<string, Grid>,
  ground: Ground,
): { width: number; length: number } {
  const own = held.get(unit.id) ?? []
  if (own.length === 0 || own.every((each) => INSIDE.has(each.kind))) return { width: ground.plotWidth, length: ground.plotLength }
  return gridOf(unit, own, held, grids, ground)
}

function gridOf(of: Unit, own: readonly Unit[], held: ReadonlyMap<string, Unit[]>, grids: Map<string, Grid>, ground: Ground): Grid {
  const known = grids.get(of.id)
  if (known) return known
  const [first] = own
  const perRow = Math.min(own.length, ground.across[first!.kind] ?? defaultAcross(first!.kind, of.kind, own.length))
  const holdsGroups = held.has(first!.id) && !INSIDE.has(held.get(first!.id)![0]!.kind)
  const cells = own.map((unit) => {
    const at = unit.at!
    if (at.row !== null) return { unit, row: at.row, column: at.column }
    const row = Math.floor(at.column / perRow)
    const along = at.column % perRow
    return { unit, row, column: !holdsGroups && ground.serpentine && row % 2 === 1 ? perRow - 1 - along : along }
  })
  const sizes = own.map((each) => sizeOf(each, held, grids, ground))
  const cell = { width: Math.max(...sizes.map((each) => each.width)), length: Math.max(...sizes.map((each) => each.length)) }
  const gap = gapsBetween(first!.kind, holdsGroups, ground)
  const columns = 1 + Math.max(...cells.map((each) => each.column))
  const rows = 1 + Math.max(...cells.map((each) => each.row))
  const grid: Grid = {
    of,
    cells,
    cell,
    gap,
    width: columns * cell.width + (columns - 1) * gap.x,
    length: rows * cell.length + (rows - 1) * gap.y,
  }
  grids.set(of.id, grid)
  return grid
}

/** Without a word from the ground, replicates and blocks stand behind each other, the small blocks of a replicate in about a square, and all else side by side. */
export function defaultAcross(kind: UnitKind, within: UnitKind, count: number): number {
  if (kind === 'block' && within === 'replicate') return aboutSquare(count)
  return kind === 'block' || kind === 'replicate' ? 1 : count
}

/** How many go side by side to make about a square, without a hole where that can be. */
function aboutSquare(count: number): number {
  const root = Math.ceil(Math.sqrt(count))
  for (let across = root; across <= 2 * root; across++) if (count % across === 0) return across
  return root
}

function gapsBetween(kind: UnitKind, holdsOthers: boolean, ground: Ground): { x: number; y: number } {
  if (!holdsOthers) return { x: ground.plotGap, y: ground.rowAlley }
  return GROUPS.has(kind) ? { x: ground.groupGap, y: ground.groupGap } : { x: ground.blockAlley, y: ground.blockAlley }
}

function put(
  unit: Unit,
  at: { x: number; y: number },
  held: ReadonlyMap<string, Unit[]>,
  grids: Map<string, Grid>,
  ground: Ground,
  places: Map<string, Rectangle>,
): void {
  const { width, length } = sizeOf(unit, held, grids, ground)
  places.set(unit.id, { x: at.x, y: at.y, width, length })
  const own = held.get(unit.id) ?? []
  if (own.length === 0) return
  if (INSIDE.has(own[0]!.kind)) {
    shareOut(own, { ...at, width, length }, places)
    return
  }
  const grid = gridOf(unit, own, held, grids, ground)
  for (const { unit: each, row, column } of grid.cells) {
    const to = { x: at.x + column * (grid.cell.width + grid.gap.x), y: at.y + row * (grid.cell.length + grid.gap.y) }
    put(each, to, held, grids, ground, places)
  }
}

/** Plants share the area of their unit, side by side along its longer side, in a square where they are many. */
function shareOut(plants: readonly Unit[], area: Rectangle, places: Map<string, Rectangle>): void {
  const n = plants.length
  const columns = n <= 4 ? (area.width >= area.length ? n : 1) : Math.ceil(Math.sqrt((n * area.width) / area.length))
  const across = Math.max(1, Math.min(n, columns))
  const rows = Math.ceil(n / across)
  const [width, length] = [area.width / across, area.length / rows]
  plants.forEach((plant, i) =>
    places.set(plant.id, { x: area.x + (i % across) * width, y: area.y + Math.floor(i / across) * length, width, length }),
  )
}

/** Units without a place in a grid lie around what lies in them. */
function boundAround(units: readonly Unit[], index: ReadonlyMap<string, Unit>, places: Map<string, Rectangle>): void {
  const bounds = new Map<string, { x: number; y: number; right: number; back: number }>()
  for (const unit of units) {
    const place = places.get(unit.id)
    if (!place) continue
    for (const id of unit.in) {
      if (places.has(id) || !index.has(id)) continue
      const known = bounds.get(id)
      const [right, back] = [place.x + place.width, place.y + place.length]
      bounds.set(
        id,
        known
          ? {
              x: Math.min(known.x, place.x),
              y: Math.min(known.y, place.y),
              right: Math.max(known.right, right),
              back: Math.max(known.back, back),
            }
          : { x: place.x, y: place.y, right, back },
      )
    }
  }
  for (const [id, { x, y, right, back }] of bounds) places.set(id, { x, y, width: right - x, length: back - y })
}

/** Width and length of a whole site, borders included, from where its units lie. Metres. */
export function extentOf(units: readonly Unit[], border: number): { width: number; length: number } {
  let [width, length] = [0, 0]
  for (const { place } of units) {
    if (!place) continue
    width = Math.max(width, place.x + place.width + border)
    length = Math.max(length, place.y + place.length + border)
  }
  return { width, length }
}

/** Runs whose length the ground may choose: the kinds that are counted without a row, and how many the longest run has. */
export function runsOf(units: readonly Unit[]): { readonly kind: UnitKind; readonly within: UnitKind; readonly count: number }[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const runs = new Map<UnitKind, { within: UnitKind; count: number }>()
  for (const { kind, at } of units) {
    if (!at || at.row !== null || INSIDE.has(kind)) continue
    const known = runs.get(kind)
    const count = Math.max(known?.count ?? 0, at.column + 1)
    runs.set(kind, { within: index.get(at.in)?.kind ?? 'site', count })
  }
  return [...runs].map(([kind, run]) => ({ kind, ...run })).filter((run) => run.count > 1)
}

/**
 * Block by block, so that a change in the day or the crew falls between blocks and not
 * inside one; rows run to and fro, and each block is entered at the corner nearest to
 * where the last one ended.
 */
function walkingOrder(
  units: readonly Unit[],
  walked: UnitKind,
  places: ReadonlyMap<string, Rectangle>,
  index: ReadonlyMap<string, Unit>,
): Map<string, number> {
  const groups = new Map<string, Unit[]>()
  for (const unit of units) {
    if (unit.kind !== walked || !places.has(unit.id)) continue
    const block = blockOf(unit, index)
    pushTo(groups, block, unit)
  }
  const order: Unit[] = []
  const placeOf = (unit: Unit): Rectangle => places.get(unit.id)!
  for (const members of groups.values()) {
    const candidates = [false, true].flatMap((back) => [false, true].map((right) => serpentine(members, placeOf, back, right)))
    const last = order.at(-1)
    const start = (path: readonly Unit[]): number => (last && path[0] ? distance(placeOf(last), placeOf(path[0])) : 0)
    order.push(...candidates.reduce((a, b) => (start(b) < start(a) ? b : a)))
  }
  return new Map(order.map((unit, i) => [unit.id, i + 1]))
}

function blockOf(unit: Unit, index: ReadonlyMap<string, Unit>): string {
  for (const id of unit.in) {
    const above = index.get(id)
    if (above?.kind === 'block') return above.id
    const found = above ? blockOf(above, index) : ''
    if (found) return found
  }
  return ''
}

function serpentine(members: readonly Unit[], placeOf: (unit: Unit) => Rectangle, fromBack: boolean, fromRight: boolean): Unit[] {
  const rows = new Map<number, Unit[]>()
  for (const unit of members) {
    const y = Math.round(placeOf(unit).y * 1e6)
    pushTo(rows, y, unit)
  }
  const ys = [...rows.keys()].sort((a, b) => (fromBack ? b - a : a - b))
  return ys.flatMap((y, i) => {
    const row = rows.get(y)!.sort((a, b) => placeOf(a).x - placeOf(b).x)
    return (i % 2 === 1) !== fromRight ? row.reverse() : row
  })
}

function pushTo<Key>(lists: Map<Key, Unit[]>, key: Key, unit: Unit): void {
  const known = lists.get(key)
  if (known) known.push(unit)
  else lists.set(key, [unit])
}

function distance(a: Rectangle, b: Rectangle): number {
  return Math.abs(a.x - b.x) + Math.abs(a.y - b.y)
}
