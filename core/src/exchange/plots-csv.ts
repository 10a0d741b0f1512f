import type { TrialBook } from '../numbers/index.ts'
import { holdersOf, marksOn, treatmentOn, unitAround, type Layout, type Site, type Trial, type Unit, type Visit } from '../trial/index.ts'
import { writeCsv } from './table.ts'

/**
 * One row a walked unit and visit with its treatment and every current and derived value: for a
 * spreadsheet or another program. A bound keeps its sign, words stay words, and two people's
 * readings stand as two.
 */
export function plotsCsv(trial: Trial, layouts: readonly Layout[], book: TrialBook): string {
  const { columns, rows } = plotsTable(trial, layouts, book)
  return writeCsv(columns, rows)
}

/** The same as columns and rows of text. */
export function plotsTable(trial: Trial, layouts: readonly Layout[], book: TrialBook): { columns: string[]; rows: string[][] } {
  const { treatments, traits } = trial
  const all = [...traits.observed, ...traits.derived]
  const index = new Map(layouts.flatMap(({ units }) => units.map((unit) => [unit.id, unit] as const)))
  const columns = [
    'site',
    'visit',
    'kind',
    'plot',
    'block',
    'lies_in',
    'treatment',
    'treatment_planned',
    ...treatments.factors.flatMap((factor) => [factor.key, ...(factor.measure ? [`${factor.key}_amount [${factor.measure}]`] : [])]),
    'x [m]',
    'y [m]',
    'width [m]',
    'length [m]',
    'turn [°]',
    'walk',
    ...all.map((trait) => (trait.unit && trait.unit !== 'score' ? `${trait.key} [${trait.unit}]` : trait.key)),
    'left_out',
    'notes',
  ]
  const siteOf = (key: string): Site => trial.sites.find((site) => site.key === key)!
  const unitsWalked = (site: string): { unit: Unit; visits: Visit[] }[] => {
    const found = new Map<Unit['id'], { unit: Unit; visits: Visit[] }>()
    for (const visit of traits.visits)
      for (const unit of book.walked(site, visit.key)) {
        const known = found.get(unit.id)
        if (known) known.visits.push(visit)
        else found.set(unit.id, { unit, visits: [visit] })
      }
    return [...found.values()]
  }
  const rows = layouts.flatMap(({ siteKey }) =>
    unitsWalked(siteKey).flatMap(({ unit, visits }) =>
      visits.map((visit) => {
        const received = marksOn(unit, index, 'received')
        const notes = book.records.notes(unit.id)
        return [
          siteOf(siteKey).name,
          visit.name,
          unit.kind,
          unit.code,
          unitAround(unit, 'block', index)?.code ?? '',
          holdersOf(unit, index)
            .map((each) => `${each.kind} ${each.code}`)
            .join('; '),
          treatmentOn(unit, index, treatments)?.code ?? '',
          treatmentOn(unit, index, treatments, 'planned')?.code ?? '',
          ...treatments.factors.flatMap((factor) => {
            const level = factor.levels.find((each) => each.key === received[factor.key])
            return [level?.code ?? '', ...(factor.measure ? [String(level?.amount ?? '')] : [])]
          }),
          String(unit.place?.x ?? ''),
          String(unit.place?.y ?? ''),
          String(unit.place?.width ?? ''),
          String(unit.place?.length ?? ''),
          String(unit.place?.turn ?? ''),
          String(unit.walk ?? ''),
          ...all.map((trait) => cellOf(book, unit.id, trait.key, visit.key)),
          notes
            .filter((note) => note.kind === 'left out')
            .map((note) => note.text)
            .join('; '),
          notes
            .filter((note) => note.kind !== 'left out')
            .map((note) => (note.flag ? `${note.flag}: ${note.text}` : note.text))
            .join('; '),
        ]
      }),
    ),
  )
  return { columns, rows }
}

function cellOf(book: TrialBook, unit: string, trait: string, visit: string): string {
  const value = book.value(unit, trait, visit)
  if (value.kind === 'observers')
    return value.by
      .map((each) => (each.value.kind === 'value' ? String(each.value.reduced.value ?? each.value.reduced.text ?? '') : ''))
      .join(' | ')
  if (value.kind !== 'value') return ''
  const { reduced } = value
  if (reduced.bound !== null) return `${reduced.bound === 'below' ? '<' : '>'}${reduced.value}`
  return reduced.text ?? String(reduced.value ?? '')
}
