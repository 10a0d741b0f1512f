import { api, holding, NOTHING_HELD, type FieldRecord, type HeldMark, type RecordOutcome, type RecordsReply } from '@canter/core/trial'
import { enterInBook, tellBook } from './book.ts'
import { ApiProblem, call, NoAnswer } from './client.ts'
import { localStore, type Cursor, type LocalRecord } from './local-store.ts'

/** What other pages of this browser wrote or heard of. */
interface Heard {
  readonly trial: string
  readonly records: FieldRecord[]
  readonly gone: string[]
}

const channel = new BroadcastChannel('canter.records')
channel.onmessage = ({ data }: MessageEvent<Heard>) => void tellBook(data.trial, data.records, data.gone)

async function tell(trial: string, records: FieldRecord[], gone: string[] = []): Promise<void> {
  if (records.length + gone.length === 0) return
  channel.postMessage({ trial, records, gone } satisfies Heard)
  await tellBook(trial, records, gone)
}

/** This device could not keep a record: it is full, or its store is closed to pages. Nothing was written. */
class NotKept extends Error {
  constructor() {
    super(
      'This device could not keep it: its storage may be full, or closed to pages. What you typed is still in the field; write it down, and free some room.',
    )
  }
}

/** Writes records on this device, then sends them in their turn. Resolves when they are on the device; throws NotKept when they are not. */
export async function keep(trial: string, ...records: FieldRecord[]): Promise<void> {
  try {
    await localStore.records.bulkPut(
      records.map((record): LocalRecord => ({ id: record.id, trial, record, state: 'waiting', problem: '' })),
    )
  } catch {
    throw new NotKept()
  }
  channel.postMessage({ trial, records, gone: [] } satisfies Heard)
  enterInBook(trial, records)
  Sync.of(trial).soon()
}

/** A record that was not taken is no longer asked about. It stays in this browser's store. */
export async function setAside(id: string): Promise<void> {
  await localStore.records.update(id, { state: 'aside' })
}

const PIECE = 200
/** Milliseconds after a value is kept until it is sent. */
const AFTER_DRAWING = 80

/** Sends what waits and fetches what is new for one trial; one at a time, retried while there is no answer. */
export class Sync {
  static readonly #all = new Map<string, Sync>()
  static of(trial: string): Sync {
    const found = this.#all.get(trial) ?? new Sync(trial)
    this.#all.set(trial, found)
    return found
  }

  /** Asks anew for one trial, or for all; only of those that were opened on this page. */
  static wakeOpen(trial: string | null): void {
    for (const [id, sync] of Sync.#all) if (trial === null || id === trial) void sync.wake()
  }

  readonly #trial: string
  readonly #listeners = new Set<() => void>()
  #running = false
  #again = false
  #delay = 1000
  #timer: ReturnType<typeof setTimeout> | undefined
  #soon: ReturnType<typeof setTimeout> | undefined
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

  /** Wakes once what is on the screen has been drawn: the hand comes before the line. */
  soon(): void {
    this.#soon ??= setTimeout(() => {
      this.#soon = undefined
      void this.wake()
    }, AFTER_DRAWING)
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
      const refused = outcomes.filter((each) => each.status === 'conflict' || each.status === 'refused').map((each) => each.id)
      await tell(this.#trial, [], refused)
    }
  }

  async #pull(): Promise<void> {
    const trial = this.#trial
    const known = await localStore.cursors.get(trial)
    const cursor = known?.cursor ?? 0
    const reply = await call(api.records, { params: { trial }, query: { after: cursor } })
    if (known && !(known.held && sameMark(known.held, reply.held) && known.store === reply.store.id)) {
      await this.#reconcile(known)
      return
    }
    await this.#take(reply, known?.held ?? NOTHING_HELD)
  }

  async #take({ records, cursor, store }: RecordsReply, held: HeldMark): Promise<void> {
    const trial = this.#trial
    await localStore.transaction('rw', localStore.records, localStore.cursors, async () => {
      await localStore.records.bulkPut(
        records.map(({ record }): LocalRecord => ({ id: record.id, trial, record, state: 'sent', problem: '' })),
      )
      const mark = records.reduce((sum, { record }) => holding(sum, record.id), held)
      await localStore.cursors.put({ trial, cursor, held: mark, store: store.id })
    })
    await tell(
      trial,
      records.map((each) => each.record),
    )
  }

  /**
   * The store does not hold what it held when this device last heard of it: it was put back from a
   * backup, or is another one. All of it is fetched again. What this device was told is held, and
   * is not, goes out once more; to another store only when somebody says so.
   */
  async #reconcile(known: Cursor): Promise<void> {
    const trial = this.#trial
    const whole = await call(api.records, { params: { trial }, query: { after: 0 } })
    const ids = new Set(whole.records.map(({ record }) => record.id))
    const lacking = (await localStore.records.where({ trial, state: 'sent' }).toArray()).filter((each) => !ids.has(each.id))
    const another = known.store !== undefined && known.store !== whole.store.id
    const changes = another ? { state: 'refused' as const, problem: ANOTHER_STORE } : { state: 'waiting' as const, problem: '' }
    await localStore.records.bulkUpdate(lacking.map(({ id }) => ({ key: id, changes })))
    await this.#take(whole, NOTHING_HELD)
    if (another)
      await tell(
        trial,
        [],
        lacking.map((each) => each.id),
      )
    else if (lacking.length > 0) this.#again = true
  }
}

const ANOTHER_STORE = 'The database it was sent to is no longer the one that is open. Send it again if it belongs here.'

function sameMark(a: HeldMark, b: HeldMark): boolean {
  return a.count === b.count && a.digest === b.digest
}

/** Outcomes come with the reply, or inside the problem when not every record went in. */
async function send(trial: string, records: FieldRecord[]): Promise<RecordOutcome[]> {
  try {
    return (await call(api.addRecords, { params: { trial }, body: { records } })).outcomes
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error
    if (error.problem.outcomes) return error.problem.outcomes
    if (error.problem.status >= 500) throw new NoAnswer()
    // The whole batch was turned away (one of them is no record, or the trial is gone): each is sent alone, and shows why.
    if (records.length > 1) {
      const outcomes: RecordOutcome[] = []
      for (const record of records) outcomes.push(...(await send(trial, [record])))
      return outcomes
    }
    return records.map((record) => ({ id: record.id, status: 'refused', seq: null, detail: error.problem.detail }))
  }
}
