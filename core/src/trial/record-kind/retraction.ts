import { z } from 'zod'
import { id, words } from '../text.ts'
import { who, type RecordKind } from './record-kind.ts'

/** Takes back an earlier record as if it had not been made; the row itself stays. */
export const Retraction = z
  .object({
    type: z.literal('retraction'),
    ...who,
    retracts: id,
    reason: words().max(500),
  })
  .meta({ id: 'Retraction' })
export type Retraction = z.infer<typeof Retraction>

export const retraction = {
  type: 'retraction',
  schema: Retraction,
  file: 'retractions.csv',
  about: 'Records taken back; the rows they name stay in their tables.',
  columns: ['retracts', 'reason'],
  cells: (record) => [record.retracts, record.reason],
  read: (row) => ({ retracts: row.cell('retracts'), reason: row.cell('reason') }),
  unitOf: () => null,
  renewed: (record, swap) => ({ ...record, id: swap(record.id), retracts: swap(record.retracts) }),
  misfit: () => null,
} satisfies RecordKind<Retraction>
