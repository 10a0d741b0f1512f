import type { z } from 'zod'
import { id, instant, words } from '../text.ts'
import type { Trait } from '../trait.ts'
import type { UnitKind } from '../structure.ts'

/** What every record says of where it came from. */
export const who = {
  id,
  at: instant,
  /** Whoever entered it. */
  person: id,
  /** Which device wrote it, e.g. to find a phone with a wrong clock. */
  device: words().min(1).max(60),
}

/** What a record must fit: the trial as it stands when the record is written. */
export interface RecordFrame {
  readonly units: ReadonlyMap<string, UnitKind>
  readonly traits: ReadonlyMap<string, Trait>
  /** Visits by key, with the day each is planned for. */
  readonly visits: ReadonlyMap<string, string | null>
  /** Of plots in halves, and of the halves, the day from which halves are read and not plots. */
  readonly halved: ReadonlyMap<string, string>
  readonly sites: ReadonlySet<string>
  readonly people: ReadonlySet<string>
  /** Keys of what is varied. */
  readonly factors: ReadonlySet<string>
}

/** A row of its table: text by column. */
export interface RecordRow {
  readonly cell: (column: string) => string
}

/** One file a kind of record, all of this shape; the list is in `index.ts`. */
export interface RecordKind<Type extends { type: string; id: string }> {
  readonly type: Type['type']
  readonly schema: z.ZodType<Type>
  /** Its table in a data package. */
  readonly file: string
  /** The first schema of packages that has it; absent: the first of all. */
  readonly since?: number
  readonly about: string
  /** Columns beside those every record has. */
  readonly columns: readonly string[]
  /** Columns after those, which older packages do not have. */
  readonly later?: readonly string[]
  cells(record: Type): string[]
  /** The record's own fields from its row; the schema judges them afterwards. */
  read(row: RecordRow): Record<string, unknown>
  /** The unit it is about, if any. */
  unitOf(record: Type): string | null
  /** The same under other ids. */
  renewed(record: Type, swap: (id: string) => string): Type
  /** Why it does not fit the trial, in words; null when it does. */
  misfit(record: Type, frame: RecordFrame): string | null
}

export const NO_UNIT = 'The plot is not part of this trial’s layout. Was it laid out again?'

/** A number in a cell, or the cell itself where it is none, so that the schema says so. */
export function numberIn(cell: string): unknown {
  const value = Number(cell)
  return cell.trim() === '' || !Number.isFinite(value) ? cell : value
}

export function orNull(cell: string): string | null {
  return cell === '' ? null : cell
}
