import { z } from 'zod'
import { key, words } from '../text.ts'
import { who, type RecordKind } from './record-kind.ts'

/** Something done to the ground of a site. */
export const Operation = z
  .object({
    type: z.literal('operation'),
    ...who,
    kind: z.enum(['planted', 'applied', 'harvested']),
    siteKey: key,
    /** The day it was done. */
    on: z.iso.date(),
    text: words().max(2000),
  })
  .meta({ id: 'Operation' })
export type Operation = z.infer<typeof Operation>

export const operation = {
  type: 'operation',
  schema: Operation,
  file: 'operations.csv',
  about: 'What was done to the ground, and when.',
  columns: ['kind', 'site', 'on', 'text'],
  cells: (record) => [record.kind, record.siteKey, record.on, record.text],
  read: (row) => ({ kind: row.cell('kind'), siteKey: row.cell('site'), on: row.cell('on'), text: row.cell('text') }),
  unitOf: () => null,
  renewed: (record, swap) => ({ ...record, id: swap(record.id) }),
  misfit: (record, frame) => (frame.sites.has(record.siteKey) ? null : 'The site is not part of this trial.'),
} satisfies RecordKind<Operation>
