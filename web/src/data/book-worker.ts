import {
  corrections,
  fieldsAt,
  oddities,
  plainMeans,
  remaining,
  rowView,
  traitsAt,
  TrialBook,
  unitViews,
  WalkTally,
  type BookObservations,
  type Field,
  type Oddity,
  type RowView,
  type UnitView,
} from '@canter/core/numbers'
import type { Left } from '@canter/core/amounts'
import { decisionInputs, type DecisionInput } from '@canter/core/decision'
import type { UnitSystem } from '@canter/core/quantity'
import { type Fate, type FieldRecord, type Layout, type Note, type Operation, type Progress, type Trial } from '@canter/core/trial'
import { expose } from 'comlink'
import { localStore } from './local-store.ts'

interface Open {
  trial: Trial
  layouts: readonly Layout[]
  readonly book: TrialBook
  /** The walk that was asked for last. */
  walk: { readonly key: string; readonly tally: WalkTally } | null
  readonly changes: Changes
}

/** What was touched by the last changes, so that a page can ask for what is new before it knows what that is. */
class Changes {
  static readonly #KEPT = 200
  #at = 0
  #last: ReadonlySet<string>[] = []

  get at(): number {
    return this.#at
  }

  touched(units: ReadonlySet<string>): void {
    this.#at++
    this.#last = [...this.#last.slice(1 - Changes.#KEPT), units]
  }

  all(): void {
    this.#at++
    this.#last = []
  }

  /** Units touched after a change; null: any may have been. */
  after(at: number | null): ReadonlySet<string> | null {
    if (at === null || this.#at - at > this.#last.length) return null
    return new Set(this.#last.slice(this.#last.length - (this.#at - at)).flatMap((units) => [...units]))
  }
}

/** A slice in part: what changed after a change that was known, or the whole of it; and the last change it holds. */
export interface Part<Item> {
  readonly at: number
  readonly whole: boolean
  readonly items: Item[]
}

/** Everything read at the trials that are open, kept up to date record by record away from the thread that draws. */
const open = new Map<string, Promise<Open>>()

async function load(trial: Trial, layouts: readonly Layout[]): Promise<Open> {
  const rows = await localStore.records.where({ trial: trial.id }).toArray()
  const records = rows.filter((row) => row.state === 'waiting' || row.state === 'sent').map((row) => row.record)
  return { trial, layouts, book: new TrialBook(trial, layouts, records), walk: null, changes: new Changes() }
}

async function opened(trial: string): Promise<Open> {
  const found = open.get(trial)
  if (!found) throw new Error('The trial is not open here.')
  return found
}

export interface Walked {
  readonly done: number
  readonly of: number
  readonly firstOpen: string | null
}

/** Changes a book, and has the walk and the pages hear of what it touched. */
function touching({ book, walk, changes }: Open, change: (book: TrialBook) => ReadonlySet<string>): string[] {
  const touched = change(book)
  if (touched.size === 0) return []
  walk?.tally.touch(touched)
  changes.touched(touched)
  return [...touched]
}

const api = {
  /** Opens a trial with what this device has of it, or takes its changed facts. */
  async facts(trial: Trial, layouts: readonly Layout[]): Promise<void> {
    const known = open.get(trial.id)
    if (!known) {
      open.set(trial.id, load(trial, layouts))
      await open.get(trial.id)
      return
    }
    const found = await known
    found.trial = trial
    found.layouts = layouts
    found.book.open(trial, layouts)
    found.walk = null
    found.changes.all()
  },

  /** Units that may say something else now. */
  async add(trial: string, records: FieldRecord[]): Promise<string[]> {
    if (!open.has(trial)) return []
    return touching(await opened(trial), (book) => book.add(records))
  },

  async remove(trial: string, ids: string[]): Promise<string[]> {
    if (!open.has(trial)) return []
    return touching(await opened(trial), (book) => book.remove(ids))
  },

  /** Of units that are not whole any more what remains, and since when: what is put on goes by that. */
  async remaining(trial: string, site: string): Promise<[string, readonly Left[]][]> {
    const { book, layouts } = await opened(trial)
    const units = layouts.find((layout) => layout.siteKey === site)?.units ?? []
    return [...remaining(units, (id) => book.allFates(id))]
  },

  async operations(trial: string): Promise<Operation[]> {
    return (await opened(trial)).book.records.operations()
  },

  async progress(trial: string): Promise<Progress> {
    return (await opened(trial)).book.progress()
  },

  /** Of all walked units of a site, or of those touched after a change. */
  async units(trial: string, site: string, visit: string, trait: string, after: number | null): Promise<Part<UnitView>> {
    const { book, trial: facts, changes } = await opened(trial)
    const touched = changes.after(after)
    const ids = touched ? [...touched].filter((id) => book.walks(site, id)) : book.walked(site, visit).map((unit) => unit.id)
    return { at: changes.at, whole: touched === null, items: unitViews(book, ids, traitsAt(facts, visit), trait, visit) }
  },

  /** Of the units named, or of those of them touched after a change. */
  async rows(trial: string, ids: string[], visit: string, after: number | null): Promise<Part<RowView>> {
    const { book, changes } = await opened(trial)
    const touched = changes.after(after)
    const wanted = touched ? ids.filter((id) => touched.has(id)) : ids
    return { at: changes.at, whole: touched === null, items: wanted.flatMap((id) => rowView(book, id, visit) ?? []) }
  },

  async stop(trial: string, unit: string, visit: string, only: string | null): Promise<{ fields: Field[]; notes: Note[]; fates: Fate[] }> {
    const { book, trial: facts } = await opened(trial)
    const stop = book.unit(unit)
    if (!stop) return { fields: [], notes: [], fates: [] }
    const inside = book.inside(unit).flatMap((each) => book.records.notes(each.id))
    return {
      fields: fieldsAt(book, traitsAt(facts, visit, only), stop, visit),
      notes: [...book.records.notes(unit), ...inside],
      fates: [...book.fatesOf(unit, visit)],
    }
  },

  async walk(trial: string, site: string, visit: string, only: string | null): Promise<Walked> {
    const found = await opened(trial)
    const key = `${site} ${visit} ${only ?? ''}`
    if (found.walk?.key !== key) found.walk = { key, tally: new WalkTally(found.book, traitsAt(found.trial, visit, only), site, visit) }
    return found.walk.tally.told()
  },

  async observations(trial: string, trait: string, visit: string, observer: string | null): Promise<BookObservations> {
    return (await opened(trial)).book.observations(trait, visit, observer ?? undefined)
  },

  async decisionInputs(trial: string): Promise<DecisionInput[]> {
    const { book, trial: facts, layouts } = await opened(trial)
    return decisionInputs(facts, layouts, book)
  },

  async oddities(
    trial: string,
    site: string,
    visit: string,
    trait: string,
    residuals: { unit: string; code: string; studentised: number; residual: number }[],
    system: UnitSystem,
  ): Promise<Oddity[]> {
    const { book, trial: facts } = await opened(trial)
    const of = [...facts.traits.observed, ...facts.traits.derived].find((each) => each.key === trait)
    return of ? oddities(book, site, visit, traitsAt(facts, visit), residuals, of, system) : []
  },

  async corrections(trial: string, unit: string, traits: string[], visit: string): Promise<string[]> {
    const { book } = await opened(trial)
    const units = [unit, ...book.inside(unit).map((each) => each.id)]
    const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' })
    return units.flatMap((each) => corrections(book.records.all(), each, traits, visit, (instant) => day.format(new Date(instant))))
  },

  /** Plain means of every trait at its last visits, and what was said of units, for the report. */
  async report(trial: string, visit: string) {
    const { book, trial: facts, layouts } = await opened(trial)
    const traits = [...facts.traits.observed, ...facts.traits.derived]
    return {
      means: traits.map(({ key }) => ({ trait: key, means: plainMeans(book, layouts, facts.treatments, key, visit) })),
      fates: layouts.flatMap(({ units }) => units.flatMap((unit) => book.records.fates(unit.id))),
      notes: layouts.flatMap(({ units }) =>
        units.flatMap((unit) => book.records.notes(unit.id).map((note) => ({ kind: unit.kind, code: unit.code, note }))),
      ),
    }
  },
}

export type BookWorker = typeof api
expose(api)
