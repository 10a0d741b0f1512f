import { Transaction, type Sequelize } from 'sequelize'

export type Write<T> = (transaction: Transaction) => Promise<T>

interface Waiting {
  readonly write: Write<unknown>
  readonly resolve: (value: unknown) => void
  readonly reject: (error: unknown) => void
}

/**
 * The one way to write. Writes run one after another; those that wait together share one
 * IMMEDIATE transaction, each inside its own savepoint, so that a write that fails takes
 * nothing else with it. A write is acknowledged only after the commit is on disk.
 */
export class WriteQueue {
  readonly #database: Sequelize
  #waiting: Waiting[] = []
  #running: Promise<void> | null = null
  readonly #failed: (() => void)[] = []
  readonly #committed: (() => void)[] = []

  constructor(database: Sequelize) {
    this.#database = database
  }

  /** Called when a whole batch was rolled back: what was remembered from within it never was. */
  onFailure(act: () => void): void {
    this.#failed.push(act)
  }

  /** Called when a batch is on disk, before anybody hears of it. */
  onCommit(act: () => void): void {
    this.#committed.push(act)
  }

  run<T>(write: Write<T>): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.#waiting.push({ write, resolve: resolve as (value: unknown) => void, reject })
      this.#running ??= this.#drain()
    })
  }

  /** Resolves when nothing waits or runs. */
  async idle(): Promise<void> {
    while (this.#running) await this.#running
  }

  async #drain(): Promise<void> {
    // Let writes that arrive in the same turn join the first batch.
    await Promise.resolve()
    while (this.#waiting.length > 0) await this.#batch(this.#waiting.splice(0, 100))
    this.#running = null
  }

  async #batch(batch: readonly Waiting[]): Promise<void> {
    const settle: (() => void)[] = []
    try {
      const transaction = await this.#database.transaction({ type: Transaction.TYPES.IMMEDIATE })
      try {
        for (const each of batch) settle.push(await this.#one(each, transaction))
        await transaction.commit()
      } catch (error) {
        await transaction.rollback().catch(() => undefined)
        throw error
      }
      this.#committed.forEach((act) => act())
      settle.forEach((act) => act())
    } catch (error) {
      this.#failed.forEach((act) => act())
      batch.forEach((each) => each.reject(error))
    }
  }

  async #one(each: Waiting, transaction: Transaction): Promise<() => void> {
    await this.#database.query('SAVEPOINT one', { transaction })
    try {
      const value = await each.write(transaction)
      await this.#database.query('RELEASE one', { transaction })
      return () => each.resolve(value)
    } catch (error) {
      await this.#database.query('ROLLBACK TO one', { transaction })
      await this.#database.query('RELEASE one', { transaction })
      return () => each.reject(error)
    }
  }
}
