import { FieldRecord, type Reading, type ReadingValue } from '../trial/index.ts'
import { FileError, readCsv, writeCsv } from './table.ts'

/** One CSV a record type; `order` keeps the order across them, which the sync cursor follows. */
const RECORD_FILES = {
  reading: 'readings.csv',
  note: 'notes.csv',
  operation: 'operations.csv',
  retraction: 'retractions.csv',
} as const

const WHO = ['order', 'id', 'at', 'person', 'device']
const COLUMNS = {
  reading: [...WHO, 'unit', 'trait', 'occasion', 'replicate', 'observer', 'kind', 'value', 'typed', 'supersedes', 'confirmed'],
  note: [...WHO, 'unit', 'trait', 'kind', 'flag', 'text'],
  operation: [...WHO, 'kind', 'site', 'on', 'text'],
  retraction: [...WHO, 'retracts', 'reason'],
} as const

export function recordTables(records: readonly FieldRecord[]): Record<string, string> {
  const rows: Record<FieldRecord['type'], string[][]> = { reading: [], note: [], operation: [], retraction: [] }
  records.forEach((record, i) => {
    rows[record.type].push([String(i + 1), record.id, record.at, record.person, record.device, ...ownCells(record)])
  })
  return Object.fromEntries(
    (Object.keys(RECORD_FILES) as FieldRecord['type'][]).map((type) => [RECORD_FILES[type], writeCsv(COLUMNS[type], rows[type])]),
  )
}

function ownCells(record: FieldRecord): string[] {
  switch (record.type) {
    case 'reading':
      return [
        record.unit,
        record.trait,
        record.occasion,
        String(record.replicate),
        record.observer,
        record.value.kind,
        ...valueCells(record.value),
        record.supersedes.join(' '),
        record.confirmed ? 'yes' : 'no',
      ]
    case 'note':
      return [record.unit ?? '', record.trait ?? '', record.kind, record.flag ?? '', record.text]
    case 'operation':
      return [record.kind, record.siteKey, record.on, record.text]
    case 'retraction':
      return [record.retracts, record.reason]
  }
}

/** Value and what was typed. A number is written in its shortest form that reads back equal. */
function valueCells(value: ReadingValue): [string, string] {
  switch (value.kind) {
    case 'number':
    case 'score':
      return [String(value.value), value.typed]
    case 'below limit':
      return [String(value.limit), value.typed]
    case 'yes/no':
      return [value.value ? 'yes' : 'no', '']
    case 'file':
      return [value.hash, value.name]
    case 'missing':
      return [value.reason, '']
    default:
      return [value.value, '']
  }
}

type Row = ReturnType<typeof readCsv>[number]

/** Reads the record tables back in their order. Throws FileError with file and line. */
export function readRecordTables(files: ReadonlyMap<string, string>): FieldRecord[] {
  const found: { order: number; record: FieldRecord }[] = []
  for (const type of Object.keys(RECORD_FILES) as FieldRecord['type'][]) {
    const file = RECORD_FILES[type]
    for (const row of readCsv(file, files.get(file) ?? '', COLUMNS[type])) {
      const where = `${file}, line ${row.line}`
      const order = Number(row.cell('order'))
      if (!Number.isInteger(order)) throw new FileError(where, '“order” must be a whole number.')
      const parsed = FieldRecord.safeParse(readRecord(type, row, where))
      if (!parsed.success) {
        const issue = parsed.error.issues[0]!
        throw new FileError(where, `${issue.path.join('.')}: ${issue.message}`)
      }
      found.push({ order, record: parsed.data })
    }
  }
  found.sort((a, b) => a.order - b.order)
  return found.map((each) => each.record)
}

function readRecord(type: FieldRecord['type'], row: Row, where: string): unknown {
  const who = { type, id: row.cell('id'), at: row.cell('at'), person: row.cell('person'), device: row.cell('device') }
  const orNull = (column: string): string | null => row.cell(column) || null
  switch (type) {
    case 'reading':
      return {
        ...who,
        unit: row.cell('unit'),
        trait: row.cell('trait'),
        occasion: row.cell('occasion'),
        replicate: Number(row.cell('replicate')),
        observer: row.cell('observer'),
        value: readValue(row.cell('kind') as Reading['value']['kind'], row.cell('value'), row.cell('typed'), where),
        supersedes: row.cell('supersedes').split(' ').filter(Boolean),
        confirmed: row.cell('confirmed') === 'yes',
      }
    case 'note':
      return { ...who, unit: orNull('unit'), trait: orNull('trait'), kind: row.cell('kind'), flag: orNull('flag'), text: row.cell('text') }
    case 'operation':
      return { ...who, kind: row.cell('kind'), siteKey: row.cell('site'), on: row.cell('on'), text: row.cell('text') }
    case 'retraction':
      return { ...who, retracts: row.cell('retracts'), reason: row.cell('reason') }
  }
}

function readValue(kind: ReadingValue['kind'], value: string, typed: string, where: string): unknown {
  const number = (): number => {
    const parsed = Number(value)
    if (value.trim() === '' || !Number.isFinite(parsed)) throw new FileError(where, `value “${value.slice(0, 40)}” is not a number.`)
    return parsed
  }
  switch (kind) {
    case 'number':
    case 'score':
      return { kind, value: number(), typed }
    case 'below limit':
      return { kind, limit: number(), typed }
    case 'yes/no':
      return { kind, value: value === 'yes' }
    case 'file':
      return { kind, hash: value, name: typed }
    case 'missing':
      return { kind, reason: value }
    default:
      return { kind, value }
  }
}
