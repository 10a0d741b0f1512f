import type { PlotTable } from '../numbers/index.ts'
import type { Layout, Trial, Unit } from '../trial/index.ts'
import { writeCsv } from './table.ts'

/** One row a plot with its treatment and every current and derived value: for a spreadsheet or another program. */
export function plotsCsv(trial: Trial, layout: Layout, table: PlotTable): string {
  const factor = trial.factors[0]!
  const traits = [...trial.traits, ...trial.derived]
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  const blockOf = (unit: Unit): string => unit.in.map((id) => index.get(id)).find((above) => above?.kind === 'block')?.code ?? ''
  const columns = [
    'plot',
    'block',
    factor.key,
    `${factor.key}_planned`,
    ...(factor.unit ? [`${factor.key}_amount [${factor.unit}${factor.nutrient ? ` ${factor.nutrient}` : ''}]`] : []),
    'x [m]',
    'y [m]',
    'walk',
    ...traits.map((trait) => (trait.unit && trait.unit !== 'score' ? `${trait.key} [${trait.unit}]` : trait.key)),
    'left_out',
    'notes',
  ]
  const rows = table.rows.map((row) => {
    const received = factor.levels.find((level) => level.key === row.unit.received[factor.key])
    const out = row.notes.filter((note) => note.kind === 'left out')
    return [
      row.unit.code,
      blockOf(row.unit),
      received?.code ?? '',
      factor.levels.find((level) => level.key === row.unit.planned[factor.key])?.code ?? '',
      ...(factor.unit ? [String(received?.amount ?? '')] : []),
      String(row.unit.place?.x ?? ''),
      String(row.unit.place?.y ?? ''),
      String(row.unit.walk ?? ''),
      ...traits.map((trait) => {
        const value = row.values.get(trait.key)
        return value?.kind === 'value' ? String(value.worked.value) : ''
      }),
      out.map((note) => note.text).join('; '),
      row.notes
        .filter((note) => note.kind !== 'left out')
        .map((note) => (note.flag ? `${note.flag}: ${note.text}` : note.text))
        .join('; '),
    ]
  })
  return writeCsv(columns, rows, { forSpreadsheet: true })
}
