import { designOf } from '@canter/core/design'
import { api } from '@canter/core/trial'
import type { Hands } from '../helpers/hands.ts'
import type { Store } from '../store/store.ts'
import { perform, type Act } from './acts.ts'
import type { ChangeFeed } from './changes.ts'
import { notFound } from './http-problem.ts'
import type { Routes } from './route.ts'
import { trialReply } from './trial-reply.ts'

export function trialRoutes(routes: Routes, store: Store, feed: ChangeFeed, hands: Hands): void {
  const { trials } = store

  routes.serve(api.trials, async ({ query }) => {
    const { summaries, fresh } = await hands.reading.ask('summaries', query.deleted === 'yes', await trials.keptSummaries())
    // Kept for the next start; nobody waits for it, and without it the same is worked out again.
    if (fresh.length > 0) void trials.keepSummaries(fresh).catch(() => undefined)
    return { trials: [...summaries] }
  })

  routes.serve(api.createTrial, async ({ body, person }) => {
    const file = await trials.create(body, person.id)
    feed.tell({ kind: 'trial', trial: file.trial.id })
    return file
  })

  routes.serve(api.trial, async ({ params }) => {
    const file = await trialReply(store, hands, params.trial)
    if (!file) throw notFound('The trial')
    return file
  })

  /** Small trials are changed here; what takes long on large ones is worked out beside. */
  const change = async (trial: string, person: string, act: Act, searched = false) => {
    const changed = await trials.change(
      trial,
      person,
      (file, standing) => perform(act, file, standing),
      () => (searched ? hands.searching : hands.changing).ask('change', trial, person, act),
      searched,
    )
    if (!changed) throw notFound('The trial')
    feed.tell({ kind: 'trial', trial })
    return changed
  }

  routes.serve(api.editSection, ({ params, body, person }) =>
    change(params.trial, person.id, { name: 'edit', given: { section: params.section, edit: body } }),
  )

  routes.serve(api.undoEvent, ({ params, body, person }) =>
    change(params.trial, person.id, { name: 'undo', given: { event: params.event, reason: body.reason } }),
  )

  routes.serve(api.deleteTrial, ({ params, body, person }) => change(params.trial, person.id, { name: 'putAside', given: body }))

  routes.serve(api.restoreTrial, ({ params, body, person }) => change(params.trial, person.id, { name: 'bringBack', given: body }))

  routes.serve(api.layOut, async ({ params, body, person }) => {
    const site = (await trials.trial(params.trial))?.sites.find((each) => each.key === params.site)
    const searched = site !== undefined && designOf(site.design.key)?.searched === true
    return change(params.trial, person.id, { name: 'layOut', given: { site: params.site, request: body } }, searched)
  })

  routes.serve(api.changeTreatment, ({ params, body, person }) =>
    change(params.trial, person.id, { name: 'changeTreatment', given: { unit: params.unit, change: body } }),
  )
}
