import type { Person, PersonSettings } from '@canter/core/trial'
import { Op, type Transaction } from 'sequelize'
import { v7 as uuidv7 } from 'uuid'
import type { Models } from './models.ts'
import type { WriteQueue } from './write-queue.ts'

/** The one person of single-person mode. A fixed id, so that packages of one desk agree. */
export const LOCAL_PERSON = '00000000-0000-7000-8000-000000000001'

export type Named = Pick<Person, 'id' | 'name'>

export class PeopleStore {
  readonly #models: Models
  readonly #queue: WriteQueue
  #local: Promise<Person> | null = null

  constructor(models: Models, queue: WriteQueue) {
    this.#models = models
    this.#queue = queue
  }

  async ensureLocal(): Promise<void> {
    await this.#queue.run(async (transaction) => {
      const found = await this.#models.person.findByPk(LOCAL_PERSON, { transaction })
      if (!found) await this.#add({ id: LOCAL_PERSON, name: 'You' }, transaction)
    })
  }

  /** Asked for with every request, so it is read once and again after a change. */
  local(): Promise<Person> {
    this.#local ??= this.#models.person.findByPk(LOCAL_PERSON).then((row) => row!.get({ plain: true }))
    return this.#local
  }

  async update(person: string, settings: PersonSettings): Promise<Person> {
    await this.#queue.run((transaction) => this.#models.person.update(settings, { where: { id: person }, transaction }))
    this.#local = null
    return (await this.#models.person.findByPk(person))!.get({ plain: true })
  }

  /** Everybody who may be named as observer, in the order they came. */
  async all(transaction?: Transaction): Promise<Named[]> {
    const rows = await this.#models.person.findAll({ order: [['id', 'ASC']], ...(transaction ? { transaction } : {}) })
    return rows.map((row) => ({ id: row.get('id') as string, name: row.get('name') as string }))
  }

  /** Somebody who observes; the same name again is the same person. */
  async add(name: string): Promise<Named[]> {
    await this.#queue.run(async (transaction) => {
      const found = await this.#models.person.findOne({ where: { name }, transaction })
      if (!found) await this.#add({ id: uuidv7(), name }, transaction)
    })
    return this.all()
  }

  async named(ids: readonly string[]): Promise<Named[]> {
    const rows = await this.#models.person.findAll({ where: { id: { [Op.in]: [...ids] } } })
    return rows.map((row) => ({ id: row.get('id') as string, name: row.get('name') as string }))
  }

  async #add(person: Named, transaction: Transaction): Promise<void> {
    await this.#models.person.create({ ...person, units: 'metric', shortcuts: true, theme: 'auto' }, { transaction })
  }
}
