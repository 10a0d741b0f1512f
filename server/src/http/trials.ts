import { designOf } from '@canter/core/design'
import { api } from '@canter/core/trial'
import type { Watched } from '../long-work/work-thread.ts'
import type { WorkThreads } from '../long-work/work-threads.ts'
import type { Store } from '../store/store.ts'
import { perform, type Act } from './acts.ts'
import type { ChangeFeed } from './changes.ts'
import { notFound } from './http-problem.ts'
import type { Routes } from './route.ts'
import { trialReply } from './trial-reply.ts'

export function trialRoutes(routes: Routes, store: Store, feed: ChangeFeed, threads: WorkThreads): void {
  const { trials } = store

  routes.serve(api.trials, async ({ query }) => {
    const { summaries, fresh } = await threads.reading.ask('summaries', query.deleted === 'yes', await trials.keptSummaries())
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
    const file = await trialReply(store, threads, params.trial)
    if (!file) throw notFound('The trial')
    return file
  })

  /** Searches that go on, by trial and site; a one ends them with what they have. */
  const searches = new Map<string, Int32Array>()

  /** Small trials are changed here; what takes long on large ones is worked out beside. */
  const change = async (trial: string, person: string, act: Act, watch: Watched | null = null) => {
    const changed = await trials.change(
      trial,
      person,
      (file, standing) => perform(act, file, standing),
      () =>
        watch ? threads.searching.askWatched('change', watch, trial, person, act) : threads.changing.ask('change', trial, person, act),
      watch !== null,
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
    const act: Act = { name: 'layOut', given: { site: params.site, request: body } }
    if (!searched) return change(params.trial, person.id, act)
    const at = `${params.trial} ${params.site}`
    const stop = new Int32Array(new SharedArrayBuffer(4))
    searches.set(at, stop)
    const progress = (share: number, efficiency: number): void =>
      feed.tell({ kind: 'search', trial: params.trial, site: params.site, share, efficiency })
    try {
      return await change(params.trial, person.id, act, { progress, stop })
    } finally {
      if (searches.get(at) === stop) searches.delete(at)
    }
  })

  routes.serve(api.endSearch, async ({ params }) => {
    const stop = searches.get(`${params.trial} ${params.site}`)
    if (stop) Atomics.store(stop, 0, 1)
    return { ended: stop !== undefined }
  })

  routes.serve(api.drawLater, ({ params, body, person }) => change(params.trial, person.id, { name: 'drawLater', given: body }))

  routes.serve(api.swap, ({ params, body, person }) =>
    change(params.trial, person.id, { name: 'swap', given: { unit: params.unit, swap: body } }),
  )

  routes.serve(api.addUnit, ({ params, body, person }) => change(params.trial, person.id, { name: 'addUnit', given: body }))

  routes.serve(api.changeTreatment, ({ params, body, person }) =>
    change(params.trial, person.id, { name: 'changeTreatment', given: { unit: params.unit, change: body } }),
  )
}
