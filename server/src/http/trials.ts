import { layOut, layoutProblems, placeUnits } from '@canter/core/ground'
import type { Trial } from '@canter/core/trial'
import {
  currentRecords,
  id,
  LayoutRequest,
  lockedChanges,
  progressOf,
  TreatmentChange,
  TrialDraft,
  TrialEdit,
  TrialFile,
  TrialSummary,
  VersionedRequest,
  type FieldRecord,
  type Layout,
} from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import { z } from 'zod'
import type { Store } from '../store/store.ts'
import { StaleVersion } from '../store/trials.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

const OneTrial = z.object({ trial: id })

export function trialRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  const told = async (change: Promise<TrialFile | null>): Promise<TrialFile> => {
    const file = await change.catch((error: unknown) => {
      if (!(error instanceof StaleVersion)) throw error
      throw new HttpProblem(
        409,
        'Changed meanwhile',
        'The trial was changed elsewhere since you opened it. Compare both, then save again.',
        { current: error.current },
      )
    })
    if (!file) throw notFound('The trial')
    feed.tell({ kind: 'trial', trial: file.trial.id })
    return file
  }

  routes.add({
    method: 'get',
    path: '/api/trials',
    summary: 'All trials and where each is in its season',
    query: z.object({ deleted: z.enum(['yes', 'no']).default('no') }),
    reply: z.object({ trials: z.array(TrialSummary) }),
    handle: async ({ query }) => ({
      trials: await Promise.all((await store.trials.list(query.deleted === 'yes')).map((trial) => summaryOf(store, trial))),
    }),
  })

  routes.add({
    method: 'post',
    path: '/api/trials',
    summary: 'Begin a trial',
    body: TrialDraft,
    reply: TrialFile,
    status: 201,
    handle: ({ body }) => told(store.trials.create(body)),
  })

  routes.add({
    method: 'get',
    path: '/api/trials/:trial',
    summary: 'One trial with its layout and history',
    params: OneTrial,
    reply: TrialFile,
    handle: async ({ params }) => {
      const file = await store.trials.file(params.trial)
      if (!file) throw notFound('The trial')
      return file
    },
  })

  routes.add({
    method: 'put',
    path: '/api/trials/:trial',
    summary: 'Change the facts of a trial at the version you saw',
    params: OneTrial,
    body: TrialEdit,
    reply: TrialFile,
    handle: async ({ params, body }) => {
      const records = await store.records.all(params.trial)
      return told(store.trials.change(params.trial, body.version, (file) => edit(file, body, records)))
    },
  })

  routes.add({
    method: 'delete',
    path: '/api/trials/:trial',
    summary: 'Put a trial aside; it can be brought back',
    params: OneTrial,
    body: VersionedRequest,
    reply: TrialFile,
    handle: ({ params, body }) =>
      told(
        store.trials.change(params.trial, body.version, () => ({
          deletedAt: new Date().toISOString(),
          event: { kind: 'deleted', what: 'Trial put aside', reason: body.reason, before: null, after: null },
        })),
      ),
  })

  routes.add({
    method: 'post',
    path: '/api/trials/:trial/restore',
    summary: 'Bring back a trial that was put aside',
    params: OneTrial,
    body: VersionedRequest,
    reply: TrialFile,
    handle: ({ params, body }) =>
      told(
        store.trials.change(params.trial, body.version, () => ({
          deletedAt: null,
          event: { kind: 'restored', what: 'Trial brought back', reason: body.reason, before: null, after: null },
        })),
      ),
  })

  routes.add({
    method: 'post',
    path: '/api/trials/:trial/layout',
    summary: 'Randomise the trial from a seed and lay it on its ground',
    params: OneTrial,
    body: LayoutRequest,
    reply: TrialFile,
    handle: async ({ params, body }) => {
      const records = await store.records.all(params.trial)
      return told(
        store.trials.change(params.trial, body.version, ({ trial, layout }) => {
          if (standsOnGround(records)) {
            throw new HttpProblem(
              409,
              'Locked',
              'The plots are planted or measured: they cannot be randomised again. Correct single plots instead, with a reason.',
            )
          }
          const problems = layoutProblems(trial)
          if (problems.length > 0) throw new HttpProblem(422, 'Cannot be laid out', problems.join(' '))
          return {
            layout: layOut(trial, body.seed, uuidv7),
            event: {
              kind: 'randomised',
              what: `Randomised from seed ${body.seed}`,
              reason: body.reason,
              before: layout ? { seed: layout.structure.seed } : null,
              after: { seed: body.seed },
            },
          }
        }),
      )
    },
  })

  routes.add({
    method: 'post',
    path: '/api/trials/:trial/units/:unit/treatment',
    summary: 'Record that a plot carries another treatment than was written',
    params: z.object({ trial: id, unit: id }),
    body: TreatmentChange,
    reply: TrialFile,
    handle: ({ params, body }) =>
      told(
        store.trials.change(params.trial, body.version, ({ trial, layout }) => {
          const unit = layout?.units.find((each) => each.id === params.unit)
          const factor = trial.factors[0]!
          const level = factor.levels.find((each) => each.key === body.level)
          if (!layout || !unit || !(factor.key in unit.received)) throw notFound('The plot')
          if (!level) throw new HttpProblem(422, 'Not valid', `“${body.level}” is not a treatment of this trial.`)
          const back = unit.planned[factor.key] === level.key
          const received = { ...unit.received, [factor.key]: level.key }
          const after = { ...unit, received, change: back ? ('none' as const) : body.change }
          return {
            layout: { ...layout, units: layout.units.map((each) => (each.id === unit.id ? after : each)) },
            event: {
              kind: 'treatment changed',
              what: `Plot ${unit.code}: ${codeOf(trial, unit.received[factor.key])} became ${level.code} (${body.change})`,
              reason: body.reason,
              before: { received: unit.received, change: unit.change },
              after: { received, change: after.change },
            },
          }
        }),
      ),
  })
}

function codeOf(trial: Trial, level: string | undefined): string {
  return trial.factors[0]!.levels.find((each) => each.key === level)?.code ?? '?'
}

function standsOnGround(records: readonly FieldRecord[]): boolean {
  const current = currentRecords(records)
  return current.operations.some((operation) => operation.kind === 'planted') || current.readings.size + current.conflicts.size > 0
}

/** An edit of the facts, held against what the ground already holds. */
function edit({ trial: before, layout }: TrialFile, { trial: after, reason }: TrialEdit, records: readonly FieldRecord[]) {
  const observed = new Set(records.flatMap((record) => (record.type === 'reading' ? [record.trait] : [])))
  const event = { kind: 'edited' as const, what: 'Facts changed', reason, before: changed(before, after), after: changed(after, before) }
  const locked = lockedChanges(before, after, observed)
  const fixed = standsOnGround(records)
  const refused = locked.filter((each) => each.how === 'refused')
  const lostTrait = refused.filter((each) => each.what.startsWith('the trait'))
  if ((fixed && refused.length > 0) || lostTrait.length > 0) {
    throw new HttpProblem(
      409,
      'Locked',
      `This is fixed since the trial stands on the ground: ${(fixed ? refused : lostTrait).map((each) => each.what).join(', ')}.`,
    )
  }
  if (fixed && locked.length > 0 && reason === '') {
    throw new HttpProblem(
      422,
      'Reason needed',
      `Give a reason, which stays on record: you change ${locked.map((each) => each.what).join(', ')}.`,
      {
        errors: [{ path: 'reason', message: 'A reason is needed.' }],
      },
    )
  }
  return { trial: after, ...layoutAfter(layout, before, after, locked), event }
}

/** Plots follow the ground they lie on; a layout that no longer has the treatments is dropped. */
function layoutAfter(
  layout: Layout | null,
  before: TrialDraft,
  after: TrialDraft,
  locked: ReturnType<typeof lockedChanges>,
): { layout?: Layout | null } {
  if (!layout) return {}
  if (locked.some((each) => each.how === 'refused' && !each.what.startsWith('the trait'))) return { layout: null }
  const site = after.sites[0]!
  if (JSON.stringify(before.sites[0]!.ground) === JSON.stringify(site.ground) && site.key === layout.siteKey) return {}
  return { layout: { ...layout, siteKey: site.key, units: placeUnits(layout.units, site.ground) } }
}

function changed(of: TrialDraft, other: TrialDraft): Record<string, unknown> {
  const keys = Object.keys(TrialDraft.shape) as (keyof TrialDraft)[]
  return Object.fromEntries(keys.filter((key) => JSON.stringify(of[key]) !== JSON.stringify(other[key])).map((key) => [key, of[key]]))
}

async function summaryOf(store: Store, trial: Trial): Promise<TrialSummary> {
  const [layout, records] = await Promise.all([store.trials.layout(trial.id), store.records.all(trial.id)])
  return {
    id: trial.id,
    version: trial.version,
    title: trial.title,
    crop: trial.crop,
    season: trial.season,
    deletedAt: trial.deletedAt,
    replicates: trial.replicates,
    site: trial.sites[0]!.name,
    treatments: trial.factors[0]!.levels.length,
    plots: layout?.units.filter((unit) => unit.walk !== null).length ?? 0,
    progress: progressOf(trial, layout, records),
  }
}
