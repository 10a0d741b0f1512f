import { api, ShelfItem } from '@canter/core/trial'
import type { Store } from '../store/store.ts'
import { HttpProblem, invalid, notFound } from './http-problem.ts'
import type { Routes } from './route.ts'

export function shelfRoutes(routes: Routes, { shelf }: Store): void {
  routes.serve(api.shelf, async () => ({ items: await shelf.all() }))
  routes.serve(api.addToShelf, ({ body }) => shelf.put(body))
  routes.serve(api.changeShelf, async ({ params, body }) => {
    const changed = await shelf.change(params.item, (stands, others) => {
      const parsed = ShelfItem.safeParse({ ...stands, name: body.name ?? stands.name, body: { ...stands.body, ...body.body } })
      if (!parsed.success) throw invalid(parsed.error, 'What is changed')
      const { name } = parsed.data
      if (others.some((each) => each.name === name))
        throw new HttpProblem(409, 'Named already', `“${name}” is on the shelf already: give this another name, or change that one.`)
      return parsed.data
    })
    if (!changed) throw notFound('That thing on the shelf')
    return changed
  })
  routes.serve(api.takeOffShelf, async ({ params }) => {
    const taken = await shelf.takeOff(params.item)
    if (!taken) throw notFound('That thing on the shelf')
    return taken
  })
}
