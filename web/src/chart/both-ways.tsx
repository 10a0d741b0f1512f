import { capital, countEnds, endsInWords, sentencesOf, type BothWays, type Ended, type TermResult } from '@canter/core/analysis'
import type { UnitSystem } from '@canter/core/quantity'

/** The answer both ways: with what was left out kept in, without what something happened to, and as planned. */
export function BothWaysLines({ both, system }: { both: BothWays; system: UnitSystem }) {
  const lines = [
    ...(both.all === both.without || both.without.leftOut === 0
      ? []
      : [{ about: `With every ${both.all.unit} kept in`, analysis: both.all, changes: true, words: '' }]),
    ...both.others,
  ]
  if (lines.length === 0) return null
  return (
    <div data-testid="other-way">
      {lines.map(({ about, analysis, changes, words }) => {
        const first = changes && analysis ? sentencesOf(analysis, system)[0] : undefined
        return (
          <p key={about} className="small" style={{ margin: '0 0 6px' }}>
            {first ? (
              <>
                <strong>{about}:</strong> {first.text} {words && `${capital(words)}.`}
              </>
            ) : (
              `${about}, ${words}.`
            )}
          </p>
        )
      })}
    </div>
  )
}

/** What a mean stands on, where not all that were started were measured: “3 of 4”. */
export function measuredOf(ends: readonly Ended[], { factors }: Pick<TermResult, 'factors'>, level: string, n: number): string {
  const parts = factors.length === 1 ? [level] : level.split(':')
  const { started, measured } = countEnds(ends, Object.fromEntries(factors.map((key, i) => [key, parts[i]!])))
  return started > measured && measured === n ? `${n} of ${started}` : String(n)
}

/** What became of all that were treated; nothing where all were measured. */
export function WhatBecame({ ends, unit }: { ends: readonly Ended[]; unit: string }) {
  const words = endsInWords(countEnds(ends), unit)
  return words === null ? null : (
    <p className="small quiet" style={{ margin: '2px 0 6px' }} data-testid="what-became">
      {words}.
    </p>
  )
}
