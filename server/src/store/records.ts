import {
  recordKind,
  type FieldRecord,
  type RecordFrame,
  type RecordOutcome,
  type RecordsReply,
  type StoredRecord,
} from '@canter/core/trial'
import { Op, type Transaction } from 'sequelize'
import { createInPieces, type Models, type Rows } from './models.ts'
import type { WriteQueue } from './write-queue.ts'

/** What a record is judged by, read inside the transaction that writes it; null when there is no such trial. */
export type FrameOf = (trialId: string, transaction: Transaction) => Promise<RecordFrame | null>

export class RecordStore {
  readonly #models: Models
  readonly #queue: WriteQueue

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

  async all(trialId: string, transaction?: Transaction): Promise<FieldRecord[]> {
    const rows = await this.#models.record.findAll({
      where: { trialId },
      order: [['seq', 'ASC']],
      attributes: ['body'],
      ...(transaction ? { transaction } : {}),
    })
    return rows.map((row) => row.get('body') as FieldRecord)
  }

  /**
   * Each record on its own merits: those that fit are saved whatever becomes of the others. They
   * are written under the name of `person`, who sent them, and of nobody else. Null when there is
   * no such trial.
   */
  async add(trialId: string, person: string, records: readonly FieldRecord[], frameOf: FrameOf): Promise<RecordOutcome[] | null> {
    return this.#queue.run(async (transaction) => {
      const frame = await frameOf(trialId, transaction)
      if (!frame) return null
      const known = await this.#known(records, transaction)
      const outcomes: RecordOutcome[] = []
      for (const record of records) outcomes.push(await this.#addOne(trialId, person, record, frame, known, transaction))
      return outcomes
    })
  }

  async #known(records: readonly FieldRecord[], transaction: Transaction): Promise<Known> {
    const ids = records.map((record) => record.id)
    const rows = await this.#models.record.findAll({ where: { id: ids }, transaction })
    return new Map(
      rows.map((row): [string, StoredBody] => [
        row.get('id') as string,
        { trialId: row.get('trialId') as string, seq: row.get('seq') as number, body: canonical(row.get('body')) },
      ]),
    )
  }

  /** As they come from a checked package, in order. */
  async restore(trialId: string, records: readonly FieldRecord[], transaction: Transaction): Promise<void> {
    await createInPieces(
      this.#models.record,
      records.map((record) => rowOf(trialId, record)),
      transaction,
    )
  }

  async #addOne(
    trialId: string,
    person: string,
    record: FieldRecord,
    frame: RecordFrame,
    known: Known,
    transaction: Transaction,
  ): Promise<RecordOutcome> {
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
    if (record.person !== person) return outcome('refused', null, 'Records are written under the name of whoever sends them.')
    const misfit = recordKind(record.type).misfit(record, frame)
    if (misfit) return outcome('refused', null, misfit)
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

function rowOf(trialId: string, record: FieldRecord): Rows['record'] {
  return {
    id: record.id,
    trialId,
    type: record.type,
    unitId: recordKind(record.type).unitOf(record),
    personId: record.person,
    body: record,
  }
}

/** JSON with sorted keys, so that equal bodies compare equal. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_, each: unknown) =>
    each && typeof each === 'object' && !Array.isArray(each)
      ? Object.fromEntries(Object.entries(each as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1)))
      : each,
  )
}
