import { Sequelize } from 'sequelize'
import sqlite3 from 'sqlite3'

const PRAGMAS = `
  PRAGMA journal_mode = WAL;
  PRAGMA synchronous = FULL;
  PRAGMA foreign_keys = ON;
  PRAGMA busy_timeout = 5000;
`

/**
 * Sequelize never calls its connect hooks for SQLite, and opens a connection for each
 * transaction; so the settings every connection needs are set where it is made.
 */
class SettledDatabase extends sqlite3.Database {
  constructor(file: string, mode: number, callback: (error: Error | null) => void) {
    super(file, mode, (error) => {
      if (error) callback(error)
      else this.exec(PRAGMAS, callback)
    })
  }
}

export function connect(file: string): Sequelize {
  return new Sequelize({
    dialect: 'sqlite',
    storage: file,
    dialectModule: { ...sqlite3, Database: SettledDatabase },
    logging: false,
    define: { timestamps: false, underscored: true, freezeTableName: true },
  })
}
