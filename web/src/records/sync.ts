import type { FieldRecord, RecordOutcome, RecordsReply } from '@canter/core/trial'
import { ApiProblem, NoAnswer, request } from '../api/client.ts'
import { localStore, type LocalRecord } from './local-store.ts'

/** Writes a record on this device, then sends it in its turn. Resolves when it is on the device. */
export async function keep(trial: string, ...records: FieldRecord[]): Promise<void> {
  await localStore.records.bulkPut(records.map((record): LocalRecord => ({ id: record.id, trial, record, state: 'waiting', problem: '' })))
  void Sync.of(trial).wake()
}

const PIECE = 200

/** Sends what waits and fetches what is new for one trial; one at a time, retried while there is no answer. */
export class Sync {
  static readonly #all = new Map<string, Sync>()
  static of(trial: string): Sync {
    const found = this.#all.get(trial) ?? new Sync(trial)
    this.#all.set(trial, found)
    return found
  }

  readonly #trial: string
  readonly #listeners = new Set<() => void>()
  #running = false
  #again = false
  #delay = 1000
  #timer: ReturnType<typeof setTimeout> | undefined
  #answered = true
  #settled = false

  private constructor(trial: string) {
    this.#trial = trial
    window.addEventListener('online', () => void this.wake())
  }

  /** Whether the server answered last time. */
  readonly answered = (): boolean => this.#answered

  /** Whether it has tried at least once since the page was opened. */
  readonly settled = (): boolean => this.#settled

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener)
    return () => this.#listeners.delete(listener)
  }

  async wake(): Promise<void> {
    if (this.#running) {
      this.#again = true
      return
    }
    this.#running = true
    clearTimeout(this.#timer)
    try {
      do {
        this.#again = false
        await this.#push()
        await this.#pull()
      } while (this.#again)
      this.#delay = 1000
      this.#tell(true)
    } catch (error) {
      this.#tell(!(error instanceof NoAnswer))
      this.#timer = setTimeout(() => void this.wake(), this.#delay)
      this.#delay = Math.min(this.#delay * 2, 30_000)
    } finally {
      this.#running = false
    }
  }

  #tell(answered: boolean): void {
    this.#answered = answered
    this.#settled = true
    for (const listener of this.#listeners) listener()
  }

  async #push(): Promise<void> {
    for (;;) {
      const waiting = await localStore.records.where({ trial: this.#trial, state: 'waiting' }).sortBy('id')
      if (waiting.length === 0) return
      const outcomes = await send(
        this.#trial,
        waiting.slice(0, PIECE).map((each) => each.record),
      )
      await localStore.records.bulkUpdate(
        outcomes.map((outcome) => ({
          key: outcome.id,
          changes:
            outcome.status === 'saved' || outcome.status === 'already'
              ? { state: 'sent', problem: '' }
              : { state: 'refused', problem: outcome.detail },
        })),
      )
    }
  }

  async #pull(): Promise<void> {
    const trial = this.#trial
    const cursor = (await localStore.cursors.get(trial))?.cursor ?? 0
    let reply = await request<RecordsReply>('GET', `/api/trials/${trial}/records?after=${cursor}`)
    if (reply.latest < cursor) {
      // The server holds another store than the one last seen: what it had sent is no longer what stands.
      await localStore.records.where({ trial, state: 'sent' }).delete()
      reply = await request<RecordsReply>('GET', `/api/trials/${trial}/records?after=0`)
    }
    await localStore.transaction('rw', localStore.records, localStore.cursors, async () => {
      await localStore.records.bulkPut(
        reply.records.map(({ record }): LocalRecord => ({ id: record.id, trial, record, state: 'sent', problem: '' })),
      )
      await localStore.cursors.put({ trial, cursor: reply.cursor })
    })
  }
}

/** Outcomes come with the reply, or inside the problem when not every record went in. */
async function send(trial: string, records: FieldRecord[]): Promise<RecordOutcome[]> {
  try {
    return (await request<{ outcomes: RecordOutcome[] }>('POST', `/api/trials/${trial}/records`, { records })).outcomes
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    if (error.problem.outcomes) return error.problem.outcomes
    if (error.problem.status >= 500) throw new NoAnswer()
    // The whole batch was turned away (the trial is gone, say): each record shows why.
    return records.map((record) => ({ id: record.id, status: 'refused', seq: null, detail: error.problem.detail }))
  }
}
