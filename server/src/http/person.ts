import { Person, PersonSettings } from '@canter/core/trial'
import type { Store } from '../store/store.ts'
import type { Routes } from './route.ts'

export function personRoutes(routes: Routes, store: Store): void {
  routes.add({ method: 'get', path: '/api/person', summary: 'The person at this desk', reply: Person, handle: () => store.people.local() })
  routes.add({
    method: 'put',
    path: '/api/person',
    summary: 'Change name, units, shortcuts or theme',
    body: PersonSettings,
    reply: Person,
    handle: ({ body }) => store.people.update(body),
  })
}
