import { counted, formatNumber, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import { readingInWords, type DerivedTrait, type FieldRecord, type Reading, type Trait, type Unit } from '../trial/index.ts'
import type { TrialBook } from './trial-book.ts'

/** A residual this many of its standard errors from zero is looked at before it is believed. */
const ODD = 2.5

/** Whether a unit lies far from what its block and treatment explain. */
export function standsOut(residual: { readonly studentised: number } | undefined): boolean {
  return Math.abs(residual?.studentised ?? 0) > ODD
}

export interface Oddity {
  readonly unit: string
  readonly code: string
  readonly text: string
}

/** What looks odd on each unit of a site before it is believed: conflicts, values out of range, flags, and units far from the rest. */
export function oddities(
  book: TrialBook,
  site: string,
  visit: string,
  traits: readonly Trait[],
  residuals: readonly { unit: string; code: string; studentised: number; residual: number }[],
  trait: Trait | DerivedTrait,
  system: UnitSystem,
): Oddity[] {
  const walked = book.walked(site, visit)
  const recorded = walked.flatMap((unit): Oddity[] => {
    const of = (text: string): Oddity => ({ unit: unit.id, code: unit.code, text })
    return [
      ...traits.flatMap((each) => {
        const value = book.value(unit.id, each.key, visit)
        if (value.kind === 'conflict') return [of(`${each.name} was entered twice; choose in Walk which holds.`)]
        if (value.kind !== 'value' || !value.outOfRange) return []
        const confirmed = value.confirmed ? ', confirmed in the field' : ''
        return [
          of(
            `${each.name} of ${value.readings.map((reading) => said(reading, each, system)).join(', ')} is outside the plausible range${confirmed}.`,
          ),
        ]
      }),
      ...book.records
        .notes(unit.id)
        .filter((note) => note.kind === 'flag')
        .map((note) => of(`flagged “${note.flag}”: ${note.text}`)),
    ]
  })
  const own = new Set(walked.flatMap((unit) => [unit.id, ...unit.in]))
  const far = residuals
    .filter((row) => standsOut(row) && own.has(row.unit))
    .map(({ unit, code, residual }): Oddity => {
      const out = shown(Math.abs(residual), trait.unit, system)
      return {
        unit,
        code,
        text: `${trait.name} is ${withUnit(formatNumber(out.value, 2), out.unit)} ${residual > 0 ? 'above' : 'below'} what its block and treatment explain. Look for a cause; the value alone is none.`,
      }
    })
  return [...apart(book, walked, visit, traits), ...recorded, ...far]
}

/** What two people read alike stands in one line a trait: it is a choice to be made once, not an odd value each time. */
function apart(book: TrialBook, walked: readonly Unit[], visit: string, traits: readonly Trait[]): Oddity[] {
  return traits.flatMap((trait) => {
    const own = walked.filter((unit) => book.value(unit.id, trait.key, visit).kind === 'observers')
    const [first] = own
    if (!first) return []
    const more = own.length > 1 ? ` (and ${counted(own.length - 1, 'other')})` : ''
    return [
      {
        unit: first.id,
        code: first.code,
        text: `${trait.name}${more} was read by two people; their readings are kept apart until you choose in Results.`,
      },
    ]
  })
}

/** A reading in the reader's own measure. */
function said(reading: Reading, trait: Trait, system: UnitSystem): string {
  if (reading.value.kind !== 'number') return readingInWords(reading.value)
  const out = shown(reading.value.value, trait.unit, system)
  return withUnit(formatNumber(out.value, 3), out.unit)
}

/** What readings of a unit at a visit said before they were corrected, in words. */
export function corrections(
  records: Iterable<FieldRecord>,
  unit: string,
  traits: readonly string[],
  visit: string,
  dateOf: (instant: string) => string,
): string[] {
  const readings = [...records].filter(
    (record): record is Reading =>
      record.type === 'reading' && record.unit === unit && record.visit === visit && traits.includes(record.trait),
  )
  const byId = new Map(readings.map((reading) => [reading.id, reading]))
  return readings.flatMap((reading) =>
    reading.supersedes.flatMap((id) => {
      const before = byId.get(id)
      return before
        ? [`Corrected on ${dateOf(reading.at)}: was typed ${readingInWords(before.value)}, now ${readingInWords(reading.value)}.`]
        : []
    }),
  )
}
