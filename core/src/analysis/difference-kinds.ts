import type { Analysis, TermResult } from './result.ts'

/** A kind of difference between means of two factors, with the error that belongs to it. */
export interface DifferenceKind {
  /** The factor whose levels are set against each other; null: both differ. */
  readonly of: string | null
  /** The factor that is held at one level; null: averaged over, or both differ. */
  readonly at: string | null
  readonly sed: readonly [least: number, most: number]
  readonly df: number
  readonly lsd: number
}

/**
 * The kinds of difference in a term of two factors: averaged over the other, at one level of it, both
 * unlike. In a split plot each has a standard error of its own, and those across main plots mix two
 * (Cochran & Cox 1957, 7.16). Empty for other terms, and where pairs were not compared.
 */
export function differenceKinds({ terms }: Pick<Analysis, 'terms'>, term: TermResult): DifferenceKind[] {
  const pairs = term.comparisons['lsd']
  if (term.factors.length !== 2 || term.factors[0] === 'site' || !pairs) return []
  const [a, b] = term.factors as [string, string]
  const averaged = [a, b].map((of) => kindOf(of, null, terms[of]?.comparisons['lsd'] ?? []))
  const differ = (row: (typeof pairs)[number], f: number): boolean => row.a.split(':')[f] !== row.b.split(':')[f]
  return [
    ...averaged,
    kindOf(
      b,
      a,
      pairs.filter((row) => !differ(row, 0)),
    ),
    kindOf(
      a,
      b,
      pairs.filter((row) => !differ(row, 1)),
    ),
    kindOf(
      null,
      null,
      pairs.filter((row) => differ(row, 0) && differ(row, 1)),
    ),
  ].flatMap((each) => each ?? [])
}

function kindOf(
  of: string | null,
  at: string | null,
  rows: readonly { readonly sed: number; readonly df: number; readonly threshold: number }[],
): DifferenceKind | null {
  if (rows.length === 0) return null
  const seds = rows.map((row) => row.sed)
  const mean = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
  return {
    of,
    at,
    sed: [Math.min(...seds), Math.max(...seds)],
    df: mean(rows.map((row) => row.df)),
    lsd: mean(rows.map((row) => row.threshold)),
  }
}
