import type { FieldRecord, Layout, Person, ShelfItem, Site, Trial, TrialEvent, Unit } from '@canter/core/trial'
import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize'

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
      facts: json(),
      shelf: text(),
      design: json(),
      without: json(),
      season: integer(),
      again: text(),
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
      counted: text(),
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
