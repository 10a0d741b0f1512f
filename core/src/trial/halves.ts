import type { Layout, Structure, Unit, UnitKind } from './structure.ts'

/** One half of a plot, handled otherwise than the other from a day on. */
export const HALF = 'half plot' as const satisfies UnitKind

/** Kinds that are a part of the treated unit: they share its area out. */
export const INSIDE: ReadonlySet<UnitKind> = new Set(['plant', 'sample', HALF])

/** The halves of each plot that has some, by the plot. */
export function halvesOf(units: readonly Unit[]): Map<string, Unit[]> {
  const found = new Map<string, Unit[]>()
  for (const unit of units) {
    if (unit.kind !== HALF) continue
    for (const id of unit.in) found.set(id, [...(found.get(id) ?? []), unit])
  }
  return found
}

/** The day from which halves stand for their plots; null where there are none. */
export function halvedSince({ kinds }: Pick<Structure, 'kinds'>): string | null {
  return kinds.find(({ kind }) => kind === HALF)?.from ?? null
}

/** Plots in halves, and the halves, each with the day from which halves are read and not plots. */
export function halvedUnits(layouts: readonly Layout[]): Map<string, string> {
  return new Map(
    layouts.flatMap(({ structure, units }) => {
      const since = halvedSince(structure)
      if (since === null) return []
      return [...halvesOf(units)].flatMap(([plot, halves]) => [plot, ...halves.map((half) => half.id)].map((id) => [id, since] as const))
    }),
  )
}

/** Whether halves are read at a visit instead of their plots; one whose day is not known is after everything. */
export function isHalved({ structure }: Pick<Layout, 'structure'>, visit: { readonly on: string | null }): boolean {
  const since = halvedSince(structure)
  return since !== null && (visit.on === null || visit.on >= since)
}

/** The units of a layout that stand for themselves: those of the treated kind, and of those with halves the halves. */
export function treatedUnits(units: readonly Unit[], treated: UnitKind): Unit[] {
  const halved = halvesOf(units)
  return units.filter((unit) => unit.kind === HALF || (unit.kind === treated && !halved.has(unit.id)))
}

/** A layout as one walks it at a visit: half by half once the plots are halved, and till then without halves. */
export function asVisited(layout: Layout, visit: { readonly on: string | null }): Layout {
  if (halvedSince(layout.structure) === null) return layout
  if (!isHalved(layout, visit)) return { ...layout, units: layout.units.filter((unit) => unit.kind !== HALF) }
  const halved = halvesOf(layout.units)
  const stops = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const turns = new Map(stops.flatMap((unit) => halved.get(unit.id) ?? [unit]).map((unit, i) => [unit.id, i + 1]))
  return { ...layout, units: layout.units.map((unit) => ({ ...unit, walk: turns.get(unit.id) ?? null })) }
}
