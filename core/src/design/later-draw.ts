import type { Unit } from '../trial/index.ts'
import { shuffled, type Chance } from './random.ts'

/**
 * Which way each of some standing units is handled from now on, by unit: a number below `ways`. Of each
 * group (units that have been treated alike) as many are drawn to each way as its number allows, and in
 * each larger unit as many as its number allows: turns are taken over sets of units that lie in the same
 * larger ones, and chance orders the groups, the ways and what is left over.
 */
export function drawLater(groups: readonly (readonly Unit[])[], ways: number, chance: Chance): Map<string, number> {
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
    const order = shuffled(
      Array.from({ length: ways }, (_, way) => way),
      chance,
    )
    shuffled(sets, chance).forEach((set, turn) => set.forEach((unit, i) => drawn.set(unit.id, order[(i + turn) % ways]!)))
  }
  return drawn
}

/** What a unit lies in next, told so that units of the same can be found. */
function holdersOf(unit: Unit): string {
  return [...unit.in].sort().join(' ')
}

/** The unit that a unit lies in next: of several that cross, the first. */
export function nearestHolder(unit: Unit, index: ReadonlyMap<string, Unit>): Unit | undefined {
  return unit.in.map((id) => index.get(id)).find((each) => each !== undefined)
}
