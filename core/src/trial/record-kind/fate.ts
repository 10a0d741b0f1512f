import { z } from 'zod'
import { fateKind, fateKinds, type FateKind } from '../fate.ts'
import { Span } from '../span.ts'
import { id, key, line, optionalText } from '../text.ts'
import { NO_UNIT, numberIn, orNull, who, type RecordKind } from './record-kind.ts'

/** What really happened to a unit: it stands beside what was planned and hides nothing of it. */
export const Fate = z
  .object({
    type: z.literal('fate'),
    ...who,
    unit: id,
    kind: z.enum(fateKinds.map((each) => each.key) as [FateKind['key'], ...FateKind['key'][]]),
    on: Span,
    /** A part of one: of the area that remains, or that was covered. */
    share: z.number().gt(0, 'A share is above 0 %.').lt(1, 'A share is below 100 %.').nullable(),
    /** What was given otherwise. */
    factor: key.nullable(),
    /** What really went on, in the factor’s measure. */
    amount: z.number().nonnegative('An amount cannot be negative.').max(1e9).nullable(),
    /** The unit it lies in from then on. */
    to: id.nullable(),
    /** Where, in words: “pot on bench 3”, “north half”. */
    place: optionalText('Where', 120),
    parts: z.number().int().min(2, 'At least two parts.').max(50, 'At most 50 parts.').nullable(),
    reason: line('Reason', 500),
  })
  .meta({ id: 'Fate' })
export type Fate = z.infer<typeof Fate>

const LACKING = {
  share: 'Say how much of it.',
  factor: 'Say what was given otherwise.',
  amount: 'Say how much it really got.',
  to: 'Say where it stands now.',
  place: 'Say where it stands now.',
  parts: 'Say into how many parts.',
} as const

export const fate = {
  type: 'fate',
  schema: Fate,
  file: 'fates.csv',
  since: 3,
  about: 'What happened to units: lost, replanted, moved, given otherwise; shares as parts of one, amounts in the measure of the factor.',
  columns: ['unit', 'kind', 'from', 'to_day', 'typed', 'share', 'factor', 'amount', 'moved_to', 'place', 'parts', 'reason'],
  cells: (record) => [
    record.unit,
    record.kind,
    record.on.from,
    record.on.to,
    record.on.typed,
    record.share === null ? '' : String(record.share),
    record.factor ?? '',
    record.amount === null ? '' : String(record.amount),
    record.to ?? '',
    record.place,
    record.parts === null ? '' : String(record.parts),
    record.reason,
  ],
  read: (row) => {
    const number = (column: string): unknown => (row.cell(column) === '' ? null : numberIn(row.cell(column)))
    return {
      unit: row.cell('unit'),
      kind: row.cell('kind'),
      on: { from: row.cell('from'), to: row.cell('to_day'), typed: row.cell('typed') },
      share: number('share'),
      factor: orNull(row.cell('factor')),
      amount: number('amount'),
      to: orNull(row.cell('moved_to')),
      place: row.cell('place'),
      parts: number('parts'),
      reason: row.cell('reason'),
    }
  },
  unitOf: (record) => record.unit,
  renewed: (record, swap) => ({ ...record, id: swap(record.id), unit: swap(record.unit), to: record.to && swap(record.to) }),
  misfit(record, frame) {
    if (!frame.units.has(record.unit)) return NO_UNIT
    const lacking = fateKind(record.kind).asks.find((field) => record[field] === null || record[field] === '')
    if (lacking) return LACKING[lacking]
    if (record.kind === 'moved' && record.to === null && record.place === '') return LACKING.place
    if (record.to !== null && !frame.units.has(record.to)) return 'Where it was moved to is not part of this trial’s layout.'
    if (record.to === record.unit) return 'It cannot be moved into itself.'
    return record.factor === null || frame.factors.has(record.factor) ? null : `“${record.factor}” is not varied in this trial.`
  },
} satisfies RecordKind<Fate>
