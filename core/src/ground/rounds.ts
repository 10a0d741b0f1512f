import {
  inOwnAxes,
  marksOn,
  unitAround,
  treatmentWith,
  type Layout,
  type Order,
  type Round,
  type Treatments,
  type Unit,
  type UnitKind,
} from '../trial/index.ts'
import { middleOf } from './rectangle.ts'

/** Nearer than this along the way, two units stand in one row, metres. */
const ONE_ROW = 0.01

interface Spot {
  readonly unit: Unit
  /** In the direction of its own rows, metres. */
  readonly along: number
  readonly away: number
}

/**
 * The turn of each walked unit, from 1. Block by block, so that a change in the day or the crew falls
 * between blocks and not inside one; rows run to and fro where that is chosen, and each block is entered
 * at the corner nearest to where the last one ended, or always at the same.
 */
export function walkingOrder(units: readonly Unit[], order: Order, walked: UnitKind): Map<string, number> {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const groups = new Map<string, Unit[]>()
  for (const unit of units) {
    if (unit.kind !== walked || !unit.place) continue
    const group = order.by === 'block' ? (unitAround(unit, 'block', index)?.id ?? '') : ''
    const known = groups.get(group)
    if (known) known.push(unit)
    else groups.set(group, [unit])
  }
  const found: Unit[] = []
  for (const members of groups.values()) {
    const last = found.at(-1)
    const ways = cornersFrom(order.from).map(([back, right]) => pathThrough(members, order, back, right))
    const start = (path: readonly Unit[]): number => (last ? distance(last, path[0]!) : 0)
    found.push(...ways.reduce((a, b) => (start(b) < start(a) ? b : a)))
  }
  return new Map(found.map((unit, i) => [unit.id, i + 1]))
}

/** The turns of a round over a laid-out site: as the ground orders it, what must come first before the rest. */
export function turnsOf({ units, structure }: Layout, order: Order, treatments: Treatments): Map<string, number> {
  const walked = units.find((unit) => unit.walk !== null)?.kind
  if (!walked) return new Map()
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const turns = walkingOrder(units, order, walked)
  if (order.first === 'as they lie') return turns
  const rank = rankOf(treatments, order.first, structure)
  const ranked = [...turns.keys()].map((id, i) => ({ id, i, rank: rank(marksOn(index.get(id)!, index, 'planned')) }))
  ranked.sort((a, b) => a.rank - b.rank || a.i - b.i)
  return new Map(ranked.map(({ id }, i) => [id, i + 1]))
}

/** What rounds are called, and whether a round differs from the walk. */
export const ROUND_NAMES: Readonly<Record<Round, string>> = {
  walk: 'walking order',
  plant: 'planting order',
  treat: 'treating order',
  harvest: 'harvesting order',
}

/** Untreated controls have rank 0; low to high, the amounts decide, each against the largest of its factor. */
function rankOf(treatments: Treatments, first: Order['first'], { controls }: Layout['structure']) {
  const untreated = new Set(treatments.list.filter((each) => each.role === 'untreated control').map((each) => each.key))
  const none = new Set(controls.map(({ factor, level }) => `${factor} ${level}`))
  return (marks: Readonly<Record<string, string>>): number => {
    const treatment = treatmentWith(marks, treatments)
    const levels = treatments.factors.flatMap((factor) => factor.levels.find((level) => level.key === marks[factor.key]) ?? [])
    const amounts = treatments.factors.flatMap((factor) => {
      const most = Math.max(0, ...factor.levels.map((level) => level.amount ?? 0))
      const own = factor.levels.find((level) => level.key === marks[factor.key])?.amount
      return own === null || own === undefined || most === 0 ? [] : [own / most]
    })
    const nothing =
      (treatment && untreated.has(treatment.key)) ||
      (amounts.length > 0 && amounts.every((amount) => amount === 0)) ||
      (levels.length > 0 && Object.entries(marks).every(([factor, level]) => none.has(`${factor} ${level}`)))
    if (nothing) return 0
    return first === 'low to high' && amounts.length > 0 ? 1 + amounts.reduce((sum, each) => sum + each, 0) : 1
  }
}

function cornersFrom(from: Order['from']): readonly (readonly [back: boolean, right: boolean])[] {
  if (from !== 'nearest') return [[from.startsWith('back'), from.endsWith('right')]]
  return [false, true].flatMap((back) => [false, true].map((right) => [back, right] as const))
}

function pathThrough(members: readonly Unit[], { along, toAndFro }: Order, fromBack: boolean, fromRight: boolean): Unit[] {
  const spots = members.map((unit): Spot => {
    const [x, y] = middleOf(inOwnAxes(unit.place!))
    return along === 'rows' ? { unit, along: x, away: y } : { unit, along: y, away: x }
  })
  const [firstAway, firstAlong] = along === 'rows' ? [fromBack, fromRight] : [fromRight, fromBack]
  spots.sort((a, b) => (firstAway ? b.away - a.away : a.away - b.away))
  const rows: Spot[][] = []
  let last = NaN
  for (const spot of spots) {
    if (Math.abs(spot.away - last) < ONE_ROW) rows.at(-1)!.push(spot)
    else rows.push([spot])
    last = spot.away
  }
  return rows.flatMap((row, i) => {
    row.sort((a, b) => a.along - b.along)
    return ((toAndFro && i % 2 === 1) !== firstAlong ? row.reverse() : row).map((each) => each.unit)
  })
}

function distance(a: Unit, b: Unit): number {
  const [[ax, ay], [bx, by]] = [middleOf(a.place!), middleOf(b.place!)]
  return Math.abs(ax - bx) + Math.abs(ay - by)
}
