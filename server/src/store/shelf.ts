import { ShelfItem, type ShelfItemDraft } from '@canter/core/trial'
import type { Transaction } from 'sequelize'
import { v7 as uuidv7 } from 'uuid'
import type { Models } from './models.ts'
import type { WriteQueue } from './write-queue.ts'

/** Ground and products that trials start from. */
export class ShelfStore {
  readonly #models: Models
  readonly #queue: WriteQueue

  constructor(models: Models, queue: WriteQueue) {
    this.#models = models
    this.#queue = queue
  }

  async all(transaction?: Transaction): Promise<ShelfItem[]> {
    const rows = await this.#models.shelf.findAll({
      order: [
        ['kind', 'ASC'],
        ['name', 'ASC'],
      ],
      ...(transaction ? { transaction } : {}),
    })
    return rows.map((row) => ShelfItem.parse(row.get({ plain: true })))
  }

  /** The same thing under the same name again replaces what stood there. */
  async put(item: ShelfItemDraft): Promise<ShelfItem> {
    return this.#queue.run(async (transaction) => {
      const { kind, name } = item
      const found = await this.#models.shelf.findOne({ where: { kind, name }, transaction })
      const kept = { ...item, id: (found?.get('id') as string | undefined) ?? uuidv7() }
      await this.#models.shelf.upsert(kept, { transaction })
      return kept
    })
  }

  /** Changes one thing: `edit` is given what stands and what else of its kind there is, and may throw. Null: it is not there. */
  async change(id: string, edit: (stands: ShelfItem, others: readonly ShelfItem[]) => ShelfItem): Promise<ShelfItem | null> {
    return this.#queue.run(async (transaction) => {
      const all = await this.all(transaction)
      const stands = all.find((each) => each.id === id)
      if (!stands) return null
      const kept = edit(stands, all.filter((each) => each.id !== id && each.kind === stands.kind)) // prettier-ignore
      await this.#models.shelf.upsert(kept, { transaction })
      return kept
    })
  }

  /** What was taken off; null where it was not there. */
  async takeOff(id: string): Promise<ShelfItem | null> {
    return this.#queue.run(async (transaction) => {
      const stands = (await this.all(transaction)).find((each) => each.id === id)
      if (stands) await this.#models.shelf.destroy({ where: { id }, transaction })
      return stands ?? null
    })
  }
}
