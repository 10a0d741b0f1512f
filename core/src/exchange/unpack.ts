import { strFromU8, unzipSync } from 'fflate'
import { z } from 'zod'
import { checkTrial } from '../document/index.ts'
import { halvedUnits, recordKind, recordKinds, Structure, Trial, type RecordFrame } from '../trial/index.ts'
import { unitsEverLaid, type TrialContents } from './contents.ts'
import { refuseEndless } from './endless.ts'
import { EVENT_COLUMNS, PACKAGE_FORMAT, PACKAGE_SCHEMA, TABLES, NEEDED_UNIT_COLUMNS } from './package.ts'
import { readRecordTables } from './records.ts'
import { readEvent, readUnit } from './rows.ts'
import { FileError, readCsv, readJson } from './table.ts'
import { descriptorError, People, readFirst } from './upgrade/read-first.ts'

const Descriptor = z.object({
  format: z.literal(PACKAGE_FORMAT),
  schema: z.int(),
  trial: Trial,
  layouts: z.array(z.object({ siteKey: z.string(), structure: Structure })),
  people: People,
})

/** The descriptor, checked by its schema whatever its version, so that newer ones are refused clearly. */
const Envelope = z.object({ format: z.string(), schema: z.number().int() })

/** Largest text taken from a package, against archives made to fill a memory. */
const MOST_BYTES = 32 * 1024 * 1024
const MOST_DESCRIPTOR = 2 * 1024 * 1024

/**
 * Reads a package of this schema or an older one, and judges it as every trial is judged. Throws
 * FileError that says which file and line is wrong; nothing is half read.
 */
export function unpackTrial(bytes: Uint8Array): TrialContents {
  const files = unzip(bytes)
  const text = files.get('canter.json')
  if (text === undefined) throw new FileError('package', 'canter.json is missing; this is not a trial package.')
  const { json, schema } = readDescriptor(text)
  const later = new Set(recordKinds.filter(({ since }) => (since ?? 1) > schema).map(({ file }) => file))
  for (const { file } of TABLES) if (!files.has(file) && !later.has(file)) throw new FileError('package', `${file} is missing.`)
  const contents = schema === 1 ? readFirst(json, files) : readCurrent(json, files, schema)
  const [problem] = checkTrial(contents.trial, contents.layouts)
  if (problem) throw new FileError(problem.path.startsWith('layouts') ? 'units.csv' : 'canter.json', `${problem.path}: ${problem.message}`)
  checkRecords(contents)
  return contents
}

/** Schema 2 and later: a table that came later is not in older ones. */
function readCurrent(json: unknown, files: ReadonlyMap<string, string>, schema: number): TrialContents {
  const parsed = Descriptor.safeParse(json)
  if (!parsed.success) throw descriptorError(parsed.error)
  const { trial, layouts, people } = parsed.data
  const units = readCsv('units.csv', files.get('units.csv')!, NEEDED_UNIT_COLUMNS).map((row) => ({
    site: row.cell('site'),
    unit: readUnit(row),
  }))
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
    records: readRecordTables(files, schema),
    events: readCsv('events.csv', files.get('events.csv')!, EVENT_COLUMNS).map(readEvent),
    people,
  }
}

function unzip(bytes: Uint8Array): Map<string, string> {
  let total = 0
  let files: Record<string, Uint8Array>
  try {
    files = unzipSync(bytes, {
      filter: (file) => {
        total += file.originalSize
        if (total > MOST_BYTES) throw new FileError('package', 'it unpacks to more than 32 MB; no trial is that large.')
        if (file.name === 'canter.json' && file.originalSize > MOST_DESCRIPTOR)
          throw new FileError('canter.json', 'it is larger than 2 MB; no description of a trial is that large.')
        return file.name === 'canter.json' || TABLES.some((table) => table.file === file.name)
      },
    })
  } catch (error) {
    if (error instanceof FileError) throw error
    throw new FileError('package', 'it is not a whole zip file. Export it again, or copy it again.')
  }
  for (const [name, content] of Object.entries(files)) if (name !== 'canter.json') refuseEndless(name, content)
  return new Map(Object.entries(files).map(([name, content]) => [name, strFromU8(content)]))
}

function readDescriptor(text: string): { json: unknown; schema: number } {
  const json = readJson('canter.json', text)
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

/** Records are about units, traits, visits, sites and people that are there; or were, when they were written. */
function checkRecords(contents: TrialContents): void {
  const { trial, records, people, events } = contents
  const known = new Set(people.map((person) => person.id))
  const units = unitsEverLaid(contents)
  const ids = new Set(records.map((record) => record.id))
  const frame: RecordFrame = {
    units,
    traits: new Map(trial.traits.observed.map((trait) => [trait.key, trait])),
    visits: new Map(trial.traits.visits.map((visit) => [visit.key, visit.on])),
    halved: halvedUnits(contents.layouts),
    sites: new Set(trial.sites.map((site) => site.key)),
    people: known,
    factors: new Set(trial.treatments.factors.map((factor) => factor.key)),
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
  const seen = new Set<string>()
  const twice = events.find((event) => seen.size === seen.add(event.id).size)
  if (twice) throw new FileError('events.csv', `the id ${twice.id} stands there twice.`)
}
