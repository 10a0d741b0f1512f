import { recordKind, type Layout, type Unit } from '../trial/index.ts'
import type { TrialContents } from './contents.ts'

/** The same trial under new ids (people keep theirs), for importing beside one that exists. */
export function withNewIds(contents: TrialContents, newId: () => string): TrialContents {
  const fresh = new Map<string, string>()
  const swap = (id: string): string => {
    const known = fresh.get(id)
    if (known) return known
    const made = newId()
    fresh.set(id, made)
    return made
  }
  const title = `${contents.trial.question.title} (copy)`.slice(0, 120)
  const renewedUnit = (unit: Unit): Unit => ({
    ...unit,
    id: swap(unit.id),
    in: unit.in.map(swap),
    at: unit.at && { ...unit.at, in: swap(unit.at.in) },
  })
  const renewedLayout = (layout: Layout): Layout => ({
    ...layout,
    structure: structureOf(layout.structure, swap),
    units: layout.units.map(renewedUnit),
  })
  const layouts = contents.layouts.map(renewedLayout)
  return {
    ...contents,
    trial: { ...contents.trial, id: swap(contents.trial.id), question: { ...contents.trial.question, title } },
    layouts,
    records: contents.records.map((record) => recordKind(record.type).renewed(record, swap)),
    events: contents.events.map((event) => ({
      ...event,
      id: swap(event.id),
      before: renewedDelta(event.before, swap, renewedLayout, renewedUnit),
      after: renewedDelta(event.after, swap, renewedLayout, renewedUnit),
      undoes: event.undoes && swap(event.undoes),
    })),
  }
}

/** Units that were swapped by hand are named in the structure. */
function structureOf(structure: Layout['structure'], swap: (id: string) => string): Layout['structure'] {
  const { swapped } = structure
  return swapped ? { ...structure, swapped: swapped.map((each) => ({ ...each, a: swap(each.a), b: swap(each.b) })) } : structure
}

/** Units named in what an event changed. */
function renewedDelta(
  delta: unknown,
  swap: (id: string) => string,
  renewedLayout: (layout: Layout) => Layout,
  renewedUnit: (unit: Unit) => Unit,
): unknown {
  if (delta === null || typeof delta !== 'object') return delta
  const {
    layouts,
    unit,
    swap: pair,
    extra,
  } = delta as {
    layouts?: Record<string, Layout | null>
    unit?: { id: string }
    swap?: { a: string; b: string }
    extra?: { units: Layout['units'] }
  }
  return {
    ...delta,
    ...(layouts && typeof layouts === 'object'
      ? {
          layouts: Object.fromEntries(
            Object.entries(layouts).map(([key, layout]) => [key, layout?.units ? renewedLayout(layout) : layout]),
          ),
        }
      : {}),
    ...(Array.isArray(extra?.units) ? { extra: { ...extra, units: extra.units.map(renewedUnit) } } : {}),
    ...(unit && typeof unit.id === 'string' ? { unit: { ...unit, id: swap(unit.id) } } : {}),
    ...(pair && typeof pair.a === 'string' && typeof pair.b === 'string' ? { swap: { ...pair, a: swap(pair.a), b: swap(pair.b) } } : {}),
  }
}
