import { OpenApiGeneratorV31 } from '@asteasolutions/zod-to-openapi'
import type { Routes } from './route.ts'

/** The OpenAPI document, made from the same definitions that serve. */
export function documentRoute(routes: Routes): void {
  let made: object | null = null
  routes.router.get('/api/openapi.json', (context) => {
    made ??= new OpenApiGeneratorV31(routes.registry.definitions).generateDocument({
      openapi: '3.1.0',
      info: { title: 'Canter', version: '1', description: 'Replicated field and nursery trials, from question to decision.' },
    })
    context.body = made
  })
}
