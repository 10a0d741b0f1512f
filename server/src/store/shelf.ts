import { ShelfItem, type ShelfItemDraft } from '@canter/core/trial'
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

  async all(): Promise<ShelfItem[]> {
    const rows = await this.#models.shelf.findAll({
      order: [
        ['kind', 'ASC'],
        ['name', 'ASC'],
      ],
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
}
