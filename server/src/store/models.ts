import { DataTypes, type Model, type ModelStatic, type Sequelize, type Transaction } from 'sequelize'

type Row = Model<Record<string, unknown>, Record<string, unknown>>

export interface Models {
  readonly person: ModelStatic<Row>
  readonly trial: ModelStatic<Row>
  readonly layout: ModelStatic<Row>
  readonly unit: ModelStatic<Row>
  readonly membership: ModelStatic<Row>
  readonly record: ModelStatic<Row>
  readonly event: ModelStatic<Row>
}

// Made anew for each column: Sequelize writes the column's name into what it is given.
const text = () => ({ type: DataTypes.TEXT })
const integer = () => ({ type: DataTypes.INTEGER })
const json = () => ({ type: DataTypes.JSON })
const key = () => ({ type: DataTypes.TEXT, primaryKey: true })
const sequence = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true })

export function defineModels(database: Sequelize): Models {
  const define = (name: string, columns: Parameters<Sequelize['define']>[1]) =>
    database.define(name, columns) as unknown as ModelStatic<Row>
  return {
    person: define('person', { id: key(), name: text(), units: text(), shortcuts: { type: DataTypes.BOOLEAN }, theme: text() }),
    trial: define('trial', {
      id: key(),
      version: integer(),
      title: text(),
      crop: text(),
      season: integer(),
      question: json(),
      factors: json(),
      traits: json(),
      derived: json(),
      response: text(),
      yieldTrait: text(),
      qualityTrait: text(),
      smallestDifference: json(),
      significance: { type: DataTypes.REAL },
      replicates: integer(),
      sites: json(),
      common: json(),
      supply: json(),
      economics: json(),
      createdAt: text(),
      deletedAt: text(),
    }),
    layout: define('layout', { trialId: key(), siteKey: key(), structure: json() }),
    unit: define('unit', {
      id: key(),
      trialId: text(),
      siteKey: text(),
      position: integer(),
      kind: text(),
      code: text(),
      planned: json(),
      received: json(),
      change: text(),
      place: json(),
      walk: integer(),
    }),
    membership: define('membership', { unitId: key(), inUnitId: key(), position: integer() }),
    record: define('record', {
      seq: sequence(),
      id: text(),
      trialId: text(),
      type: text(),
      unitId: text(),
      personId: text(),
      body: json(),
    }),
    event: define('event', {
      seq: sequence(),
      id: text(),
      trialId: text(),
      at: text(),
      person: text(),
      kind: text(),
      reason: text(),
      what: text(),
      before: json(),
      after: json(),
    }),
  }
}

/** Many rows in statements of bounded length, which SQLite limits. */
export async function createInPieces(model: ModelStatic<Row>, rows: Record<string, unknown>[], transaction: Transaction): Promise<void> {
  for (let from = 0; from < rows.length; from += 400) await model.bulkCreate(rows.slice(from, from + 400), { transaction })
}
