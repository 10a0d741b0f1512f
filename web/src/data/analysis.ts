import type { DecisionOutcome, SiteRanking } from '@canter/core/decision'
import type { PlanEfficiency } from '@canter/core/design'
import { treatmentsDealt, type Layout, type Prices } from '@canter/core/trial'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { wrap, type Remote } from 'comlink'
import type { AnalysisAnswer, AnalysisWorker } from './analysis-worker.ts'
import { useSyncExternalStore } from 'react'
import { book, bookCount, onBookChange } from './book.ts'
import type { OpenTrial } from './open-trial.ts'

let remote: Remote<AnalysisWorker> | null = null

function worker(): Remote<AnalysisWorker> {
  remote ??= wrap<AnalysisWorker>(new Worker(new URL('./analysis-worker.ts', import.meta.url), { type: 'module' }))
  return remote
}

/** What is asked of the analysis: which trait at which visit, on which sites, by whom. */
export interface AnalysisAsked {
  readonly trait: string
  readonly visit: string
  /** One site's key; null: all that are laid out. */
  readonly site: string | null
  /** Of people whose readings are kept apart, the one to be analysed. */
  readonly observer?: string | null
}

export function useAnalysis({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, asked: AnalysisAsked | null) {
  const count = useBookCount(trial.id, asked !== null)
  const chosen = asked === null ? [] : layouts.filter((layout) => asked.site === null || layout.siteKey === asked.site)
  const key = JSON.stringify(asked)
  return useQuery<AnalysisAnswer>({
    queryKey: ['analysis', trial.id, trial.version, count, key],
    queryFn: async () => {
      const { trait, visit, observer = null } = asked!
      const observations = await book().observations(trial.id, trait, visit, observer)
      return worker().analyse(trial, [...chosen], observations, trait, {})
    },
    enabled: asked !== null && chosen.length > 0,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    // The last answer stays while a value is typed, never under another name.
    placeholderData: (previous, query) => (query?.queryKey.at(-1) === key ? previous : undefined),
  })
}

export function useDecision({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, site: string | null, prices: Prices) {
  const count = useBookCount(trial.id, true)
  const chosen = layouts.filter((layout) => site === null || layout.siteKey === site)
  return useQuery<DecisionOutcome>({
    queryKey: ['decision', trial.id, trial.version, count, site, JSON.stringify(prices)],
    queryFn: async () => worker().decide(trial, [...chosen], await book().decisionInputs(trial.id), prices),
    enabled: chosen.length > 0,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    placeholderData: keepPreviousData,
  })
}

/** The order of the treatments at each site alone; asked only where there are several. */
export function useRankings({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, prices: Prices) {
  const several = layouts.length > 1
  const count = useBookCount(trial.id, several)
  return useQuery<SiteRanking[]>({
    queryKey: ['rankings', trial.id, trial.version, count, JSON.stringify(prices)],
    queryFn: async () => worker().rankings(trial, [...layouts], await book().decisionInputs(trial.id), prices),
    enabled: several,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    placeholderData: keepPreviousData,
  })
}

/** How good the comparisons of a layout are. */
export function useEfficiency({ trial }: Pick<OpenTrial, 'trial'>, layout: Layout | null) {
  return useQuery<PlanEfficiency | null>({
    queryKey: ['efficiency', trial.id, trial.version, layout?.siteKey],
    queryFn: () => {
      const site = trial.sites.find((each) => each.key === layout!.siteKey)
      return worker().efficiency(layout!, site ? treatmentsDealt(trial.treatments, site) : trial.treatments)
    },
    enabled: layout !== null,
    staleTime: Infinity,
    networkMode: 'always',
    placeholderData: keepPreviousData,
  })
}

/** How often the trial has changed; where nothing is asked of it, nothing is drawn for it. */
function useBookCount(trial: string, watched: boolean): number {
  return useSyncExternalStore(
    (listener) => (watched ? onBookChange(trial, listener) : () => undefined),
    () => (watched ? bookCount(trial) : 0),
  )
}
