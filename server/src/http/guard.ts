import type { Context, Next } from 'koa'
import { HttpProblem } from './http-problem.ts'

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/

/**
 * The server is for this machine: another name for it (a page elsewhere that points its own
 * name here) or a request sent by another site's page is turned away.
 */
export async function guard(context: Context, next: Next): Promise<void> {
  const host = context.get('Host')
  if (!LOCAL.test(host)) throw new HttpProblem(421, 'Wrong host', 'Open Canter by the address it printed when it started.')
  const origin = context.get('Origin')
  if (origin && origin !== `http://${host}`) throw new HttpProblem(403, 'Another site', 'Requests from pages of other sites are not taken.')
  const site = context.get('Sec-Fetch-Site')
  if (site && !['same-origin', 'none'].includes(site) && context.path.toLowerCase().startsWith('/api')) {
    throw new HttpProblem(403, 'Another site', 'Requests from pages of other sites are not taken.')
  }
  await next()
}
