import { INSIDE, type Ground, type Move, type Unit } from '../trial/index.ts'

/** What holds plots and can be set aside and turned, by kind and running number: `block 2`. */
export interface MovableGroup {
  readonly ref: string
  readonly unit: Unit
  /** The part it lies in. */
  readonly part: string | null
}

/** Names of the groups by id: the same whatever the groups are called. */
export function groupRefs(units: readonly Unit[]): Map<string, string> {
  const holding = new Set(units.flatMap(({ at, kind }) => (at && !INSIDE.has(kind) ? [at.in] : [])))
  const counts = new Map<string, number>()
  const refs = new Map<string, string>()
  for (const { id, kind } of units) {
    const n = (counts.get(kind) ?? 0) + 1
    counts.set(kind, n)
    if (holding.has(id)) refs.set(id, `${kind} ${n}`)
  }
  return refs
}

export function movableGroups(units: readonly Unit[], ground: Pick<Ground, 'parts'>): MovableGroup[] {
  const refs = groupRefs(units)
  return units.flatMap((unit) => {
    const ref = refs.get(unit.id)
    return ref === undefined ? [] : [{ ref, unit, part: ground.parts.find((part) => part.groups.includes(ref))?.key ?? null }]
  })
}

export const UNMOVED: Move = { x: 0, y: 0, turn: 0 }
