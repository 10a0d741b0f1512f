import type { AnovaRow, Comparison, ComparisonMethod } from '../statistics/index.ts'
import type { Evidence } from './evidence.ts'

export interface MeanRow {
  readonly level: string
  readonly n: number
  /** Adjusted for blocks; the plain mean when nothing could be fitted. */
  readonly mean: number
  readonly se: number
  readonly lower: number
  readonly upper: number
  /** Lowest and highest plot. */
  readonly min: number
  readonly max: number
  /** 100 × mean / mean of the control; NaN without a control. */
  readonly percentOfControl: number
}

export interface ComparisonRow extends Omit<Comparison, 'a' | 'b'> {
  readonly a: string
  readonly b: string
  readonly evidence: Evidence
}

export interface ResidualRow {
  readonly unit: string
  readonly code: string
  readonly level: string
  readonly value: number
  readonly fitted: number
  readonly residual: number
  /** Residual over its own standard error (internally studentised); NaN where the plot alone decides its fit. */
  readonly studentised: number
}

export interface Analysis {
  readonly kind: 'tested' | 'described'
  readonly trait: { readonly key: string; readonly name: string; readonly unit: string }
  readonly factor: string
  readonly significance: number
  readonly model: { readonly words: string; readonly symbols: string }
  readonly plots: number
  readonly missing: number
  readonly leftOut: number
  readonly anova: readonly AnovaRow[]
  readonly residual: { readonly df: number; readonly ss: number; readonly ms: number }
  readonly grandMean: number
  /** %, root of the error mean square over the grand mean. */
  readonly cv: number
  readonly means: readonly MeanRow[]
  readonly control: string | null
  readonly comparisons: Readonly<Record<ComparisonMethod, readonly ComparisonRow[]>>
  readonly letters: Readonly<Record<'lsd' | 'tukey', Readonly<Record<string, string>>>>
  /** Mean, least and greatest over the pairs; all alike when no plot is lost. */
  readonly sed: Spread
  readonly lsd: Spread
  readonly hsd: Spread
  readonly residuals: readonly ResidualRow[]
  readonly cautions: readonly string[]
}

export interface Spread {
  readonly mean: number
  readonly min: number
  readonly max: number
}
