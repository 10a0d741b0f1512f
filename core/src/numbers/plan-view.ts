import { fateKind, marksOn, type Fate, type Layout, type Note, type Operation, type Trait } from '../trial/index.ts'
import type { Resolved } from './resolve.ts'
import type { BookRow, TrialBook } from './trial-book.ts'
import { tallyAt } from './walk.ts'

/** What the plan shows of one unit. */
export interface UnitView {
  readonly unit: string
  readonly filled: number
  readonly of: number
  /** Of the trait shown: its number, what it is in words, or why there is none. */
  readonly state: Resolved['kind']
  readonly value: number | null
  readonly text: string | null
  readonly bound: 'below' | 'above' | null
  readonly flagged: boolean
  readonly leftOut: boolean
  /** Lost or discarded by this visit. */
  readonly gone: boolean
  /** What happened to it by this visit, by the names of the kinds. */
  readonly happened: readonly Fate['kind'][]
}

/** What the plan shows of some units at a visit. */
export function unitViews(book: TrialBook, units: readonly string[], traits: readonly Trait[], trait: string, visit: string): UnitView[] {
  return units.flatMap((id): UnitView[] => {
    const unit = book.unit(id)
    if (!unit) return []
    const value = book.value(id, trait, visit)
    const { filled, of } = tallyAt(book, traits, unit, visit)
    const fates = book.fatesOf(id, visit)
    const held = value.kind === 'value' ? value.reduced : null
    return [
      {
        unit: id,
        filled,
        of,
        state: value.kind,
        value: held?.value ?? null,
        text: held?.text ?? null,
        bound: held?.bound ?? null,
        flagged: book.records.notes(id).some((note) => note.kind === 'flag'),
        leftOut: book.leftOut(id, trait) !== undefined,
        gone: fates.some((fate) => fateKind(fate.kind).compared === 'gone'),
        happened: [...new Set(fates.map((fate) => fate.kind))],
      },
    ]
  })
}

/** A row with the note that leaves it out of each trait, and what happened to the unit. */
export interface RowView extends BookRow {
  readonly fates: readonly Fate[]
  /** What was done to the ground, at all sites. */
  readonly operations: readonly Operation[]
  readonly leftOut: ReadonlyMap<string, Note>
}

export function rowView(book: TrialBook, id: string, visit: string): RowView | null {
  if (!book.unit(id)) return null
  const row = book.row(id, visit)
  const leftOut = new Map<string, Note>()
  for (const trait of row.values.keys()) {
    const note = book.leftOut(id, trait)
    if (note) leftOut.set(trait, note)
  }
  return { ...row, leftOut, fates: book.allFates(id), operations: book.records.operations() }
}

/** Levels each unit of a layout was dealt, and has: its own and those of the units it lies in. */
export function marksByUnit({ units }: Layout, which: 'planned' | 'received'): Map<string, Record<string, string>> {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  return new Map(units.map((unit) => [unit.id, marksOn(unit, index, which)]))
}
