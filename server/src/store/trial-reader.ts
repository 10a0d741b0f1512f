import { HALF, halvedUnits, type Layout, type RecordFrame, type Trial, type TrialFile, type Unit } from '@canter/core/trial'
import { literal, Op, QueryTypes, type Transaction } from 'sequelize'
import type { Models } from './models.ts'
import { inTurns } from './turns.ts'
import { OF_A_SITE } from './writing.ts'

interface UnitRow extends Pick<Unit, 'id' | 'kind' | 'code' | 'walk'> {
  readonly site: string
  readonly at: string | null
  readonly planned: string
  readonly received: string
  readonly changes: string
  readonly place: string | null
  readonly counted: string | null
}

/** Units and records, there or to come, above which a trial is worked on beside the thread that answers. */
const LARGE = 1500
/** How many trials are held whole. */
const MOST_FILES = 8

/** Trials as they stand: read whole, and kept as long as nobody changes them. */
export class TrialReader {
  /** Trials of which not all pieces are here yet. */
  protected readonly arriving = new Set<string>()
  protected readonly models: Models
  /** What records must fit, by the last change of the trial; its id, since a version comes again when a commit fails. */
  readonly #frames = new Map<string, { last: string; frame: Omit<RecordFrame, 'people'> }>()
  /** Whole trials as their last change left them. */
  readonly #files = new Map<string, { last: string; file: TrialFile }>()

  constructor(models: Models) {
    this.models = models
  }

  /** Which trials there are, by their ids, with what tells whether something changed. */
  async heads(deleted: boolean): Promise<{ id: string; version: number; seq: number }[]> {
    return this.models.trial.sequelize!.query(
      `SELECT id, version, COALESCE((SELECT MAX(seq) FROM record WHERE trial_id = trial.id), 0) AS seq
      FROM trial WHERE deleted_at IS ${deleted ? 'NOT ' : ''}NULL AND id NOT IN (SELECT trial_id FROM arriving)
      ORDER BY created_at DESC`,
      { type: QueryTypes.SELECT },
    )
  }

  async list(deleted: boolean): Promise<Trial[]> {
    const rows = await this.models.trial.findAll({
      where: { deletedAt: deleted ? { [Op.not]: null } : null },
      order: [['createdAt', 'DESC']],
    })
    const trials = await Promise.all(rows.map(async (row) => this.#whole(row.get({ plain: true }))))
    return trials.sort((a, b) => b.question.season - a.question.season)
  }

  async #whole(row: Omit<Trial, 'sites'>, transaction?: Transaction): Promise<Trial> {
    const within = transaction ? { transaction } : {}
    const sites = await this.models.site.findAll({ where: { trialId: row.id }, order: [['position', 'ASC']], ...within })
    return {
      ...row,
      sites: sites.map((site) => {
        const { trialId: _, position: __, ...own } = site.get({ plain: true })
        return own
      }),
    }
  }

  async exists(id: string): Promise<boolean> {
    return !this.arriving.has(id) && (await this.models.trial.count({ where: { id } })) > 0
  }

  async trial(id: string, transaction?: Transaction): Promise<Trial | null> {
    if (this.arriving.has(id)) return null
    const row = await this.models.trial.findOne({
      where: { id, [Op.and]: literal('id NOT IN (SELECT trial_id FROM arriving)') },
      ...(transaction ? { transaction } : {}),
    })
    return row && this.#whole(row.get({ plain: true }), transaction)
  }

  /** The trial with layouts and history, or null. */
  async file(id: string, transaction?: Transaction): Promise<TrialFile | null> {
    const last = await this.lastChange(id, transaction)
    const known = this.#files.get(id)
    if (known && known.last === last) return known.file
    const trial = await this.trial(id, transaction)
    if (!trial) return null
    const events = await this.models.event.findAll({
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
    if ((file.events.at(-1)?.id ?? null) !== last || (!transaction && (await this.lastChange(id)) !== last))
      return this.file(id, transaction)
    this.keep(file)
    return file
  }

  /** The id of the last change of a trial: had once, so that what is kept under it is never that of a change that failed. */
  protected async lastChange(id: string, transaction?: Transaction): Promise<string | null> {
    const [row] = await this.models.trial.sequelize!.query<{ id: string }>(
      'SELECT id FROM event WHERE trial_id = ? ORDER BY seq DESC LIMIT 1',
      {
        replacements: [id],
        type: QueryTypes.SELECT,
        ...(transaction ? { transaction } : {}),
      },
    )
    return row?.id ?? null
  }

  protected keep(file: TrialFile): void {
    const last = file.events.at(-1)?.id
    if (last === undefined) return
    this.#files.delete(file.trial.id)
    this.#files.set(file.trial.id, { last, file })
    const [oldest] = this.#files.keys()
    if (this.#files.size > MOST_FILES && oldest !== undefined) this.#files.delete(oldest)
  }

  /** What a record of this trial must fit, as it stands inside a transaction; null when there is no such trial. */
  readonly frame = async (id: string, transaction: Transaction): Promise<RecordFrame | null> => {
    const [now] = await this.models.trial.sequelize!.query<{ last: string; people: string }>(
      `SELECT (SELECT id FROM event WHERE trial_id = trial.id ORDER BY seq DESC LIMIT 1) AS last,
        (SELECT json_group_array(id) FROM person) AS people
      FROM trial WHERE id = ?`,
      { replacements: [id], type: QueryTypes.SELECT, transaction },
    )
    if (!now || this.arriving.has(id)) return null
    const people = new Set(JSON.parse(now.people) as string[])
    const known = this.#frames.get(id)
    if (known?.last === now.last) return { ...known.frame, people }
    const trial = (await this.trial(id, transaction))!
    const units = await this.models.trial.sequelize!.query<Pick<Unit, 'id' | 'kind'>>(
      `SELECT id, kind FROM unit WHERE trial_id = ? AND ${OF_A_SITE}`,
      { replacements: [id], type: QueryTypes.SELECT, transaction },
    )
    const frame = {
      units: new Map(units.map((unit) => [unit.id, unit.kind])),
      traits: new Map(trial.traits.observed.map((trait) => [trait.key, trait])),
      visits: new Map(trial.traits.visits.map((visit) => [visit.key, visit.on])),
      halved: units.some((unit) => unit.kind === HALF) ? halvedUnits(await this.layouts(trial, transaction)) : new Map<string, string>(),
      sites: new Set(trial.sites.map((site) => site.key)),
      factors: new Set(trial.treatments.factors.map((factor) => factor.key)),
    }
    this.#frames.set(id, { last: now.last, frame })
    return { ...frame, people }
  }

  async layouts(trial: Pick<Trial, 'id' | 'sites'>, transaction?: Transaction): Promise<Layout[]> {
    const within = transaction ? { transaction } : {}
    const rows = await this.models.layout.findAll({ where: { trialId: trial.id }, ...within })
    if (rows.length === 0) return []
    // Plain rows: a site may have thousands of plots, and each is only read.
    const select = <Row extends object>(sql: string): Promise<Row[]> =>
      this.models.trial.sequelize!.query<Row>(sql, { replacements: [trial.id], type: QueryTypes.SELECT, ...within })
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
      `SELECT site_key AS site, id, kind, code, at, planned, received, changes, place, walk, counted FROM unit WHERE trial_id = ? ORDER BY position`,
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
        ...(row.counted === null ? {} : { counted: row.counted }),
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

  /** Whether working on a trial takes long: by its units and records, and by the plots it would have. */
  async isLarge(id: string): Promise<boolean> {
    if (this.arriving.has(id)) return false
    const [row] = await this.models.trial.sequelize!.query<{ rows: number }>(
      `SELECT (SELECT COUNT(*) FROM unit WHERE trial_id = t.id) + (SELECT COUNT(*) FROM record WHERE trial_id = t.id)
        + json_array_length(t.treatments, '$.list') * (SELECT SUM(json_extract(design, '$.replicates')) FROM site WHERE trial_id = t.id) AS rows
      FROM trial t WHERE id = ?`,
      { replacements: [id], type: QueryTypes.SELECT },
    )
    return (row?.rows ?? 0) > LARGE
  }
}
