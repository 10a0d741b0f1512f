import {
  corrections,
  fieldsAt,
  oddities,
  plainMeans,
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
import { decisionInputs, type DecisionInput } from '@canter/core/decision'
import type { UnitSystem } from '@canter/core/quantity'
import type { FieldRecord, Layout, Note, Progress, Trial } from '@canter/core/trial'
import { expose } from 'comlink'
import { localStore } from './local-store.ts'

interface Open {
  trial: Trial
  layouts: readonly Layout[]
  readonly book: TrialBook
  /** The walk that was asked for last. */
  walk: { readonly key: string; readonly tally: WalkTally } | null
}

/** Everything read at the trials that are open, kept up to date record by record away from the thread that draws. */
const open = new Map<string, Promise<Open>>()

async function load(trial: Trial, layouts: readonly Layout[]): Promise<Open> {
  const rows = await localStore.records.where({ trial: trial.id }).toArray()
  const records = rows.filter((row) => row.state === 'waiting' || row.state === 'sent').map((row) => row.record)
  return { trial, layouts, book: new TrialBook(trial, layouts, records), walk: null }
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
  },

  /** Units that may say something else now. */
  async add(trial: string, records: FieldRecord[]): Promise<string[]> {
    if (!open.has(trial)) return []
    const { book, walk } = await opened(trial)
    const touched = book.add(records)
    walk?.tally.touch(touched)
    return [...touched]
  },

  async remove(trial: string, ids: string[]): Promise<string[]> {
    if (!open.has(trial)) return []
    const { book, walk } = await opened(trial)
    const touched = book.remove(ids)
    walk?.tally.touch(touched)
    return [...touched]
  },

  async progress(trial: string): Promise<Progress> {
    return (await opened(trial)).book.progress()
  },

  /** Of all walked units of a site, or of those named. */
  async units(trial: string, site: string, visit: string, trait: string, only: string[] | null): Promise<UnitView[]> {
    const { book, trial: facts } = await opened(trial)
    const ids = only ?? book.walked(site).map((unit) => unit.id)
    return unitViews(book, ids, traitsAt(facts, visit), trait, visit)
  },

  async rows(trial: string, ids: string[], visit: string): Promise<RowView[]> {
    const { book } = await opened(trial)
    return ids.flatMap((id) => rowView(book, id, visit) ?? [])
  },

  async stop(trial: string, unit: string, visit: string, only: string | null): Promise<{ fields: Field[]; notes: Note[] }> {
    const { book, trial: facts } = await opened(trial)
    const stop = book.unit(unit)
    if (!stop) return { fields: [], notes: [] }
    const inside = book.inside(unit).flatMap((each) => book.records.notes(each.id))
    return { fields: fieldsAt(book, traitsAt(facts, visit, only), stop, visit), notes: [...book.records.notes(unit), ...inside] }
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
      notes: layouts.flatMap(({ units }) =>
        units.flatMap((unit) => book.records.notes(unit.id).map((note) => ({ kind: unit.kind, code: unit.code, note }))),
      ),
    }
  },
}

export type BookWorker = typeof api
expose(api)
