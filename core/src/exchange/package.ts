import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate'
import { z } from 'zod'
import { checkTrial } from '../document/index.ts'
import type { Layout, Person } from '../trial/index.ts'
import {
  numberIn,
  recordKind,
  recordKinds,
  Structure,
  Trial,
  TrialEvent,
  Unit,
  type FieldRecord,
  type RecordFrame,
} from '../trial/index.ts'
import { readRecordTables, recordTables } from './records.ts'
import { FileError, readCsv, writeCsv, type TableRow } from './table.ts'
import { upgradeEvent, upgradeRecord, upgradeTrial } from './upgrade/one-to-two.ts'

export const PACKAGE_FORMAT = 'canter-trial'
export const PACKAGE_SCHEMA = 2

/** Everything a trial is: what a package carries and an import restores. */
export interface TrialContents {
  readonly trial: Trial
  readonly layouts: readonly Layout[]
  readonly records: readonly FieldRecord[]
  readonly events: readonly TrialEvent[]
  readonly people: readonly Pick<Person, 'id' | 'name'>[]
}

const People = z.array(z.object({ id: z.uuid(), name: z.string().trim().min(1).max(80) }))

const Descriptor = z.object({
  format: z.literal(PACKAGE_FORMAT),
  schema: z.literal(PACKAGE_SCHEMA),
  trial: Trial,
  layouts: z.array(z.object({ siteKey: z.string(), structure: Structure })),
  people: People,
})

/** The descriptor, checked by its schema whatever its version, so that newer ones are refused clearly. */
const Envelope = z.object({ format: z.string(), schema: z.number().int() })

const UNIT_COLUMNS = [
  'site',
  'id',
  'kind',
  'code',
  'in',
  'at_in',
  'at_column',
  'at_row',
  'planned',
  'received',
  'changes',
  'x_m',
  'y_m',
  'width_m',
  'length_m',
  'walk',
] as const

const EVENT_COLUMNS = ['id', 'at', 'person', 'kind', 'section', 'reason', 'what', 'before', 'after', 'undoes'] as const

const TABLES = [
  { file: 'units.csv', about: 'Units of the layouts; “in” lists the ids of the units each belongs to; levels as factor=level.' },
  ...recordKinds.map(({ file, about }) => ({ file, about })),
  { file: 'events.csv', about: 'History of the trial itself; before and after as JSON.' },
]

/** A zip of CSV tables and a JSON descriptor, in fixed order with fixed times: equal trials give equal bytes. */
export function packTrial(contents: TrialContents): Uint8Array {
  const descriptor = {
    format: PACKAGE_FORMAT,
    schema: PACKAGE_SCHEMA,
    trial: Trial.parse(contents.trial),
    layouts: contents.layouts.map(({ siteKey, structure }) => ({ siteKey, structure: Structure.parse(structure) })),
    people: [...contents.people].map(({ id, name }) => ({ id, name })).sort((a, b) => (a.id < b.id ? -1 : 1)),
    tables: TABLES,
  }
  const files: Record<string, string> = {
    'canter.json': `${JSON.stringify(descriptor, null, 2)}\n`,
    'units.csv': writeCsv(
      UNIT_COLUMNS,
      contents.layouts.flatMap(({ siteKey, units }) => units.map((unit) => unitCells(siteKey, unit))),
    ),
    ...recordTables(contents.records),
    'events.csv': writeCsv(EVENT_COLUMNS, contents.events.map(eventCells)),
  }
  const zippable: Zippable = {}
  for (const [name, text] of Object.entries(files)) zippable[name] = [strToU8(text), { mtime: '2000-01-01T00:00:00', level: 6, os: 3 }]
  return zipSync(zippable)
}

function pairs(of: Readonly<Record<string, string>>): string {
  return Object.entries(of)
    .map(([factor, level]) => `${factor}=${level}`)
    .join('; ')
}

function unitCells(site: string, unit: Unit): string[] {
  const { place, at } = unit
  return [
    site,
    unit.id,
    unit.kind,
    unit.code,
    unit.in.join(' '),
    ...(at ? [at.in, String(at.column), at.row === null ? '' : String(at.row)] : ['', '', '']),
    pairs(unit.planned),
    pairs(unit.received),
    pairs(unit.changes),
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
    event.section ?? '',
    event.reason,
    event.what,
    JSON.stringify(event.before ?? null),
    JSON.stringify(event.after ?? null),
    event.undoes ?? '',
  ]
}

/** Largest text taken from a package, against archives made to fill a memory. */
const MOST_BYTES = 64 * 1024 * 1024

/**
 * Reads a package of this schema or an older one, and judges it as every trial is judged. Throws
 * FileError that says which file and line is wrong; nothing is half read.
 */
export function unpackTrial(bytes: Uint8Array): TrialContents {
  const files = unzip(bytes)
  const text = files.get('canter.json')
  if (text === undefined) throw new FileError('package', 'canter.json is missing; this is not a trial package.')
  for (const { file } of TABLES) if (!files.has(file)) throw new FileError('package', `${file} is missing.`)
  const { json, schema } = readDescriptor(text)
  const contents = schema === 1 ? readFirst(json, files) : readCurrent(json, files)
  const [problem] = checkTrial(contents.trial, contents.layouts)
  if (problem) throw new FileError(problem.path.startsWith('layouts') ? 'units.csv' : 'canter.json', `${problem.path}: ${problem.message}`)
  checkRecords(contents)
  return contents
}

function readCurrent(json: unknown, files: ReadonlyMap<string, string>): TrialContents {
  const parsed = Descriptor.safeParse(json)
  if (!parsed.success) throw descriptorError(parsed.error)
  const { trial, layouts, people } = parsed.data
  const units = readCsv('units.csv', files.get('units.csv')!, UNIT_COLUMNS).map((row) => ({ site: row.cell('site'), unit: readUnit(row) }))
  const known = new Set(layouts.map((layout) => layout.siteKey))
  const stray = units.find(({ site }) => !known.has(site))
  if (stray)
    throw new FileError(
      'units.csv',
      `unit ${stray.unit.code} is of the site “${stray.site.slice(0, 40)}”, which has no layout in canter.json.`,
    )
  return {
    trial,
    layouts: layouts.map((layout) => ({ ...layout, units: units.filter(({ site }) => site === layout.siteKey).map(({ unit }) => unit) })),
    records: readRecordTables(files),
    events: readCsv('events.csv', files.get('events.csv')!, EVENT_COLUMNS).map(readEvent),
    people,
  }
}

/** Schema 1 as Canter once wrote it. */
function readFirst(json: unknown, files: ReadonlyMap<string, string>): TrialContents {
  const old = json as { trial?: unknown; layout?: { siteKey?: string; structure?: unknown } | null; people?: unknown }
  const people = People.safeParse(old.people)
  if (!people.success) throw descriptorError(people.error)
  const columns = ['id', 'kind', 'code', 'in', 'planned', 'received', 'change', 'x_m', 'y_m', 'width_m', 'length_m', 'walk']
  const rows = readCsv('units.csv', files.get('units.csv')!, columns)
  const units = rows.map((row) => ({
    id: row.cell('id'),
    kind: row.cell('kind'),
    code: row.cell('code'),
    in: row.cell('in').split(' ').filter(Boolean),
    planned: readPairs(row, 'planned', ' '),
    received: readPairs(row, 'received', ' '),
    change: row.cell('change'),
    place: readPlace(row),
    walk: row.cell('walk') === '' ? null : numberIn(row.cell('walk')),
  }))
  let upgraded: ReturnType<typeof upgradeTrial>
  try {
    upgraded = upgradeTrial(old.trial, old.layout ? { ...old.layout, units } : null)
  } catch {
    throw new FileError('canter.json', 'it is not the description of a trial of schema 1.')
  }
  const trial = Trial.safeParse(upgraded.trial)
  if (!trial.success) throw descriptorError(trial.error)
  const layouts = upgraded.layouts.map((layout): Layout => {
    const structure = Structure.safeParse(layout.structure)
    if (!structure.success) throw descriptorError(structure.error)
    return {
      siteKey: layout.siteKey,
      structure: structure.data,
      units: layout.units.map((unit, i) => parsedUnit(unit, `units.csv, line ${rows[i]!.line}`)),
    }
  })
  const events = readCsv('events.csv', files.get('events.csv')!, ['id', 'at', 'person', 'kind', 'reason', 'what', 'before', 'after']).map(
    (row): TrialEvent => {
      const parsed = TrialEvent.safeParse(
        upgradeEvent(Object.fromEntries(['id', 'at', 'person', 'kind', 'reason', 'what'].map((column) => [column, row.cell(column)]))),
      )
      if (!parsed.success) throw new FileError(`events.csv, line ${row.line}`, parsed.error.issues[0]!.message)
      return parsed.data
    },
  )
  return { trial: trial.data, layouts, records: readRecordTables(files, upgradeRecord), events, people: people.data }
}

function descriptorError(error: z.ZodError): FileError {
  const issue = error.issues[0]!
  return new FileError('canter.json', `${issue.path.join('.')}: ${issue.message}`)
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

function readDescriptor(text: string): { json: unknown; schema: number } {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new FileError('canter.json', `it is not JSON (${error instanceof Error ? error.message.slice(0, 120) : 'unreadable'}).`)
  }
  const envelope = Envelope.safeParse(json)
  if (!envelope.success || envelope.data.format !== PACKAGE_FORMAT)
    throw new FileError('canter.json', `“format” must be “${PACKAGE_FORMAT}”.`)
  const { schema } = envelope.data
  if (schema > PACKAGE_SCHEMA || schema < 1) {
    throw new FileError(
      'canter.json',
      `schema ${schema} was written by a newer Canter; this one reads 1 to ${PACKAGE_SCHEMA}. Update, then import again.`,
    )
  }
  return { json, schema }
}

function readPairs(row: TableRow, column: string, between: string): Record<string, string> {
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

function readPlace(row: TableRow): Record<string, unknown> | null {
  if (row.cell('x_m') === '') return null
  return {
    x: numberIn(row.cell('x_m')),
    y: numberIn(row.cell('y_m')),
    width: numberIn(row.cell('width_m')),
    length: numberIn(row.cell('length_m')),
  }
}

function readUnit(row: TableRow): Unit {
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
    },
    `units.csv, line ${row.line}`,
  )
}

function parsedUnit(unit: unknown, where: string): Unit {
  const parsed = Unit.safeParse(unit)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new FileError(where, `${issue.path.join('.')}: ${issue.message}`)
}

function readEvent(row: TableRow): TrialEvent {
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

/** Units of layouts that were taken off stay in the history: what was said of them keeps its place. */
export function unitsEverLaid({ layouts, events }: Pick<TrialContents, 'layouts' | 'events'>): Map<string, Unit['kind']> {
  const found = new Map<string, Unit['kind']>()
  for (const { before, after } of events) {
    for (const delta of [before, after] as ({ layouts?: Record<string, { units?: unknown } | null> } | null)[]) {
      if (!delta || typeof delta !== 'object' || !delta.layouts || typeof delta.layouts !== 'object') continue
      for (const layout of Object.values(delta.layouts)) {
        if (!Array.isArray(layout?.units)) continue
        for (const unit of layout.units as { id?: unknown; kind?: unknown }[])
          if (typeof unit?.id === 'string') found.set(unit.id, unit.kind as Unit['kind'])
      }
    }
  }
  for (const layout of layouts) for (const unit of layout.units) found.set(unit.id, unit.kind)
  return found
}

/** Records are about units, traits, visits, sites and people that are there; or were, when they were written. */
function checkRecords(contents: TrialContents): void {
  const { trial, records, people, events } = contents
  const known = new Set(people.map((person) => person.id))
  const units = unitsEverLaid(contents)
  const ids = new Set(records.map((record) => record.id))
  const frame: RecordFrame = {
    units,
    traits: new Map(trial.traits.observed.map((trait) => [trait.key, trait])),
    visits: new Set(trial.traits.visits.map((visit) => visit.key)),
    sites: new Set(trial.sites.map((site) => site.key)),
    people: known,
  }
  const derived = new Set(trial.traits.derived.map((trait) => trait.key))
  for (const record of records) {
    const where = `${recordKind(record.type).file}, record ${record.id}`
    if (!known.has(record.person)) throw new FileError(where, 'it was written by a person that canter.json does not list.')
    const about = record.type === 'note' && record.trait !== null && derived.has(record.trait) ? { ...record, trait: null } : record
    const misfit = recordKind(record.type).misfit(about, frame)
    if (misfit) throw new FileError(where, misfit)
    if (record.type === 'reading' && record.supersedes.some((id) => !ids.has(id)))
      throw new FileError(where, 'it corrects a reading that is not in the package.')
  }
  const stranger = events.find((event) => !known.has(event.person))
  if (stranger) throw new FileError('events.csv', `event ${stranger.id} is of a person that canter.json does not list.`)
  const twice = events.find((event, i) => events.findIndex((each) => each.id === event.id) !== i)
  if (twice) throw new FileError('events.csv', `the id ${twice.id} stands there twice.`)
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
  const title = `${contents.trial.question.title} (copy)`.slice(0, 120)
  const renewedLayout = (layout: Layout): Layout => ({
    ...layout,
    units: layout.units.map((unit) => ({
      ...unit,
      id: swap(unit.id),
      in: unit.in.map(swap),
      at: unit.at && { ...unit.at, in: swap(unit.at.in) },
    })),
  })
  const layouts = contents.layouts.map(renewedLayout)
  return {
    ...contents,
    trial: { ...contents.trial, id: swap(contents.trial.id), question: { ...contents.trial.question, title } },
    layouts,
    records: contents.records.map((record) => recordKind(record.type).renewed(record, swap)),
    events: contents.events.map((event) => ({
      ...event,
      id: swap(event.id),
      before: renewedDelta(event.before, swap, renewedLayout),
      after: renewedDelta(event.after, swap, renewedLayout),
      undoes: event.undoes && swap(event.undoes),
    })),
  }
}

/** Units named in what an event changed. */
function renewedDelta(delta: unknown, swap: (id: string) => string, renewedLayout: (layout: Layout) => Layout): unknown {
  if (delta === null || typeof delta !== 'object') return delta
  const { layouts, unit } = delta as { layouts?: Record<string, Layout | null>; unit?: { id: string } }
  return {
    ...delta,
    ...(layouts && typeof layouts === 'object'
      ? {
          layouts: Object.fromEntries(
            Object.entries(layouts).map(([key, layout]) => [key, layout?.units ? renewedLayout(layout) : layout]),
          ),
        }
      : {}),
    ...(unit && typeof unit.id === 'string' ? { unit: { ...unit, id: swap(unit.id) } } : {}),
  }
}
