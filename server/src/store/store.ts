import { mkdirSync } from 'node:fs'
import { dirname } from 'node:path'
import type { Sequelize } from 'sequelize'
import { connect } from './connection.ts'
import { migrate } from './migrate.ts'
import { defineModels, type Models } from './models.ts'
import { PeopleStore } from './people.ts'
import { RecordStore } from './records.ts'
import { ShelfStore } from './shelf.ts'
import { TrialStore } from './trials.ts'
import { WriteQueue } from './write-queue.ts'

/** Everything kept on disk. One file of SQLite, one queue of writes. */
export class Store {
  readonly database: Sequelize
  readonly models: Models
  readonly queue: WriteQueue
  readonly people: PeopleStore
  readonly trials: TrialStore
  readonly records: RecordStore
  readonly shelf: ShelfStore

  private constructor(database: Sequelize) {
    this.database = database
    this.models = defineModels(database)
    this.queue = new WriteQueue(database)
    this.people = new PeopleStore(this.models, this.queue)
    this.records = new RecordStore(this.models, this.queue)
    this.shelf = new ShelfStore(this.models, this.queue)
    this.trials = new TrialStore(this.models, this.queue, this.people, this.records)
  }

  /** Opens (and makes, and brings up to date) the database file. */
  static async open(file: string): Promise<Store> {
    mkdirSync(dirname(file), { recursive: true })
    const store = new Store(connect(file))
    await migrate(store.database)
    await store.people.ensureLocal()
    return store
  }

  async close(): Promise<void> {
    await this.queue.idle()
    await this.database.close()
  }
}
