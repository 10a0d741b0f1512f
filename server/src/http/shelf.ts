import { api } from '@canter/core/trial'
import type { Store } from '../store/store.ts'
import type { Routes } from './route.ts'

export function shelfRoutes(routes: Routes, { shelf }: Store): void {
  routes.serve(api.shelf, async () => ({ items: await shelf.all() }))
  routes.serve(api.addToShelf, ({ body }) => shelf.put(body))
}
