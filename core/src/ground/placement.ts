import { INSIDE, slotOf, type Ground, type Unit, type UnitKind } from '../trial/index.ts'
import { onAvoided } from './free-ground.ts'
import { alongOf, Grids, type Grid } from './grid.ts'
import { groupRefs } from './groups.ts'
import { around, boundsOf, cornersOf, onSite, rectangleIn, SITE, type Frame, type Rectangle } from './rectangle.ts'
import { numberUnits } from './numbering.ts'
import { walkingOrder } from './rounds.ts'

/** Ground that is grown on beside the units of the trial. */
export interface Edge extends Rectangle {
  readonly kind: 'guard' | 'filler'
}

/** Of a run on much forbidden ground: so many places are tried for each unit, then it lies where it must. */
const TRIES = 40

/**
 * Gives every unit its place: those with a place in a grid by that grid, from the inside out;
 * those without (rows, columns, the site) the rectangle around what lies in them. Groups are set
 * aside and turned as the ground says, and runs flow round what is to be avoided. `walked` units
 * get their turn in walking order, and numbers as the ground counts them at this running number of the
 * site; null: they keep the numbers they have.
 */
export function placeUnits(units: readonly Unit[], ground: Ground, walked: UnitKind, site: number | null = 0): Unit[] {
  const { places } = new Placing(units, ground)
  const placed = units.map((unit): Unit => {
    const place = unit.kind === 'site' ? null : places.get(unit.id)
    return { ...unit, place: place ? plain(place) : null, walk: null }
  })
  const order = walkingOrder(placed, ground.orders.walk, walked)
  const turned = placed.map((unit) => ({ ...unit, walk: order.get(unit.id) ?? null }))
  return site === null ? turned : numberUnits(turned, ground.numbering, site)
}

/** The same places and nothing else, for trying many ways: whoever is walked to has its turn already. */
export function placesOf(units: readonly Unit[], ground: Ground): Unit[] {
  const { places } = new Placing(units, ground)
  return units.flatMap((unit) => {
    const place = unit.walk === null ? undefined : places.get(unit.id)
    return place ? [{ ...unit, place: plain(place) }] : []
  })
}

/** Guards and fillers of a site: what is sown there belongs to no treatment. */
export function edgesOf(units: readonly Unit[], ground: Ground): readonly Edge[] {
  return ground.guardPlots + ground.guardRows > 0 || ground.fillers ? new Placing(units, ground).edges : []
}

/** The front left corner and the turn of each group, by its name. */
export function groupFrames(units: readonly Unit[], ground: Ground): Map<string, Frame> {
  const { frames } = new Placing(units, ground)
  return new Map([...groupRefs(units)].flatMap(([id, ref]) => (frames.has(id) ? [[ref, frames.get(id)!] as const] : [])))
}

function plain({ x, y, width, length, turn }: Rectangle): NonNullable<Unit['place']> {
  return turn ? { x, y, width, length, turn } : { x, y, width, length }
}

/** One placing of all units of a site. */
class Placing {
  readonly places = new Map<string, Rectangle>()
  readonly edges: Edge[] = []
  /** By group: its front left corner and how far it is turned. */
  readonly frames = new Map<string, Frame>()
  readonly #ground: Ground
  readonly #grids: Grids
  readonly #refs: ReadonlyMap<string, string>
  readonly #isFree: ((place: Rectangle) => boolean) | null

  constructor(units: readonly Unit[], ground: Ground) {
    this.#ground = ground
    this.#grids = new Grids(units, ground)
    this.#refs = groupRefs(units)
    const avoided = onAvoided(ground)
    this.#isFree = ground.avoid.length === 0 ? null : (place) => avoided(place) === null
    let x = ground.border
    for (const root of units) {
      if (root.at !== null || !this.#grids.held.has(root.id)) continue
      this.#put(root, { x, y: ground.border }, SITE)
      x += this.#grids.sizeOf(root).width + ground.blockAlley
    }
    this.#boundAround(units)
  }

  /** Puts a unit and all in it; says how long it came to be in its frame. */
  #put(unit: Unit, at: { x: number; y: number }, frame: Frame): number {
    const ref = this.#refs.get(unit.id)
    const move = ref === undefined ? undefined : this.#ground.moved[ref]
    if (move) {
      const [x, y] = onSite(frame, [at.x, at.y])
      // Whatever it is set aside by, the place it leaves stays its own.
      return this.#fill(unit, { x: 0, y: 0 }, { x: x + move.x, y: y + move.y, turn: frame.turn + move.turn })
    }
    return this.#fill(unit, at, frame)
  }

  #fill(unit: Unit, at: { x: number; y: number }, frame: Frame): number {
    const size = this.#grids.sizeOf(unit)
    const own = { ...at, ...size }
    const members = this.#grids.held.get(unit.id) ?? []
    if (members.length === 0 || INSIDE.has(members[0]!.kind)) {
      this.places.set(unit.id, rectangleIn(frame, own))
      this.#shareOut(members, own, frame)
      return size.length
    }
    const grid = this.#grids.of(unit)
    const [x, y] = onSite(frame, [at.x, at.y])
    this.frames.set(unit.id, { x, y, turn: frame.turn })
    const avoiding = this.#isFree !== null && (grid.finest || !flowsInside(grid))
    const length = !avoiding ? this.#fillRows(grid, at, frame) : grid.run ? this.#flow(grid, at, frame) : this.#fillPast(grid, at, frame)
    this.places.set(unit.id, this.#isFree ? around(members.map((each) => this.places.get(each.id)!)) : rectangleIn(frame, own))
    return length
  }

  #slot(grid: Grid, at: { x: number; y: number }, row: number, column: number, y?: number): Rectangle {
    const { cell, gap, guards, offset } = grid
    const aside = offset > 0 && row % 2 !== 0 ? offset : 0
    return {
      x: at.x + guards.ends * (cell.width + gap.x) + alongOf(grid, column) + aside,
      y: y ?? at.y + (row + guards.rows) * (cell.length + gap.y),
      ...cell,
    }
  }

  #fillRows(grid: Grid, at: { x: number; y: number }, frame: Frame): number {
    const { cell, gap, guards, rows } = grid
    const byRow = Array.from({ length: rows }, (): Grid['cells'][number][] => [])
    for (const each of grid.cells) byRow[each.row]!.push(each)
    let y = at.y + guards.rows * (cell.length + gap.y)
    byRow.forEach((row, r) => {
      let deep = cell.length
      for (const { unit, column } of row) deep = Math.max(deep, this.#put(unit, this.#slot(grid, at, r, column, y), frame))
      if (grid.finest) this.#edge(grid, at, frame, r, new Set(row.map((each) => each.column)))
      y += deep + gap.y
    })
    this.#guardRows(grid, at, frame, rows)
    return y - gap.y + guards.rows * (cell.length + gap.y) - at.y
  }

  /** Place by place as one walks, leaving out those on forbidden ground. */
  #flow(grid: Grid, at: { x: number; y: number }, frame: Frame): number {
    const { cell, gap, guards, perRow } = grid
    const toAndFro = grid.finest && this.#ground.serpentine
    const most = grid.cells.length + TRIES * (grid.cells.length + perRow)
    const taken = new Map<number, Set<number>>()
    let last = 0
    let n = 0
    for (const { unit } of grid.cells) {
      let slot = slotOf(n, perRow, toAndFro)
      while (n < most && !this.#isFree!(rectangleIn(frame, this.#slot(grid, at, slot.row, slot.column))))
        slot = slotOf(++n, perRow, toAndFro)
      this.#put(unit, this.#slot(grid, at, slot.row, slot.column), frame)
      last = slot.row
      taken.set(slot.row, (taken.get(slot.row) ?? new Set()).add(slot.column))
      n++
    }
    if (grid.finest) for (let row = 0; row <= last; row++) this.#edge(grid, at, frame, row, taken.get(row) ?? new Set())
    this.#guardRows(grid, at, frame, last + 1)
    return (last + 1 + 2 * guards.rows) * (cell.length + gap.y) - gap.y
  }

  #fillPast(grid: Grid, at: { x: number; y: number }, frame: Frame): number {
    const to = this.#past(grid, at, frame)
    return to.y - at.y + this.#fillRows(grid, to, frame)
  }

  /** A grid that keeps its rows and columns goes on behind what lies in its way. */
  #past(grid: Grid, at: { x: number; y: number }, frame: Frame): { x: number; y: number } {
    const { cell, gap } = grid
    for (let n = 0; n < TRIES; n++) {
      const to = { x: at.x, y: at.y + n * (cell.length + gap.y) }
      if (grid.cells.every(({ row, column }) => this.#isFree!(rectangleIn(frame, this.#slot(grid, to, row, column))))) return to
    }
    return at
  }

  /** Guards at the ends of a row, and fillers in its empty places. */
  #edge(grid: Grid, at: { x: number; y: number }, frame: Frame, row: number, taken: ReadonlySet<number>): void {
    const add = (kind: Edge['kind'], column: number): void => this.#addEdge(kind, rectangleIn(frame, this.#slot(grid, at, row, column)))
    for (let n = 1; n <= grid.guards.ends; n++) {
      add('guard', -n)
      add('guard', grid.columns + n - 1)
    }
    if (this.#ground.fillers && grid.run)
      for (let column = 0; column < grid.columns; column++) if (!taken.has(column)) add('filler', column)
  }

  #guardRows(grid: Grid, at: { x: number; y: number }, frame: Frame, rows: number): void {
    for (let n = 1; n <= grid.guards.rows; n++)
      for (const row of [-n, rows + n - 1])
        for (let column = -grid.guards.ends; column < grid.columns + grid.guards.ends; column++)
          this.#addEdge('guard', rectangleIn(frame, this.#slot(grid, at, row, column)))
  }

  #addEdge(kind: Edge['kind'], place: Rectangle): void {
    if (this.#isFree?.(place) ?? true) this.edges.push({ ...place, kind })
  }

  /** Plants share the area of their unit, side by side along its longer side, in a square where they are many. */
  #shareOut(plants: readonly Unit[], area: Rectangle, frame: Frame): void {
    const n = plants.length
    if (n === 0) return
    const columns = n <= 4 ? (area.width >= area.length ? n : 1) : Math.ceil(Math.sqrt((n * area.width) / area.length))
    const across = Math.max(1, Math.min(n, columns))
    const rows = Math.ceil(n / across)
    const [width, length] = [area.width / across, area.length / rows]
    plants.forEach((plant, i) => {
      const own = { x: area.x + (i % across) * width, y: area.y + Math.floor(i / across) * length, width, length }
      this.places.set(plant.id, rectangleIn(frame, own))
    })
  }

  /** Units without a place in a grid lie around what lies in them. */
  #boundAround(units: readonly Unit[]): void {
    const members = new Map<string, Rectangle[]>()
    for (const unit of units) {
      const place = this.places.get(unit.id)
      if (!place) continue
      for (const id of unit.in) {
        if (this.places.has(id)) continue
        const known = members.get(id)
        if (known) known.push(place)
        else members.set(id, [place])
      }
    }
    for (const [id, places] of members) this.places.set(id, around(places))
  }
}

/** Blocks are made of runs that flow by themselves; what else is a group stays whole. */
function flowsInside({ cells }: Grid): boolean {
  return cells.some(({ unit }) => unit.kind === 'block' || unit.kind === 'replicate')
}

/** What a site takes from edge to edge with its border, from where its units and its guards lie. Metres. */
export function extentOf(units: readonly Unit[], border: number, edges: readonly Edge[] = []): Rectangle {
  const found = [...placed(units), ...edges]
  if (found.length === 0) return { x: 0, y: 0, width: 0, length: 0 }
  const { x, y, right, back } = boundsOf(found.flatMap(cornersOf))
  const [left, front] = [Math.min(0, x - border), Math.min(0, y - border)]
  return { x: left, y: front, width: right + border - left, length: back + border - front }
}

/** The same with what else is drawn of the ground: its edge, what is avoided, the arrow. Metres. */
export function siteExtent(units: readonly Unit[], ground: Ground): Rectangle {
  const own = extentOf(units, ground.border, edgesOf(units, ground))
  const { outline, avoid, gradient } = ground
  const drawn = [...(outline ?? []), ...avoid.flatMap((each) => each.corners), ...(gradient ? [gradient.from, gradient.to] : [])]
  if (drawn.length === 0 || own.width === 0) return own
  const { x, y, right, back } = boundsOf([...drawn, [own.x, own.y], [own.x + own.width, own.y + own.length]])
  return { x, y, width: right - x, length: back - y }
}

function* placed(units: readonly Unit[]): Generator<Rectangle> {
  for (const { place } of units) if (place) yield place
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
