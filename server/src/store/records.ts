import {
  FieldRecord,
  holding,
  NOTHING_HELD,
  recordKind,
  RecordSet,
  type HeldMark,
  type RecordFrame,
  type RecordOutcome,
  type RecordsReply,
  type StoredRecord,
} from '@canter/core/trial'
import { QueryTypes, type Transaction } from 'sequelize'
import { inTurns } from './turns.ts'
import type { Models } from './models.ts'
import type { WriteQueue } from './write-queue.ts'
import { recordRow } from './writing.ts'

const PAGE = 4000
/** Of how many trials all records are held. */
const MOST_SETS = 12

/** What a record is judged by, read inside the transaction that writes it; null when there is no such trial. */
export type FrameOf = (trialId: string, transaction: Transaction) => Promise<RecordFrame | null>

/** Which store this is, and how often it was put back from a backup. */
export interface StoreIdentity {
  readonly id: string
  readonly epoch: number
}

export class RecordStore {
  readonly #models: Models
  readonly #queue: WriteQueue
  readonly #identity: StoreIdentity | null
  readonly #sets = new Map<string, { readonly set: RecordSet; cursor: number }>()
  readonly #marks = new Map<string, { seq: number; mark: HeldMark }[]>()

  constructor(models: Models, queue: WriteQueue, identity: StoreIdentity | null) {
    this.#models = models
    this.#queue = queue
    this.#identity = identity
    queue.onFailure(() => this.#sets.clear())
  }

  /** The same as text, made of the rows as they are stored: thousands of records are not taken apart to be put together again. */
  async afterAsText(trialId: string, cursor: number): Promise<{ text: string; empty: boolean }> {
    const rows = await this.#rows(trialId, cursor)
    const held = await this.#held(trialId, cursor)
    const records = (await inTurns(rows, ({ seq, body }) => `{"seq":${seq},"record":${body}}`)).join(',')
    const rest = JSON.stringify({ cursor: rows.at(-1)?.seq ?? cursor, held, store: this.#identity })
    return { text: `{"records":[${records}],${rest.slice(1)}`, empty: rows.length === 0 && held.count === 0 }
  }

  #rows(trialId: string, cursor: number, transaction?: Transaction): Promise<{ seq: number; body: string }[]> {
    return this.#inPages<{ seq: number; body: string }>('body', trialId, cursor, transaction)
  }

  /** In pages, so that taking over tens of thousands of rows does not hold whoever else waits. */
  async #inPages<Row extends { seq: number }>(
    column: 'id' | 'body',
    trialId: string,
    cursor: number,
    transaction?: Transaction,
  ): Promise<Row[]> {
    const found: Row[] = []
    for (let from = cursor; ; from = found.at(-1)!.seq) {
      const rows = await this.#models.record.sequelize!.query<Row>(
        `SELECT seq, ${column} FROM record WHERE trial_id = ? AND seq > ? ORDER BY seq LIMIT ${PAGE}`,
        { replacements: [trialId, from], type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
      )
      found.push(...rows)
      if (rows.length < PAGE) return found
    }
  }

  /** Records after a place in the order, and the place of the last. */
  async since(trialId: string, cursor: number, transaction?: Transaction): Promise<Pick<RecordsReply, 'records' | 'cursor'>> {
    const rows = await this.#rows(trialId, cursor, transaction)
    const records = await inTurns(rows, ({ seq, body }): StoredRecord => ({ seq, record: JSON.parse(body) as FieldRecord }))
    return { records, cursor: records.at(-1)?.seq ?? cursor }
  }

  /** What is held of a trial up to a place in the order. Only what is committed is ever remembered. */
  async #held(trialId: string, cursor: number): Promise<HeldMark> {
    const known = this.#marks.get(trialId) ?? []
    this.#marks.set(trialId, known)
    const rows = await this.#inPages<{ seq: number; id: string }>('id', trialId, known.at(-1)?.seq ?? 0)
    await inTurns(rows, ({ seq, id }) => {
      // Two who ask at once both read the same rows.
      if (seq > (known.at(-1)?.seq ?? 0)) known.push({ seq, mark: holding(known.at(-1)?.mark ?? NOTHING_HELD, id) })
    })
    let [low, high] = [0, known.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (known[middle]!.seq <= cursor) low = middle + 1
      else high = middle
    }
    return known[low - 1]?.mark ?? NOTHING_HELD
  }

  async all(trialId: string, transaction?: Transaction): Promise<FieldRecord[]> {
    return (await this.since(trialId, 0, transaction)).records.map((each) => each.record)
  }

  /** The place of the last record of a trial; 0: none. */
  async last(trialId: string, transaction?: Transaction): Promise<number> {
    const [row] = await this.#models.record.sequelize!.query<{ last: number | null }>(
      'SELECT MAX(seq) AS last FROM record WHERE trial_id = ?',
      {
        replacements: [trialId],
        type: QueryTypes.SELECT,
        ...(transaction ? { transaction } : {}),
      },
    )
    return row?.last ?? 0
  }

  /**
   * All records of a trial as they stand inside a transaction, kept up to date row by row. What
   * was read in a transaction that failed is forgotten with it.
   */
  async standing(trialId: string, transaction?: Transaction): Promise<RecordSet> {
    const known = this.#sets.get(trialId) ?? { set: new RecordSet(), cursor: 0 }
    const { records, cursor } = await this.since(trialId, known.cursor, transaction)
    await inTurns(records, (each) => known.set.add([each.record]))
    known.cursor = cursor
    this.#sets.delete(trialId)
    this.#sets.set(trialId, known)
    const [oldest] = this.#sets.keys()
    if (this.#sets.size > MOST_SETS && oldest !== undefined) this.#sets.delete(oldest)
    return known.set
  }

  /**
   * Each record on its own merits: those that fit are saved whatever becomes of the others. They
   * are written under the name of `person`, who sent them, and of nobody else. Null when there is
   * no such trial.
   */
  async add(trialId: string, person: string, records: readonly { id: string }[], frameOf: FrameOf): Promise<RecordOutcome[] | null> {
    return this.#queue.run(async (transaction) => {
      const frame = await frameOf(trialId, transaction)
      if (!frame) return null
      const outcomes: RecordOutcome[] = []
      for (const record of records) {
        const parsed = FieldRecord.safeParse(record)
        outcomes.push(
          parsed.success
            ? await this.#addOne(trialId, person, parsed.data, frame, transaction)
            : outcomeOf(record)('refused', null, whyNoRecord(parsed.error.issues[0])),
        )
      }
      return outcomes
    })
  }

  async #addOne(
    trialId: string,
    person: string,
    record: FieldRecord,
    frame: RecordFrame,
    transaction: Transaction,
  ): Promise<RecordOutcome> {
    const told = outcomeOf(record)
    const misfit =
      record.person === person ? recordKind(record.type).misfit(record, frame) : 'Records are written under the name of whoever sends them.'
    const seq = misfit ? null : await this.#insert(trialId, record, transaction)
    if (seq !== null) return told('saved', seq)
    // One that was taken before is not refused because it would not fit today.
    const found = await this.#models.record.findOne({ where: { id: record.id }, transaction })
    if (!found) return told('refused', null, misfit ?? 'It could not be written.')
    const same = found.get('trialId') === trialId && canonical(found.get('body')) === canonical(record)
    return same
      ? told('already', found.get('seq') as number)
      : told('conflict', null, 'Another record has this id. Send it under a new id.')
  }

  /** Its place in the order of the store; null when there is one of this id. Plain SQL: this is what fifty people wait for. */
  async #insert(trialId: string, record: FieldRecord, transaction: Transaction): Promise<number | null> {
    const { id, type, unitId, personId, body } = recordRow(trialId, record)
    const [seq, written] = await this.#models.record.sequelize!.query(
      'INSERT INTO record (id, trial_id, type, unit_id, person_id, body) VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT (id) DO NOTHING',
      { replacements: [id, trialId, type, unitId, personId, JSON.stringify(body)], type: QueryTypes.INSERT, transaction },
    )
    return written === 0 ? null : seq
  }
}

function outcomeOf({ id }: { id: string }): (status: RecordOutcome['status'], seq: number | null, detail?: string) => RecordOutcome {
  return (status, seq, detail = '') => ({ id, status, seq, detail })
}

/** What is wrong with what was sent as a record: the field, and why. */
function whyNoRecord(issue: { path: PropertyKey[]; message: string } | undefined): string {
  const where = issue?.path.join('.')
  // Fields with words of their own name themselves.
  return `${where && issue?.message.startsWith('This') ? `${where}: ` : ''}${issue?.message ?? 'It is no record as it stands.'}`.slice(
    0,
    300,
  )
}

/** JSON with sorted keys, so that equal bodies compare equal. */
export function canonical(value: unknown): string {
  return JSON.stringify(value, (_, each: unknown) =>
    each && typeof each === 'object' && !Array.isArray(each)
      ? Object.fromEntries(Object.entries(each as Record<string, unknown>).sort(([a], [b]) => (a < b ? -1 : 1)))
      : each,
  )
}
