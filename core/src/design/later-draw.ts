import type { Unit } from '../trial/index.ts'
import { shuffled, type Chance } from './random.ts'

/** Draws that are looked at, first those spread over the larger units and then any, until one can be told from them. */
const DRAWS = 300

/**
 * Which way each of some standing units is handled from now on, by unit: a number below `ways`. Of each
 * group (units that have been treated alike) as many are drawn to each way as its number allows. Drawn
 * evenly, of the ways to do so, among those spread over the larger units that the units lie in, and which
 * leave what is compared linked through them (R. C. Bose, 1947: else it could not be told from them).
 * Null when no draw does.
 */
export function drawLater(groups: readonly (readonly Unit[])[], ways: number, chance: Chance): Map<string, number> | null {
  for (const spread of [true, false]) {
    for (let draw = 0; draw < DRAWS; draw++) {
      const drawn = spread ? spreadDraw(groups, ways, chance) : plainDraw(groups, ways, chance)
      if (linked(groups, drawn)) return drawn
    }
  }
  return null
}

/** Turns are taken over sets of units that lie in the same larger ones: as many of each way in these, too. */
function spreadDraw(groups: readonly (readonly Unit[])[], ways: number, chance: Chance): Map<string, number> {
  const holders = shuffled([...new Set(groups.flat().map(holdersOf))].sort(), chance)
  const alike = new Map<string, Unit[][]>()
  for (const group of groups) {
    const inTurn = holders.flatMap((holder) => {
      const own = group.filter((unit) => holdersOf(unit) === holder)
      return shuffled(own, chance)
    })
    for (let at = 0; at < inTurn.length; at += ways) {
      const set = inTurn.slice(at, at + ways)
      const where = set.map(holdersOf).join('|')
      alike.set(where, [...(alike.get(where) ?? []), set])
    }
  }
  const drawn = new Map<string, number>()
  for (const sets of alike.values()) {
    const order = waysInOrder(ways, chance)
    shuffled(sets, chance).forEach((set, turn) => set.forEach((unit, i) => drawn.set(unit.id, order[(i + turn) % ways]!)))
  }
  return drawn
}

function plainDraw(groups: readonly (readonly Unit[])[], ways: number, chance: Chance): Map<string, number> {
  const drawn = new Map<string, number>()
  for (const group of groups) {
    const order = waysInOrder(ways, chance)
    shuffled(group, chance).forEach((unit, i) => drawn.set(unit.id, order[i % ways]!))
  }
  return drawn
}

function waysInOrder(ways: number, chance: Chance): number[] {
  return shuffled(
    Array.from({ length: ways }, (_, way) => way),
    chance,
  )
}

/** Whether the ways of the groups hang together through the larger units no worse than the groups themselves did. */
function linked(groups: readonly (readonly Unit[])[], drawn: ReadonlyMap<string, number>): boolean {
  // Of rows and columns that cross, through each of them.
  const crossing = Math.max(1, ...groups.flat().map((unit) => unit.in.length))
  return Array.from({ length: crossing }, (_, way) => way).every((way) => {
    const edges = (cellOf: (unit: Unit, group: number) => string): [string, string][] =>
      groups.flatMap((group, g) => group.map((unit): [string, string] => [`in ${unit.in[way] ?? ''}`, cellOf(unit, g)]))
    return partsOf(edges((unit, g) => `${g} ${drawn.get(unit.id)}`)) === partsOf(edges((_, g) => String(g)))
  })
}

/** How many parts a graph falls into that hang together by its edges. */
function partsOf(edges: readonly (readonly [string, string])[]): number {
  const above = new Map<string, string>()
  const top = (node: string): string => {
    let at = node
    for (let next = above.get(at); next !== undefined; next = above.get(at)) at = next
    return at
  }
  let parts = new Set(edges.flat()).size
  for (const [a, b] of edges) {
    const [x, y] = [top(a), top(b)]
    if (x === y) continue
    above.set(x, y)
    parts--
  }
  return parts
}

/** What a unit lies in next, told so that units of the same can be found. */
function holdersOf(unit: Unit): string {
  return [...unit.in].sort().join(' ')
}

/** The unit that a unit lies in next: of several that cross, the first. */
export function nearestHolder(unit: Unit, index: ReadonlyMap<string, Unit>): Unit | undefined {
  return unit.in.map((id) => index.get(id)).find((each) => each !== undefined)
}
