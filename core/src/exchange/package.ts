import { strToU8, zipSync, type Zippable } from 'fflate'
import { recordKinds, Structure, Trial, type TrialEvent, type Unit } from '../trial/index.ts'
import type { TrialContents } from './contents.ts'
import { recordTables } from './records.ts'
import { writeCsv } from './table.ts'

export const PACKAGE_FORMAT = 'canter-trial'
export const PACKAGE_SCHEMA = 3

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
  'turn_deg',
  'counted',
] as const

/** Columns that older packages do not have. */
const LATER_COLUMNS: readonly string[] = ['turn_deg', 'counted']
export const NEEDED_UNIT_COLUMNS = UNIT_COLUMNS.filter((column) => !LATER_COLUMNS.includes(column))

export const EVENT_COLUMNS = ['id', 'at', 'person', 'kind', 'section', 'reason', 'what', 'before', 'after', 'undoes'] as const

export const TABLES = [
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
    place?.turn === undefined ? '' : String(place.turn),
    unit.counted ?? '',
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
