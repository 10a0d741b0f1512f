import type { Run } from './run.ts'

/** Frozen: change the store by adding a migration, never by editing this one. */
export const name = '001-first'

// Sequelize reads a column back by its declared type: JSON and TINYINT(1) say object and yes/no.
const STATEMENTS = [
  `CREATE TABLE person (
    id TEXT PRIMARY KEY, name TEXT NOT NULL, units TEXT NOT NULL, shortcuts TINYINT(1) NOT NULL, theme TEXT NOT NULL
  )`,
  `CREATE TABLE trial (
    id TEXT PRIMARY KEY, version INTEGER NOT NULL, title TEXT NOT NULL, crop TEXT NOT NULL, season INTEGER NOT NULL,
    question JSON NOT NULL, factors JSON NOT NULL, traits JSON NOT NULL, derived JSON NOT NULL, response TEXT NOT NULL,
    yield_trait TEXT, quality_trait TEXT, smallest_difference JSON, significance REAL NOT NULL, replicates INTEGER NOT NULL,
    sites JSON NOT NULL, common JSON NOT NULL, supply JSON, economics JSON, created_at TEXT NOT NULL, deleted_at TEXT
  )`,
  `CREATE TABLE layout (
    trial_id TEXT NOT NULL REFERENCES trial (id), site_key TEXT NOT NULL, structure JSON NOT NULL,
    PRIMARY KEY (trial_id, site_key)
  )`,
  `CREATE TABLE unit (
    id TEXT PRIMARY KEY, trial_id TEXT NOT NULL REFERENCES trial (id), site_key TEXT NOT NULL, position INTEGER NOT NULL,
    kind TEXT NOT NULL, code TEXT NOT NULL, planned JSON NOT NULL, received JSON NOT NULL, change TEXT NOT NULL,
    place JSON, walk INTEGER
  )`,
  `CREATE INDEX unit_of_trial ON unit (trial_id, position)`,
  `CREATE TABLE membership (
    unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE, in_unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE,
    position INTEGER NOT NULL, PRIMARY KEY (unit_id, in_unit_id)
  ) WITHOUT ROWID`,
  `CREATE TABLE record (
    seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, trial_id TEXT NOT NULL REFERENCES trial (id),
    type TEXT NOT NULL, unit_id TEXT REFERENCES unit (id), person_id TEXT NOT NULL REFERENCES person (id), body JSON NOT NULL
  )`,
  `CREATE INDEX record_of_trial ON record (trial_id, seq)`,
  `CREATE TABLE event (
    seq INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL UNIQUE, trial_id TEXT NOT NULL REFERENCES trial (id),
    at TEXT NOT NULL, person TEXT NOT NULL REFERENCES person (id), kind TEXT NOT NULL, reason TEXT NOT NULL,
    what TEXT NOT NULL, before JSON, after JSON
  )`,
  // Append-only is kept by the store itself, whatever the code above it does.
  ...['record', 'event'].flatMap((table) =>
    ['UPDATE', 'DELETE'].map(
      (act) =>
        `CREATE TRIGGER ${table}_no_${act.toLowerCase()} BEFORE ${act} ON ${table} BEGIN SELECT RAISE(ABORT, '${table} is append-only'); END`,
    ),
  ),
]

export async function up({ act }: Run): Promise<void> {
  for (const statement of STATEMENTS) await act(statement)
}
