import { extendZodWithOpenApi, OpenAPIRegistry } from '@asteasolutions/zod-to-openapi'
import { Problem, type Person, type Route } from '@canter/core/trial'
import Router from '@koa/router'
import type { Context } from 'koa'
import { z } from 'zod'
import { JsonText } from '../json-text.ts'
import { invalid } from './http-problem.ts'

extendZodWithOpenApi(z)

/** What a handler is given: everything checked, and who asks. */
interface Asked<Params, Query, Body> {
  readonly params: Params
  readonly query: Query
  readonly body: Body
  /** From the session, never from what was sent. */
  readonly person: Person
  readonly context: Context
}

/** Serves the routes of the API by their definitions, each checked and documented. */
export class Routes {
  readonly router = new Router({ sensitive: true, strict: true })
  readonly registry = new OpenAPIRegistry()
  readonly #whoAsks: (context: Context) => Promise<Person>
  readonly #checked: boolean

  constructor(whoAsks: (context: Context) => Promise<Person>, checked: boolean) {
    this.#whoAsks = whoAsks
    this.#checked = checked
  }

  serve<Params extends z.ZodType, Query extends z.ZodType, Body extends z.ZodType, Reply extends z.ZodType>(
    route: Route<Params, Query, Body, Reply>,
    handle: (asked: Asked<z.infer<Params>, z.infer<Query>, z.infer<Body>>) => Promise<z.infer<Reply> | JsonText | void>,
  ): void {
    this.#document(route)
    this.router[route.method](route.path, async (context) => {
      const read = <T extends z.ZodType>(schema: T | undefined, value: unknown, what: string): z.infer<T> => {
        if (!schema) return undefined as z.infer<T>
        const parsed = schema.safeParse(value)
        if (!parsed.success) throw invalid(parsed.error, what)
        return parsed.data
      }
      const reply = await handle({
        params: read(route.params, context.params, 'The address'),
        query: read(route.query, context.query, 'The query'),
        body: read(route.body, (context.request as { body?: unknown }).body, 'What was sent'),
        person: await this.#whoAsks(context),
        context,
      })
      // A handler that has written its own reply returns nothing.
      if (!route.reply || reply === undefined) return
      context.status = route.status ?? 200
      // A reply that does not fit its own schema is our defect, and fails loudly where it is tested; thousands of plots are not gone through again for each reader.
      if (reply instanceof JsonText) {
        if (this.#checked) route.reply.parse(JSON.parse(reply.text))
        context.type = 'application/json'
        context.body = reply.text
      } else context.body = this.#checked ? route.reply.parse(reply) : reply
    })
  }

  #document(route: Route): void {
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
