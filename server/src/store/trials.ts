import { checkTrial, DocumentError, firstVersions, type Change, type Standing } from '@canter/core/document'
import type { TrialContents } from '@canter/core/exchange'
import {
  HALF,
  halvedSince,
  recordKind,
  type RecordSet,
  type Trial,
  type TrialDraft,
  type TrialEvent,
  type TrialFile,
  type TrialSummary,
} from '@canter/core/trial'
import { QueryTypes, type Transaction } from 'sequelize'
import { v7 as uuidv7 } from 'uuid'
import { JsonText } from '../json-text.ts'
import type { Models } from './models.ts'
import type { RecordStore } from './records.ts'
import { deletion, insert, type Statement } from './statements.ts'
import { takeTurns } from './turns.ts'
import { TrialReader } from './trial-reader.ts'
import type { WriteQueue } from './write-queue.ts'
import { arrivalOf, changeWriting, STAGED_LEFT, trialInserts, type Arrival, type Writing } from './writing.ts'

/** What a list shows of a trial: good as long as the trial has this version and this last record. */
export interface KeptSummary {
  readonly trialId: string
  readonly version: number
  readonly seq: number
  readonly body: TrialSummary
}

/** A change of a trial with what is said of it in its history. */
export interface Recorded {
  readonly change: Change
  readonly kind: TrialEvent['kind']
  readonly reason: string
  readonly undoes?: string
}

/** What a change comes to: what it writes, what the trial is then, and the mark of what it was worked out from. Plain data, but for what it was made by. */
export interface Prepared<Changed> {
  readonly mark: string
  /** What had been done already, told so that it can be compared. */
  readonly standing: string
  readonly writing: Writing
  readonly changed: Changed
}

type Perform = (file: TrialFile, standing: Standing) => Recorded

/** Trials that are begun, changed, taken in and put away: all that writes them. */
export class TrialStore extends TrialReader {
  readonly #queue: WriteQueue
  readonly #records: RecordStore

  constructor(models: Models, queue: WriteQueue, records: RecordStore) {
    super(models)
    this.#queue = queue
    this.#records = records
  }

  async keptSummaries(): Promise<KeptSummary[]> {
    const rows = await this.models.trial.sequelize!.query<{ trialId: string; version: number; seq: number; body: string }>(
      'SELECT trial_id AS trialId, version, seq, body FROM summary',
      { type: QueryTypes.SELECT },
    )
    return rows.map((row) => ({ ...row, body: JSON.parse(row.body) as TrialSummary }))
  }

  async keepSummaries(summaries: readonly KeptSummary[]): Promise<void> {
    await this.#queue.run(async (transaction) => {
      for (const { trialId, version, seq, body } of summaries)
        await this.models.trial.sequelize!.query('INSERT OR REPLACE INTO summary (trial_id, version, seq, body) VALUES (?, ?, ?, ?)', {
          replacements: [trialId, version, seq, JSON.stringify(body)],
          type: QueryTypes.INSERT,
          transaction,
        })
    })
  }

  /** Throws DocumentError when the draft is no trial. */
  async create(draft: TrialDraft, person: string): Promise<TrialFile> {
    const problems = checkTrial(draft)
    if (problems.length > 0) throw new DocumentError(problems)
    const trial: Trial = {
      ...draft,
      id: uuidv7(),
      version: 1,
      versions: firstVersions(draft),
      createdAt: new Date().toISOString(),
      deletedAt: null,
    }
    const begun = eventOf(person, { kind: 'created', section: null, what: 'Trial begun', reason: '', before: null, after: null })
    return this.#queue.run(async (transaction) => {
      await this.#act([...trialInserts(trial), insert('event', { ...begun, trialId: trial.id })], transaction)
      return (await this.file(trial.id, transaction))!
    })
  }

  /**
   * Changes a trial. `perform` sees what stands, and what has been done already; it may throw to
   * refuse, and may be called again where somebody wrote meanwhile. `beside` does the same for a
   * large trial, or for what takes long by itself, on another thread. Null when there is no such trial.
   */
  async change(
    id: string,
    person: string,
    perform: Perform,
    beside: () => Promise<Prepared<string> | null>,
    takesLong = false,
  ): Promise<TrialFile | JsonText | null> {
    if (this.arriving.has(id)) return null
    const ahead = await this.#ahead(id, person, perform, takesLong || (await this.isLarge(id)) ? beside : null)
    const { ahead: first, after } = ahead?.writing ?? NOTHING
    try {
      for (const statement of first) await this.#queue.run((transaction) => this.#act([statement], transaction))
      return await this.#queue.run((transaction) => this.#write(id, person, perform, ahead, transaction))
    } finally {
      if (after.length > 0) await this.#queue.run((transaction) => this.#act(after, transaction))
    }
  }

  /** Worked out before the others are held; null where it has to be worked out anew. A refusal stands unless somebody wrote meanwhile. */
  async #ahead(
    id: string,
    person: string,
    perform: Perform,
    beside: (() => Promise<Prepared<string> | null>) | null,
  ): Promise<Prepared<TrialFile | string> | null> {
    if (beside) {
      const prepared = await beside().catch(() => null)
      // What was refused there is refused here in its own words.
      if (prepared) return prepared
    }
    const mark = await this.#mark(id)
    try {
      return await this.prepare(id, person, perform)
    } catch (error) {
      if (mark === (await this.#mark(id))) throw error
      return null
    }
  }

  /** Writes what was worked out if the same still stands, else works it out as it stands now. */
  async #write(
    id: string,
    person: string,
    perform: Perform,
    ahead: Prepared<TrialFile | string> | null,
    transaction: Transaction,
  ): Promise<TrialFile | JsonText | null> {
    const stands = ahead !== null && (await this.#stillStands(id, ahead, transaction))
    const prepared = stands ? ahead : await this.prepare(id, person, perform, transaction)
    if (!prepared) return null
    await this.#act(prepared.writing.within, transaction)
    if (typeof prepared.changed === 'string') return new JsonText(prepared.changed)
    this.keep(prepared.changed)
    return prepared.changed
  }

  /** What a change comes to, as things stand; inside a transaction nothing of it can be written beforehand. Null when there is no such trial. */
  async prepare(id: string, person: string, perform: Perform, transaction?: Transaction): Promise<Prepared<TrialFile> | null> {
    // Taken first: what is written while it is worked out makes the mark another one.
    const mark = await this.#mark(id, transaction)
    const file = await this.file(id, transaction)
    if (!file) return null
    const records = await this.#records.standing(id, transaction)
    await takeTurns()
    const standing = standingOf(file, records)
    await takeTurns()
    const { change, kind, reason, undoes } = perform(file, standing)
    await takeTurns()
    const { section, what, before, after } = change
    const event = eventOf(person, { kind, section, what, reason, before, after, ...(undoes ? { undoes } : {}) })
    const changed = { trial: change.trial, layouts: [...change.layouts], events: [...file.events, event] }
    return { mark, standing: told(standing), changed, writing: changeWriting(file, change, event, transaction === undefined) }
  }

  /**
   * Whether what a change was worked out from is still so. Readings that came meanwhile do not
   * matter where they say nothing new of what is on the ground: a search of seconds is not done
   * again, with everybody waiting, because somebody walks another site.
   */
  async #stillStands(id: string, { mark, standing }: Prepared<unknown>, transaction: Transaction): Promise<boolean> {
    if (mark === (await this.#mark(id, transaction))) return true
    if (mark.split(' ')[0] !== ((await this.lastChange(id, transaction)) ?? '')) return false
    const file = await this.file(id, transaction)
    return file !== null && told(standingOf(file, await this.#records.standing(id, transaction))) === standing
  }

  /** The last change and the last record: the same as long as nothing was written. */
  async #mark(id: string, transaction?: Transaction): Promise<string> {
    return `${(await this.lastChange(id, transaction)) ?? ''} ${await this.#records.last(id, transaction)}`
  }

  /** Takes a whole trial from a checked package; all of it or nothing. */
  async restore(contents: TrialContents): Promise<TrialFile> {
    const arrival = arrivalOf(contents)
    await this.arrive(arrival)
    return (await this.file(arrival.id))!
  }

  /**
   * The same, ready to be written. It goes in piece by piece, so that others who save are not held
   * for long, and is there for nobody until the last piece is: what was cut off half way is taken
   * out again, at the latest when the store is next opened.
   */
  async arrive({ id, first, pieces, last }: Arrival): Promise<void> {
    await this.#queue.run((transaction) => this.#act(first, transaction))
    this.arriving.add(id)
    try {
      for (const piece of pieces) await this.#queue.run((transaction) => this.#act([piece], transaction))
      await this.#queue.run((transaction) => this.#act(last, transaction))
    } catch (error) {
      await this.#queue.run((transaction) => this.#takeOut(id, transaction))
      throw error
    } finally {
      this.arriving.delete(id)
    }
  }

  /** Takes out what a server that was cut off had half taken in. */
  async finishArrivals(): Promise<void> {
    const rows = await this.models.trial.sequelize!.query<{ id: string }>('SELECT trial_id AS id FROM arriving', {
      type: QueryTypes.SELECT,
    })
    for (const { id } of rows) await this.#queue.run((transaction) => this.#takeOut(id, transaction))
    await this.#queue.run((transaction) => this.#act([STAGED_LEFT], transaction))
  }

  /** Records and events are never deleted but here, where none of them was ever shown to anybody. */
  async #takeOut(id: string, transaction: Transaction): Promise<void> {
    const guards = await this.models.trial.sequelize!.query<{ name: string; sql: string }>(
      "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name IN ('record_no_delete', 'event_no_delete')",
      { type: QueryTypes.SELECT, transaction },
    )
    await this.#act(
      [
        ...guards.map(({ name }): Statement => ({ sql: `DROP TRIGGER ${name}`, bind: [] })),
        ...['record', 'event', 'unit', 'layout', 'site'].map((table) => deletion(table, { trialId: id })),
        deletion('trial', { id }),
        deletion('arriving', { trialId: id }),
        ...guards.map(({ sql }): Statement => ({ sql, bind: [] })),
      ],
      transaction,
    )
  }

  async #act(statements: readonly Statement[], transaction: Transaction): Promise<void> {
    for (const { sql, bind } of statements)
      await this.models.trial.sequelize!.query(sql, { bind: [...bind], type: QueryTypes.RAW, transaction })
  }
}

const NOTHING: Writing = { ahead: [], within: [], after: [] }

function eventOf(person: string, what: Omit<TrialEvent, 'id' | 'at' | 'person' | 'undoes'> & { undoes?: string }): TrialEvent {
  return { id: uuidv7(), at: new Date().toISOString(), person, undoes: null, ...what }
}

function told({ onGround, sitesWithRecords, traits, visits, halves, halvedFrom }: Standing): string {
  return JSON.stringify([onGround, sitesWithRecords, traits, visits, halves, halvedFrom].map((each) => [...each].sort()))
}

/** What has been done already: what stands on the ground, and what was ever read. */
export function standingOf({ trial, layouts }: TrialFile, set: RecordSet): Standing {
  const siteOf = new Map(layouts.flatMap(({ siteKey, units }) => units.map((unit) => [unit.id, siteKey] as const)))
  const onGround = new Set(
    set
      .operations()
      .filter((operation) => operation.kind === 'planted')
      .map((operation) => operation.siteKey),
  )
  const sitesWithRecords = new Set<string>()
  const [traits, visits] = [new Set<string>(), new Set<string>()]
  for (const cell of set.cells()) {
    const [unit, trait, visit] = cell.split('|') as [string, string, string]
    traits.add(trait)
    visits.add(visit)
    const site = siteOf.get(unit)
    if (!site) continue
    sitesWithRecords.add(site)
    if (set.readings(cell).size > 0) onGround.add(site)
  }
  for (const record of set.all()) if (record.type === 'operation') sitesWithRecords.add(record.siteKey)
  const told = new Set([...set.all()].flatMap((record) => recordKind(record.type).unitOf(record) ?? []))
  const halves = layouts.filter(({ units }) => units.some((unit) => unit.kind === HALF && told.has(unit.id)))
  return {
    onGround: new Set([...onGround].filter((key) => trial.sites.some((site) => site.key === key))),
    sitesWithRecords,
    traits,
    visits,
    halves: new Set(halves.map((layout) => layout.siteKey)),
    halvedFrom: new Set(layouts.flatMap(({ structure }) => halvedSince(structure) ?? [])),
  }
}
