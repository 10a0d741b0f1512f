import type { Structure, UnitKind } from '../../trial/index.ts'
import type { Matched } from './roles.ts'

/** What a person says of a table that it does not say itself. */
export interface ImportSaid {
  readonly title: string
  readonly crop: string
  readonly season: number
  /** By column. */
  readonly matched: readonly Matched[]
  /** How the treatments were dealt out; null: as proposed. */
  readonly how: Structure['factors'][number]['how'] | null
  /** Names of what was put on runs of plots side by side; null: as proposed. */
  readonly runs: readonly string[] | null
  /** Rows and columns are blocks of their own, and not only places; null: as proposed. */
  readonly both: boolean | null
  /** By column: what is written otherwise and means the same. */
  readonly same: Readonly<Record<string, Readonly<Record<string, string>>>>
  /** Metres; not needed where the table holds them. */
  readonly plotWidth: number
  readonly plotLength: number
  readonly kind: UnitKind
  /** The day the values were taken; null: not known. */
  readonly on: string | null
}

export interface OddRow {
  readonly line: number
  readonly text: string
  /** Left out: the row is no plot of the trial. Read as: something was understood. Missing: the value is. */
  readonly effect: 'left out' | 'read as' | 'missing'
}

/** Something about the structure that the table suggests and cannot tell. */
export interface Asked {
  readonly key: 'how' | 'runs' | 'both'
  readonly text: string
  /** Names it is about. */
  readonly names: readonly string[]
  readonly proposed: string
}

/** What is said of a table as long as nobody has said anything. */
export function saidOf(matched: readonly Matched[], season: number): ImportSaid {
  return {
    title: '',
    crop: '',
    season,
    matched,
    how: null,
    runs: null,
    both: null,
    same: {},
    plotWidth: 3,
    plotLength: 10,
    kind: 'plot',
    on: null,
  }
}
