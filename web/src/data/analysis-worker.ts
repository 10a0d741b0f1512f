import { analyseTrait, AnalysisError, type AnalysisOptions, type BothWays } from '@canter/core/analysis'
import { decide, rankAtSites, type DecisionInput, type DecisionOutcome, type SiteRanking } from '@canter/core/decision'
import type { BookObservations } from '@canter/core/numbers'
import { planEfficiency, type PlanEfficiency } from '@canter/core/design'
import type { Layout, Prices, Treatments, Trial } from '@canter/core/trial'
import { expose } from 'comlink'

export type AnalysisAnswer = { ok: true; both: BothWays; settled: Settled } | { ok: false; problem: string; settled: Settled }

/** What of the readings is not settled yet. */
export type Settled = Pick<BookObservations, 'conflicts' | 'apart' | 'observers' | 'day'>

/** The heavy sums, away from the thread that draws and from the one that keeps the book. */
const api = {
  analyse(
    trial: Trial,
    layouts: Layout[],
    observations: BookObservations,
    trait: string,
    options: Partial<AnalysisOptions>,
  ): AnalysisAnswer {
    const { conflicts, apart, observers, day } = observations
    const settled = { conflicts, apart, observers, day }
    try {
      return { ok: true, both: analyseTrait(trial, layouts, observations, trait, options), settled }
    } catch (error) {
      if (error instanceof AnalysisError) return { ok: false, problem: error.message, settled }
      throw error
    }
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
