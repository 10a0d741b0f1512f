import { QueryTypes, type Sequelize } from 'sequelize'
import * as first from './migrations/001-first.ts'
import type { Run } from './migrations/run.ts'
import * as sections from './migrations/002-sections.ts'
import * as identity from './migrations/003-identity.ts'
import * as settings from './migrations/004-settings.ts'
import * as comparisons from './migrations/005-comparisons.ts'
import * as again from './migrations/006-again.ts'
import * as placing from './migrations/007-placing.ts'

/** In order; each is applied once and never changed after it has been released. */
const migrations = [first, sections, identity, settings, comparisons, again, placing]

export const migrationNames = migrations.map((each) => each.name)

/** Brings a database up to date. Each step is one transaction with its own mark: killed at any moment, it is done or it is not. */
export async function migrate(database: Sequelize): Promise<void> {
  for (const { name, up } of migrations) {
    await database.transaction(async (transaction) => {
      const run: Run = {
        act: async (sql, values = []) => void (await database.query(sql, { transaction, replacements: values })),
        rows: (sql) => database.query(sql, { transaction, type: QueryTypes.SELECT }),
      }
      await run.act('CREATE TABLE IF NOT EXISTS migration (name VARCHAR(255) NOT NULL UNIQUE PRIMARY KEY)')
      const [done] = await database.query('SELECT name FROM migration WHERE name = ?', {
        transaction,
        type: QueryTypes.SELECT,
        replacements: [name],
      })
      if (done) return
      await up(run)
      await run.act('INSERT INTO migration (name) VALUES (?)', [name])
    })
  }
}
