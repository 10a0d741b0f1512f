import { z } from 'zod'
import type { AnovaRow } from '../statistics/index.ts'
import { UnitKind, type Structure, type Unit } from '../trial/index.ts'
import type { Evidence } from './evidence.ts'

/** The analysis of any layout of several factors, errors and sites, from its structure alone. */
export interface LayoutRequest {
  readonly structure: Structure
  readonly units: readonly Unit[]
  readonly factors: readonly { readonly key: string; readonly levels: readonly string[] }[]
  readonly values: ReadonlyMap<string, number>
  readonly trait: LayoutTrait
  readonly options: LayoutOptions
}

export interface LayoutTrait {
  readonly name: string
  readonly unit: string
  /** How samples of one unit are brought together: by their mean, by their total, or with a warning. */
  readonly kind: 'continuous' | 'count' | 'score'
}

export const LayoutOptions = z.strictObject({
  significance: z.number().gt(0).lt(1).default(0.05),
  method: z
    .enum(['lsd', 'tukey', 'scheffe', 'student-newman-keuls', 'bonferroni', 'sidak', 'holm', 'benjamini-hochberg', 'dunnett'])
    .default('tukey'),
  /** Which question the tests of an unbalanced layout answer: I in order, II after all that do not contain the term, III after all others. */
  tests: z.enum(['I', 'II', 'III']).default('I'),
  /** Pairs are only compared below a significant F (the protected LSD). */
  protect: z.boolean().default(false),
  /** Kinds of unit to be taken out as fixed terms, though a factor was applied to them; left out, they are errors of their own. */
  fixed: z.array(UnitKind).default([]),
  /** Terms of the treatments, to be used instead of the full factorial. */
  terms: z.array(z.array(z.string()).min(1)).optional(),
})
export type LayoutOptions = z.infer<typeof LayoutOptions>

export interface LayoutTest extends AnovaRow {
  /** The error it is held against. */
  readonly stratum: string
  readonly errorDf: number
}

export interface LayoutMean {
  readonly level: string
  readonly n: number
  readonly mean: number
  readonly se: number | null
  readonly lower: number | null
  readonly upper: number | null
}

export interface LayoutPair {
  readonly a: string
  readonly b: string
  readonly difference: number
  readonly sed: number
  readonly df: number
  readonly t: number
  readonly p: number
  readonly lsd: number
}

export interface LayoutAnalysis {
  readonly kind: 'tested' | 'described'
  readonly trait: LayoutRequest['trait']
  readonly options: LayoutOptions
  readonly model: string
  /** What was dealt out in what, and what each term is held against. */
  readonly words: string
  readonly observations: number
  readonly missing: number
  readonly grandMean: number
  readonly tests: readonly LayoutTest[]
  readonly errors: readonly {
    readonly stratum: string
    readonly df: number
    readonly ss: number
    readonly ms: number
    readonly cv: number
  }[]
  /** By term of the treatments. */
  readonly means: Readonly<Record<string, readonly LayoutMean[]>>
  readonly pairs: Readonly<Record<string, readonly LayoutPair[]>>
  readonly letters: Readonly<Record<string, Readonly<Record<string, string>>>>
  readonly checks: {
    readonly shapiroWilk: { readonly w: number; readonly p: number } | null
    readonly outlier: { readonly unit: string; readonly t: number; readonly p: number } | null
  }
  /** Of the comparisons of each term: look, compare or trial, and why. */
  readonly evidence: Readonly<Record<string, Evidence>>
  /** The answer in plain words, one sentence a term. */
  readonly sentences: readonly string[]
  readonly cautions: readonly string[]
}
