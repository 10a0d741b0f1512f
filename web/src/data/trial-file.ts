import {
  api,
  type ExtraUnit,
  type LayoutRequest,
  type LaterDraw,
  type SectionEdit,
  type Swap,
  type TreatmentChange,
  type Trial,
  type TrialFile,
} from '@canter/core/trial'
import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query'
import { call, NoAnswer } from './client.ts'
import { localStore } from './local-store.ts'
import { tellTrouble } from './troubles.ts'

/** A trial with layouts and history; the copy kept on the device when there is no signal. */
export const trialQuery = (id: string) =>
  queryOptions({
    queryKey: ['trial', id],
    queryFn: async () => {
      try {
        const file = await call(api.trial, { params: { trial: id } })
        await keepFile(file)
        return file
      } catch (error) {
        const kept = error instanceof NoAnswer ? await localStore.trials.get(id) : undefined
        if (kept) return kept.file
        throw error
      }
    },
  })

/** A copy for use without a signal. That it could not be kept does not keep the trial from being shown; it is said. */
async function keepFile(file: TrialFile): Promise<void> {
  try {
    await localStore.trials.put({ id: file.trial.id, file })
    tellTrouble('copy', null)
  } catch {
    tellTrouble('copy', 'This device could not keep a copy of the trial: its storage may be full. Without a signal it may not open here.')
  }
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
      void keepFile(file)
      void client.invalidateQueries({ queryKey: ['trials'] })
    },
  })
}

/** A patch of one section, at the version this device has seen unless another is named. */
export interface Edit extends Partial<Pick<SectionEdit, 'reason' | 'confirm' | 'version'>> {
  readonly section: string
  readonly patch: Patch | PatchOf
}

type Patch = Readonly<Record<string, unknown>>
/** From what stands when the edit's turn comes: a value that keeps others beside it must not be made from an older one. */
export type PatchOf = (trial: Trial) => Patch

export function patchOf({ patch }: Pick<Edit, 'patch'>, trial: Trial): Patch {
  return typeof patch === 'function' ? patch(trial) : patch
}

export function useEditSection(id: string) {
  return useTrialChange<Edit>(id, (file, { section, patch, version, reason, confirm }) =>
    call(api.editSection, {
      params: { trial: id, section },
      body: {
        version: version ?? file.trial.versions[section] ?? 1,
        patch: patchOf({ patch }, file.trial),
        reason: reason ?? '',
        confirm: confirm ?? false,
      },
    }),
  )
}

export function useUndoEvent(id: string) {
  return useTrialChange<{ event: string }>(id, (_, { event }) => call(api.undoEvent, { params: { trial: id, event }, body: {} }))
}

export function useRandomise(id: string) {
  return useTrialChange<Omit<LayoutRequest, 'version'> & { site: string }>(id, (file, { site, ...body }) =>
    call(api.layOut, { params: { trial: id, site }, body: { ...body, version: file.trial.version } }),
  )
}

/** Ends the search for a layout with the best plan it has. */
export async function endSearch(trial: string, site: string): Promise<void> {
  await call(api.endSearch, { params: { trial, site }, body: {} }).catch(() => undefined)
}

export function useLaterDraw(id: string) {
  return useTrialChange<Omit<LaterDraw, 'version'>>(id, (file, body) =>
    call(api.drawLater, { params: { trial: id }, body: { ...body, version: file.trial.version } }),
  )
}

export function useSwap(id: string) {
  return useTrialChange<Omit<Swap, 'version'> & { unit: string }>(id, (file, { unit, ...body }) =>
    call(api.swap, { params: { trial: id, unit }, body: { ...body, version: file.trial.version } }),
  )
}

export function useExtraUnit(id: string) {
  return useTrialChange<Omit<ExtraUnit, 'version'>>(id, (file, body) =>
    call(api.addUnit, { params: { trial: id }, body: { ...body, version: file.trial.version } }),
  )
}

export function useTreatmentChange(id: string) {
  return useTrialChange<Omit<TreatmentChange, 'version'> & { unit: string }>(id, (file, { unit, ...body }) =>
    call(api.changeTreatment, { params: { trial: id, unit }, body: { ...body, version: file.trial.version } }),
  )
}
