import { defaultAcross, INSIDE, slotOf, type Ground, type Unit, type UnitKind } from '../trial/index.ts'

/** Groups inside a block. */
const GROUPS: ReadonlySet<UnitKind> = new Set(['main plot', 'subplot', 'strip'])

/** What stands in a unit, by rows and columns. */
export interface Grid {
  readonly cells: readonly { readonly unit: Unit; readonly row: number; readonly column: number }[]
  readonly rows: number
  readonly columns: number
  readonly perRow: number
  /** One cell, and the way to the next. */
  readonly cell: { readonly width: number; readonly length: number }
  readonly gap: { readonly x: number; readonly y: number }
  /** Guard plots around: at each end of a row, rows before and behind. */
  readonly guards: { readonly ends: number; readonly rows: number }
  readonly path: { readonly every: number; readonly width: number }
  /** How far every second row is set aside. */
  readonly offset: number
  /** Units in a run, which the ground may break where it likes. */
  readonly run: boolean
  /** The cells are what is treated, and not groups of it. */
  readonly finest: boolean
  readonly width: number
  readonly length: number
}

/** The grids of all units that hold others, each worked out once. */
export class Grids {
  readonly held = new Map<string, Unit[]>()
  readonly #grids = new Map<string, Grid>()
  readonly #ground: Ground

  constructor(units: readonly Unit[], ground: Ground) {
    this.#ground = ground
    for (const unit of units) {
      if (!unit.at) continue
      const known = this.held.get(unit.at.in)
      if (known) known.push(unit)
      else this.held.set(unit.at.in, [unit])
    }
  }

  /** Whether a unit is drawn as one: it holds nothing, or only what is observed one by one. */
  isWhole({ id }: Unit): boolean {
    return (this.held.get(id) ?? []).every((each) => INSIDE.has(each.kind))
  }

  /** Size of a unit: of the treated one as set, of others what their grid takes. */
  sizeOf(unit: Unit): { width: number; length: number } {
    return this.isWhole(unit) ? { width: this.#ground.plotWidth, length: this.#ground.plotLength } : this.of(unit)
  }

  of(unit: Unit): Grid {
    const known = this.#grids.get(unit.id)
    if (known) return known
    const grid = this.#made(unit)
    this.#grids.set(unit.id, grid)
    return grid
  }

  #made(of: Unit): Grid {
    const ground = this.#ground
    const own = this.held.get(of.id)!
    const first = own[0]!
    const perRow = Math.min(own.length, ground.across[first.kind] ?? defaultAcross(first.kind, of.kind, own.length))
    const finest = this.isWhole(first)
    const cells = own.map((unit) => {
      const at = unit.at!
      if (at.row !== null) return { unit, row: at.row, column: at.column }
      return { unit, ...slotOf(at.column, perRow, finest && ground.serpentine) }
    })
    const sizes = own.map((each) => this.sizeOf(each))
    const cell = { width: Math.max(...sizes.map((each) => each.width)), length: Math.max(...sizes.map((each) => each.length)) }
    const gap = gapsBetween(first.kind, !finest, ground)
    const columns = 1 + Math.max(...cells.map((each) => each.column))
    const rows = 1 + Math.max(...cells.map((each) => each.row))
    const guards = finest ? { ends: ground.guardPlots, rows: ground.guardRows } : { ends: 0, rows: 0 }
    const path = finest ? { every: ground.pathEvery, width: ground.pathWidth } : { every: 0, width: 0 }
    const offset = finest && ground.offset && rows > 1 ? (cell.width + gap.x) / 2 : 0
    const made = { cells, rows, columns, perRow, cell, gap, guards, path, offset, run: first.at!.row === null, finest }
    return {
      ...made,
      width: alongOf(made, columns + guards.ends - 1) + cell.width + guards.ends * (cell.width + gap.x) + offset,
      length: (rows + 2 * guards.rows) * (cell.length + gap.y) - gap.y,
    }
  }
}

/** Where a column begins, from the left end of the plots; guards stand at negative columns and behind the last. */
export function alongOf({ cell, gap, path, columns }: Pick<Grid, 'cell' | 'gap' | 'path' | 'columns'>, column: number): number {
  const paths = path.every > 0 && column > 0 ? Math.floor(Math.min(column, columns - 1) / path.every) : 0
  return column * (cell.width + gap.x) + paths * path.width
}

function gapsBetween(kind: UnitKind, holdsOthers: boolean, ground: Ground): { x: number; y: number } {
  if (!holdsOthers) return { x: ground.plotGap, y: ground.rowAlley }
  return GROUPS.has(kind) ? { x: ground.groupGap, y: ground.groupGap } : { x: ground.blockAlley, y: ground.blockAlley }
}
