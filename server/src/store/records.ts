import type { FieldRecord } from '@canter/core/trial'
import { type RecordOutcome, type RecordsReply, type StoredRecord, type Trait } from '@canter/core/trial'
import { Op, type Transaction } from 'sequelize'
import { createInPieces, type Models } from './models.ts'
import type { WriteQueue } from './write-queue.ts'

/** What a record must fit: the units and traits of its trial. */
export interface RecordFrame {
  readonly units: ReadonlySet<string>
  readonly traits: ReadonlyMap<string, Trait>
  readonly siteKeys: ReadonlySet<string>
}

export class RecordStore {
  readonly #models: Models
  readonly #queue: WriteQueue
  /** People known to be there; they are never removed. */
  readonly #people = new Set<string>()

  constructor(models: Models, queue: WriteQueue) {
    this.#models = models
    this.#queue = queue
  }

  async after(trialId: string, cursor: number): Promise<RecordsReply> {
    const rows = await this.#models.record.findAll({
      where: { trialId, seq: { [Op.gt]: cursor } },
      order: [['seq', 'ASC']],
      attributes: ['seq', 'body'],
    })
    const records = rows.map((row): StoredRecord => ({ seq: row.get('seq') as number, record: row.get('body') as FieldRecord }))
    const latest = records.at(-1)?.seq ?? (await this.#latest(trialId))
    return { records, cursor: records.at(-1)?.seq ?? cursor, latest }
  }

  async #latest(trialId: string): Promise<number> {
    const row = await this.#models.record.findOne({ where: { trialId }, order: [['seq', 'DESC']], attributes: ['seq'] })
    return (row?.get('seq') as number | undefined) ?? 0
  }

  async all(trialId: string): Promise<FieldRecord[]> {
    return (await this.after(trialId, 0)).records.map((each) => each.record)
  }

  /** Each record on its own merits: those that fit are saved whatever becomes of the others. */
  async add(trialId: string, records: readonly FieldRecord[], frame: RecordFrame): Promise<RecordOutcome[]> {
    return this.#queue.run(async (transaction) => {
      const known = await this.#known(records, transaction)
      const outcomes: RecordOutcome[] = []
      for (const record of records) outcomes.push(await this.#addOne(trialId, record, frame, known, transaction))
      return outcomes
    })
  }

  async #known(records: readonly FieldRecord[], transaction: Transaction): Promise<Known> {
    const ids = records.map((record) => record.id)
    const rows = await this.#models.record.findAll({ where: { id: ids }, transaction })
    const stored = new Map(
      rows.map((row): [string, StoredBody] => [
        row.get('id') as string,
        { trialId: row.get('trialId') as string, seq: row.get('seq') as number, body: canonical(row.get('body')) },
      ]),
    )
    const strangers = [...new Set(records.map((record) => record.person))].filter((person) => !this.#people.has(person))
    if (strangers.length > 0) {
      for (const row of await this.#models.person.findAll({ where: { id: strangers }, transaction }))
        this.#people.add(row.get('id') as string)
    }
    return stored
  }

  /** As they come from a checked package, in order. */
  async restore(trialId: string, records: readonly FieldRecord[], transaction: Transaction): Promise<void> {
    await createInPieces(
      this.#models.record,
      records.map((record) => rowOf(trialId, record)),
      transaction,
    )
  }

  async #addOne(trialId: string, record: FieldRecord, frame: RecordFrame, known: Known, transaction: Transaction): Promise<RecordOutcome> {
    const outcome = (status: RecordOutcome['status'], seq: number | null, detail = ''): RecordOutcome => ({
      id: record.id,
      status,
      seq,
      detail,
    })
    const found = known.get(record.id)
    if (found) {
      const same = found.trialId === trialId && found.body === canonical(record)
      return same ? outcome('already', found.seq) : outcome('conflict', null, 'Another record has this id. Send it under a new id.')
    }
    const misfit = misfitOf(record, frame)
    if (misfit) return outcome('refused', null, misfit)
    if (!this.#people.has(record.person)) return outcome('refused', null, 'The person is not known here.')
    const row = await this.#models.record.create(rowOf(trialId, record), { transaction })
    const seq = row.get('seq') as number
    known.set(record.id, { trialId, seq, body: canonical(record) })
    return outcome('saved', seq)
  }
}

interface StoredBody {
  readonly trialId: string
  readonly seq: number
  readonly body: string
}

/** Records there already, by id. */
type Known = Map<string, StoredBody>

function rowOf(trialId: string, record: FieldRecord): Record<string, unknown> {
  return { id: record.id, trialId, type: record.type, unitId: 'unit' in record ? record.unit : null, personId: record.person, body: record }
}

function misfitOf(record: FieldRecord, frame: RecordFrame): string | null {
  if ('unit' in record && record.unit !== null && !frame.units.has(record.unit))
    return 'The plot is not part of this trial’s layout. Was it randomised again?'
  if (record.type === 'operation') return frame.siteKeys.has(record.siteKey) ? null : 'The site is not part of this trial.'
  if (record.type === 'note')
    return record.trait === null || frame.traits.has(record.trait) ? null : `The trait “${record.trait}” is not part of this trial.`
  if (record.type !== 'reading') return null
  const trait = frame.traits.get(record.trait)
  if (!trait) return `The trait “${record.trait}” is not part of this trial.`
  const fits = { number: ['number', 'below limit', 'missing'], score: ['score', 'missing'], 'yes-no': ['yes/no', 'missing'] }[trait.kind]
  return fits.includes(record.value.kind) ? null : `${trait.name} is a ${trait.kind} and cannot hold a ${record.value.kind}.`
}

/** JSON with sorted keys, so that equal bodies compare equal. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_, each: unknown) =>
    each && typeof each === 'object' && !Array.isArray(each)
      ? Object.fromEntries(Object.entries(each as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1)))
      : each,
  )
}
