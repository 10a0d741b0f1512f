import { upgradeEvent, upgradeRecord, upgradeTrial } from '@canter/core/exchange'
import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '002-sections'

const TABLES = [
  `CREATE TABLE trial (
    id TEXT PRIMARY KEY, version INTEGER NOT NULL, versions JSON NOT NULL, question JSON NOT NULL, treatments JSON NOT NULL,
    traits JSON NOT NULL, amounts JSON NOT NULL, prices JSON NOT NULL, created_at TEXT NOT NULL, deleted_at TEXT
  )`,
  `CREATE TABLE site (
    trial_id TEXT NOT NULL REFERENCES trial (id), key TEXT NOT NULL, position INTEGER NOT NULL, name TEXT NOT NULL,
    soil TEXT NOT NULL, ground JSON NOT NULL, design JSON NOT NULL, PRIMARY KEY (trial_id, key)
  )`,
  `CREATE TABLE layout (
    trial_id TEXT NOT NULL REFERENCES trial (id), site_key TEXT NOT NULL, structure JSON NOT NULL, PRIMARY KEY (trial_id, site_key)
  )`,
  `CREATE TABLE unit (
    id TEXT PRIMARY KEY, trial_id TEXT NOT NULL REFERENCES trial (id), site_key TEXT NOT NULL, position INTEGER NOT NULL,
    kind TEXT NOT NULL, code TEXT NOT NULL, at JSON, planned JSON NOT NULL, received JSON NOT NULL, changes JSON NOT NULL,
    place JSON, walk INTEGER
  )`,
  `CREATE INDEX unit_of_trial ON unit (trial_id, site_key, position)`,
  `CREATE TABLE membership (
    unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE, in_unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE,
    position INTEGER NOT NULL, PRIMARY KEY (unit_id, in_unit_id)
  ) WITHOUT ROWID`,
  // A record outlives the unit it is about: a layout may be taken off, what was said of its plots stays.
  `CREATE TABLE record (
    seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, trial_id TEXT NOT NULL REFERENCES trial (id),
    type TEXT NOT NULL, unit_id TEXT, person_id TEXT NOT NULL REFERENCES person (id), body JSON NOT NULL
  )`,
  `CREATE INDEX record_of_trial ON record (trial_id, seq)`,
  `CREATE TABLE event (
    seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, trial_id TEXT NOT NULL REFERENCES trial (id),
    at TEXT NOT NULL, person TEXT NOT NULL REFERENCES person (id), kind TEXT NOT NULL, section TEXT, reason TEXT NOT NULL,
    what TEXT NOT NULL, before JSON, after JSON, undoes TEXT
  )`,
  `CREATE INDEX event_of_trial ON event (trial_id, seq)`,
  `CREATE TABLE shelf (id TEXT PRIMARY KEY, kind TEXT NOT NULL, name TEXT NOT NULL, body JSON NOT NULL)`,
]

const APPEND_ONLY = ['record', 'event'].flatMap((table) =>
  ['UPDATE', 'DELETE'].map(
    (act) =>
      `CREATE TRIGGER ${table}_no_${act.toLowerCase()} BEFORE ${act} ON ${table} BEGIN SELECT RAISE(ABORT, '${table} is append-only'); END`,
  ),
)

const OLD = ['membership', 'record', 'event', 'unit', 'layout', 'trial']

type Row = Record<string, unknown>

/** Every trial of the first shape is upgraded as a package of it is; all of it, or nothing. */
export async function up({ act: run, rows }: Run): Promise<void> {
  for (const table of ['record', 'event']) for (const act of ['update', 'delete']) await run(`DROP TRIGGER ${table}_no_${act}`)
  for (const index of ['unit_of_trial', 'record_of_trial']) await run(`DROP INDEX ${index}`)
  for (const table of OLD) await run(`ALTER TABLE ${table} RENAME TO old_${table}`)
  for (const statement of TABLES) await run(statement)
  for (const trial of await rows('SELECT * FROM old_trial')) await move(trial, rows, run)
  for (const { seq, id, trial_id, type, unit_id, person_id, body } of await rows('SELECT * FROM old_record ORDER BY seq')) {
    const record = JSON.stringify(upgradeRecord(parsed(body)))
    await run('INSERT INTO record (seq, id, trial_id, type, unit_id, person_id, body) VALUES (?, ?, ?, ?, ?, ?, ?)', [
      seq,
      id,
      trial_id,
      type,
      unit_id,
      person_id,
      record,
    ])
  }
  for (const { seq, trial_id, ...event } of await rows('SELECT * FROM old_event ORDER BY seq')) {
    const { id, at, person, kind, reason, what } = upgradeEvent(event) as Row
    await run(
      'INSERT INTO event (seq, id, trial_id, at, person, kind, section, reason, what, before, after, undoes) VALUES (?, ?, ?, ?, ?, ?, NULL, ?, ?, NULL, NULL, NULL)',
      [seq, id, trial_id, at, person, kind, reason, what],
    )
  }
  for (const table of OLD) await run(`DROP TABLE old_${table}`)
  for (const statement of APPEND_ONLY) await run(statement)
}

function parsed(value: unknown): unknown {
  return typeof value === 'string' ? (JSON.parse(value) as unknown) : value
}

/** Columns of the first shape under the names the upgrade knows. */
const FIELDS: Readonly<Record<string, string>> = {
  yield_trait: 'yieldTrait',
  quality_trait: 'qualityTrait',
  smallest_difference: 'smallestDifference',
  created_at: 'createdAt',
  deleted_at: 'deletedAt',
}
const JSON_FIELDS = new Set(['question', 'factors', 'traits', 'derived', 'smallestDifference', 'sites', 'common', 'supply', 'economics'])

async function move(row: Row, rows: Run['rows'], run: Run['act']): Promise<void> {
  const old = Object.fromEntries(
    Object.entries(row).map(([column, value]) => {
      const field = FIELDS[column] ?? column
      return [field, JSON_FIELDS.has(field) && value !== null ? parsed(value) : value]
    }),
  )
  const id = old['id'] as string
  const [layout] = await rows(`SELECT * FROM old_layout WHERE trial_id = '${id}'`)
  const memberships = await rows(
    `SELECT m.* FROM old_membership m JOIN old_unit u ON u.id = m.unit_id WHERE u.trial_id = '${id}' ORDER BY m.position`,
  )
  const holders = new Map<string, string[]>()
  for (const { unit_id, in_unit_id } of memberships)
    holders.set(unit_id as string, [...(holders.get(unit_id as string) ?? []), in_unit_id as string])
  const units = (await rows(`SELECT * FROM old_unit WHERE trial_id = '${id}' ORDER BY position`)).map((unit) => ({
    id: unit['id'],
    kind: unit['kind'],
    code: unit['code'],
    in: holders.get(unit['id'] as string) ?? [],
    planned: parsed(unit['planned']),
    received: parsed(unit['received']),
    change: unit['change'],
    place: unit['place'] === null ? null : parsed(unit['place']),
    walk: unit['walk'],
  }))
  const upgraded = upgradeTrial(old, layout ? { siteKey: layout['site_key'], structure: parsed(layout['structure']), units } : null)
  const trial = upgraded.trial as Row & { sites: Row[] }
  const json = JSON.stringify
  await run(
    'INSERT INTO trial (id, version, versions, question, treatments, traits, amounts, prices, created_at, deleted_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
    [
      trial['id'],
      trial['version'],
      ...['versions', 'question', 'treatments', 'traits', 'amounts', 'prices'].map((field) => json(trial[field])),
      trial['createdAt'],
      trial['deletedAt'],
    ],
  )
  for (const [position, site] of trial.sites.entries()) {
    await run('INSERT INTO site (trial_id, key, position, name, soil, ground, design) VALUES (?, ?, ?, ?, ?, ?, ?)', [
      id,
      site['key'],
      position,
      site['name'],
      site['soil'],
      json(site['ground']),
      json(site['design']),
    ])
  }
  for (const { siteKey, structure, units: laid } of upgraded.layouts) {
    await run('INSERT INTO layout (trial_id, site_key, structure) VALUES (?, ?, ?)', [id, siteKey, json(structure)])
    for (const [position, unit] of (laid as Row[]).entries()) {
      await run(
        'INSERT INTO unit (id, trial_id, site_key, position, kind, code, at, planned, received, changes, place, walk) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
        [
          unit['id'],
          id,
          siteKey,
          position,
          unit['kind'],
          unit['code'],
          unit['at'] === null ? null : json(unit['at']),
          json(unit['planned']),
          json(unit['received']),
          json(unit['changes']),
          unit['place'] === null ? null : json(unit['place']),
          unit['walk'],
        ],
      )
    }
    for (const unit of laid as { id: string; in: string[] }[])
      for (const [position, within] of unit.in.entries())
        await run('INSERT INTO membership (unit_id, in_unit_id, position) VALUES (?, ?, ?)', [unit.id, within, position])
  }
}
