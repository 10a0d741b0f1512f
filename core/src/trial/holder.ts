import type { Unit, UnitKind } from './structure.ts'

/** The unit of a kind that a unit lies in, directly or by way of others; undefined where there is none. */
export function unitAround(unit: Unit, kind: UnitKind, index: ReadonlyMap<string, Unit>): Unit | undefined {
  for (const id of unit.in) {
    const above = index.get(id)
    const found = above?.kind === kind ? above : above && unitAround(above, kind, index)
    if (found) return found
  }
  return undefined
}

/** Whether a unit stands beside the trial though no plan has it: nothing was planned for it, and it is compared with none. */
export function isExtra(unit: Unit, index: ReadonlyMap<string, Unit>): boolean {
  return Object.keys(unit.planned).length === 0 && unit.in.some((id) => index.get(id)?.kind === 'demonstration')
}

/** All that a unit lies in, the nearest first; the site only where there is nothing between. */
export function holdersOf(unit: Unit, index: ReadonlyMap<string, Unit>): Unit[] {
  const found = new Set<Unit>()
  let level = [unit]
  while (level.length > 0) {
    level = level.flatMap((each) => each.in.flatMap((id) => index.get(id) ?? [])).filter((each) => !found.has(each))
    for (const each of level) found.add(each)
  }
  const all = [...found]
  return all.length > 1 ? all.filter((each) => each.kind !== 'site') : all
}
