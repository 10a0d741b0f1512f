import type { FieldRecord, Layout, Person, ShelfItem, Site, Trial, TrialEvent, Unit } from '@canter/core/trial'
import { DataTypes, QueryTypes, type Model, type ModelStatic, type Sequelize, type Transaction } from 'sequelize'

/** Rows as the store holds them, typed by the vocabulary they come from. */
export interface Rows {
  readonly person: Person
  readonly trial: Omit<Trial, 'sites'>
  readonly site: Site & { trialId: string; position: number }
  readonly layout: { trialId: string; siteKey: string; structure: Layout['structure'] }
  readonly unit: Omit<Unit, 'in'> & { trialId: string; siteKey: string; position: number }
  readonly membership: { unitId: string; inUnitId: string; position: number }
  readonly record: {
    seq?: number
    id: string
    trialId: string
    type: FieldRecord['type']
    unitId: string | null
    personId: string
    body: FieldRecord
  }
  readonly event: TrialEvent & { seq?: number; trialId: string }
  readonly shelf: ShelfItem
}

type Table<Row extends object> = ModelStatic<Model<Row, Row>>

export type Models = { readonly [Name in keyof Rows]: Table<Rows[Name]> }

// Made anew for each column: Sequelize writes the column's name into what it is given.
const text = () => ({ type: DataTypes.TEXT })
const integer = () => ({ type: DataTypes.INTEGER })
const json = () => ({ type: DataTypes.JSON })
const key = () => ({ type: DataTypes.TEXT, primaryKey: true })
const sequence = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true })

export function defineModels(database: Sequelize): Models {
  const define = <Row extends object>(name: string, columns: Record<keyof Row, object>): Table<Row> =>
    database.define(name, columns as Parameters<Sequelize['define']>[1])
  return {
    person: define<Rows['person']>('person', {
      id: key(),
      name: text(),
      units: text(),
      shortcuts: { type: DataTypes.BOOLEAN },
      theme: text(),
    }),
    trial: define<Rows['trial']>('trial', {
      id: key(),
      version: integer(),
      versions: json(),
      question: json(),
      treatments: json(),
      traits: json(),
      amounts: json(),
      prices: json(),
      createdAt: text(),
      deletedAt: text(),
    }),
    site: define<Rows['site']>('site', {
      trialId: key(),
      key: key(),
      position: integer(),
      name: text(),
      soil: text(),
      ground: json(),
      design: json(),
    }),
    layout: define<Rows['layout']>('layout', { trialId: key(), siteKey: key(), structure: json() }),
    unit: define<Rows['unit']>('unit', {
      id: key(),
      trialId: text(),
      siteKey: text(),
      position: integer(),
      kind: text(),
      code: text(),
      at: json(),
      planned: json(),
      received: json(),
      changes: json(),
      place: json(),
      walk: integer(),
    }),
    membership: define<Rows['membership']>('membership', { unitId: key(), inUnitId: key(), position: integer() }),
    record: define<Required<Rows['record']>>('record', {
      seq: sequence(),
      id: text(),
      trialId: text(),
      type: text(),
      unitId: text(),
      personId: text(),
      body: json(),
    }),
    event: define<Required<Rows['event']>>('event', {
      seq: sequence(),
      id: text(),
      trialId: text(),
      at: text(),
      person: text(),
      kind: text(),
      section: text(),
      reason: text(),
      what: text(),
      before: json(),
      after: json(),
      undoes: text(),
    }),
    shelf: define<Rows['shelf']>('shelf', { id: key(), kind: text(), name: text(), body: json() }),
  }
}

/**
 * Many rows at once. They go over as one JSON text each few thousand and are taken apart by SQLite
 * itself, off the thread that answers: thousands of plots are written while others are served.
 */
export async function createInPieces<Row extends object>(model: Table<Row>, rows: readonly Row[], transaction: Transaction): Promise<void> {
  const { names, columns } = columnsOf(model, rows)
  const sql = `INSERT INTO ${model.getTableName() as string} (${columns.join(', ')})
    SELECT ${columns.map((_, i) => nth(i)).join(', ')} FROM json_each($1)`
  await inPieces(model, sql, names, rows, transaction)
}

/** The same for rows that are there, found by their id; what a row does not name stays as it is. */
export async function updateInPieces<Row extends { id: string }>(
  model: Table<Row>,
  rows: readonly (Partial<Row> & { id: string })[],
  transaction: Transaction,
): Promise<void> {
  const { names, columns } = columnsOf(model, rows)
  const sets = columns.flatMap((column, i) => (column === 'id' ? [] : [`${column} = ${nth(i)}`]))
  const sql = `UPDATE ${model.getTableName() as string} SET ${sets.join(', ')}
    FROM json_each($1) WHERE ${model.getTableName() as string}.id = ${nth(names.indexOf('id'))}`
  await inPieces(model, sql, names, rows, transaction)
}

const nth = (i: number): string => `json_extract(value, '$[${i}]')`

/** Attributes that the rows name, and their columns. */
function columnsOf<Row extends object>(model: Table<Row>, rows: readonly object[]): { names: string[]; columns: string[] } {
  const attributes = Object.entries(model.getAttributes() as Record<string, { field?: string }>)
  const named = attributes.filter(([name]) => rows.some((row) => name in row))
  return { names: named.map(([name]) => name), columns: named.map(([name, { field }]) => field ?? name) }
}

async function inPieces<Row extends object>(
  model: Table<Row>,
  sql: string,
  names: readonly string[],
  rows: readonly object[],
  transaction: Transaction,
): Promise<void> {
  const cell = (value: unknown): unknown => (value !== null && typeof value === 'object' ? JSON.stringify(value) : (value ?? null))
  for (let from = 0; from < rows.length; from += 2000) {
    const piece = rows.slice(from, from + 2000).map((row) => names.map((name) => cell((row as Record<string, unknown>)[name])))
    await model.sequelize!.query(sql, { bind: [JSON.stringify(piece)], type: QueryTypes.RAW, transaction })
  }
}
