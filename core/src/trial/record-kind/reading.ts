import { z } from 'zod'
import { dayInWords } from '../day.ts'
import { HALF } from '../halves.ts'
import { ReadingValue } from '../reading-value.ts'
import { traitKind } from '../trait-kind/index.ts'
import { id, key } from '../text.ts'
import { NO_UNIT, numberIn, orNull, who, type RecordKind, type RecordRow } from './record-kind.ts'

/** A value taken: of a trait, on a unit, at a visit, of a sample, by an observer. */
export const Reading = z
  .object({
    type: z.literal('reading'),
    ...who,
    unit: id,
    trait: key,
    visit: key,
    /** Running number of the sample within the unit, from 1. */
    sample: z.number().int().min(1).max(10000),
    /** Whoever looked; often, and not always, whoever entered it. */
    observer: id,
    value: ReadingValue,
    /** Readings this one corrects. */
    supersedes: z.array(id).max(20),
    /** Out of the plausible range and said to be right all the same. */
    confirmed: z.boolean(),
  })
  .meta({ id: 'Reading' })
export type Reading = z.infer<typeof Reading>

export const reading = {
  type: 'reading',
  schema: Reading,
  file: 'readings.csv',
  about: 'Readings, append-only; values in the measure of their trait; “supersedes” lists ids corrected by the row.',
  columns: ['unit', 'trait', 'visit', 'sample', 'observer', 'kind', 'value', 'of', 'typed', 'typed_measure', 'supersedes', 'confirmed'],
  cells: (record) => [
    record.unit,
    record.trait,
    record.visit,
    String(record.sample),
    record.observer,
    record.value.kind,
    ...valueCells(record.value),
    record.supersedes.join(' '),
    record.confirmed ? 'yes' : 'no',
  ],
  read: (row) => ({
    unit: row.cell('unit'),
    trait: row.cell('trait'),
    visit: row.cell('visit'),
    sample: numberIn(row.cell('sample')),
    observer: row.cell('observer'),
    value: readValue(row),
    supersedes: row.cell('supersedes').split(' ').filter(Boolean),
    confirmed: row.cell('confirmed') === 'yes',
  }),
  unitOf: (record) => record.unit,
  renewed: (record, swap) => ({ ...record, id: swap(record.id), unit: swap(record.unit), supersedes: record.supersedes.map(swap) }),
  misfit(record, frame) {
    const trait = frame.traits.get(record.trait)
    const kind = frame.units.get(record.unit)
    if (!kind) return NO_UNIT
    if (!trait) return `The trait “${record.trait}” is not part of this trial.`
    if (!frame.visits.has(record.visit)) return `“${record.visit}” is not a visit of this trial.`
    if (!frame.people.has(record.observer)) return 'The observer is not known here. Add the person first.'
    if (trait.on !== 'unit' && kind !== trait.on) return `${trait.name} is read on a ${trait.on}, not on a ${kind}.`
    if (trait.on === 'unit' && (kind === 'plant' || kind === 'sample')) return `${trait.name} is not read on single ${kind}s.`
    const since = frame.halved.get(record.unit)
    if (since !== undefined) {
      const on = frame.visits.get(record.visit) ?? null
      const halved = on === null || on >= since
      if (halved && kind !== HALF)
        return `From ${dayInWords(since)} the halves of this plot are read one by one. Read each half, and take this value back.`
      if (!halved && kind === HALF) return `Before ${dayInWords(since)} this half was part of one plot: what was read then is of the plot.`
    }
    const { values } = traitKind(trait.kind)
    if (record.value.kind !== 'missing' && !values.includes(record.value.kind))
      return `${trait.name} is a ${trait.kind} and cannot hold a ${record.value.kind}.`
    if (trait.kind === 'share' && record.value.kind === 'count' && (record.value.of === null || record.value.value > record.value.of))
      return `${trait.name} needs both counts, the part no larger than the whole.`
    if (record.value.kind === 'stage' && !trait.steps.some((step) => step.meaning === (record.value as { value: string }).value))
      return `“${record.value.value}” is not a stage of ${trait.name}.`
    return null
  },
} satisfies RecordKind<Reading>

/** Value, what it is of, what was typed and in which measure. A number is written in its shortest form that reads back equal. */
function valueCells(value: ReadingValue): [string, string, string, string] {
  switch (value.kind) {
    case 'number':
      return [String(value.value), '', value.typed, value.typedMeasure ?? '']
    case 'below limit':
    case 'above limit':
      return [String(value.limit), '', value.typed, value.typedMeasure ?? '']
    case 'count':
      return [String(value.value), value.of === null ? '' : String(value.of), value.typed, '']
    case 'score':
      return [String(value.value), '', value.typed, '']
    case 'yes/no':
      return [value.value ? 'yes' : 'no', '', '', '']
    case 'file':
      return [value.hash, value.name, '', '']
    case 'missing':
      return [value.reason, '', '', '']
    default:
      return [value.value, '', '', '']
  }
}

function readValue(row: RecordRow): Record<string, unknown> {
  const kind = row.cell('kind')
  const value = row.cell('value')
  const typed = row.cell('typed')
  const typedMeasure = orNull(row.cell('typed_measure'))
  switch (kind as ReadingValue['kind']) {
    case 'number':
      return { kind, value: numberIn(value), typed, typedMeasure }
    case 'below limit':
    case 'above limit':
      return { kind, limit: numberIn(value), typed, typedMeasure }
    case 'count':
      return { kind, value: numberIn(value), of: row.cell('of') === '' ? null : numberIn(row.cell('of')), typed }
    case 'score':
      return { kind, value: numberIn(value), typed }
    case 'yes/no':
      return { kind, value: value === 'yes' ? true : value === 'no' ? false : value }
    case 'file':
      return { kind, hash: value, name: row.cell('of') }
    case 'missing':
      return { kind, reason: value }
    default:
      return { kind, value }
  }
}
