/** A write as SQLite takes it, made anywhere, also on another thread. Values are bound and never part of the text. */
export interface Statement {
  readonly sql: string
  readonly bind: readonly (string | number | null)[]
}

/** How many rows go into one statement: a few milliseconds for whoever waits beside it. */
const MOST = 500

/**
 * Many rows at once. They go over as one JSON text each few hundred and are taken apart by SQLite
 * itself, off the thread that answers: thousands of plots are written while others are served.
 */
export function inserts(table: string, rows: readonly object[]): Statement[] {
  const names = namesOf(rows)
  const sql = `INSERT INTO ${table} (${names.map(columnOf).join(', ')}) SELECT ${names.map((_, i) => nth(i)).join(', ')} FROM json_each($1)`
  return inPieces(sql, names, rows)
}

/** The same for rows that are there, found by their id; what the rows do not name stays as it is. */
export function updates(table: string, rows: readonly ({ readonly id: string } & object)[]): Statement[] {
  const names = namesOf(rows)
  const sets = names.filter((name) => name !== 'id').map((name) => `${columnOf(name)} = ${nth(names.indexOf(name))}`)
  const sql = `UPDATE ${table} SET ${sets.join(', ')} FROM json_each($1) WHERE ${table}.id = ${nth(names.indexOf('id'))}`
  return inPieces(sql, names, rows)
}

/** One row, each value bound by itself: for texts of megabytes. */
export function insert(table: string, row: object, more = ''): Statement {
  const names = namesOf([row])
  const sql = `INSERT INTO ${table} (${names.map(columnOf).join(', ')}) VALUES (${names.map((_, i) => `$${i + 1}`).join(', ')}) ${more}`
  return { sql, bind: names.map((name) => cell((row as Record<string, unknown>)[name])) }
}

/** One row that is there, by its id. */
export function update(table: string, { id, ...row }: { readonly id: string } & object): Statement {
  const names = namesOf([row])
  const sets = names.map((name, i) => `${columnOf(name)} = $${i + 2}`)
  return {
    sql: `UPDATE ${table} SET ${sets.join(', ')} WHERE id = $1`,
    bind: [id, ...names.map((name) => cell((row as Record<string, unknown>)[name]))],
  }
}

/** The rows that have these values. */
export function deletion(table: string, where: Readonly<Record<string, string>>): Statement {
  const conditions = Object.keys(where).map((name, i) => `${columnOf(name)} = $${i + 1}`)
  return { sql: `DELETE FROM ${table} WHERE ${conditions.join(' AND ')}`, bind: Object.values(where) }
}

function namesOf(rows: readonly object[]): string[] {
  return [...new Set(rows.flatMap((row) => Object.keys(row)))]
}

/** `siteKey` is kept as `site_key`. */
function columnOf(name: string): string {
  return name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)
}

const nth = (i: number): string => `json_extract(value, '$[${i}]')`

function inPieces(sql: string, names: readonly string[], rows: readonly object[]): Statement[] {
  return Array.from({ length: Math.ceil(rows.length / MOST) }, (_, piece) => {
    const own = rows.slice(piece * MOST, (piece + 1) * MOST)
    return { sql, bind: [JSON.stringify(own.map((row) => names.map((name) => cell((row as Record<string, unknown>)[name]))))] }
  })
}

function cell(value: unknown): string | number | null {
  return value !== null && typeof value === 'object' ? JSON.stringify(value) : ((value as string | number | null | undefined) ?? null)
}
