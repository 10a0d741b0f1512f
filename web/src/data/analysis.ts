import { asWentOut } from '@canter/core/amounts'
import type { DecisionOutcome, SiteRanking } from '@canter/core/decision'
import type { PlanEfficiency } from '@canter/core/design'
import type { OtherLie } from '@canter/core/ground'
import { treatmentsDealt, type Ground, type Layout, type Prices, type Unit } from '@canter/core/trial'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import type { AnalysisOptions, School } from '@canter/core/analysis'
import type { AnalysisAnswer, DatesAnswer } from './analysis-worker.ts'
import { useSyncExternalStore } from 'react'
import { book, bookCount, onBookChange } from './book.ts'
import { askedAgain, longWork } from './long-work.ts'
import type { OpenTrial } from './open-trial.ts'

/** What is asked of the analysis: which trait at which visit, on which sites, by whom. */
export interface AnalysisAsked {
  readonly trait: string
  readonly visit: string
  /** One site's key; null: all that are laid out. */
  readonly site: string | null
  /** Of people whose readings are kept apart, the one to be analysed. */
  readonly observer?: string | null
  /** How else than by itself it is to be analysed. */
  readonly options?: Partial<AnalysisOptions> | undefined
  /** With rates as they went out instead of as planned. */
  readonly rates?: 'out' | undefined
}

/** Under what name the work on an answer runs. */
export function workKey(trial: string, what: 'answer' | 'schools' | 'dates', asked: AnalysisAsked | null): string {
  return `${what} ${trial} ${JSON.stringify(asked)}`
}

function chosenOf({ layouts }: Pick<OpenTrial, 'layouts'>, asked: AnalysisAsked | null) {
  return asked === null ? [] : layouts.filter((layout) => asked.site === null || layout.siteKey === asked.site)
}

/** The trial as it is asked about: by its planned rates, or as they went out where that is on record. */
function trialAsked<Of extends Pick<OpenTrial['trial'], 'treatments' | 'amounts'>>(
  trial: Of,
  asked: AnalysisAsked | null,
  chosen: readonly Layout[],
): Of {
  return asked?.rates === 'out' ? asWentOut(trial, chosen.map((layout) => layout.siteKey)) : trial // prettier-ignore
}

export function useAnalysis({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, asked: AnalysisAsked | null) {
  const count = useBookCount(trial.id, asked !== null)
  const chosen = chosenOf({ layouts }, asked)
  const key = JSON.stringify(asked)
  return useQuery<AnalysisAnswer>({
    queryKey: ['analysis', trial.id, trial.version, count, key],
    queryFn: async () => {
      const { trait, visit, observer = null } = asked!
      const observations = await book().observations(trial.id, trait, visit, observer)
      return longWork<AnalysisAnswer>(workKey(trial.id, 'answer', asked), (worker, report) =>
        worker.analyse(
          trialAsked(trial, asked, chosen),
          [...chosen],
          observations,
          trait,
          asked!.options ?? {},
          JSON.stringify([trial.id, trial.version, count, key]),
          report,
        ),
      )
    },
    enabled: asked !== null && chosen.length > 0,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    ...askedAgain,
    // The last answer stays while a value is typed, never under another name.
    placeholderData: (previous, query) => (query?.queryKey.at(-1) === key ? previous : undefined),
  })
}

/** The answer the other way where practitioners differ, worked out once the answer is there. */
export function useSchools({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, asked: AnalysisAsked | null) {
  const count = useBookCount(trial.id, asked !== null)
  const key = JSON.stringify(asked)
  const chosen = chosenOf({ layouts }, asked)
  return useQuery<School[]>({
    queryKey: ['schools', trial.id, trial.version, count, key],
    queryFn: async () => {
      const { trait, visit, observer = null } = asked!
      const observations = await book().observations(trial.id, trait, visit, observer)
      return longWork(workKey(trial.id, 'schools', asked), (worker, report) =>
        worker.schools(
          trialAsked(trial, asked, chosen),
          [...chosen],
          observations,
          trait,
          JSON.stringify([trial.id, trial.version, count, key]),
          report,
        ),
      )
    },
    enabled: asked !== null && chosen.length > 0,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    ...askedAgain,
  })
}

/** A trait over all the visits it was read at. */
export function useOverDates(
  { trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>,
  asked: AnalysisAsked | null,
  visits: readonly string[],
) {
  const count = useBookCount(trial.id, asked !== null)
  const chosen = chosenOf({ layouts }, asked)
  return useQuery<DatesAnswer>({
    queryKey: ['dates', trial.id, trial.version, count, JSON.stringify(asked)],
    queryFn: async () => {
      const { trait, observer = null } = asked!
      const readings = await Promise.all(
        visits.map(async (visit) => ({ visit, observations: await book().observations(trial.id, trait, visit, observer) })),
      )
      return longWork<DatesAnswer>(workKey(trial.id, 'dates', asked), (worker, report) =>
        worker.overDates(trialAsked(trial, asked, chosen), [...chosen], readings, trait, report),
      )
    },
    enabled: asked !== null && chosen.length > 0,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    ...askedAgain,
  })
}

export function useDecision({ trial, layouts }: Pick<OpenTrial, 'trial' | 'layouts'>, site: string | null, prices: Prices) {
  const count = useBookCount(trial.id, true)
  const chosen = layouts.filter((layout) => site === null || layout.siteKey === site)
  return useQuery<DecisionOutcome>({
    queryKey: ['decision', trial.id, trial.version, count, site, JSON.stringify(prices)],
    queryFn: async () => {
      const inputs = await book().decisionInputs(trial.id)
      return longWork<DecisionOutcome>(`decision ${trial.id} ${site}`, (worker) => worker.decide(trial, [...chosen], inputs, prices))
    },
    ...askedAgain,
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
    queryFn: async () => {
      const inputs = await book().decisionInputs(trial.id)
      return longWork(`rankings ${trial.id}`, (worker) => worker.rankings(trial, [...layouts], inputs, prices))
    },
    ...askedAgain,
    enabled: several,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    placeholderData: keepPreviousData,
  })
}

/** Ways to lay the same units that fit the ground: many are tried, beside the thread that draws. */
export function waysThatFit(site: string, units: readonly Unit[], ground: Ground): Promise<OtherLie[]> {
  return longWork(`ways that fit ${site}`, (worker) => worker.otherLies([...units], ground))
}

/** How runs are to be broken so that blocks lie across the arrow; null where there are none. */
export function wayAcross(site: string, units: readonly Unit[], ground: Ground): Promise<Ground['across'] | null> {
  return longWork(`way across ${site}`, (worker) => worker.acrossGradient([...units], ground))
}

/** How good the comparisons of a layout are. */
export function useEfficiency({ trial }: Pick<OpenTrial, 'trial'>, layout: Layout | null) {
  return useQuery<PlanEfficiency | null>({
    queryKey: ['efficiency', trial.id, trial.version, layout?.siteKey],
    queryFn: () => {
      const site = trial.sites.find((each) => each.key === layout!.siteKey)
      return longWork(`efficiency ${trial.id} ${layout!.siteKey}`, (worker) =>
        worker.efficiency(layout!, site ? treatmentsDealt(trial.treatments, site) : trial.treatments),
      )
    },
    ...askedAgain,
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
