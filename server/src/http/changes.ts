import { PassThrough } from 'node:stream'
import { api } from '@canter/core/trial'
import type { Routes } from './route.ts'

export type ChangeNotice = { kind: 'trial' | 'records'; trial: string }

/** Tells every open page that something changed, by server-sent events; the page then asks for it. */
export class ChangeFeed {
  readonly #open = new Set<PassThrough>()

  tell(notice: ChangeNotice): void {
    for (const stream of this.#open) stream.write(`data: ${JSON.stringify(notice)}\n\n`)
  }

  subscribe(): PassThrough {
    const stream = new PassThrough()
    this.#open.add(stream)
    stream.write(': open\n\n')
    stream.on('close', () => this.#open.delete(stream))
    return stream
  }

  close(): void {
    for (const stream of this.#open) stream.end()
    this.#open.clear()
  }
}

export function changeRoutes(routes: Routes, feed: ChangeFeed): void {
  routes.serve(api.changes, async ({ context }) => {
    context.type = 'text/event-stream'
    context.set('Cache-Control', 'no-store')
    const stream = feed.subscribe()
    context.req.on('close', () => stream.destroy())
    context.body = stream
  })
}
