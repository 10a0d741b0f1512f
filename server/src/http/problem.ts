import { DocumentError } from '@canter/core/document'
import type { Problem } from '@canter/core/trial'
import type { Context, Next } from 'koa'
import type { Logger } from 'pino'
import { diskInWords } from '../store/opening.ts'
import { HttpProblem, notFound } from './http-problem.ts'

/** Turns everything thrown, and every refusal without words, into a problem reply; what nobody foresaw is logged and hides its insides. */
export function problems(log: Logger) {
  return async (context: Context, next: Next): Promise<void> => {
    try {
      await next()
      const { status } = context
      if (status >= 400 && context.type !== 'application/problem+json') throw refusalOf(status, context)
    } catch (error) {
      const body = bodyOf(error)
      if (body.status >= 500 && body.status !== 501) log.error({ err: error, path: context.path }, 'request failed')
      context.status = body.status
      context.body = body
      context.type = 'application/problem+json'
    }
  }
}

/** What the router turned away, in words. */
function refusalOf(status: number, context: Context): HttpProblem {
  if (status === 405)
    return new HttpProblem(405, 'Not allowed', `${context.method} is not taken at this address; it takes ${context.response.get('Allow')}.`)
  if (status === 501) return new HttpProblem(501, 'Not known', 'This way of asking is not known here.')
  if (status === 404) return notFound('This address')
  return new HttpProblem(status, 'Not understood', 'The request could not be read. Check it against the API document.')
}

/** What a body may be that cannot be unpacked, by the codes of zlib. */
const UNPACKING = /^(Z_|ERR_BROTLI|ERR__ERROR_FORMAT|ERR_ZLIB|ERR_PADDING)/

function bodyOf(error: unknown): Problem {
  if (error instanceof HttpProblem) return error.body
  if (error instanceof DocumentError) return documentProblem(error)
  const disk = diskInWords(error)
  if (disk)
    return plain(
      503,
      'Not written',
      `The server could not use its disk. ${disk} Nothing was half written; what was typed waits in the browser.`,
    )
  const { status, code, type } = error as { status?: unknown; code?: unknown; type?: unknown }
  if (status === 413) return plain(413, 'Too large', 'The body is larger than is taken here. Send it in smaller pieces.')
  if (status === 404) return notFound('This address').body
  if (typeof code === 'string' && UNPACKING.test(code))
    return plain(400, 'Not understood', 'The body is not compressed as its Content-Encoding says. Send it plain, or compress it again.')
  if (typeof status === 'number' && status >= 400 && status < 500) {
    // Only what was said of the body itself is told on: other words may name files of this machine.
    const said = typeof type === 'string' || error instanceof SyntaxError ? (error as Error).message : null
    return plain(
      status,
      'Not understood',
      `The request could not be read${said ? `: ${said.slice(0, 200)}` : ''}. Check it against the API document.`,
    )
  }
  return plain(
    500,
    'Something failed here',
    'The server met an error it did not expect. Nothing was half written; try again, and look in its log.',
  )
}

/** What would leave a trial that cannot be, or could not be turned back since others changed the same. */
function documentProblem({ problems }: DocumentError): Problem {
  const [first] = problems
  const conflict = first?.path === 'undo'
  const detail = problems
    .slice(0, 5)
    .map((each) => each.message)
    .join(' ')
  return {
    type: 'about:blank',
    title: conflict ? 'Not turned back' : 'Not valid',
    status: conflict ? 409 : 422,
    detail,
    errors: problems.slice(0, 20).map(({ path, message }) => ({ path, message })),
  }
}

function plain(status: number, title: string, detail: string): Problem {
  return { type: 'about:blank', title, status, detail }
}
