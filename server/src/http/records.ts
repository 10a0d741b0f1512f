import { api } from '@canter/core/trial'
import type { Store } from '../store/store.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

export function recordRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  routes.serve(api.records, async ({ params, query }) => {
    if (!(await store.trials.trial(params.trial))) throw notFound('The trial')
    return store.records.after(params.trial, query.after)
  })

  routes.serve(api.addRecords, async ({ params, body, person }) => {
    const outcomes = await store.records.add(params.trial, person.id, body.records, store.trials.frame)
    if (!outcomes) throw notFound('The trial')
    if (outcomes.some((each) => each.status === 'saved')) feed.tell({ kind: 'records', trial: params.trial })
    // A new client reads the outcome of each record; the status tells a simple one that not all went in.
    const conflict = outcomes.find((each) => each.status === 'conflict')
    if (conflict) throw new HttpProblem(409, 'Id already used', conflict.detail, { outcomes })
    const refused = outcomes.find((each) => each.status === 'refused')
    if (refused) throw new HttpProblem(422, 'Not taken', refused.detail, { outcomes })
    return { outcomes }
  })
}
