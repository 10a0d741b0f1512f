import { FieldRecord, recordKinds } from '../trial/index.ts'
import { FileError, readCsv, writeCsv } from './table.ts'

const WHO = ['order', 'id', 'at', 'person', 'device'] as const

/** One CSV a kind of record; `order` keeps the order across them, which the sync cursor follows. */
export function recordTables(records: readonly FieldRecord[]): Record<string, string> {
  return Object.fromEntries(
    recordKinds.map((kind) => [
      kind.file,
      writeCsv(
        [...WHO, ...kind.columns, ...(kind.later ?? [])],
        records.flatMap((record, i) =>
          record.type === kind.type ? [[String(i + 1), record.id, record.at, record.person, record.device, ...kind.cells(record)]] : [],
        ),
      ),
    ]),
  )
}

/** Reads the record tables back in their order. Throws FileError with file and line. */
export function readRecordTables(
  files: ReadonlyMap<string, string>,
  schema: number,
  upgrade: ((record: unknown) => unknown) | null = null,
): FieldRecord[] {
  const found: { order: number; record: FieldRecord }[] = []
  const seen = new Map<string, string>()
  for (const kind of recordKinds) {
    if ((kind.since ?? 1) > schema) continue
    const text = files.get(kind.file)
    if (text === undefined) throw new FileError('package', `${kind.file} is missing.`)
    const columns = upgrade ? [...WHO, ...oldColumns(kind.columns)] : [...WHO, ...kind.columns]
    for (const row of readCsv(kind.file, text, columns)) {
      const where = `${kind.file}, line ${row.line}`
      const order = Number(row.cell('order'))
      if (!Number.isInteger(order)) throw new FileError(where, '“order” must be a whole number.')
      const who = Object.fromEntries(WHO.slice(1).map((column) => [column, row.cell(column)]))
      const cell = upgrade ? (column: string) => row.cell(OLD[column] ?? column) : row.cell
      const parsed = FieldRecord.safeParse({ type: kind.type, ...who, ...kind.read({ cell }) })
      if (!parsed.success) {
        const issue = parsed.error.issues[0]!
        throw new FileError(where, `${issue.path.join('.') || 'the row'}: ${issue.message}`)
      }
      const before = seen.get(parsed.data.id)
      if (before) throw new FileError(where, `the id ${parsed.data.id} stands there already, on ${before}.`)
      seen.set(parsed.data.id, where)
      found.push({ order, record: parsed.data })
    }
  }
  found.sort((a, b) => a.order - b.order)
  return found.map((each) => each.record)
}

/** Columns under other names in schema 1; those it had not are empty. */
const OLD: Readonly<Record<string, string>> = { visit: 'occasion', sample: 'replicate' }
const NEW_SINCE = new Set(['of', 'typed_measure'])

function oldColumns(columns: readonly string[]): string[] {
  return columns.filter((column) => !NEW_SINCE.has(column)).map((column) => OLD[column] ?? column)
}
