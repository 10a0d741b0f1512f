import { id, RecordBatch, RecordOutcome, RecordsReply } from '@canter/core/trial'
import { z } from 'zod'
import type { Store } from '../store/store.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

const OneTrial = z.object({ trial: id })

export function recordRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  routes.add({
    method: 'get',
    path: '/api/trials/:trial/records',
    summary: 'Records after a cursor, in the order they came',
    params: OneTrial,
    query: z.object({ after: z.coerce.number({ error: 'The cursor is a whole number.' }).int().nonnegative().default(0) }),
    reply: RecordsReply,
    handle: async ({ params, query }) => {
      if (!(await store.trials.frame(params.trial))) throw notFound('The trial')
      return store.records.after(params.trial, query.after)
    },
  })

  routes.add({
    method: 'post',
    path: '/api/trials/:trial/records',
    summary: 'Add records; sending one again does no harm',
    params: OneTrial,
    body: RecordBatch,
    reply: z.object({ outcomes: z.array(RecordOutcome) }),
    handle: async ({ params, body }) => {
      const frame = await store.trials.frame(params.trial)
      if (!frame) throw notFound('The trial')
      const outcomes = await store.records.add(params.trial, body.records, frame)
      if (outcomes.some((each) => each.status === 'saved')) feed.tell({ kind: 'records', trial: params.trial })
      // A new client reads the outcome of each record; the status tells a simple one that not all went in.
      const conflict = outcomes.find((each) => each.status === 'conflict')
      if (conflict) throw new HttpProblem(409, 'Id already used', conflict.detail, { outcomes })
      const refused = outcomes.find((each) => each.status === 'refused')
      if (refused) throw new HttpProblem(422, 'Not taken', refused.detail, { outcomes })
      return { outcomes }
    },
  })
}
