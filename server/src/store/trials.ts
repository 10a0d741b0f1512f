import type { TrialContents } from '@canter/core/exchange'
import type { Trial } from '@canter/core/trial'
import { type Layout, type TrialDraft, type TrialEvent, type TrialFile, type Unit } from '@canter/core/trial'
import { literal, Op, type Transaction } from 'sequelize'
import { v7 as uuidv7 } from 'uuid'
import { createInPieces, type Models } from './models.ts'
import { LOCAL_PERSON, type PeopleStore } from './people.ts'
import type { RecordFrame, RecordStore } from './records.ts'
import type { WriteQueue } from './write-queue.ts'

/** A stale write: someone else changed the trial first. Carries what stands now. */
export class StaleVersion extends Error {
  readonly current: TrialFile
  constructor(current: TrialFile) {
    super('The trial was changed in the meantime.')
    this.current = current
  }
}

export interface Change {
  readonly kind: TrialEvent['kind']
  readonly what: string
  readonly reason: string
  readonly before: unknown
  readonly after: unknown
}

export class TrialStore {
  /** What records must fit, kept while the trial does not change: this process is the only writer. */
  readonly #frames = new Map<string, RecordFrame>()
  readonly #models: Models
  readonly #queue: WriteQueue
  readonly #people: PeopleStore

  constructor(models: Models, queue: WriteQueue, people: PeopleStore) {
    this.#models = models
    this.#queue = queue
    this.#people = people
  }

  async list(deleted: boolean): Promise<Trial[]> {
    const rows = await this.#models.trial.findAll({
      where: { deletedAt: deleted ? { [Op.not]: null } : null },
      order: [
        ['season', 'DESC'],
        ['createdAt', 'DESC'],
      ],
    })
    return rows.map((row) => row.get({ plain: true }) as unknown as Trial)
  }

  /** The trial with layout and history, or null. */
  async file(id: string, transaction?: Transaction): Promise<TrialFile | null> {
    const within = transaction ? { transaction } : {}
    const row = await this.#models.trial.findByPk(id, within)
    if (!row) return null
    const events = await this.#models.event.findAll({
      where: { trialId: id },
      order: [['seq', 'ASC']],
      attributes: { exclude: ['seq', 'trialId'] },
      ...within,
    })
    return {
      trial: row.get({ plain: true }) as unknown as Trial,
      layout: await this.layout(id, transaction),
      events: events.map((event) => event.get({ plain: true }) as unknown as TrialEvent),
    }
  }

  /** What a record of this trial must fit, or null when there is no such trial. */
  async frame(id: string): Promise<RecordFrame | null> {
    const known = this.#frames.get(id)
    if (known) return known
    const file = await this.file(id)
    if (!file) return null
    const frame = {
      units: new Set(file.layout?.units.map((unit) => unit.id)),
      traits: new Map(file.trial.traits.map((trait) => [trait.key, trait])),
      siteKeys: new Set(file.trial.sites.map((site) => site.key)),
    }
    this.#frames.set(id, frame)
    return frame
  }

  async layout(trialId: string, transaction?: Transaction): Promise<Layout | null> {
    const within = transaction ? { transaction } : {}
    const row = await this.#models.layout.findOne({ where: { trialId }, ...within })
    if (!row) return null
    const units = await this.#models.unit.findAll({ where: { trialId }, order: [['position', 'ASC']], ...within })
    const ofTrial = literal(`(SELECT id FROM unit WHERE trial_id = ${this.#models.unit.sequelize!.escape(trialId)})`)
    const memberships = await this.#models.membership.findAll({
      where: { unitId: { [Op.in]: ofTrial } },
      order: [['position', 'ASC']],
      ...within,
    })
    const membersOf = new Map<string, string[]>()
    for (const each of memberships) {
      const of = each.get('unitId') as string
      membersOf.set(of, [...(membersOf.get(of) ?? []), each.get('inUnitId') as string])
    }
    return {
      siteKey: row.get('siteKey') as string,
      structure: row.get('structure') as Layout['structure'],
      units: units.map((unit): Unit => {
        const { id, kind, code, planned, received, change, place, walk } = unit.get({ plain: true }) as unknown as Unit
        return { id, kind, code, in: membersOf.get(id) ?? [], planned, received, change, place, walk }
      }),
    }
  }

  async create(draft: TrialDraft): Promise<TrialFile> {
    const trial: Trial = { ...draft, id: uuidv7(), version: 1, createdAt: new Date().toISOString(), deletedAt: null }
    return this.#queue.run(async (transaction) => {
      await this.#models.trial.create(trial, { transaction })
      await this.#record(trial.id, { kind: 'created', what: 'Trial begun', reason: '', before: null, after: null }, transaction)
      return (await this.file(trial.id, transaction))!
    })
  }

  /**
   * Changes a trial at the version the writer saw, with what is said of it in its history.
   * `change` sees what stands and returns the new facts; it may throw to refuse.
   */
  async change(
    id: string,
    version: number,
    change: (file: TrialFile) => { trial?: TrialDraft; layout?: Layout | null; deletedAt?: string | null; event: Change },
  ): Promise<TrialFile | null> {
    return this.#queue.run(async (transaction) => {
      const file = await this.file(id, transaction)
      if (!file) return null
      if (file.trial.version !== version) throw new StaleVersion(file)
      this.#frames.delete(id)
      const { trial, layout, deletedAt, event } = change(file)
      const columns = { ...(trial ?? {}), ...(deletedAt === undefined ? {} : { deletedAt }), version: version + 1 }
      await this.#models.trial.update(columns, { where: { id }, transaction })
      if (layout !== undefined) await this.#replaceLayout(id, layout, file.layout, transaction)
      await this.#record(id, event, transaction)
      return (await this.file(id, transaction))!
    })
  }

  /** Restores a whole trial from a package; all of it or nothing. */
  async restore(contents: TrialContents, records: RecordStore): Promise<TrialFile> {
    return this.#queue.run(async (transaction) => {
      const { trial } = contents
      await this.#people.ensure(contents.people, transaction)
      await this.#models.trial.create(trial, { transaction })
      if (contents.layout) await this.#replaceLayout(trial.id, contents.layout, null, transaction)
      await records.restore(trial.id, contents.records, transaction)
      await createInPieces(
        this.#models.event,
        contents.events.map((event) => ({ ...event, trialId: trial.id })),
        transaction,
      )
      return (await this.file(trial.id, transaction))!
    })
  }

  async #replaceLayout(trialId: string, layout: Layout | null, before: Layout | null, transaction: Transaction): Promise<void> {
    const kept = new Set(before?.units.map((unit) => unit.id))
    const sameUnits =
      layout !== null && before !== null && layout.units.length === kept.size && layout.units.every((unit) => kept.has(unit.id))
    if (sameUnits) {
      const earlier = new Map(before.units.map((unit) => [unit.id, JSON.stringify(unit)]))
      for (const unit of layout.units) {
        if (earlier.get(unit.id) === JSON.stringify(unit)) continue
        const { id, in: _, ...columns } = unit
        await this.#models.unit.update(columns, { where: { id }, transaction })
      }
      return
    }
    await this.#models.unit.destroy({ where: { trialId }, transaction })
    await this.#models.layout.destroy({ where: { trialId }, transaction })
    if (!layout) return
    await this.#models.layout.create({ trialId, siteKey: layout.siteKey, structure: layout.structure }, { transaction })
    const rows = layout.units.map(({ in: _, ...unit }, position) => ({ ...unit, trialId, siteKey: layout.siteKey, position }))
    await createInPieces(this.#models.unit, rows, transaction)
    const memberships = layout.units.flatMap((unit) => unit.in.map((inUnitId, position) => ({ unitId: unit.id, inUnitId, position })))
    await createInPieces(this.#models.membership, memberships, transaction)
  }

  async #record(trialId: string, change: Change, transaction: Transaction): Promise<void> {
    await this.#models.event.create(
      { id: uuidv7(), trialId, at: new Date().toISOString(), person: LOCAL_PERSON, ...change },
      { transaction },
    )
  }
}
