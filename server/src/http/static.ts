import { existsSync } from 'node:fs'
import type { Context, Next } from 'koa'
import send from 'koa-send'

/** The built interface; an address without a file is a page of it. */
export function staticFiles(folder: string) {
  return async (context: Context, next: Next): Promise<void> => {
    if (context.path.startsWith('/api') || !['GET', 'HEAD'].includes(context.method)) return void (await next())
    if (!existsSync(folder)) {
      context.status = 503
      context.body = 'The interface is not built. Run: node setup.mjs build'
      return
    }
    const asset = context.path.startsWith('/assets/')
    const path = /\.\w+$/.test(context.path) ? context.path : '/index.html'
    await send(context, path, { root: folder, maxAge: asset ? 365 * 24 * 3600 * 1000 : 0, immutable: asset })
  }
}
