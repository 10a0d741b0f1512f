import { formatNumber, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import type { DerivedTrait, FieldRecord, Reading, Trait } from '../trial/index.ts'
import { isOutside, type PlotRow } from './plot-values.ts'

/** A residual this many of its standard errors from zero is looked at before it is believed. */
const ODD = 2.5

/** Whether a plot lies far from what its block and treatment explain. */
export function standsOut(residual: { readonly studentised: number } | undefined): boolean {
  return Math.abs(residual?.studentised ?? 0) > ODD
}

export interface Oddity {
  readonly unit: string
  readonly code: string
  readonly text: string
}

/** What looks odd on each plot before it is believed: conflicts, values out of range, flags, and plots far from the rest. */
export function oddities(
  rows: readonly PlotRow[],
  traits: readonly Trait[],
  residuals: readonly { unit: string; code: string; studentised: number; residual: number }[],
  trait: Trait | DerivedTrait,
  system: UnitSystem,
): Oddity[] {
  const of = ({ unit }: PlotRow, text: string): Oddity => ({ unit: unit.id, code: unit.code, text })
  const recorded = rows.flatMap((row) => [
    ...traits.flatMap((each): Oddity[] => {
      const value = row.values.get(each.key)
      if (value?.kind === 'conflict') return [of(row, `${each.name} was entered twice; choose in Walk which holds.`)]
      if (value?.kind !== 'value' || !isOutside(each, value.worked.value)) return []
      const out = shown(value.worked.value, each.unit, system)
      const confirmed = value.confirmed ? ', confirmed in the field' : ''
      return [of(row, `${each.name} of ${withUnit(formatNumber(out.value, 3), out.unit)} is outside the plausible range${confirmed}.`)]
    }),
    ...row.notes.filter((note) => note.kind === 'flag').map((note) => of(row, `flagged “${note.flag}”: ${note.text}`)),
  ])
  const far = residuals.filter(standsOut).map(({ unit, code, residual }): Oddity => {
    const out = shown(Math.abs(residual), trait.unit, system)
    return {
      unit,
      code,
      text: `${trait.name} is ${withUnit(formatNumber(out.value, 2), out.unit)} ${residual > 0 ? 'above' : 'below'} what its block and treatment explain. Look for a cause; the value alone is none.`,
    }
  })
  return [...recorded, ...far]
}

/** What readings of a plot said before they were corrected, in words. */
export function corrections(records: readonly FieldRecord[], unit: string, traits: readonly string[]): string[] {
  const readings = records.filter(
    (record): record is Reading => record.type === 'reading' && record.unit === unit && traits.includes(record.trait),
  )
  const byId = new Map(readings.map((reading) => [reading.id, reading]))
  return readings.flatMap((reading) =>
    reading.supersedes.flatMap((id) => {
      const before = byId.get(id)
      const typed = before && 'typed' in before.value ? before.value.typed : before?.value.kind === 'missing' ? 'no value' : '?'
      const now = 'typed' in reading.value ? reading.value.typed : reading.value.kind
      return before ? [`Corrected on ${reading.at.slice(0, 10)}: was typed ${typed}, now ${now}.`] : []
    }),
  )
}

/** Plain means of a trait by level of a factor, plots left out not counted; NaN where a level has no value. */
export function plainMeans(rows: readonly PlotRow[], factor: string, trait: string): Map<string, number> {
  const sums = new Map<string, { sum: number; n: number }>()
  for (const row of rows) {
    const value = row.values.get(trait)
    const level = row.unit.received[factor]
    if (level === undefined || value?.kind !== 'value' || row.leftOut(trait)) continue
    const known = sums.get(level) ?? { sum: 0, n: 0 }
    sums.set(level, { sum: known.sum + value.worked.value, n: known.n + 1 })
  }
  return new Map([...sums].map(([level, { sum, n }]) => [level, sum / n]))
}
