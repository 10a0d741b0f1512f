import { existsSync } from 'node:fs'
import type { Context, Next } from 'koa'
import send from 'koa-send'
import { HttpProblem } from './http-problem.ts'

/** The built interface; an address without a file is a page of it. */
export function staticFiles(folder: string) {
  return async (context: Context, next: Next): Promise<void> => {
    if (context.path.toLowerCase().startsWith('/api') || !['GET', 'HEAD'].includes(context.method)) return void (await next())
    if (!existsSync(folder)) throw new HttpProblem(503, 'Not built', 'The interface is not built. Run: node setup.mjs build')
    const asset = context.path.startsWith('/assets/')
    const path = /\.\w+$/.test(context.path) ? context.path : '/index.html'
    await send(context, path, { root: folder, maxAge: asset ? 365 * 24 * 3600 * 1000 : 0, immutable: asset })
  }
}
