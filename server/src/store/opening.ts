import { accessSync, constants, closeSync, existsSync, mkdirSync, openSync, readSync, realpathSync, statSync } from 'node:fs'
import { dirname } from 'node:path'
import sqlite3 from 'sqlite3'

/** A database file that cannot be opened as it is: what is wrong, what is safe, and what to do. */
export class StoreProblem extends Error {}

/** Written into the head of every database of Canter, so that it is known before it is read. */
export const APPLICATION_ID = 0x43616e74
const HEAD = 'SQLite format 3\0'

type Row = Record<string, unknown>

/** A plain connection, for looking at a file before the store is built on it. */
export class Plain {
  readonly #database: sqlite3.Database

  private constructor(database: sqlite3.Database) {
    this.#database = database
  }

  static open(file: string, mode: number): Promise<Plain> {
    return new Promise((resolve, reject) => {
      const database: sqlite3.Database = new sqlite3.Database(file, mode, (error) => (error ? reject(error) : resolve(new Plain(database))))
    })
  }

  all(sql: string, values: unknown[] = []): Promise<Row[]> {
    return new Promise((resolve, reject) => this.#database.all<Row>(sql, values, (error, rows) => (error ? reject(error) : resolve(rows))))
  }

  close(): Promise<void> {
    return new Promise((resolve, reject) => this.#database.close((error) => (error ? reject(error) : resolve())))
  }
}

/** What SQLite or the system says of a disk, in words; null for what is no fault of the disk. */
export function diskInWords(error: unknown): string | null {
  const { code, original, parent } = error as { code?: unknown; original?: { code?: unknown }; parent?: { code?: unknown } }
  const found = [code, original?.code, parent?.code].find((each): each is string => typeof each === 'string')
  switch (found) {
    case 'SQLITE_FULL':
    case 'ENOSPC':
      return 'The disk is full. Free some room.'
    case 'SQLITE_READONLY':
    case 'EROFS':
    case 'EACCES':
    case 'EPERM':
      return 'It may not be written: the disk or the file is read-only, or belongs to somebody else.'
    case 'SQLITE_CANTOPEN':
      return 'It cannot be opened: the folder may be missing or not to be written.'
    case 'SQLITE_IOERR':
    case 'EIO':
      return 'The disk does not answer as it should. Look whether it is still connected.'
    case 'SQLITE_CORRUPT':
    case 'SQLITE_NOTADB':
      return 'The file is damaged.'
    case 'ENOTDIR':
    case 'EEXIST':
      return 'Part of its path is a file and no folder.'
    default:
      return null
  }
}

const SAFE = 'Nothing in it was changed. Values already entered in a browser wait there.'

function problemOf(file: string, error: unknown): unknown {
  const words = diskInWords(error)
  return words ? new StoreProblem(`The database ${file} cannot be opened. ${words} ${SAFE}`) : error
}

/** Makes the folder, and says what is wrong where it cannot, or where nothing can be written there. */
export function makeFolder(file: string): void {
  try {
    mkdirSync(dirname(file), { recursive: true })
    if (existsSync(file) && statSync(file).isDirectory())
      throw new StoreProblem(`${file} is a folder. Name the file of the database in CANTER_DATABASE.`)
    // A database is written through files beside it. SQLite would only say that it cannot be opened.
    accessSync(dirname(file), constants.W_OK)
    if (existsSync(file)) accessSync(file, constants.W_OK)
  } catch (error) {
    throw problemOf(file, error)
  }
}

/**
 * Looks at a file without writing to it: whether it is a database of this program, whole, and not
 * of a newer one. Throws StoreProblem.
 */
export async function examine(file: string, knownMigrations: readonly string[]): Promise<void> {
  if (!existsSync(file) || statSync(file).size === 0) return
  if (headOf(file) !== HEAD)
    throw new StoreProblem(`${file} is no database of Canter. Nothing in it was changed; name another file in CANTER_DATABASE.`)
  let plain: Plain
  try {
    plain = await Plain.open(file, sqlite3.OPEN_READONLY)
  } catch (error) {
    throw problemOf(file, error)
  }
  try {
    await recognise(file, plain, knownMigrations)
    const [check] = await plain.all('PRAGMA quick_check(1)')
    const said = String(Object.values(check ?? {})[0])
    if (said !== 'ok') throw damaged(file, said)
  } catch (error) {
    if (error instanceof StoreProblem) throw error
    const { code, message } = error as { code?: string; message: string }
    throw code === 'SQLITE_CORRUPT' || code === 'SQLITE_NOTADB' ? damaged(file, message) : problemOf(file, error)
  } finally {
    await plain.close()
  }
}

function damaged(file: string, said: string): StoreProblem {
  return new StoreProblem(
    `The database ${file} is damaged (${said.replace(/\s+/g, ' ').slice(0, 120)}). Nothing in it was changed. Keep a copy of it, then put the last backup back: canter restore BACKUP ${file}. What browsers still hold is sent again.`,
  )
}

async function recognise(file: string, plain: Plain, knownMigrations: readonly string[]): Promise<void> {
  const foreign = new StoreProblem(
    `${file} is a database of another program. Nothing in it was changed; name another file in CANTER_DATABASE.`,
  )
  const application = (await plain.all('PRAGMA application_id'))[0]?.['application_id']
  const tables = new Set((await plain.all("SELECT name FROM sqlite_master WHERE type = 'table'")).map((row) => String(row['name'])))
  if (application !== APPLICATION_ID && application !== 0) throw foreign
  if (tables.size === 0) return
  // Databases of before the mark was written into their head.
  if (application === 0 && !['migration', 'trial', 'person'].every((table) => tables.has(table))) throw foreign
  const done = (await plain.all('SELECT name FROM migration')).map((row) => String(row['name']))
  const newer = done.find((name) => !knownMigrations.includes(name))
  if (newer)
    throw new StoreProblem(
      `The database ${file} was written by a newer Canter (${newer.slice(0, 40)}). Nothing in it was changed; start it with that one, or name another file.`,
    )
}

function headOf(file: string): string {
  try {
    const handle = openSync(file, 'r')
    try {
      const head = Buffer.alloc(HEAD.length)
      readSync(handle, head, 0, HEAD.length, 0)
      return head.toString('latin1')
    } finally {
      closeSync(handle)
    }
  } catch (error) {
    throw problemOf(file, error) as Error
  }
}

/**
 * One server a file. The lock is one of the operating system, held through a small file beside the
 * database, so that it ends with the process however that ends.
 */
export async function lockFile(file: string): Promise<() => Promise<void>> {
  const path = `${existsSync(file) ? realpathSync(file) : file}.lock`
  let plain: Plain
  try {
    plain = await Plain.open(path, sqlite3.OPEN_READWRITE | sqlite3.OPEN_CREATE)
  } catch (error) {
    throw problemOf(file, error)
  }
  try {
    await plain.all('PRAGMA busy_timeout = 0')
    await plain.all('BEGIN EXCLUSIVE')
  } catch (error) {
    await plain.close()
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw problemOf(file, error)
    throw new StoreProblem(`The database ${file} is open in another Canter already. Use that one, or stop it first.`)
  }
  return () => plain.close()
}
