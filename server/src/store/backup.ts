import { existsSync, renameSync, rmSync } from 'node:fs'
import sqlite3 from 'sqlite3'
import { migrationNames } from './migrate.ts'
import { diskInWords, examine, lockFile, makeFolder, Plain, StoreProblem } from './opening.ts'

/** What a copy holds, counted in the copy itself. */
export interface Copied {
  readonly trials: number
  readonly records: number
}

/**
 * A whole copy of a database as it stands at one moment, also while a server works on it. It gets
 * its name only once it has been opened and counted. Throws StoreProblem.
 */
export async function backUp(file: string, copy: string): Promise<Copied> {
  if (!existsSync(file)) throw new StoreProblem(`${file} is not there.`)
  if (existsSync(copy)) throw new StoreProblem(`${copy} is there already. Name a new file; backups are not written over.`)
  makeFolder(copy)
  await examine(file, migrationNames)
  return inWords(copy, () => copied(file, copy))
}

/**
 * Puts a backup in the place of a database. What stood there is kept beside it. The copy counts one
 * epoch more, so that browsers look what they still hold and send it again. Throws StoreProblem.
 */
export async function putBack(copy: string, file: string): Promise<Copied & { readonly kept: string | null }> {
  if (!existsSync(copy)) throw new StoreProblem(`${copy} is not there.`)
  makeFolder(file)
  const unlock = await lockFile(file)
  try {
    await examine(copy, migrationNames)
    return await inWords(file, async () => {
      const fresh = `${file}.new`
      rmSync(fresh, { force: true })
      const held = await copied(copy, fresh)
      const epoch = 1 + Math.max(await epochOf(fresh), existsSync(file) ? await epochOf(file).catch(() => 0) : 0)
      await change(fresh, 'UPDATE store SET epoch = ?', [epoch])
      const kept = existsSync(file) ? freeName(file) : null
      if (kept) for (const end of ['', '-wal', '-shm']) if (existsSync(file + end)) renameSync(file + end, kept + end)
      renameSync(fresh, file)
      return { ...held, kept }
    })
  } finally {
    await unlock()
  }
}

async function copied(from: string, to: string): Promise<Copied> {
  const part = `${to}.part`
  rmSync(part, { force: true })
  try {
    const source = await Plain.open(from, sqlite3.OPEN_READONLY)
    try {
      await source.all('VACUUM INTO ?', [part])
    } finally {
      await source.close()
    }
    await examine(part, migrationNames)
    const copy = await Plain.open(part, sqlite3.OPEN_READONLY)
    try {
      const count = async (table: string): Promise<number> => Number((await copy.all(`SELECT COUNT(*) AS n FROM ${table}`))[0]!['n'])
      const held = { trials: await count('trial'), records: await count('record') }
      await copy.close()
      renameSync(part, to)
      return held
    } catch (error) {
      await copy.close().catch(() => undefined)
      throw error
    }
  } finally {
    rmSync(part, { force: true })
  }
}

/** Nought for a database of before stores had an identity. */
async function epochOf(file: string): Promise<number> {
  const plain = await Plain.open(file, sqlite3.OPEN_READONLY)
  try {
    const known = await plain.all("SELECT name FROM sqlite_master WHERE type = 'table' AND name = 'store'")
    return known.length === 0 ? 0 : Number((await plain.all('SELECT epoch FROM store'))[0]?.['epoch'] ?? 0)
  } finally {
    await plain.close()
  }
}

async function change(file: string, sql: string, values: unknown[]): Promise<void> {
  const plain = await Plain.open(file, sqlite3.OPEN_READWRITE)
  try {
    const known = await plain.all("SELECT name FROM sqlite_master WHERE type = 'table' AND name = 'store'")
    if (known.length > 0) await plain.all(sql, values)
  } finally {
    await plain.close()
  }
}

function freeName(file: string): string {
  let n = 1
  while (existsSync(`${file}.before-${n}`)) n++
  return `${file}.before-${n}`
}

async function inWords<Result>(file: string, act: () => Promise<Result>): Promise<Result> {
  try {
    return await act()
  } catch (error) {
    const words = error instanceof StoreProblem ? null : diskInWords(error)
    throw words ? new StoreProblem(`${file} cannot be written. ${words} What stood there is unchanged.`) : error
  }
}
