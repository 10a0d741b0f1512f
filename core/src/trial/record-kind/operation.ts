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
    /** The last day it may have been done, where that is not known to the day. */
    until: z.iso.date().optional(),
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
  later: ['until'],
  cells: (record) => [record.kind, record.siteKey, record.on, record.text, record.until ?? ''],
  read: (row) => ({
    kind: row.cell('kind'),
    siteKey: row.cell('site'),
    on: row.cell('on'),
    text: row.cell('text'),
    ...(row.cell('until') === '' ? {} : { until: row.cell('until') }),
  }),
  unitOf: () => null,
  renewed: (record, swap) => ({ ...record, id: swap(record.id) }),
  misfit: (record, frame) =>
    !frame.sites.has(record.siteKey)
      ? 'The site is not part of this trial.'
      : record.until !== undefined && record.until < record.on
        ? 'It ends before it begins.'
        : null,
} satisfies RecordKind<Operation>
