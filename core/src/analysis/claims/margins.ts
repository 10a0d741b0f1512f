import type { ComparisonRow, TermResult } from '../result.ts'
import type { Claim, Margin, Worth } from './claim.ts'
import { evident, limitsOf, manner, strengthOf, type Analysed, type Source } from './size.ts'

/** Pairs shown to be closer than the margin asked for, and how many were looked at. */
export function alike(source: Source, term: TermResult, rows: readonly ComparisonRow[]): Claim[] {
  const tested = rows.filter((row) => row.equivalence)
  if (tested.length === 0) return []
  const shown = tested.filter((row) => row.equivalence!.equivalent && row.evidence.kind !== 'look')
  return [
    {
      kind: 'alike',
      term: term.term,
      margin: marginOf(source, term, tested[0]!.equivalence!.margin),
      pairs: tested.length,
      shown: shown.map(({ a, b }) => ({ a, b })),
      ...evident(shown[0] ?? tested[0]!),
    },
  ]
}

/** A margin on the scale of the analysis: on a logarithm a ratio, on another what it comes to around the mean. */
function marginOf({ analysis, back }: Source, term: TermResult, typed: number): Margin {
  const { as, out } = manner(analysis)
  const mean = term.means.reduce((sum, each) => sum + each.mean, 0) / term.means.length
  const around = as === 'bent' ? { mean: back(mean), difference: Math.abs(back(mean + typed / 2) - back(mean - typed / 2)) } : null
  return { typed, as, ratio: as === 'ratio' ? out(typed) : NaN, around }
}

/** The smallest difference worth knowing against the intervals of what was compared. */
export function worth(analysis: Analysed, term: TermResult, rows: readonly ComparisonRow[], against: boolean): Worth[] {
  const { smallest, better } = analysis.vocabulary.trait
  if (smallest === null || analysis.scale) return []
  const sign = better === 'less' ? -1 : 1
  const limits = rows
    .map((row) => {
      const alone = limitsOf(row, analysis.significance, 1)
      const [lower, upper] = Number.isNaN(row.lower) ? [alone.lower, alone.upper] : [row.lower, row.upper]
      const turned = against && better !== 'neither' ? sign < 0 : row.difference < 0
      const [low, high] = turned ? [-upper, -lower] : [lower, upper]
      return {
        low,
        high,
        told: strengthOf(row.p, analysis.significance, row.evidence) === 'told',
        gain: turned ? -row.difference : row.difference,
      }
    })
    .filter((each) => Number.isFinite(each.low + each.high))
  if (limits.length === 0) return []
  const told = limits.filter((each) => each.told && each.gain > 0)
  const verdict: Worth['verdict'] = told.some((each) => each.low >= smallest)
    ? 'surpassed'
    : told.some((each) => each.high >= smallest)
      ? 'may be'
      : limits.every((each) => each.high < smallest && (against && better !== 'neither' ? true : each.low > -smallest))
        ? told.length > 0
          ? 'below'
          : 'none left'
        : 'open'
  const several = Object.values(analysis.terms).filter((each) => each.factors.length === 1).length > 1
  return [
    {
      kind: 'worth',
      of: several ? term.term : null,
      smallest,
      verdict,
      oriented: against && better !== 'neither',
      ...evident(term.evidence.kind === 'look' ? rows[0]! : term),
    },
  ]
}
