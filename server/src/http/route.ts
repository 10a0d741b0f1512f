import { extendZodWithOpenApi, OpenAPIRegistry } from '@asteasolutions/zod-to-openapi'
import { Problem } from '@canter/core/trial'
import Router from '@koa/router'
import type { Context } from 'koa'
import { z } from 'zod'
import { invalid } from './problem.ts'

extendZodWithOpenApi(z)

interface RouteDefinition<Params extends z.ZodType, Query extends z.ZodType, Body extends z.ZodType, Reply extends z.ZodType> {
  readonly method: 'get' | 'post' | 'put' | 'delete'
  /** With `:name` parameters. */
  readonly path: string
  readonly summary: string
  readonly params?: Params
  readonly query?: Query
  readonly body?: Body
  /** Schema of a JSON reply; none for files and streams, which the handler sends itself. */
  readonly reply?: Reply
  readonly status?: number
  readonly handle: (request: {
    params: z.infer<Params>
    query: z.infer<Query>
    body: z.infer<Body>
    context: Context
  }) => Promise<z.infer<Reply> | void>
}

/** A set of routes that is served and documented from one definition each. */
export class Routes {
  readonly router = new Router()
  readonly registry = new OpenAPIRegistry()

  add<
    Params extends z.ZodType = z.ZodUnknown,
    Query extends z.ZodType = z.ZodUnknown,
    Body extends z.ZodType = z.ZodUnknown,
    Reply extends z.ZodType = z.ZodUnknown,
  >(route: RouteDefinition<Params, Query, Body, Reply>): void {
    this.#document(route)
    this.router[route.method](route.path, async (context) => {
      const read = <T extends z.ZodType>(schema: T | undefined, value: unknown, what: string): z.infer<T> => {
        if (!schema) return undefined as z.infer<T>
        const parsed = schema.safeParse(value)
        if (!parsed.success) throw invalid(parsed.error, what)
        return parsed.data
      }
      const reply = await route.handle({
        params: read(route.params, context.params, 'The address'),
        query: read(route.query, context.query, 'The query'),
        body: read(route.body, (context.request as { body?: unknown }).body, 'What was sent'),
        context,
      })
      if (!route.reply) return
      context.status = route.status ?? 200
      // A reply that does not fit its own schema is our defect, and fails loudly.
      context.body = route.reply.parse(reply)
    })
  }

  #document(route: RouteDefinition<z.ZodType, z.ZodType, z.ZodType, z.ZodType>): void {
    const status = String(route.status ?? 200)
    this.registry.registerPath({
      method: route.method,
      path: route.path.replace(/:(\w+)/g, '{$1}'),
      summary: route.summary,
      request: {
        ...(route.params ? { params: route.params as z.ZodObject } : {}),
        ...(route.query ? { query: route.query as z.ZodObject } : {}),
        ...(route.body ? { body: { content: { 'application/json': { schema: route.body } } } } : {}),
      },
      responses: {
        [status]: route.reply
          ? { description: route.summary, content: { 'application/json': { schema: route.reply } } }
          : { description: route.summary },
        default: { description: 'What is wrong and what to do', content: { 'application/problem+json': { schema: Problem } } },
      },
    })
  }
}
