import { PassThrough } from 'node:stream'
import { api } from '@canter/core/trial'
import type { Routes } from './route.ts'

export type ChangeNotice =
  { kind: 'trial' | 'records'; trial: string } | { kind: 'search'; trial: string; site: string; share: number; efficiency: number }

/** Notices of so many milliseconds go out together: a page fetches once for all of them. */
const GATHERED = 120

/** Tells every open page that something changed, by server-sent events; the page then asks for it. */
export class ChangeFeed {
  readonly #open = new Set<PassThrough>()
  readonly #waiting = new Map<string, ChangeNotice>()
  #timer: ReturnType<typeof setTimeout> | undefined

  tell(notice: ChangeNotice): void {
    this.#waiting.set(`${notice.kind} ${notice.trial}`, notice)
    this.#timer ??= setTimeout(() => this.#send(), GATHERED)
  }

  #send(): void {
    this.#timer = undefined
    const text = [...this.#waiting.values()].map((notice) => `data: ${JSON.stringify(notice)}\n\n`).join('')
    this.#waiting.clear()
    for (const stream of this.#open) stream.write(text)
  }

  subscribe(): PassThrough {
    const stream = new PassThrough()
    this.#open.add(stream)
    // A page whose connection broke comes back within a second.
    stream.write('retry: 1000\n\n')
    stream.on('close', () => this.#open.delete(stream))
    return stream
  }

  close(): void {
    clearTimeout(this.#timer)
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
