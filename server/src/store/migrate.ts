import type { Sequelize } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import * as first from './migrations/001-first.ts'
import * as sections from './migrations/002-sections.ts'

/** In order; each is applied once and never changed after it has been released. */
const migrations = [first, sections]

export async function migrate(database: Sequelize): Promise<void> {
  const umzug = new Umzug({
    migrations: migrations.map((each) => ({ name: each.name, up: each.up })),
    context: database.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize: database, tableName: 'migration' }),
    logger: undefined,
  })
  await umzug.up()
}
