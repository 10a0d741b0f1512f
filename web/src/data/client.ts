import { Problem, type Route } from '@canter/core/trial'
import type { z } from 'zod'

/** A problem reply of the server, kept whole so that a form can say where it is. */
export class ApiProblem extends Error {
  readonly problem: Problem
  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
}

/** The server did not answer: no signal, or it is not running. */
export class NoAnswer extends Error {
  constructor() {
    super('The server does not answer. What you enter is kept on this device and sent when it does.')
  }
}

/** What a route is asked: just what its definition has. */
type Asked<Params, Query, Body> = (unknown extends Params ? object : { params: Params }) &
  (unknown extends Query ? object : { query: Query }) &
  (unknown extends Body ? { bytes?: Blob } : { body: Body })

/** Calls a route by its own definition: the path, and the types of what goes out and comes back. */
export async function call<Params extends z.ZodType, Query extends z.ZodType, Body extends z.ZodType, Reply extends z.ZodType>(
  route: Route<Params, Query, Body, Reply>,
  asked: Asked<z.input<Params>, z.input<Query>, z.input<Body>>,
): Promise<z.output<Reply>> {
  const { params, query, body, bytes } = asked as { params?: object; query?: object; body?: unknown; bytes?: Blob }
  const init: RequestInit = { method: route.method.toUpperCase() }
  if (bytes) init.body = bytes
  else if (body !== undefined) {
    init.body = JSON.stringify(body)
    init.headers = { 'Content-Type': 'application/json' }
  }
  let response: Response
  try {
    response = await fetch(pathOf(route.path, params, query), init)
  } catch {
    throw new NoAnswer()
  }
  if (response.ok) return (await response.json()) as z.output<Reply>
  throw await problemOf(response)
}

/** The address of a route. */
export function pathOf(path: string, params: object = {}, query: object = {}): string {
  const filled = path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(String((params as Record<string, unknown>)[name])))
  const search = new URLSearchParams(Object.entries(query).map(([key, value]): [string, string] => [key, String(value)])).toString()
  return search ? `${filled}?${search}` : filled
}

async function problemOf(response: Response): Promise<Error> {
  const parsed = Problem.safeParse(await response.json().catch(() => null))
  if (parsed.success) return new ApiProblem(parsed.data)
  // A proxy or a stopped server answers without a problem document.
  return response.status >= 500 ? new NoAnswer() : new Error(`The server answered ${response.status}.`)
}
