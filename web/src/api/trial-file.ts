import { TrialDraft, type LayoutRequest, type TreatmentChange, type TrialFile } from '@canter/core/trial'
import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'
import { localStore } from '../records/local-store.ts'
import { NoAnswer, request } from './client.ts'

/** A trial with layout and history; the copy kept on the device when there is no signal. */
export const trialQuery = (id: string) =>
  queryOptions({
    queryKey: ['trial', id],
    queryFn: async () => {
      try {
        const file = await request<TrialFile>('GET', `/api/trials/${id}`)
        await localStore.trials.put({ id, file })
        return file
      } catch (error) {
        const kept = error instanceof NoAnswer ? await localStore.trials.get(id) : undefined
        if (kept) return kept.file
        throw error
      }
    },
  })

export function draftOf(file: TrialFile): TrialDraft {
  return TrialDraft.parse(file.trial)
}

function useTrialChange<Input>(id: string, change: (file: TrialFile, input: Input) => Promise<TrialFile>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: async (input: Input) => {
      const file = client.getQueryData(trialQuery(id).queryKey)
      if (!file) throw new Error('The trial is not loaded yet.')
      return change(file, input)
    },
    // One change of a trial after another, so that each sees the version before it.
    scope: { id: `trial-${id}` },
    onSuccess: (file) => {
      client.setQueryData(trialQuery(id).queryKey, file)
      void localStore.trials.put({ id, file })
      void client.invalidateQueries({ queryKey: ['trials'] })
    },
  })
}

export interface Edit {
  readonly patch: Partial<TrialDraft>
  readonly reason?: string
  /** Save over a version someone else made meanwhile. */
  readonly version?: number
}

export function useEditTrial(id: string) {
  return useTrialChange<Edit>(id, (file, { patch, reason, version }) =>
    request('PUT', `/api/trials/${id}`, {
      version: version ?? file.trial.version,
      trial: { ...draftOf(file), ...patch },
      reason: reason ?? '',
    }),
  )
}

export function useRandomise(id: string) {
  return useTrialChange<Omit<LayoutRequest, 'version'>>(id, (file, body) =>
    request('POST', `/api/trials/${id}/layout`, { ...body, version: file.trial.version }),
  )
}

export function useTreatmentChange(id: string) {
  return useTrialChange<Omit<TreatmentChange, 'version'> & { unit: string }>(id, (file, { unit, ...body }) =>
    request('POST', `/api/trials/${id}/units/${unit}/treatment`, { ...body, version: file.trial.version }),
  )
}
