import {
  applyPatch,
  changeTreatment,
  lockedChanges,
  lockInWords,
  refusalInWords,
  relayInWords,
  undoEvent,
  type Change,
  type Standing,
} from '@canter/core/document'
import { layOut, layoutProblems } from '@canter/core/ground'
import { api, type SectionEdit, type Trial, type TrialFile } from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import type { Store } from '../store/store.ts'
import type { Recorded } from '../store/trials.ts'
import type { Hands } from '../helpers/hands.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

export function trialRoutes(routes: Routes, store: Store, feed: ChangeFeed, hands: Hands): void {
  const { trials } = store
  const told = async (change: Promise<TrialFile | null>): Promise<TrialFile> => {
    const file = await change
    if (!file) throw notFound('The trial')
    feed.tell({ kind: 'trial', trial: file.trial.id })
    return file
  }

  routes.serve(api.trials, async ({ query }) => {
    const { summaries, fresh } = await hands.reading.ask('summaries', query.deleted === 'yes', await trials.keptSummaries())
    // Kept for the next start; nobody waits for it, and without it the same is worked out again.
    if (fresh.length > 0) void trials.keepSummaries(fresh).catch(() => undefined)
    return { trials: [...summaries] }
  })

  routes.serve(api.createTrial, ({ body, person }) => told(trials.create(body, person.id)))

  routes.serve(api.trial, async ({ params }) => {
    const file = await trials.file(params.trial)
    if (!file) throw notFound('The trial')
    return file
  })

  routes.serve(api.editSection, ({ params, body, person }) =>
    told(trials.change(params.trial, person.id, (file, standing) => edit(file, standing, params.section, body))),
  )

  routes.serve(api.undoEvent, ({ params, body, person }) =>
    told(
      trials.change(params.trial, person.id, (file, standing) => {
        const event = file.events.find((each) => each.id === params.event)
        if (!event) throw notFound('The change')
        if (file.events.some((each) => each.undoes === event.id))
          throw new HttpProblem(409, 'Not turned back', 'This was turned back already.')
        const change = undoEvent(file, event)
        refuseLocked(file.trial, change, standing)
        const relaid = change.layouts.filter((layout) => !file.layouts.includes(layout)).map((layout) => layout.siteKey)
        const fixed =
          event.kind === 'randomised'
            ? file.layouts.find(
                (layout) =>
                  standing.onGround.has(layout.siteKey) &&
                  (relaid.includes(layout.siteKey) || !change.layouts.some((each) => each.siteKey === layout.siteKey)),
              )
            : undefined
        if (fixed) throw locked('The plots are planted or measured: their layout stays as it is.')
        return { change, kind: 'undone', reason: body.reason, undoes: event.id }
      }),
    ),
  )

  const aside =
    (deletedAt: string | null, kind: 'deleted' | 'restored', what: string) =>
    (file: TrialFile, version: number, reason: string): Recorded => {
      current(file, file.trial.version, version)
      return {
        change: {
          trial: { ...file.trial, version: file.trial.version + 1, deletedAt },
          layouts: file.layouts,
          section: null,
          what,
          before: { deletedAt: file.trial.deletedAt },
          after: { deletedAt },
        },
        kind,
        reason,
      }
    }

  routes.serve(api.deleteTrial, ({ params, body, person }) =>
    told(
      trials.change(params.trial, person.id, (file) =>
        aside(new Date().toISOString(), 'deleted', 'Trial put aside')(file, body.version, body.reason),
      ),
    ),
  )

  routes.serve(api.restoreTrial, ({ params, body, person }) =>
    told(trials.change(params.trial, person.id, (file) => aside(null, 'restored', 'Trial brought back')(file, body.version, body.reason))),
  )

  routes.serve(api.layOut, ({ params, body, person }) =>
    told(
      trials.change(params.trial, person.id, (file, standing) => {
        const { trial, layouts } = file
        const site = trial.sites.find((each) => each.key === params.site)
        if (!site) throw notFound('The site')
        current(file, trial.version, body.version)
        if (standing.onGround.has(site.key))
          throw locked('The plots are planted or measured: they cannot be randomised again. Correct single plots instead, with a reason.')
        const problems = layoutProblems(trial, site.key)
        if (problems.length > 0) throw new HttpProblem(422, 'Cannot be laid out', problems.join(' '))
        const before = layouts.find((layout) => layout.siteKey === site.key) ?? null
        const laid = layOut(trial, site.key, body.seed, uuidv7, before)
        return {
          change: {
            trial: { ...trial, version: trial.version + 1 },
            layouts: trial.sites.flatMap(({ key }) => (key === site.key ? [laid] : layouts.filter((layout) => layout.siteKey === key))),
            section: `site:${site.key}`,
            what: `${site.name} randomised from seed ${body.seed}`,
            before: { layouts: { [site.key]: before } },
            after: { layouts: { [site.key]: { ...laid, units: [] } } },
          },
          kind: 'randomised',
          reason: body.reason,
        }
      }),
    ),
  )

  routes.serve(api.changeTreatment, ({ params, body, person }) =>
    told(
      trials.change(params.trial, person.id, (file) => {
        current(file, file.trial.version, body.version)
        if (!file.layouts.some((layout) => layout.units.some((unit) => unit.id === params.unit))) throw notFound('The plot')
        return { change: changeTreatment(file, params.unit, body), kind: 'treatment changed', reason: body.reason }
      }),
    ),
  )
}

function locked(detail: string): HttpProblem {
  return new HttpProblem(409, 'Locked', detail)
}

/** A stale write: what stands now is shown beside what was sent. */
function current(file: TrialFile, stands: number, seen: number): void {
  if (stands !== seen)
    throw new HttpProblem(409, 'Changed meanwhile', 'This was changed elsewhere since you opened it. Compare both, then save again.', {
      current: file,
    })
}

/** An edit of one section, held against what has been done already. */
function edit(file: TrialFile, standing: Standing, section: string, { version, patch, reason, confirm }: SectionEdit): Recorded {
  const change = applyPatch(file, section, patch)
  current(file, file.trial.versions[section] ?? 1, version)
  refuseLocked(file.trial, change, standing)
  const needed = lockedChanges(file.trial, change.trial, standing).filter((each) => each.how === 'reason')
  if (needed.length > 0 && reason === '')
    throw new HttpProblem(422, 'Reason needed', `Give a reason, which stays on record: you change ${needed.map(lockInWords).join(', ')}.`, {
      errors: [{ path: 'reason', message: 'A reason is needed.' }],
    })
  const dropped = Object.keys(change.before.layouts ?? {})
  if (dropped.length > 0 && !confirm) {
    const names = dropped.map((key) => file.trial.sites.find((site) => site.key === key)?.name ?? key)
    const text = relayInWords(names)
    throw new HttpProblem(422, 'To be confirmed', text, { errors: [{ path: 'confirm', message: text }] })
  }
  return { change, kind: 'edited', reason }
}

function refuseLocked(before: Trial, { trial }: Change, standing: Standing): void {
  const found = lockedChanges(before, trial, standing)
  if (found.some((each) => each.how === 'refused')) throw locked(refusalInWords(found))
}
