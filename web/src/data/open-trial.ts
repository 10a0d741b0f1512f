import { marksByUnit } from '@canter/core/numbers'
import {
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
import { createContext, useContext, useEffect, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { book, bookChanged, useSlice } from './book.ts'
import { useRecordState, type RecordState } from './record-state.ts'
import { trialQuery } from './trial-file.ts'

/** What each unit of a layout was dealt and has. */
export interface Dealt {
  readonly planned: ReadonlyMap<string, Record<string, string>>
  readonly received: ReadonlyMap<string, Record<string, string>>
}

/** Everything the steps of one trial share; nothing here is stored, all follows from facts and records. */
export interface OpenTrial {
  readonly trial: Trial
  readonly layouts: readonly Layout[]
  readonly events: readonly TrialEvent[]
  readonly records: RecordState
  readonly progress: Progress
  /** The site whose plan is open. */
  readonly site: Site
  readonly layout: Layout | null
  readonly units: ReadonlyMap<string, Unit>
  readonly dealt: Dealt | null
  /** The visit that is open. */
  readonly visit: Visit
  /** Planted or measured: the layout of the open site is fixed, changes go on record. */
  readonly fixed: boolean
  /** The same of any site: which treatments there are is fixed. */
  readonly anyFixed: boolean
  /** The same trial with another site open. */
  readonly at: (site: string) => OpenTrial
  /** What a unit of the open site got, or was to get. */
  readonly treatmentOf: (unit: string, which?: 'planned' | 'received') => Treatment | undefined
}

export const TrialContext = createContext<OpenTrial | null>(null)

export function useOpenTrial(): OpenTrial {
  const open = useContext(TrialContext)
  if (!open) throw new Error('No trial is open here')
  return open
}

/** Loads a trial and opens its book; undefined while it comes. */
export function useLoadTrial(id: string): { open: OpenTrial | undefined; error: Error | null } {
  const { data: file, error } = useQuery(trialQuery(id))
  const records = useRecordState(id)
  const [search] = useSearchParams()
  const [read, setRead] = useState<string | null>(null)
  const version = file ? `${id} ${file.trial.version}` : null
  useEffect(() => {
    if (!file || !records.ready || version === null || read === version) return
    void book()
      .facts(file.trial, file.layouts)
      .then(() => {
        bookChanged(id, null)
        setRead(version)
      })
  }, [file, id, read, records.ready, version])
  const progress = useSlice(id, read === null ? null : `progress ${read}`, (from) => from.progress(id))
  const shown = useLast(progress)
  const asked = search.get('site')
  const at = search.get('visit')
  const dealt = useMemo(() => new Map(file?.layouts.map((layout) => [layout.siteKey, dealtOf(layout)])), [file])
  const open = useMemo((): OpenTrial | undefined => {
    if (!file || !shown || read === null) return undefined
    return opened({ file, records, progress: shown, dealt }, asked, at)
  }, [asked, at, dealt, file, read, records, shown])
  return { open, error }
}

interface Loaded {
  readonly file: TrialFile
  readonly records: RecordState
  readonly progress: Progress
  readonly dealt: ReadonlyMap<string, Dealt>
}

/** The trial with one site and one visit open: those asked for, else the first site and the last visit. */
function opened(loaded: Loaded, siteKey: string | null, visitKey: string | null): OpenTrial {
  const { file, records, progress, dealt } = loaded
  const { trial, layouts, events } = file
  const site = trial.sites.find((each) => each.key === siteKey) ?? trial.sites[0]!
  const layout = layouts.find((each) => each.siteKey === site.key) ?? null
  const { visits } = trial.traits
  const own = dealt.get(site.key) ?? null
  const fixedAt = (key: string): boolean =>
    progress.planted.some((each) => each.siteKey === key) || (progress.sites[key]?.readings ?? 0) > 0
  return {
    trial,
    layouts,
    events,
    records,
    progress,
    site,
    layout,
    units: new Map(layout?.units.map((unit) => [unit.id, unit])),
    dealt: own,
    visit: visits.find((each) => each.key === visitKey) ?? visits.at(-1)!,
    fixed: fixedAt(site.key),
    anyFixed: trial.sites.some((each) => fixedAt(each.key)),
    at: (key) => opened(loaded, key, visitKey),
    treatmentOf: (unit, which = 'received') => {
      const marks = own?.[which].get(unit)
      return marks && treatmentWith(marks, trial.treatments)
    },
  }
}

function dealtOf(layout: Layout): Dealt {
  return { planned: marksByUnit(layout, 'planned'), received: marksByUnit(layout, 'received') }
}

/** The last value there was, while the next one comes. */
function useLast<Value>(value: Value | undefined): Value | undefined {
  const [last, setLast] = useState(value)
  useEffect(() => {
    if (value !== undefined) setLast(value)
  }, [value])
  return value ?? last
}
