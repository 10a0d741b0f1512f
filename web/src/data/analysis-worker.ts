import {
  analyseOverDates,
  analyseTrait,
  AnalysisError,
  schoolsOfTrait,
  type Analysis,
  type AnalysisOptions,
  type BothWays,
  type OverDates,
  type Progress,
  type School,
} from '@canter/core/analysis'
import { decide, rankAtSites, type DecisionInput, type DecisionOutcome, type SiteRanking } from '@canter/core/decision'
import type { BookObservations } from '@canter/core/numbers'
import { planEfficiency, type PlanEfficiency } from '@canter/core/design'
import { acrossGradient, otherLies, type OtherLie } from '@canter/core/ground'
import type { Ground, Layout, Prices, Treatments, Trial, Unit } from '@canter/core/trial'
import { expose } from 'comlink'

export type AnalysisAnswer = { ok: true; both: BothWays; settled: Settled } | { ok: false; problem: string; settled: Settled }
export type DatesAnswer = { ok: true; dates: OverDates } | { ok: false; problem: string }

/** What of the readings is not settled yet. */
export type Settled = Pick<BookObservations, 'conflicts' | 'apart' | 'observers' | 'day'>

/** Steps come faster than anybody reads. */
const BETWEEN_REPORTS = 120

function seldom(report: (progress: Progress) => void): (progress: Progress) => void {
  let last = 0
  return (progress) => {
    const now = performance.now()
    if (now - last < BETWEEN_REPORTS) return
    last = now
    report(progress)
  }
}

/** The last answer, by what was asked: the other way is asked right after it. */
let answered: { readonly key: string; readonly analysis: Analysis } | null = null

/** The heavy sums, away from the thread that draws and from the one that keeps the book. */
const api = {
  analyse(
    trial: Trial,
    layouts: Layout[],
    observations: BookObservations,
    trait: string,
    options: Partial<AnalysisOptions>,
    key: string,
    report: (progress: Progress) => void,
  ): AnalysisAnswer {
    const { conflicts, apart, observers, day } = observations
    const settled = { conflicts, apart, observers, day }
    try {
      const both = analyseTrait(trial, layouts, observations, trait, options, seldom(report))
      answered = { key, analysis: both.without }
      return { ok: true, both, settled }
    } catch (error) {
      if (error instanceof AnalysisError) return { ok: false, problem: error.message, settled }
      throw error
    }
  },
  /** The same the other way, where practitioners differ. */
  schools(
    trial: Trial,
    layouts: Layout[],
    observations: BookObservations,
    trait: string,
    key: string,
    report: (progress: Progress) => void,
  ): School[] {
    try {
      const known = answered?.key === key ? { answer: answered.analysis } : {}
      return schoolsOfTrait(trial, layouts, observations, trait, { ...known, onProgress: seldom(report) })
    } catch (error) {
      if (error instanceof AnalysisError) return []
      throw error
    }
  },
  overDates(
    trial: Trial,
    layouts: Layout[],
    readings: { visit: string; observations: BookObservations }[],
    trait: string,
    report: (progress: Progress) => void,
  ): DatesAnswer {
    try {
      return { ok: true, dates: analyseOverDates(trial, layouts, readings, trait, {}, seldom(report)) }
    } catch (error) {
      if (error instanceof AnalysisError) return { ok: false, problem: error.message }
      throw error
    }
  },
  otherLies(units: Unit[], ground: Ground): OtherLie[] {
    return otherLies(units, ground)
  },
  acrossGradient(units: Unit[], ground: Ground): Ground['across'] | null {
    return acrossGradient(units, ground)?.across ?? null
  },
  efficiency(layout: Layout, treatments: Treatments): PlanEfficiency | null {
    return planEfficiency(layout, treatments)
  },
  decide(trial: Trial, layouts: Layout[], inputs: DecisionInput[], prices: Prices): DecisionOutcome {
    return decide(trial, layouts, inputs, prices)
  },
  rankings(trial: Trial, layouts: Layout[], inputs: DecisionInput[], prices: Prices): SiteRanking[] {
    return rankAtSites(trial, layouts, inputs, prices)
  },
}

export type AnalysisWorker = typeof api
expose(api)
