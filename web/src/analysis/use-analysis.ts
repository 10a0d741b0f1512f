import type { Economics, FieldRecord, Layout, Trial } from '@canter/core/trial'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { wrap, type Remote } from 'comlink'
import type { DecisionOutcome } from '@canter/core/decision'
import type { AnalysisAnswer, AnalysisWorker } from './worker.ts'

let remote: Remote<AnalysisWorker> | null = null

function worker(): Remote<AnalysisWorker> {
  remote ??= wrap<AnalysisWorker>(new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' }))
  return remote
}

/** Records are only ever added, so how many there are names their state within a version of the trial. */
function stateOf(trial: Trial, records: readonly FieldRecord[]): (string | number)[] {
  return [trial.id, trial.version, records.length, records.at(-1)?.id ?? '']
}

export function useAnalysis(trial: Trial, layout: Layout | null, records: readonly FieldRecord[], trait: string) {
  return useQuery<AnalysisAnswer>({
    queryKey: ['analysis', ...stateOf(trial, records), trait],
    queryFn: async () => worker().analyse(trial, layout!, [...records], trait),
    enabled: layout !== null,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    // The last answer stays while a value is typed, never under another trait's name.
    placeholderData: (previous, query) => (query?.queryKey.at(-1) === trait ? previous : undefined),
  })
}

export function useDecision(trial: Trial, layout: Layout | null, records: readonly FieldRecord[], economics: Economics | null) {
  return useQuery<DecisionOutcome>({
    queryKey: ['decision', ...stateOf(trial, records), JSON.stringify(economics)],
    queryFn: async () => worker().decide(trial, layout!, [...records], economics!),
    enabled: layout !== null && economics !== null,
    staleTime: Infinity,
    structuralSharing: false,
    networkMode: 'always',
    placeholderData: keepPreviousData,
  })
}
