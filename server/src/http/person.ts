import { api } from '@canter/core/trial'
import type { Store } from '../store/store.ts'
import type { Routes } from './route.ts'

export function personRoutes(routes: Routes, { people }: Store): void {
  routes.serve(api.person, async ({ person }) => person)
  routes.serve(api.personSettings, ({ person, body }) => people.update(person.id, body))
  routes.serve(api.people, async () => ({ people: await people.all() }))
  routes.serve(api.addPerson, async ({ body }) => ({ people: await people.add(body.name) }))
}
