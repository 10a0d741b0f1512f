import { INSIDE, inOwnAxes, unitAround, type Corner, type Numbering, type Unit, type UnitKind } from '../trial/index.ts'
import { middleOf } from './rectangle.ts'

/** Nearer than this two units stand in one row or column, metres. */
const ONE_ROW = 0.01

/**
 * Gives the treated units the numbers of a scheme, and the plants in them theirs. What the design called
 * a unit is kept, so that every scheme can be gone back on; `site` is its running number in the trial,
 * from 0. Numbers typed by hand stand before all.
 */
export function numberUnits(units: readonly Unit[], numbering: Numbering, site: number): Unit[] {
  const { scheme, siteThousands, own } = numbering
  if (scheme === 'as designed' && !siteThousands && Object.keys(own).length === 0 && units.every((unit) => unit.counted === undefined))
    return [...units]
  const designed = units.map((unit): Unit => {
    const { counted, ...rest } = unit
    return counted === undefined ? unit : { ...rest, code: counted }
  })
  const kind = numberedKind(designed)
  const counted = designed.filter((unit) => unit.kind === kind && unit.place !== null)
  const codes = schemeCodes(counted, designed, numbering)
  const thousand = siteThousands ? thousandsOf(codes.values()) : 0
  const codeOf = (unit: Unit): string => {
    const typed = own[`${unit.kind} ${unit.code}`]
    if (typed !== undefined) return typed
    const code = codes.get(unit.id)
    if (code === undefined) return unit.code
    return thousand > 0 && /^\d+$/.test(code) ? String(thousand * (site + 1) + Number(code)) : code
  }
  const named = new Map(designed.map((unit) => [unit.id, codeOf(unit)]))
  const index = new Map(designed.map((unit) => [unit.id, unit]))
  return designed.map((unit) => {
    // A plant is called after what it stands in.
    const above = INSIDE.has(unit.kind) && unit.at ? index.get(unit.at.in) : undefined
    const code =
      above && named.get(above.id) !== above.code && unit.code.startsWith(above.code) && own[`${unit.kind} ${unit.code}`] === undefined
        ? named.get(above.id)! + unit.code.slice(above.code.length)
        : named.get(unit.id)!
    return code === unit.code ? unit : { ...unit, code, counted: unit.code }
  })
}

/** The kind whose stakes are numbered: the finest that is not a part of another. */
function numberedKind(units: readonly Unit[]): UnitKind | null {
  const holding = new Set(units.flatMap(({ at, kind }) => (at && !INSIDE.has(kind) ? [at.in] : [])))
  return units.find((unit) => unit.at && !INSIDE.has(unit.kind) && !holding.has(unit.id))?.kind ?? null
}

function schemeCodes(counted: readonly Unit[], units: readonly Unit[], { scheme, from, toAndFro }: Numbering): Map<string, string> {
  switch (scheme) {
    case 'as designed':
      return new Map(counted.map((unit) => [unit.id, unit.code]))
    case 'running':
      return new Map(rowsFrom(counted, from, toAndFro).flatMap((row) => row).map(({ id }, i) => [id, String(i + 1)])) // prettier-ignore
    case 'row and column': {
      const columns = linesOf(counted, 0, from.endsWith('right'))
      const size = hundredsFor(columns.size)
      return new Map(
        rowsFrom(counted, from, false).flatMap((row, r) =>
          row.map(({ id }) => [id, String((r + 1) * size + columns.get(id)! + 1)] as const),
        ),
      )
    }
    case 'block hundreds': {
      const index = new Map(units.map((unit) => [unit.id, unit]))
      const blocks = new Map<string, Unit[]>()
      for (const unit of counted) {
        const block = unitAround(unit, 'block', index)?.id ?? ''
        blocks.set(block, [...(blocks.get(block) ?? []), unit])
      }
      const size = hundredsFor(Math.max(...[...blocks.values()].map((members) => members.length)))
      return new Map(
        [...blocks.values()].flatMap((members, b) =>
          rowsFrom(members, from, toAndFro)
            .flatMap((row) => row)
            .map(({ id }, i) => [id, String((b + 1) * size + i + 1)] as const),
        ),
      )
    }
  }
}

/** 100, or as many tens more as the longest count needs. */
function hundredsFor(count: number): number {
  return count > 999 ? 10_000 : count > 99 ? 1000 : 100
}

function thousandsOf(codes: Iterable<string>): number {
  let most = 999
  for (const code of codes) if (/^\d+$/.test(code)) most = Math.max(most, Number(code))
  return 10 ** String(most).length
}

/** Rows as they lie, from a corner of the ground. Turned groups are read along their own rows. */
function rowsFrom(units: readonly Unit[], from: Corner, toAndFro: boolean): Unit[][] {
  const lines = linesOf(units, 1, from.startsWith('back'))
  const rows: Unit[][] = []
  for (const unit of units) (rows[lines.get(unit.id)!] ??= []).push(unit)
  const right = from.endsWith('right')
  return rows.map((row, i) => {
    const sorted = row.sort((a, b) => spot(a)[0] - spot(b)[0])
    return (toAndFro && i % 2 === 1) !== right ? sorted.reverse() : sorted
  })
}

/** Which line each unit stands in, along one axis, counted from 0; what is turned otherwise stands in lines of its own. */
function linesOf(units: readonly Unit[], axis: 0 | 1, fromFar: boolean): Map<string, number> {
  const sorted = units
    .map((unit) => ({ id: unit.id, at: spot(unit)[axis], turn: Math.round((unit.place!.turn ?? 0) * 1e6) }))
    .sort((a, b) => a.turn - b.turn || (fromFar ? b.at - a.at : a.at - b.at))
  const lines = new Map<string, number>()
  let [line, last, facing] = [-1, NaN, NaN]
  for (const { id, at, turn } of sorted) {
    if (turn !== facing || !(Math.abs(at - last) < ONE_ROW)) line++
    lines.set(id, line)
    ;[last, facing] = [at, turn]
  }
  return lines
}

function spot({ place }: Unit): readonly [number, number] {
  return middleOf(inOwnAxes(place!))
}
