import type { UnitSystem } from '../../quantity/index.ts'
import type { ReadingValue } from '../reading-value.ts'
import type { Trait } from '../trait.ts'

/** What the samples of one unit come to. */
export interface Reduced {
  /** In the trait's measure; of a bound the limit, of a share and of yes and no the percentage; null for words. */
  readonly value: number | null
  /** What it is in words, where it is no number. */
  readonly text: string | null
  /** The true value lies below, or above, `value`. */
  readonly bound: 'below' | 'above' | null
  /** What the analysis takes: `value` of `exposure` looked at, for counts and shares. */
  readonly part: number | null
  readonly exposure: number | null
}

export interface Choice {
  readonly label: string
  readonly meaning: string
  readonly value: ReadingValue
}

/** A field of the trait, and what is wrong with it. */
export interface Lack {
  readonly field: 'kind' | 'low' | 'steps'
  readonly problem: string
}

export type ReadText = { ok: true; value: ReadingValue; number: number | null } | { ok: false; problem: string }

/** One file a kind of trait, all of this shape. */
export interface TraitKind {
  readonly key: string
  readonly name: string
  readonly about: string
  /** Kinds of value a reading of it may hold, besides “missing”. */
  readonly values: readonly ReadingValue['kind'][]
  /** Whether what is typed has a measure. */
  readonly measured: boolean
  /** Whether others can be worked out from what it comes to. */
  readonly numeric: boolean
  /** How what it comes to is written: to the decimals it is read with, whole, or rounded to what it is worth. */
  readonly digits: 'as read' | 'whole' | 'rounded'
  /** Whether a reading means what the described steps say, so that they stand as long as it does. */
  readonly held: boolean
  /** What the analysis makes of it; null: it is shown and not analysed. */
  readonly analysed: 'continuous' | 'count' | 'share' | 'score' | null
  /** Answers to tap; none: it is typed. */
  readonly choices: ((trait: Trait) => readonly Choice[]) | null
  /** Of what is typed: which keyboard a phone opens, and an example. */
  readonly keyboard: 'decimal' | 'text' | 'date'
  readonly example: string
  /** The measure of the number it comes to. */
  comesTo(trait: Pick<Trait, 'unit'>): string
  /** What a trait of this kind still needs; null: nothing. */
  lack(trait: Trait): Lack | null
  /** What somebody typed; the problem in words when it is none of this. */
  read(typed: string, trait: Trait, system: UnitSystem): ReadText
  /** The number a value is held against the plausible range by; null when there is none. */
  figure(value: ReadingValue, trait: Trait): number | null
  /** Samples of one unit at one visit by one observer, none of them missing; declared here for the kind. */
  reduce(values: readonly ReadingValue[], trait: Trait): Reduced
}

export const NOTHING: Reduced = { value: null, text: null, bound: null, part: null, exposure: null }

export function mean(values: readonly number[]): number {
  return values.reduce((sum, each) => sum + each, 0) / values.length
}

/** It comes to its own measure, and needs nothing more. */
export const plain: Pick<TraitKind, 'comesTo' | 'lack'> = { comesTo: (trait) => trait.unit, lack: () => null }

/** Answers that are tapped and never typed. */
export function notTyped(): ReadText {
  return { ok: false, problem: 'Choose one of the answers.' }
}
