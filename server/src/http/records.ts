import { api } from '@canter/core/trial'
import { JsonText } from '../json-text.ts'
import type { Store } from '../store/store.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './http-problem.ts'
import type { Routes } from './route.ts'

/**
 * Pages are told of a change together and then ask the same: the reply is made once, and stands
 * until something is written.
 */
class Replies {
  readonly #known = new Map<string, Promise<string>>()

  of(trial: string, after: number, make: () => Promise<string>): Promise<string> {
    const key = `${trial} ${after}`
    const found = this.#known.get(key)
    if (found) return found
    const made = make()
    this.#known.set(key, made)
    // What failed is asked again by the next.
    made.catch(() => this.#known.delete(key))
    return made
  }

  clear(): void {
    this.#known.clear()
  }
}

export function recordRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  const replies = new Replies()
  store.queue.onCommit(() => replies.clear())

  routes.serve(api.records, async ({ params, query }) => {
    const text = await replies.of(params.trial, query.after, async () => {
      const { text: made, empty } = await store.records.afterAsText(params.trial, query.after)
      // Only a trial without records needs to be looked for.
      if (empty && !(await store.trials.exists(params.trial))) throw notFound('The trial')
      return made
    })
    return new JsonText(text)
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
