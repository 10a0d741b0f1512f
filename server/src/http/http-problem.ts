import type { Problem } from '@canter/core/trial'
import type { z } from 'zod'

/** Thrown anywhere under a route to reply with an RFC 9457 problem. */
export class HttpProblem extends Error {
  readonly body: Problem
  constructor(status: number, title: string, detail: string, more: Partial<Problem> = {}) {
    super(detail)
    this.body = { type: 'about:blank', title, status, detail, ...more }
  }
}

export function invalid(error: z.ZodError, what: string): HttpProblem {
  const errors = error.issues.slice(0, 20).map((issue) => ({ path: issue.path.join('.'), message: issue.message }))
  const first = errors[0]
  const where = first?.path ? ` at ${first.path}` : ''
  return new HttpProblem(422, 'Not valid', `${what} is not valid${where}: ${first?.message ?? 'check it against the API document.'}`, {
    errors,
  })
}

export function notFound(what: string): HttpProblem {
  return new HttpProblem(404, 'Not found', `${what} is not here. It may have been removed, or the address mistyped.`)
}
