import { z } from 'zod'
import { id, key, line } from '../text.ts'
import { NO_UNIT, orNull, who, type RecordKind } from './record-kind.ts'

export const FLAGS = ['washed out', 'run-on water', 'grazed', 'mown by mistake', 'wrong treatment', 'lost', 'other'] as const

/** Said about a unit (or the whole trial): a remark, a flag, or that it is left out of the analysis. */
export const Note = z
  .object({
    type: z.literal('note'),
    ...who,
    unit: id.nullable(),
    /** The trait it concerns; null: all. */
    trait: key.nullable(),
    kind: z.enum(['remark', 'flag', 'left out']),
    flag: z.enum(FLAGS).nullable(),
    text: line('Text', 2000),
  })
  .meta({ id: 'Note' })
export type Note = z.infer<typeof Note>

export const note = {
  type: 'note',
  schema: Note,
  file: 'notes.csv',
  about: 'Remarks, flags, and units left out of the analysis with their reason.',
  columns: ['unit', 'trait', 'kind', 'flag', 'text'],
  cells: (record) => [record.unit ?? '', record.trait ?? '', record.kind, record.flag ?? '', record.text],
  read: (row) => ({
    unit: orNull(row.cell('unit')),
    trait: orNull(row.cell('trait')),
    kind: row.cell('kind'),
    flag: orNull(row.cell('flag')),
    text: row.cell('text'),
  }),
  unitOf: (record) => record.unit,
  renewed: (record, swap) => ({ ...record, id: swap(record.id), unit: record.unit && swap(record.unit) }),
  misfit(record, frame) {
    if (record.unit !== null && !frame.units.has(record.unit)) return NO_UNIT
    return record.trait === null || frame.traits.has(record.trait) ? null : `The trait “${record.trait}” is not part of this trial.`
  },
} satisfies RecordKind<Note>
