import { marksByUnit } from '@canter/core/numbers'
import {
  asVisited,
  codesOnly,
  treatmentWith,
  type Layout,
  type Progress,
  type Site,
  type Treatment,
  type Trial,
  type TrialEvent,
  type TrialFile,
  type Unit,
  type Visit,
} from '@canter/core/trial'
import { useQuery } from '@tanstack/react-query'
import { createContext, useContext, useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { useSearchParams } from 'react-router'
import { answered, book, bookChanged, useSlice } from './book.ts'
import { useHeard } from './record-state.ts'
import { trialQuery } from './trial-file.ts'

/** What each unit of a layout was dealt and has. */
export interface Dealt {
  readonly planned: ReadonlyMap<string, Record<string, string>>
  readonly received: ReadonlyMap<string, Record<string, string>>
}

/** The facts of an open trial at its open site and visit: the same object while readings come in. */
export interface OpenGround {
  /** As it is to be seen: of a blinded trial the codes only. */
  readonly trial: Trial
  /** As it is: for whoever weighs and applies, and for the facts that are edited. */
  readonly known: Trial
  readonly layouts: readonly Layout[]
  /** The site whose plan is open. */
  readonly site: Site
  /** As it is walked at the open visit: half by half from the day on which plots are handled by halves. */
  readonly layout: Layout | null
  readonly units: ReadonlyMap<string, Unit>
  readonly dealt: Dealt | null
  /** The visit that is open. */
  readonly visit: Visit
  /** How many units of each kind are walked, at all sites. */
  readonly walked: ReadonlyMap<string, number>
  /** Whether anything was read yet, anywhere. */
  readonly measured: boolean
  /** Whether anything is on record to have happened to a unit. */
  readonly happened: boolean
  /** What a unit of the open site got, or was to get. */
  readonly treatmentOf: (unit: string, which?: 'planned' | 'received') => Treatment | undefined
}

/** Everything the steps of one trial share; nothing here is stored, all follows from facts and records. */
export interface OpenTrial extends OpenGround {
  readonly ground: OpenGround
  readonly events: readonly TrialEvent[]
  readonly progress: Progress
  /** Planted or measured: the layout of the open site is fixed, changes go on record. */
  readonly fixed: boolean
  /** The same of any site: which treatments there are is fixed. */
  readonly anyFixed: boolean
  /** The same trial with another site open. */
  readonly at: (site: string) => OpenTrial
}

export const TrialContext = createContext<Live<OpenTrial> | null>(null)

/** A value that those hear of who ask for it: a context that changed would have all below it gone through, thousands of plots with it. */
class Live<Value> {
  readonly #listeners = new Set<() => void>()
  #value: Value

  constructor(value: Value) {
    this.#value = value
  }

  readonly now = (): Value => this.#value

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener)
    return () => this.#listeners.delete(listener)
  }

  set(value: Value): void {
    if (value === this.#value) return
    this.#value = value
    for (const listener of this.#listeners) listener()
  }
}

/** The open trial for all below; they hear of a change before anything is drawn. */
export function useLive(open: OpenTrial): Live<OpenTrial> {
  const [live] = useState(() => new Live(open))
  useLayoutEffect(() => live.set(open), [live, open])
  return live
}

/** The facts apart from what is read: who asks only for these is not drawn anew with each reading. */
export const GroundContext = createContext<OpenGround | null>(null)

export function useOpenTrial(): OpenTrial {
  const live = there(useContext(TrialContext))
  return useSyncExternalStore(live.subscribe, live.now)
}

export function useOpenGround(): OpenGround {
  return there(useContext(GroundContext))
}

function there<Found>(found: Found | null): Found {
  if (!found) throw new Error('No trial is open here')
  return found
}

/** Loads a trial and opens its book; undefined while it comes. */
export function useLoadTrial(id: string): { open: OpenTrial | undefined; error: Error | null } {
  const { data: file, error } = useQuery(trialQuery(id))
  const heard = useHeard(id)
  const [search] = useSearchParams()
  const [read, setRead] = useState<string | null>(null)
  const version = file ? `${id} ${file.trial.version}` : null
  useEffect(() => {
    if (!file || !heard || version === null || read === version) return
    const opening = book()
      .facts(file.trial, file.layouts)
      .then(() => true)
    void answered(opening).then((opened) => {
      if (!opened) return
      bookChanged(id)
      setRead(version)
    })
  }, [file, heard, id, read, version])
  const progress = useSlice(id, read === null ? null : `progress ${read}`, (from) => from.progress(id))
  const shown = useLast(progress)
  const asked = search.get('site')
  const at = search.get('visit')
  const grounds = useMemo(() => (file ? groundsOf(file) : null), [file])
  const measured = shown?.measured ?? false
  const happened = (shown?.happened ?? 0) > 0
  const ground = useMemo(() => grounds?.(asked, at, { measured, happened }), [asked, at, grounds, measured, happened])
  const open = useMemo((): OpenTrial | undefined => {
    if (!file || !grounds || !ground || !shown || read === null) return undefined
    return opened({ file, progress: shown }, ground, (site) => grounds(site, at, { measured, happened }))
  }, [at, file, ground, grounds, measured, happened, read, shown])
  return { open, error }
}

interface Loaded {
  readonly file: TrialFile
  readonly progress: Progress
}

/** The facts with one site and one visit open: those asked for, else the first site and the last visit. */
function groundsOf({
  trial: known,
  layouts,
}: TrialFile): (site: string | null, visit: string | null, so: Pick<OpenGround, 'measured' | 'happened'>) => OpenGround {
  const walked = walkedOf(layouts)
  const trial = known.treatments.blinded ? { ...known, treatments: codesOnly(known.treatments, known.id) } : known
  const dealt = new Map(layouts.map((layout) => [layout.siteKey, dealtOf(layout)]))
  return (siteKey, visitKey, so) => {
    const site = trial.sites.find((each) => each.key === siteKey) ?? trial.sites[0]!
    const laid = layouts.find((each) => each.siteKey === site.key) ?? null
    const { visits } = trial.traits
    const visit = visits.find((each) => each.key === visitKey) ?? visits.at(-1)!
    const layout = laid && asVisited(laid, visit)
    const own = dealt.get(site.key) ?? null
    return {
      trial,
      known,
      layouts,
      site,
      layout,
      units: new Map(layout?.units.map((unit) => [unit.id, unit])),
      dealt: own,
      visit,
      walked,
      ...so,
      treatmentOf: treatmentsOf(trial, own),
    }
  }
}

/** The same with what has been read so far. */
function opened(loaded: Loaded, ground: OpenGround, groundAt: (site: string) => OpenGround): OpenTrial {
  const { file, progress } = loaded
  const fixedAt = (key: string): boolean =>
    progress.planted.some((each) => each.siteKey === key) || (progress.sites[key]?.readings ?? 0) > 0
  return {
    ...ground,
    ground,
    events: file.events,
    progress,
    fixed: fixedAt(ground.site.key),
    anyFixed: ground.trial.sites.some((each) => fixedAt(each.key)),
    at: (key) => opened(loaded, groundAt(key), groundAt),
  }
}

/** Asked for each plot each time the plan is drawn, so each is looked up once. */
function treatmentsOf(trial: Trial, dealt: Dealt | null): OpenGround['treatmentOf'] {
  const known = { planned: new Map<string, Treatment | undefined>(), received: new Map<string, Treatment | undefined>() }
  return (unit, which = 'received') => {
    const found = known[which]
    if (found.has(unit)) return found.get(unit)
    const marks = dealt?.[which].get(unit)
    const treatment = marks && treatmentWith(marks, trial.treatments)
    found.set(unit, treatment)
    return treatment
  }
}

function walkedOf(layouts: readonly Layout[]): ReadonlyMap<string, number> {
  const counts = new Map<string, number>()
  for (const { units } of layouts) for (const { kind, walk } of units) if (walk !== null) counts.set(kind, (counts.get(kind) ?? 0) + 1)
  return counts
}

function dealtOf(layout: Layout): Dealt {
  return { planned: marksByUnit(layout, 'planned'), received: marksByUnit(layout, 'received') }
}

/** The last value there was, while the next one comes. */
function useLast<Value>(value: Value | undefined): Value | undefined {
  const last = useRef(value)
  if (value !== undefined) last.current = value
  return last.current
}
