import { numberIn, TrialEvent, Unit } from '../trial/index.ts'
import { FileError, type TableRow } from './table.ts'

/** `factor=level` pairs of a cell. */
export function readPairs(row: TableRow, column: string, between: string): Record<string, string> {
  return Object.fromEntries(
    row
      .cell(column)
      .split(between)
      .map((pair) => pair.trim())
      .filter(Boolean)
      .map((pair) => {
        const [name, value] = pair.split('=')
        if (!name || !value) throw new FileError(`units.csv, line ${row.line}`, `“${pair.slice(0, 40)}” must be factor=level.`)
        return [name, value]
      }),
  )
}

export function readPlace(row: TableRow): Record<string, unknown> | null {
  if (row.cell('x_m') === '') return null
  return {
    x: numberIn(row.cell('x_m')),
    y: numberIn(row.cell('y_m')),
    width: numberIn(row.cell('width_m')),
    length: numberIn(row.cell('length_m')),
    ...(row.cell('turn_deg') === '' ? {} : { turn: numberIn(row.cell('turn_deg')) }),
  }
}

export function readUnit(row: TableRow): Unit {
  const row0 = row.cell('at_row')
  return parsedUnit(
    {
      id: row.cell('id'),
      kind: row.cell('kind'),
      code: row.cell('code'),
      in: row.cell('in').split(' ').filter(Boolean),
      at:
        row.cell('at_in') === ''
          ? null
          : { in: row.cell('at_in'), column: numberIn(row.cell('at_column')), row: row0 === '' ? null : numberIn(row0) },
      planned: readPairs(row, 'planned', ';'),
      received: readPairs(row, 'received', ';'),
      changes: readPairs(row, 'changes', ';'),
      place: readPlace(row),
      walk: row.cell('walk') === '' ? null : numberIn(row.cell('walk')),
      ...(row.cell('counted') === '' ? {} : { counted: row.cell('counted') }),
    },
    `units.csv, line ${row.line}`,
  )
}

export function parsedUnit(unit: unknown, where: string): Unit {
  const parsed = Unit.safeParse(unit)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new FileError(where, `${issue.path.join('.')}: ${issue.message}`)
}

export function readEvent(row: TableRow): TrialEvent {
  const where = `events.csv, line ${row.line}`
  const json = (column: string): unknown => {
    try {
      return JSON.parse(row.cell(column)) as unknown
    } catch {
      throw new FileError(where, `“${column}” is not JSON.`)
    }
  }
  const parsed = TrialEvent.safeParse({
    id: row.cell('id'),
    at: row.cell('at'),
    person: row.cell('person'),
    kind: row.cell('kind'),
    section: row.cell('section') || null,
    reason: row.cell('reason'),
    what: row.cell('what'),
    before: json('before'),
    after: json('after'),
    undoes: row.cell('undoes') || null,
  })
  if (!parsed.success) throw new FileError(where, `${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message}`)
  return parsed.data
}
