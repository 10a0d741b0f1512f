import { analyseTrait, AnalysisError, type BothWays } from '@canter/core/analysis'
import { decide, type DecisionOutcome } from '@canter/core/decision'
import { plotTable } from '@canter/core/numbers'
import type { Economics, FieldRecord, Layout, Trial } from '@canter/core/trial'
import { expose } from 'comlink'

export type AnalysisAnswer = { ok: true; both: BothWays } | { ok: false; problem: string }

/** The heavy sums, away from the thread that draws. */
const api = {
  analyse(trial: Trial, layout: Layout, records: FieldRecord[], trait: string): AnalysisAnswer {
    try {
      return { ok: true, both: analyseTrait(trial, layout, plotTable(trial, layout, records), trait) }
    } catch (error) {
      if (error instanceof AnalysisError) return { ok: false, problem: error.message }
      throw error
    }
  },
  decide(trial: Trial, layout: Layout, records: FieldRecord[], economics: Economics): DecisionOutcome {
    return decide(trial, layout, plotTable(trial, layout, records), economics)
  },
}

export type AnalysisWorker = typeof api
expose(api)
