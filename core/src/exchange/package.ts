import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate'
import { z } from 'zod'
import type { Layout, Person } from '../trial/index.ts'
import { Structure, Trial, TrialEvent, Unit, type FieldRecord } from '../trial/index.ts'
import { readRecordTables, recordTables } from './records.ts'
import { FileError, readCsv, writeCsv } from './table.ts'

export const PACKAGE_FORMAT = 'canter-trial'
export const PACKAGE_SCHEMA = 1

/** Everything a trial is: what a package carries and an import restores. */
export interface TrialContents {
  readonly trial: Trial
  readonly layout: Layout | null
  readonly records: readonly FieldRecord[]
  readonly events: readonly TrialEvent[]
  readonly people: readonly Pick<Person, 'id' | 'name'>[]
}

const Descriptor = z.object({
  format: z.literal(PACKAGE_FORMAT),
  schema: z.number().int(),
  trial: Trial,
  layout: z.object({ siteKey: z.string(), structure: Structure }).nullable(),
  people: z.array(z.object({ id: z.uuid(), name: z.string() })),
  tables: z.array(z.object({ file: z.string(), about: z.string() })),
})

/** The descriptor, checked by its schema whatever its version, so that newer ones are refused clearly. */
const Envelope = z.object({ format: z.string(), schema: z.number().int() })

const UNIT_COLUMNS = ['id', 'kind', 'code', 'in', 'planned', 'received', 'change', 'x_m', 'y_m', 'width_m', 'length_m', 'walk'] as const

const TABLES = [
  { file: 'units.csv', about: 'Units of the layout; “in” lists the ids of the units each belongs to; levels as factor=level.' },
  { file: 'readings.csv', about: 'Readings, append-only; values in the unit of their trait; “supersedes” lists ids corrected by the row.' },
  { file: 'notes.csv', about: 'Remarks, flags, and plots left out of the analysis with their reason.' },
  { file: 'operations.csv', about: 'What was done to the ground, and when.' },
  { file: 'retractions.csv', about: 'Records taken back; the rows they name stay in their tables.' },
  { file: 'events.csv', about: 'History of the trial itself; before and after as JSON.' },
]

/** A zip of CSV tables and a JSON descriptor, in fixed order with fixed times: equal trials give equal bytes. */
export function packTrial(contents: TrialContents): Uint8Array {
  const descriptor = {
    format: PACKAGE_FORMAT,
    schema: PACKAGE_SCHEMA,
    trial: Trial.parse(contents.trial),
    layout: contents.layout ? { siteKey: contents.layout.siteKey, structure: Structure.parse(contents.layout.structure) } : null,
    people: [...contents.people].map(({ id, name }) => ({ id, name })).sort((a, b) => a.id.localeCompare(b.id)),
    tables: TABLES,
  }
  const files: Record<string, string> = {
    'canter.json': `${JSON.stringify(descriptor, null, 2)}\n`,
    'units.csv': writeCsv(UNIT_COLUMNS, (contents.layout?.units ?? []).map(unitCells)),
    ...recordTables(contents.records),
    'events.csv': writeCsv(['id', 'at', 'person', 'kind', 'reason', 'what', 'before', 'after'], contents.events.map(eventCells)),
  }
  const zippable: Zippable = {}
  for (const [name, text] of Object.entries(files)) zippable[name] = [strToU8(text), { mtime: '2000-01-01T00:00:00', level: 6, os: 3 }]
  return zipSync(zippable)
}

function unitCells(unit: Unit): string[] {
  const place = unit.place
  const levels = (of: Record<string, string>): string =>
    Object.entries(of)
      .map(([factor, level]) => `${factor}=${level}`)
      .join(' ')
  return [
    unit.id,
    unit.kind,
    unit.code,
    unit.in.join(' '),
    levels(unit.planned),
    levels(unit.received),
    unit.change,
    ...(place ? [place.x, place.y, place.width, place.length].map(String) : ['', '', '', '']),
    unit.walk === null ? '' : String(unit.walk),
  ]
}

function eventCells(event: TrialEvent): string[] {
  return [
    event.id,
    event.at,
    event.person,
    event.kind,
    event.reason,
    event.what,
    JSON.stringify(event.before ?? null),
    JSON.stringify(event.after ?? null),
  ]
}

/** Largest text taken from a package, against archives made to fill a memory. */
const MOST_BYTES = 64 * 1024 * 1024

/** Reads a package. Throws FileError that says which file and line is wrong; nothing is half read. */
export function unpackTrial(bytes: Uint8Array): TrialContents {
  const files = unzip(bytes)
  const text = files.get('canter.json')
  if (text === undefined) throw new FileError('package', 'canter.json is missing; this is not a trial package.')
  const descriptor = readDescriptor(text)
  const units = readCsv('units.csv', files.get('units.csv') ?? '', UNIT_COLUMNS).map(readUnit)
  const layout = descriptor.layout ? { ...descriptor.layout, units } : null
  if (layout) checkUnits(units)
  const records = readRecordTables(files)
  const known = new Set(units.map((unit) => unit.id))
  const stray = records.find((record) => 'unit' in record && record.unit !== null && !known.has(record.unit))
  if (stray) throw new FileError('readings.csv or notes.csv', `record ${stray.id} is about a unit that units.csv does not list.`)
  const events = readCsv('events.csv', files.get('events.csv') ?? '', [
    'id',
    'at',
    'person',
    'kind',
    'reason',
    'what',
    'before',
    'after',
  ]).map(readEvent)
  return { trial: descriptor.trial, layout, records, events, people: descriptor.people }
}

function unzip(bytes: Uint8Array): Map<string, string> {
  let total = 0
  let files: Record<string, Uint8Array>
  try {
    files = unzipSync(bytes, {
      filter: (file) => {
        total += file.originalSize
        if (total > MOST_BYTES) throw new FileError('package', 'it unpacks to more than 64 MB; no trial is that large.')
        return file.name === 'canter.json' || TABLES.some((table) => table.file === file.name)
      },
    })
  } catch (error) {
    if (error instanceof FileError) throw error
    throw new FileError('package', 'it is not a whole zip file. Export it again, or copy it again.')
  }
  return new Map(Object.entries(files).map(([name, content]) => [name, strFromU8(content)]))
}

function readDescriptor(text: string): z.infer<typeof Descriptor> {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new FileError('canter.json', `it is not JSON (${error instanceof Error ? error.message.slice(0, 120) : 'unreadable'}).`)
  }
  const envelope = Envelope.safeParse(json)
  if (!envelope.success || envelope.data.format !== PACKAGE_FORMAT)
    throw new FileError('canter.json', `“format” must be “${PACKAGE_FORMAT}”.`)
  if (envelope.data.schema > PACKAGE_SCHEMA) {
    throw new FileError(
      'canter.json',
      `schema ${envelope.data.schema} was written by a newer Canter; this one reads up to ${PACKAGE_SCHEMA}. Update, then import again.`,
    )
  }
  const parsed = Descriptor.safeParse(json)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    throw new FileError('canter.json', `${issue.path.join('.')}: ${issue.message}`)
  }
  return parsed.data
}

function readUnit(row: ReturnType<typeof readCsv>[number]): Unit {
  const where = `units.csv, line ${row.line}`
  const levels = (column: string): Record<string, string> =>
    Object.fromEntries(
      row
        .cell(column)
        .split(' ')
        .filter(Boolean)
        .map((pair) => {
          const [factor, level] = pair.split('=')
          if (!factor || !level) throw new FileError(where, `“${pair.slice(0, 40)}” must be factor=level.`)
          return [factor, level]
        }),
    )
  const place =
    row.cell('x_m') === ''
      ? null
      : { x: Number(row.cell('x_m')), y: Number(row.cell('y_m')), width: Number(row.cell('width_m')), length: Number(row.cell('length_m')) }
  const parsed = Unit.safeParse({
    id: row.cell('id'),
    kind: row.cell('kind'),
    code: row.cell('code'),
    in: row.cell('in').split(' ').filter(Boolean),
    planned: levels('planned'),
    received: levels('received'),
    change: row.cell('change'),
    place,
    walk: row.cell('walk') === '' ? null : Number(row.cell('walk')),
  })
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    throw new FileError(where, `${issue.path.join('.')}: ${issue.message}`)
  }
  return parsed.data
}

function checkUnits(units: readonly Unit[]): void {
  const seen = new Set<string>()
  for (const unit of units) {
    if (seen.has(unit.id)) throw new FileError('units.csv', `unit ${unit.code} stands there twice.`)
    seen.add(unit.id)
  }
  for (const unit of units) {
    if (unit.in.some((id) => !seen.has(id))) throw new FileError('units.csv', `unit ${unit.code} lies in a unit that is not listed.`)
  }
}

function readEvent(row: ReturnType<typeof readCsv>[number]): TrialEvent {
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
    reason: row.cell('reason'),
    what: row.cell('what'),
    before: json('before'),
    after: json('after'),
  })
  if (!parsed.success) throw new FileError(where, `${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message}`)
  return parsed.data
}

/** The same trial under new ids (people keep theirs), for importing beside one that exists. */
export function withNewIds(contents: TrialContents, newId: () => string): TrialContents {
  const fresh = new Map<string, string>()
  const swap = (id: string): string => {
    const known = fresh.get(id)
    if (known) return known
    const made = newId()
    fresh.set(id, made)
    return made
  }
  return {
    ...contents,
    trial: { ...contents.trial, id: swap(contents.trial.id), title: `${contents.trial.title} (copy)`.slice(0, 120) },
    layout: contents.layout && {
      ...contents.layout,
      units: contents.layout.units.map((unit) => ({ ...unit, id: swap(unit.id), in: unit.in.map(swap) })),
    },
    records: contents.records.map((record): FieldRecord => {
      const base = { ...record, id: swap(record.id) }
      if (base.type === 'reading') return { ...base, unit: swap(base.unit), supersedes: base.supersedes.map(swap) }
      if (base.type === 'note') return { ...base, unit: base.unit && swap(base.unit) }
      if (base.type === 'retraction') return { ...base, retracts: swap(base.retracts) }
      return base
    }),
    events: contents.events.map((event) => ({ ...event, id: swap(event.id) })),
  }
}
