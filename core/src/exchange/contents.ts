import type { FieldRecord, Layout, Person, Trial, TrialEvent, Unit } from '../trial/index.ts'

/** Everything a trial is: what a package carries and an import restores. */
export interface TrialContents {
  readonly trial: Trial
  readonly layouts: readonly Layout[]
  readonly records: readonly FieldRecord[]
  readonly events: readonly TrialEvent[]
  readonly people: readonly Pick<Person, 'id' | 'name'>[]
}

type Held = { readonly units?: unknown } | null

/** Units of layouts that were taken off stay in the history: what was said of them keeps its place. */
export function unitsEverLaid({ layouts, events }: Pick<TrialContents, 'layouts' | 'events'>): Map<string, Unit['kind']> {
  const found = new Map<string, Unit['kind']>()
  for (const { before, after } of events) {
    for (const delta of [before, after] as ({ layouts?: Record<string, Held>; extra?: Held } | null)[]) {
      if (!delta || typeof delta !== 'object') continue
      const laid = delta.layouts && typeof delta.layouts === 'object' ? Object.values(delta.layouts) : []
      for (const layout of [...laid, delta.extra ?? null]) {
        if (!Array.isArray(layout?.units)) continue
        for (const unit of layout.units as { id?: unknown; kind?: unknown }[])
          if (typeof unit?.id === 'string') found.set(unit.id, unit.kind as Unit['kind'])
      }
    }
  }
  for (const layout of layouts) for (const unit of layout.units) found.set(unit.id, unit.kind)
  return found
}
