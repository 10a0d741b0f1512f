import type { Worked } from '../quantity/index.ts'
import { siteOf } from '../ground/index.ts'
import {
  asVisited,
  cellKey,
  fateKind,
  HALF,
  halvedSince,
  INSIDE,
  isHalved,
  RecordSet,
  traitKind,
  treatedUnits,
  visitsOf,
  type Changed,
  type Fate,
  type FieldRecord,
  type Layout,
  type Note,
  type Progress,
  type Reading,
  type Tally,
  type Trait,
  type Trial,
  type Unit,
  type Visit,
} from '../trial/index.ts'
import { derive } from './derive.ts'
import { holdingOn, lineOf, partLeft, partsOfUnit, type UnitFate } from './fates.ts'
import { nextAct } from './next-act.ts'
import { NONE, resolve, type Resolved } from './resolve.ts'

/** What the analysis is given of one treated unit. */
export interface BookObservation {
  readonly unit: string
  readonly visit: string
  readonly value: number
  readonly samples?: number
  readonly exposure?: number
  readonly bound?: 'below' | 'above'
}

export interface BookObservations {
  readonly observations: readonly BookObservation[]
  readonly leftOut: ReadonlySet<string>
  /** What happened to treated units by then. */
  readonly fates: readonly UnitFate[]
  /** Treated units that have a value though they were gone before it was taken: set aside. */
  readonly afterEnd: number
  /** Units whose value is not settled: entered twice, or read by two people and kept apart. */
  readonly conflicts: number
  readonly apart: number
  /** People whose readings are kept apart. */
  readonly observers: readonly string[]
  /** The day the visit was planned for, or that of its first values where they came earlier; null where neither is known. */
  readonly day: string | null
}

/** A row of the table: a unit with its values by trait. */
export interface BookRow {
  readonly unit: Unit
  readonly values: ReadonlyMap<string, Resolved>
  readonly notes: readonly Note[]
}

interface Cell {
  readonly site: string
  readonly trait: string
  readonly visit: string
  filled: number
  conflicts: number
  /** Read though nobody expected it, of a unit that was gone. */
  beyond: number
}

/** The trial as far as readings follow from it. */
export type BookTrial = Pick<Trial, 'traits' | 'sites'>

/**
 * Everything read at a trial and what it comes to, kept up to date record by record: a new
 * reading touches its own unit, those that hold it, and the counts.
 */
export class TrialBook {
  readonly records: RecordSet
  #trial!: BookTrial
  #layouts: readonly Layout[] = []
  #traits = new Map<string, Trait>()
  #visits = new Map<string, readonly string[]>()
  #units = new Map<string, { unit: Unit; site: string }>()
  #inside = new Map<string, Unit[]>()
  /** By site the layout with what is treated and walked of it; of sites in halves both ways. */
  #visited = new Map<string, { readonly whole: Visited; readonly halved: Visited }>()
  #cells = new Map<string, Cell>()
  #values = new Map<string, Map<string, Resolved>>()
  #filled = new Map<string, number>()
  #expected = new Map<string, number>()
  #conflicts = 0
  /** Units that something is on record to have happened to: mostly none. */
  #fated: ReadonlySet<string> = new Set()
  /** By unit what happened to it or to one it lies in, the earliest first. */
  #fates: ReadonlyMap<string, readonly Fate[]> = new Map()

  constructor(trial: BookTrial, layouts: readonly Layout[], records: Iterable<FieldRecord> = []) {
    this.records = new RecordSet(records)
    this.open(trial, layouts)
  }

  /** The same records under changed facts. */
  open(trial: BookTrial, layouts: readonly Layout[]): void {
    this.#trial = trial
    this.#layouts = layouts
    this.#traits = new Map(trial.traits.observed.map((trait) => [trait.key, trait]))
    this.#visits = new Map([...trial.traits.observed, ...trial.traits.derived].map(({ key }) => [key, visitsOf(trial.traits, key)]))
    this.#units = new Map()
    this.#inside = new Map()
    this.#visited = new Map()
    for (const layout of layouts) {
      const { siteKey, units } = layout
      this.#visited.set(siteKey, bothWays(layout, siteOf(trial, siteKey).design.unit))
      for (const unit of units) {
        this.#units.set(unit.id, { unit, site: siteKey })
        if (INSIDE.has(unit.kind)) for (const id of unit.in) this.#inside.set(id, [...(this.#inside.get(id) ?? []), unit])
      }
    }
    this.#fated = new Set(this.records.fated())
    this.#fates = this.#fatesByUnit()
    this.#values.clear()
    this.#cells.clear()
    this.#filled.clear()
    this.#conflicts = 0
    this.#expect()
    for (const cell of this.records.cells()) this.#count(cell)
  }

  /** Units whose values, notes or counts may be others now. */
  add(records: Iterable<FieldRecord>): ReadonlySet<string> {
    return this.#settle(this.records.add(records))
  }

  remove(ids: Iterable<string>): ReadonlySet<string> {
    return this.#settle(this.records.remove(ids))
  }

  unit(id: string): Unit | undefined {
    return this.#units.get(id)?.unit
  }

  /** Plants, samples and halves in a unit that are units themselves. */
  inside(id: string): readonly Unit[] {
    return this.#inside.get(id) ?? []
  }

  /** Units that one goes to at a site at a visit, in walking order. */
  walked(site: string, visit: string): readonly Unit[] {
    return this.#at(site, visit)?.walked ?? []
  }

  /** Whether one goes to a unit, at that site. */
  walks(site: string, id: string): boolean {
    const found = this.#units.get(id)
    return found?.site === site && (found.unit.walk !== null || found.unit.kind === HALF)
  }

  #at(site: string, visit: string): Visited | undefined {
    const found = this.#visited.get(site)
    return found && found[this.#halvedAt(site, visit) ? 'halved' : 'whole']
  }

  #halvedAt(site: string, visit: string): boolean {
    const found = this.#visited.get(site)
    return found !== undefined && found.halved !== found.whole && isHalved(found.halved, { on: this.#plannedDay(visit) })
  }

  /** A value; of plants in a unit what they come to together, of a plant whose unit was read that of the unit. */
  value(unit: string, trait: string, visit: string): Resolved {
    const known = this.#values.get(unit)
    const key = `${trait}|${visit}`
    const found = known?.get(key)
    if (found) return found
    const made = this.#resolve(unit, trait, visit)
    if (known) known.set(key, made)
    else this.#values.set(unit, new Map([[key, made]]))
    return made
  }

  row(id: string, visit: string): BookRow {
    const unit = this.#units.get(id)!.unit
    const values = new Map<string, Resolved>()
    for (const [trait, visits] of this.#visits) if (visits.includes(visit)) values.set(trait, this.value(id, trait, visit))
    return { unit, values, notes: this.records.notes(id) }
  }

  /** The standing note that leaves a unit out of the analysis of a trait, if any. */
  leftOut(unit: string, trait: string): Note | undefined {
    return this.records.notes(unit).find((note) => note.kind === 'left out' && (note.trait === null || note.trait === trait))
  }

  /** What happened to a unit, or to one it lies in, by a visit; by now where none is named. */
  fatesOf(id: string, visit?: string): readonly Fate[] {
    const all = this.allFates(id)
    if (all.length === 0 || visit === undefined) return all
    return holdingOn(all, this.#plannedDay(visit))
  }

  /** All that is on record of a unit and those it lies in, and stands. */
  allFates(id: string): readonly Fate[] {
    return this.#fates.get(id) ?? []
  }

  /** Whether nothing is read on a unit any more at a visit. */
  gone(id: string, visit: string): boolean {
    return this.fatesOf(id, visit).some((fate) => fateKind(fate.kind).compared === 'gone')
  }

  /** How many samples of a trait are taken at a unit: as many more as it was divided into. */
  samplesAt(id: string, trait: Pick<Trait, 'samples'>, visit: string): number {
    return trait.samples * (this.#fated.size === 0 ? 1 : partsOfUnit(this.fatesOf(id, visit)))
  }

  #fatesByUnit(): ReadonlyMap<string, readonly Fate[]> {
    const found = new Map<string, readonly Fate[]>()
    if (this.#fated.size === 0) return found
    const own = new Map([...this.#fated].map((id) => [id, this.records.fates(id)]))
    for (const { unit } of this.#units.values()) {
      const fates = lineOf(unit, (id) => this.unit(id)).flatMap((each) => own.get(each.id) ?? [])
      if (fates.length > 0) found.set(unit.id, fates.sort((a, b) => (a.on.from < b.on.from ? -1 : 1))) // prettier-ignore
    }
    return found
  }

  #plannedDay(visit: string): string | null {
    return this.#trial.traits.visits.find((each) => each.key === visit)?.on ?? null
  }

  /** Readings that stand under a key of the field where they are entered. */
  standing(unit: string, trait: string, visit: string): Map<string, Reading[]> {
    return this.records.readings(cellKey(unit, trait, visit))
  }

  /** Values of a trait at a visit by treated unit, for the analysis; of one observer where that is asked. */
  observations(trait: string, visit: string, observer?: string): BookObservations {
    const observations: BookObservation[] = []
    const leftOut = new Set<string>()
    const observers = new Set<string>()
    const fates: UnitFate[] = []
    let [conflicts, apart, afterEnd] = [0, 0, 0]
    let first: string | null = null
    for (const unit of this.#treated(visit)) {
      const value = this.value(unit.id, trait, visit)
      const happened = this.#happened(unit.id, trait, visit, value)
      fates.push(...happened)
      const own = value.kind === 'observers' && observer !== undefined ? value.by.find((each) => each.observer === observer)?.value : value
      if (value.kind === 'observers') for (const each of value.by) observers.add(each.observer)
      if (own?.kind === 'conflict') conflicts++
      if (own?.kind === 'observers') apart++
      if (own?.kind !== 'value') continue
      const observation = this.#observation(unit.id, visit, own, this.#traits.get(trait))
      if (!observation) continue
      if (happened.some((each) => each.compared === 'gone')) {
        afterEnd++
        continue
      }
      observations.push(observation)
      const day = this.#lastDay(unit.id, trait, visit, own)
      if (day !== null && (first === null || day < first)) first = day
      if (this.leftOut(unit.id, trait) || happened.some((each) => each.compared === 'apart')) leftOut.add(unit.id)
    }
    const planned = this.#plannedDay(visit)
    const day = this.#noEarlier(visit, planned !== null && (first === null || planned < first) ? planned : first)
    return { observations, leftOut, fates, afterEnd, conflicts, apart, observers: [...observers].sort(), day }
  }

  /** Halves that were read before the day they were to be halved from are read as of that day. */
  #noEarlier(visit: string, day: string | null): string | null {
    const since = this.#layouts.flatMap((layout) => (this.#halvedAt(layout.siteKey, visit) ? (halvedSince(layout.structure) ?? []) : []))
    return since.reduce((latest, each) => (latest !== null && each > latest ? each : latest), day)
  }

  /** What happened to a treated unit before its value was taken; the visit's day, or that of the value itself. */
  #happened(unit: string, trait: string, visit: string, value: Resolved): UnitFate[] {
    const all = this.allFates(unit)
    if (all.length === 0) return []
    const [planned, taken] = [this.#plannedDay(visit), this.#lastDay(unit, trait, visit, value)]
    // A value that is there was taken before the unit was gone, unless both days say otherwise.
    const day = planned !== null && taken !== null ? (planned < taken ? planned : taken) : (planned ?? taken)
    return holdingOn(all, day).map((fate) => ({ unit, compared: fateKind(fate.kind).compared, fate }))
  }

  /** The day of the last reading that a value was made of, also by way of other traits. */
  #lastDay(unit: string, key: string, visit: string, value: Resolved): string | null {
    const days: (string | null)[] =
      value.kind === 'value' && value.readings.length > 0
        ? value.readings.map(({ at }) => at.slice(0, 10))
        : (this.#trial.traits.derived.find((each) => each.key === key)?.terms ?? []).map((term) => {
            if (term.of.kind !== 'trait') return null
            const at = this.#visitFor(term.of.trait, visit)
            return this.#lastDay(unit, term.of.trait, at, this.value(unit, term.of.trait, at))
          })
    return days.reduce<string | null>((last, each) => (each !== null && (last === null || each > last) ? each : last), null)
  }

  #observation(unit: string, visit: string, value: Extract<Resolved, { kind: 'value' }>, trait: Trait | undefined): BookObservation | null {
    const { part, bound, exposure } = value.reduced
    if (bound !== null) return { unit, visit, value: value.reduced.value!, bound }
    if (part === null) return null
    const n = Math.max(1, value.readings.length / value.observers)
    const exposed = exposure !== null
    // A count without what it is of is told per reading, so that its total is the reading times their number.
    const told = !exposed && trait && traitKind(trait.kind).analysed === 'count' ? part / n : part
    return { unit, visit, value: told, ...(n > 1 ? { samples: n } : {}), ...(exposed ? { exposure } : {}) }
  }

  /** Where the trial is in its season, from what is on record alone. */
  progress(): Progress {
    const sites: Record<string, Tally> = {}
    const visits: Record<string, Tally> = {}
    let [readings, expected] = [0, 0]
    for (const [key, wanted] of this.#expected) {
      const [site, , visit] = key.split('|') as [string, string, string]
      const filled = Math.min(wanted, this.#filled.get(key) ?? 0)
      readings += filled
      expected += wanted
      sites[site] = { readings: (sites[site]?.readings ?? 0) + filled, expected: (sites[site]?.expected ?? 0) + wanted }
      visits[visit] = { readings: (visits[visit]?.readings ?? 0) + filled, expected: (visits[visit]?.expected ?? 0) + wanted }
    }
    const marked = this.records.operations().filter((operation) => operation.kind === 'planted')
    const planted = this.#trial.sites.flatMap((site) => marked.find((operation) => operation.siteKey === site.key) ?? [])
    const laid = this.#layouts.length
    const stage =
      laid === 0
        ? 'question'
        : expected > 0 && readings >= expected
          ? 'measured'
          : readings > 0
            ? 'measuring'
            : planted.length > 0
              ? 'planted'
              : 'laid out'
    return {
      stage,
      readings,
      expected,
      sites,
      visits,
      planted,
      happened: [...this.#fated].filter((id) => this.records.fates(id).length > 0).length,
      conflicts: this.#conflicts,
      measured: !this.records.cells().next().done,
      next: nextAct({ stage, conflicts: this.#conflicts, left: expected - readings, unlaid: this.#trial.sites.length - laid }),
    }
  }

  /** Samples of a trait that are taken at a unit, and how many of them have a value or a reason. */
  filled(unit: string, trait: string, visit: string): number {
    return this.#cells.get(cellKey(unit, trait, visit))?.filled ?? 0
  }

  /** Units that a trait is read on when one stands at a unit: itself, what is in it, or what it is in. */
  readOn(stop: Unit, trait: Trait): readonly Unit[] {
    if (trait.on !== 'unit') return stop.kind === trait.on ? [stop] : this.inside(stop.id).filter((each) => each.kind === trait.on)
    if (stop.kind !== 'plant' && stop.kind !== 'sample') return [stop]
    // Walking plant by plant, what is read on the whole unit is read at its first plant.
    const holder = stop.in.map((id) => this.unit(id)).find((each) => each !== undefined)
    return holder && this.inside(holder.id)[0]?.id === stop.id ? [holder] : []
  }

  #resolve(id: string, key: string, visit: string): Resolved {
    const entry = this.#units.get(id)
    if (!entry) return NONE
    const halved = this.#halvedAt(entry.site, visit)
    // Before, a half was part of its plot; from then on what is read is of halves, and the plot as a whole has none.
    if (entry.unit.kind === HALF && !halved) return this.value(entry.unit.in[0]!, key, visit)
    if (halved && this.#isInHalves(entry.unit)) return NONE
    const trait = this.#traits.get(key)
    if (!trait) return this.#derived(entry, key, visit)
    const { unit } = entry
    const small = unit.kind === 'plant' || unit.kind === 'sample'
    if (trait.on === 'unit' && small) {
      const holder = unit.in.find((each) => this.#units.has(each))
      return holder ? this.value(holder, key, visit) : NONE
    }
    const on = trait.on === 'unit' || trait.on === unit.kind ? [unit] : this.inside(id).filter((each) => each.kind === trait.on)
    const kept = on.length > 1 ? on.filter((each) => !this.leftOut(each.id, key)) : on
    return resolve(
      trait,
      kept.map((each) => this.records.readings(cellKey(each.id, key, visit))),
    )
  }

  #derived({ unit, site }: { unit: Unit; site: string }, key: string, visit: string): Resolved {
    const derived = this.#trial.traits.derived.find((each) => each.key === key)
    if (!derived) return NONE
    const inputs = new Map<string, Worked>()
    const why: Resolved[] = []
    const half = unit.kind === HALF
    for (const term of derived.terms) {
      if (term.of.kind !== 'trait') continue
      const at = this.#visitFor(term.of.trait, visit)
      const value = half && !this.#halvedAt(site, at) ? OF_THE_PLOT : this.value(unit.id, term.of.trait, at)
      if (value.kind === 'value' && value.worked) inputs.set(term.of.trait, value.worked)
      else why.push(value)
    }
    const day = this.#fated.size === 0 ? null : (this.#plannedDay(visit) ?? this.#lastDay(unit.id, key, visit, NONE))
    const left = this.#fated.size === 0 ? 1 : partLeft(holdingOn(this.allFates(unit.id), day))
    const result = derive(derived, inputs, siteOf(this.#trial, site).ground, { left, half })
    if (result.ok && Number.isFinite(result.worked.value)) {
      const { value } = result.worked
      return {
        kind: 'value',
        reduced: { value, text: null, bound: null, part: value, exposure: null },
        worked: result.worked,
        readings: [],
        observers: 1,
        outOfRange: false,
        confirmed: false,
      }
    }
    const cause = why.find((each) => each.kind === 'missing' || each.kind === 'conflict' || each.kind === 'observers')
    if (cause) return cause
    const bounded = why.find((each) => each.kind === 'value' && each.reduced.bound !== null)
    return bounded ? { kind: 'missing', reason: 'worked out from a value known only to a limit', readings: [] } : NONE
  }

  /** What is taken once serves every visit of what is worked out from it. */
  #visitFor(trait: string, visit: string): string {
    const visits = this.#visits.get(trait) ?? []
    return visits.length === 1 ? visits[0]! : visit
  }

  *#treated(visit: string): Iterable<Unit> {
    for (const { siteKey } of this.#layouts) yield* this.#at(siteKey, visit)!.treated
  }

  #isInHalves({ id, kind }: Unit): boolean {
    return kind !== HALF && this.inside(id)[0]?.kind === HALF
  }

  #expect(): void {
    this.#expected.clear()
    for (const { siteKey, units } of this.#layouts) {
      for (const trait of this.#trial.traits.observed) {
        const inside = trait.on === 'unit' ? null : units.filter((unit) => unit.kind === trait.on)
        for (const visit of this.#visits.get(trait.key)!) {
          const own = inside ?? this.#at(siteKey, visit)!.treated
          if (own.length > 0) this.#expected.set(`${siteKey}|${trait.key}|${visit}`, this.#wanted(own, trait, visit))
        }
      }
    }
  }

  /** Samples that are to be read: none of what is gone; what was read of it all the same is added as it comes. */
  #wanted(units: readonly Unit[], trait: Trait, visit: string): number {
    if (this.#fated.size === 0) return units.length * trait.samples
    return units.reduce((sum, { id }) => {
      return this.gone(id, visit) ? sum : sum + this.samplesAt(id, trait, visit)
    }, 0)
  }

  #count(key: string): void {
    const [unit, trait, visit] = key.split('|') as [string, string, string]
    const entry = this.#units.get(unit)
    const known = this.#traits.get(trait)
    if (!entry || !known || !this.#visits.get(trait)?.includes(visit)) return
    const rows = [...this.records.readings(key).values()]
    const samples = new Set(rows.flat().map((reading) => reading.sample))
    const most = this.samplesAt(unit, known, visit)
    const filled = [...samples].filter((sample) => sample <= most).length
    const conflicts = rows.some((each) => each.length > 1) ? 1 : 0
    const before = this.#cells.get(key)
    const at = `${entry.site}|${trait}|${visit}`
    this.#filled.set(at, (this.#filled.get(at) ?? 0) + filled - (before?.filled ?? 0))
    this.#conflicts += conflicts - (before?.conflicts ?? 0)
    const beyond = this.#fated.size > 0 && this.gone(unit, visit) ? filled : 0
    const more = beyond - (before?.beyond ?? 0)
    if (more !== 0) this.#expected.set(at, (this.#expected.get(at) ?? 0) + more)
    this.#cells.set(key, { site: entry.site, trait, visit, filled, conflicts, beyond })
  }

  #settle({ cells, notes, fates, operations }: Changed): ReadonlySet<string> {
    if (fates.size > 0) return this.#recount(fates)
    const units = new Set<string>()
    for (const key of cells) {
      this.#count(key)
      units.add(key.slice(0, key.indexOf('|')))
    }
    for (const unit of notes) units.add(unit)
    if (operations) units.add('')
    return this.#touch(units)
  }

  /** What happens to a unit happens to all that lies in it, and changes what is expected: seldom, so all is counted anew. */
  #recount(fates: ReadonlySet<string>): ReadonlySet<string> {
    this.open(this.#trial, this.#layouts)
    const lying = [...this.#units.values()].filter(({ unit }) => lineOf(unit, (id) => this.unit(id)).some((each) => fates.has(each.id)))
    return this.#touch(new Set(['', ...fates, ...lying.map(({ unit }) => unit.id)]))
  }

  #touch(units: ReadonlySet<string>): ReadonlySet<string> {
    const touched = new Set<string>()
    for (const id of units) {
      touched.add(id)
      const unit = this.unit(id)
      if (!unit) continue
      for (const holder of unit.in) touched.add(holder)
      for (const each of this.inside(id)) touched.add(each.id)
    }
    for (const id of touched) this.#values.delete(id)
    return touched
  }
}

/** What is gone to, and what is compared, at a site. */
interface Visited extends Layout {
  readonly walked: readonly Unit[]
  readonly treated: readonly Unit[]
}

const BEFORE_ALL: Pick<Visit, 'on'> = { on: '0001-01-01' }

/** A layout before its plots were halved and after; the same where they never were. */
function bothWays(layout: Layout, treated: Unit['kind']): { whole: Visited; halved: Visited } {
  const visited = (own: Layout): Visited => ({
    ...own,
    walked: own.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!),
    treated: treatedUnits(own.units, treated),
  })
  const whole = visited(asVisited(layout, BEFORE_ALL))
  return { whole, halved: halvedSince(layout.structure) === null ? whole : visited(asVisited(layout, { on: null })) }
}

/** What was read on a plot as a whole says nothing of one half of it by itself. */
const OF_THE_PLOT: Resolved = { kind: 'missing', reason: 'worked out from what was read on the whole plot', readings: [] }

/** What the analysis makes of a trait; of a derived one a continuous value. Null: it is shown and not analysed. */
export function analysedAs(trait: Trait | undefined): ReturnType<typeof traitKind>['analysed'] {
  return trait ? traitKind(trait.kind).analysed : 'continuous'
}
