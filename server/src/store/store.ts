import { QueryTypes, type Sequelize } from 'sequelize'
import { connect } from './connection.ts'
import { migrate, migrationNames } from './migrate.ts'
import { defineModels, type Models } from './models.ts'
import { diskInWords, examine, lockFile, makeFolder, StoreProblem } from './opening.ts'
import { PeopleStore } from './people.ts'
import { RecordStore, type StoreIdentity } from './records.ts'
import { ShelfStore } from './shelf.ts'
import { TrialStore } from './trials.ts'
import { WriteQueue } from './write-queue.ts'

/** The same for looking only, on a connection of its own: for a worker beside the store that writes. */
export class Reading {
  readonly people: PeopleStore
  readonly trials: TrialStore
  readonly records: RecordStore

  constructor(file: string) {
    const database = connect(file)
    const models = defineModels(database)
    const queue = new WriteQueue(database)
    this.people = new PeopleStore(models, queue)
    this.records = new RecordStore(models, queue, null)
    this.trials = new TrialStore(models, queue, this.records)
  }
}

/** Everything kept on disk. One file of SQLite, one queue of writes. */
export class Store {
  readonly database: Sequelize
  readonly models: Models
  readonly queue: WriteQueue
  readonly people: PeopleStore
  readonly trials: TrialStore
  readonly records: RecordStore
  readonly shelf: ShelfStore

  readonly #unlock: () => Promise<void>

  private constructor(database: Sequelize, identity: StoreIdentity, unlock: () => Promise<void>) {
    this.#unlock = unlock
    this.database = database
    this.models = defineModels(database)
    this.queue = new WriteQueue(database)
    this.people = new PeopleStore(this.models, this.queue)
    this.records = new RecordStore(this.models, this.queue, identity)
    this.shelf = new ShelfStore(this.models, this.queue)
    this.trials = new TrialStore(this.models, this.queue, this.records)
  }

  /** Opens (and makes, and brings up to date) the database file. */
  static async open(file: string): Promise<Store> {
    makeFolder(file)
    const unlock = await lockFile(file)
    try {
      await examine(file, migrationNames)
      const database = connect(file)
      await migrate(database)
      const [identity] = await database.query<StoreIdentity>('SELECT id, epoch FROM store', { type: QueryTypes.SELECT })
      const store = new Store(database, identity!, unlock)
      await store.people.ensureLocal()
      await store.trials.finishArrivals()
      return store
    } catch (error) {
      await unlock()
      const words = error instanceof StoreProblem ? null : diskInWords(error)
      throw words ? new StoreProblem(`The database ${file} cannot be used. ${words}`) : error
    }
  }

  async close(): Promise<void> {
    await this.queue.idle()
    await this.database.close()
    await this.#unlock()
  }
}
