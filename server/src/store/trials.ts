import { checkTrial, DocumentError, firstVersions, type Change, type Standing } from '@canter/core/document'
import type { TrialContents } from '@canter/core/exchange'
import {
  type RecordSet,
  type Layout,
  type RecordFrame,
  type Trial,
  type TrialDraft,
  type TrialEvent,
  type TrialFile,
  type TrialSummary,
  type Unit,
} from '@canter/core/trial'
import { Op, QueryTypes, type Transaction } from 'sequelize'
import { v7 as uuidv7 } from 'uuid'
import { createInPieces, updateInPieces, type Models } from './models.ts'
import type { PeopleStore } from './people.ts'
import type { RecordStore } from './records.ts'
import { inTurns, takeTurns } from './turns.ts'
import type { WriteQueue } from './write-queue.ts'

interface UnitRow extends Pick<Unit, 'id' | 'kind' | 'code' | 'walk'> {
  readonly site: string
  readonly at: string | null
  readonly planned: string
  readonly received: string
  readonly changes: string
  readonly place: string | null
}

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

/** What a change comes to, and the mark of what it was worked out from. */
interface Worked {
  readonly mark: string
  readonly file: TrialFile
  readonly recorded: Recorded
}

/** Keys under which units of new layouts wait, by the site they are for. */
type Staged = ReadonlyMap<string, string>
const NOTHING_STAGED: Staged = new Map()
/** No key of a site begins like this. */
const STAGED = '~'
/** Fewer are written at once. */
const MANY_UNITS = 1000

/** How many trials are held whole. */
const MOST_FILES = 8

export class TrialStore {
  /** What records must fit, by the last change of the trial; its id, since a version comes again when a commit fails. */
  readonly #frames = new Map<string, { last: string; frame: Omit<RecordFrame, 'people'> }>()
  /** Trials of which not all pieces are here yet. */
  readonly #arriving = new Set<string>()
  /** Whole trials as their last change left them. */
  readonly #files = new Map<string, { last: string; file: TrialFile }>()
  readonly #models: Models
  readonly #queue: WriteQueue
  readonly #people: PeopleStore
  readonly #records: RecordStore

  constructor(models: Models, queue: WriteQueue, people: PeopleStore, records: RecordStore) {
    this.#models = models
    this.#queue = queue
    this.#people = people
    this.#records = records
  }

  /** Which trials there are, by their ids, with what tells whether something changed. */
  async heads(deleted: boolean): Promise<{ id: string; version: number; seq: number }[]> {
    return this.#models.trial.sequelize!.query(
      `SELECT id, version, COALESCE((SELECT MAX(seq) FROM record WHERE trial_id = trial.id), 0) AS seq
      FROM trial WHERE deleted_at IS ${deleted ? 'NOT ' : ''}NULL AND id NOT IN (SELECT trial_id FROM arriving)
      ORDER BY created_at DESC`,
      { type: QueryTypes.SELECT },
    )
  }

  async keptSummaries(): Promise<KeptSummary[]> {
    const rows = await this.#models.trial.sequelize!.query<{ trialId: string; version: number; seq: number; body: string }>(
      'SELECT trial_id AS trialId, version, seq, body FROM summary',
      { type: QueryTypes.SELECT },
    )
    return rows.map((row) => ({ ...row, body: JSON.parse(row.body) as TrialSummary }))
  }

  async keepSummaries(summaries: readonly KeptSummary[]): Promise<void> {
    await this.#queue.run(async (transaction) => {
      for (const { trialId, version, seq, body } of summaries)
        await this.#models.trial.sequelize!.query('INSERT OR REPLACE INTO summary (trial_id, version, seq, body) VALUES (?, ?, ?, ?)', {
          replacements: [trialId, version, seq, JSON.stringify(body)],
          type: QueryTypes.INSERT,
          transaction,
        })
    })
  }

  async list(deleted: boolean): Promise<Trial[]> {
    const rows = await this.#models.trial.findAll({
      where: { deletedAt: deleted ? { [Op.not]: null } : null },
      order: [['createdAt', 'DESC']],
    })
    const trials = await Promise.all(rows.map(async (row) => this.#whole(row.get({ plain: true }))))
    return trials.sort((a, b) => b.question.season - a.question.season)
  }

  async #whole(row: Omit<Trial, 'sites'>, transaction?: Transaction): Promise<Trial> {
    const within = transaction ? { transaction } : {}
    const sites = await this.#models.site.findAll({ where: { trialId: row.id }, order: [['position', 'ASC']], ...within })
    return {
      ...row,
      sites: sites.map((site) => {
        const { key, name, soil, ground, design } = site.get({ plain: true })
        return { key, name, soil, ground, design }
      }),
    }
  }

  async exists(id: string): Promise<boolean> {
    return !this.#arriving.has(id) && (await this.#models.trial.count({ where: { id } })) > 0
  }

  async trial(id: string, transaction?: Transaction): Promise<Trial | null> {
    if (this.#arriving.has(id)) return null
    const row = await this.#models.trial.findByPk(id, transaction ? { transaction } : {})
    return row && this.#whole(row.get({ plain: true }), transaction)
  }

  /** The trial with layouts and history, or null. */
  async file(id: string, transaction?: Transaction): Promise<TrialFile | null> {
    const last = await this.#lastChange(id, transaction)
    const known = this.#files.get(id)
    if (known && known.last === last) return known.file
    const trial = await this.trial(id, transaction)
    if (!trial) return null
    const events = await this.#models.event.findAll({
      where: { trialId: id },
      order: [['seq', 'ASC']],
      attributes: { exclude: ['seq', 'trialId'] },
      ...(transaction ? { transaction } : {}),
    })
    const file: TrialFile = {
      trial,
      layouts: await this.layouts(trial, transaction),
      events: events.map((event) => event.get({ plain: true })),
    }
    // Read in several pieces: somebody may have written between them.
    if ((file.events.at(-1)?.id ?? null) !== last || (!transaction && (await this.#lastChange(id)) !== last))
      return this.file(id, transaction)
    this.#keep(file)
    return file
  }

  /** The id of the last change of a trial: had once, so that what is kept under it is never that of a change that failed. */
  async #lastChange(id: string, transaction?: Transaction): Promise<string | null> {
    const [row] = await this.#models.trial.sequelize!.query<{ id: string }>(
      'SELECT id FROM event WHERE trial_id = ? ORDER BY seq DESC LIMIT 1',
      {
        replacements: [id],
        type: QueryTypes.SELECT,
        ...(transaction ? { transaction } : {}),
      },
    )
    return row?.id ?? null
  }

  #keep(file: TrialFile): void {
    const last = file.events.at(-1)?.id
    if (last === undefined) return
    this.#files.delete(file.trial.id)
    this.#files.set(file.trial.id, { last, file })
    const [oldest] = this.#files.keys()
    if (this.#files.size > MOST_FILES && oldest !== undefined) this.#files.delete(oldest)
  }

  /** What a record of this trial must fit, as it stands inside a transaction; null when there is no such trial. */
  readonly frame = async (id: string, transaction: Transaction): Promise<RecordFrame | null> => {
    const [now] = await this.#models.trial.sequelize!.query<{ last: string; people: string }>(
      `SELECT (SELECT id FROM event WHERE trial_id = trial.id ORDER BY seq DESC LIMIT 1) AS last,
        (SELECT json_group_array(id) FROM person) AS people
      FROM trial WHERE id = ?`,
      { replacements: [id], type: QueryTypes.SELECT, transaction },
    )
    if (!now || this.#arriving.has(id)) return null
    const people = new Set(JSON.parse(now.people) as string[])
    const known = this.#frames.get(id)
    if (known?.last === now.last) return { ...known.frame, people }
    const trial = (await this.trial(id, transaction))!
    const units = await this.#models.unit.findAll({
      where: { trialId: id, siteKey: { [Op.notLike]: `${STAGED}%` } },
      attributes: ['id', 'kind'],
      transaction,
    })
    const frame = {
      units: new Map(units.map((unit) => [unit.get('id') as string, unit.get('kind') as Unit['kind']])),
      traits: new Map(trial.traits.observed.map((trait) => [trait.key, trait])),
      visits: new Set(trial.traits.visits.map((visit) => visit.key)),
      sites: new Set(trial.sites.map((site) => site.key)),
    }
    this.#frames.set(id, { last: now.last, frame })
    return { ...frame, people }
  }

  async layouts(trial: Pick<Trial, 'id' | 'sites'>, transaction?: Transaction): Promise<Layout[]> {
    const within = transaction ? { transaction } : {}
    const rows = await this.#models.layout.findAll({ where: { trialId: trial.id }, ...within })
    if (rows.length === 0) return []
    // Plain rows: a site may have thousands of plots, and each is only read.
    const select = <Row extends object>(sql: string): Promise<Row[]> =>
      this.#models.trial.sequelize!.query<Row>(sql, { replacements: [trial.id], type: QueryTypes.SELECT, ...within })
    const holders = new Map<string, string[]>()
    for (const { of, holder } of await select<{ of: string; holder: string }>(
      `SELECT m.unit_id AS of, m.in_unit_id AS holder FROM membership m JOIN unit u ON u.id = m.unit_id
      WHERE u.trial_id = ? ORDER BY m.unit_id, m.position`,
    )) {
      const known = holders.get(of)
      if (known) known.push(holder)
      else holders.set(of, [holder])
    }
    const bySite = new Map<string, Unit[]>()
    const json = <T>(text: string | null): T => (text === null ? null : JSON.parse(text)) as T
    const units = await select<UnitRow>(
      `SELECT site_key AS site, id, kind, code, at, planned, received, changes, place, walk FROM unit WHERE trial_id = ? ORDER BY position`,
    )
    await inTurns(units, ({ site, id, ...row }) => {
      const unit: Unit = {
        id,
        kind: row.kind,
        code: row.code,
        in: holders.get(id) ?? [],
        at: json(row.at),
        planned: json(row.planned),
        received: json(row.received),
        changes: json(row.changes),
        place: json(row.place),
        walk: row.walk,
      }
      const own = bySite.get(site)
      if (own) own.push(unit)
      else bySite.set(site, [unit])
    })
    const structures = new Map(rows.map((row) => [row.get('siteKey') as string, row.get('structure') as Layout['structure']]))
    return trial.sites.flatMap(({ key }) => {
      const structure = structures.get(key)
      return structure ? [{ siteKey: key, structure, units: bySite.get(key) ?? [] }] : []
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
    return this.#queue.run(async (transaction) => {
      await this.#insert(trial, transaction)
      await this.#record(
        trial.id,
        person,
        { kind: 'created', section: null, what: 'Trial begun', reason: '', before: null, after: null },
        transaction,
      )
      return (await this.file(trial.id, transaction))!
    })
  }

  /**
   * Changes a trial. `act` sees what stands, and what has been done already; it may throw to
   * refuse, and may be called again where somebody wrote meanwhile. Null when there is no such trial.
   */
  async change(id: string, person: string, act: (file: TrialFile, standing: Standing) => Recorded): Promise<TrialFile | null> {
    // Worked out before the others are held: inside it only counts whether the same still stands.
    const ahead = await this.#worked(id, act).catch(() => null)
    const staged = ahead ? await this.#stage(id, ahead.file.layouts, ahead.recorded.change.layouts) : NOTHING_STAGED
    try {
      return await this.#written(id, person, act, ahead, staged)
    } finally {
      // Those that were used are under the key of their site by now.
      if (staged.size > 0) await this.#queue.run((transaction) => this.#unstage(id, [...staged.values()], transaction))
    }
  }

  #written(
    id: string,
    person: string,
    act: (file: TrialFile, standing: Standing) => Recorded,
    ahead: Worked | null,
    staged: Staged,
  ): Promise<TrialFile | null> {
    return this.#queue.run(async (transaction) => {
      const stands = ahead !== null && ahead.mark === (await this.#mark(id, transaction))
      const worked = stands ? ahead : await this.#worked(id, act, transaction)
      if (!worked) return null
      const { file, recorded } = worked
      const { change, kind, reason, undoes } = recorded
      await this.#write(file.trial, change.trial, transaction)
      await this.#relay(id, file.layouts, change.layouts, stands ? staged : NOTHING_STAGED, transaction)
      const { section, what, before, after } = change
      const event = await this.#record(
        id,
        person,
        { kind, section, what, reason, before, after, ...(undoes ? { undoes } : {}) },
        transaction,
      )
      const changed = { trial: change.trial, layouts: [...change.layouts], events: [...file.events, event] }
      this.#keep(changed)
      return changed
    })
  }

  /** What a change comes to, with the mark of what it was worked out from. */
  async #worked(id: string, act: (file: TrialFile, standing: Standing) => Recorded, transaction?: Transaction): Promise<Worked | null> {
    // Taken first: what is written while it is worked out makes the mark another one.
    const mark = await this.#mark(id, transaction)
    const file = await this.file(id, transaction)
    if (!file) return null
    const records = await this.#records.standing(id, transaction)
    await takeTurns()
    const standing = standingOf(file, records)
    await takeTurns()
    const recorded = act(file, standing)
    await takeTurns()
    return { mark, file, recorded }
  }

  /** The last change and the last record: the same as long as nothing was written. */
  async #mark(id: string, transaction?: Transaction): Promise<string> {
    return `${(await this.#lastChange(id, transaction)) ?? ''} ${await this.#records.last(id, transaction)}`
  }

  /**
   * Takes a whole trial from a checked package; all of it or nothing. It goes in piece by piece, so
   * that others who save are not held for long, and is there for nobody until the last piece is:
   * what was cut off half way is taken out again, at the latest when the store is next opened.
   */
  async restore(contents: TrialContents): Promise<TrialFile> {
    const { trial, layouts, records, events } = contents
    const { id } = trial
    await this.#queue.run(async (transaction) => {
      await this.#sql('INSERT INTO arriving (trial_id) VALUES (?)', [id], transaction)
      await this.#people.ensure(contents.people, transaction)
      await this.#insert(trial, transaction)
    })
    this.#arriving.add(id)
    try {
      for (const layout of layouts) {
        const { siteKey, structure } = layout
        await this.#queue.run((transaction) => this.#models.layout.create({ trialId: id, siteKey, structure }, { transaction }))
        for (const write of this.#unitsInPieces(id, siteKey, layout)) await this.#queue.run(write)
      }
      for (const piece of pieces(records, 3000)) await this.#queue.run((transaction) => this.#records.restore(id, piece, transaction))
      for (const piece of pieces(events, 50)) {
        const rows = piece.map((event) => ({ ...event, trialId: id }))
        await this.#queue.run((transaction) => createInPieces(this.#models.event, rows, transaction))
      }
      await this.#queue.run((transaction) => this.#sql('DELETE FROM arriving WHERE trial_id = ?', [id], transaction))
    } catch (error) {
      await this.#queue.run((transaction) => this.#takeOut(id, transaction))
      throw error
    } finally {
      this.#arriving.delete(id)
    }
    return (await this.file(id))!
  }

  /** Takes out what a server that was cut off had half taken in. */
  async finishArrivals(): Promise<void> {
    const rows = await this.#models.trial.sequelize!.query<{ id: string }>('SELECT trial_id AS id FROM arriving', {
      type: QueryTypes.SELECT,
    })
    for (const { id } of rows) await this.#queue.run((transaction) => this.#takeOut(id, transaction))
    await this.#queue.run((transaction) => this.#sql(`DELETE FROM unit WHERE site_key LIKE '${STAGED}%'`, [], transaction))
  }

  /** Records and events are never deleted but here, where none of them was ever shown to anybody. */
  async #takeOut(id: string, transaction: Transaction): Promise<void> {
    const guards = await this.#models.trial.sequelize!.query<{ name: string; sql: string }>(
      "SELECT name, sql FROM sqlite_master WHERE type = 'trigger' AND name IN ('record_no_delete', 'event_no_delete')",
      { type: QueryTypes.SELECT, transaction },
    )
    for (const { name } of guards) await this.#sql(`DROP TRIGGER ${name}`, [], transaction)
    for (const table of ['record', 'event', 'unit', 'layout', 'site'])
      await this.#sql(`DELETE FROM ${table} WHERE trial_id = ?`, [id], transaction)
    await this.#sql('DELETE FROM trial WHERE id = ?', [id], transaction)
    await this.#sql('DELETE FROM arriving WHERE trial_id = ?', [id], transaction)
    for (const { sql } of guards) await this.#sql(sql, [], transaction)
  }

  async #sql(text: string, replacements: unknown[], transaction: Transaction): Promise<void> {
    await this.#models.trial.sequelize!.query(text, { replacements, transaction })
  }

  async #insert({ sites, ...trial }: Trial, transaction: Transaction): Promise<void> {
    await this.#models.trial.create(trial, { transaction })
    await this.#models.site.bulkCreate(
      sites.map((site, position) => ({ ...site, trialId: trial.id, position })),
      { transaction },
    )
  }

  async #write(before: Trial, { sites, ...after }: Trial, transaction: Transaction): Promise<void> {
    const { id: _, ...columns } = after
    await this.#models.trial.update(columns, { where: { id: before.id }, transaction })
    if (JSON.stringify(before.sites) === JSON.stringify(sites)) return
    await this.#models.site.destroy({ where: { trialId: before.id }, transaction })
    await this.#models.site.bulkCreate(
      sites.map((site, position) => ({ ...site, trialId: before.id, position })),
      { transaction },
    )
  }

  /**
   * Units of large new layouts go in beforehand, piece by piece, under a key that is no site's:
   * nobody sees them, and what is left to do while others wait is to give them their site.
   */
  async #stage(trialId: string, before: readonly Layout[], after: readonly Layout[]): Promise<Staged> {
    const staged = new Map<string, string>()
    const known = new Set(before.flatMap((layout) => layout.units.map((unit) => unit.id)))
    try {
      for (const layout of anewOf(before, after)) {
        // An id is had once: units that keep theirs can only come when the others have gone.
        if (layout.units.length < MANY_UNITS || layout.units.some((unit) => known.has(unit.id))) continue
        const key = `${STAGED}${uuidv7()}`
        staged.set(layout.siteKey, key)
        for (const write of this.#unitsInPieces(trialId, key, layout)) await this.#queue.run(write)
      }
      return staged
    } catch (error) {
      await this.#queue.run((transaction) => this.#unstage(trialId, [...staged.values()], transaction))
      throw error
    }
  }

  async #unstage(trialId: string, keys: readonly string[], transaction: Transaction): Promise<void> {
    for (const key of keys) await this.#sql('DELETE FROM unit WHERE trial_id = ? AND site_key = ?', [trialId, key], transaction)
  }

  /** Brings the layouts from what they were to what they are: whole sites where units come or go, single units where they change. */
  async #relay(
    trialId: string,
    before: readonly Layout[],
    after: readonly Layout[],
    staged: Staged,
    transaction: Transaction,
  ): Promise<void> {
    const was = new Map(before.map((layout) => [layout.siteKey, layout]))
    const is = new Map(after.map((layout) => [layout.siteKey, layout]))
    const anew = new Map(anewOf(before, after).map((layout) => [layout.siteKey, layout]))
    const gone = [...was.keys()].filter((key) => !is.has(key))
    for (const key of [...gone, ...anew.keys()]) {
      await this.#models.unit.destroy({ where: { trialId, siteKey: key }, transaction })
      await this.#models.layout.destroy({ where: { trialId, siteKey: key }, transaction })
    }
    for (const [key, layout] of anew) {
      const under = staged.get(key)
      await this.#models.layout.create({ trialId, siteKey: key, structure: layout.structure }, { transaction })
      if (under !== undefined)
        await this.#sql('UPDATE unit SET site_key = ? WHERE trial_id = ? AND site_key = ?', [key, trialId, under], transaction)
      else for (const write of this.#unitsInPieces(trialId, key, layout)) await write(transaction)
    }
    for (const [key, layout] of is) {
      const old = was.get(key)
      if (!old || anew.has(key) || old === layout) continue
      if (JSON.stringify(old.structure) !== JSON.stringify(layout.structure))
        await this.#models.layout.update({ structure: layout.structure }, { where: { trialId, siteKey: key }, transaction })
      const known = new Map(old.units.map((unit) => [unit.id, unit]))
      const changed = layout.units.filter((unit) => !sameUnit(known.get(unit.id), unit))
      await updateInPieces(
        this.#models.unit,
        changed.map(({ in: _, ...columns }) => columns),
        transaction,
      )
    }
  }

  /** The writes of the units of a layout, in their order. */
  #unitsInPieces(trialId: string, siteKey: string, { units }: Layout): ((transaction: Transaction) => Promise<void>)[] {
    const rows = units.map(({ in: _, ...unit }, position) => ({ ...unit, trialId, siteKey, position }))
    const memberships = units.flatMap((unit) => unit.in.map((inUnitId, position) => ({ unitId: unit.id, inUnitId, position })))
    return [
      ...pieces(rows, 2000).map((piece) => (transaction: Transaction) => createInPieces(this.#models.unit, piece, transaction)),
      ...pieces(memberships, 6000).map(
        (piece) => (transaction: Transaction) => createInPieces(this.#models.membership, piece, transaction),
      ),
    ]
  }

  async #record(
    trialId: string,
    person: string,
    what: Omit<TrialEvent, 'id' | 'at' | 'person' | 'undoes'> & { undoes?: string },
    transaction: Transaction,
  ): Promise<TrialEvent> {
    const event = { id: uuidv7(), at: new Date().toISOString(), person, undoes: null, ...what }
    // What a layout was is thousands of plots: as one bound text, not as part of a statement.
    await createInPieces(this.#models.event, [{ ...event, trialId }], transaction)
    return event
  }
}

/** Compared as they are stored; one that was not touched is the same object. */
function sameUnit(a: Unit | undefined, b: Unit): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b)
}

/** Layouts whose units are others than they were. */
function anewOf(before: readonly Layout[], after: readonly Layout[]): Layout[] {
  const was = new Map(before.map((layout) => [layout.siteKey, layout]))
  return after.filter((layout) => was.get(layout.siteKey) !== layout && !sameUnits(was.get(layout.siteKey), layout))
}

/** A list in pieces of so many. */
function pieces<Each>(all: readonly Each[], most: number): Each[][] {
  return Array.from({ length: Math.ceil(all.length / most) }, (_, i) => all.slice(i * most, (i + 1) * most))
}

/** The same units lying in the same others: what may differ is what each carries and where it lies, and how it came to it. */
function sameUnits(a: Layout | undefined, b: Layout): boolean {
  if (!a || a.units.length !== b.units.length) return false
  return a.units.every((unit, i) => unit.id === b.units[i]!.id && unit.in.join() === b.units[i]!.in.join())
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
  return {
    onGround: new Set([...onGround].filter((key) => trial.sites.some((site) => site.key === key))),
    sitesWithRecords,
    traits,
    visits,
  }
}
