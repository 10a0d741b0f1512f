import type { IncomingMessage, Server, ServerResponse } from 'node:http'
import { createServer } from 'node:http'
import { bodyParser } from '@koa/bodyparser'
import Koa from 'koa'
import helmet from 'koa-helmet'
import { pino, type Logger } from 'pino'
import { ChangeFeed, changeRoutes } from './http/changes.ts'
import { documentRoute } from './http/document.ts'
import { guard } from './http/guard.ts'
import { refuseUnreadable } from './http/unreadable.ts'
import { fileRoutes } from './http/files.ts'
import { personRoutes } from './http/person.ts'
import { problems } from './http/problem.ts'
import { recordRoutes } from './http/records.ts'
import { Routes } from './http/route.ts'
import { shelfRoutes } from './http/shelf.ts'
import { staticFiles } from './http/static.ts'
import { trialRoutes } from './http/trials.ts'
import { Store } from './store/store.ts'
import { WorkThreads } from './long-work/work-threads.ts'

export interface ApplicationOptions {
  readonly database: string
  /** Folder of the built interface; none for the API alone. */
  readonly web?: string
  readonly log?: Logger
  /** Whether every reply is held against its schema before it goes out; true unless said otherwise. */
  readonly checkReplies?: boolean
}

export interface Application {
  readonly store: Store
  readonly callback: (request: IncomingMessage, response: ServerResponse) => Promise<void>
  /** Binds to loopback only. */
  listen(port: number): Promise<Server>
  close(): Promise<void>
}

export async function createApplication(options: ApplicationOptions): Promise<Application> {
  const log = options.log ?? pino({ level: 'error' })
  const store = await Store.open(options.database)
  const feed = new ChangeFeed()
  const threads = new WorkThreads(options.database)
  // In single-person mode everybody at this desk is the local person; sign-in comes in here.
  const routes = new Routes(() => store.people.local(), options.checkReplies ?? true)
  personRoutes(routes, store)
  trialRoutes(routes, store, feed, threads)
  recordRoutes(routes, store, feed)
  fileRoutes(routes, store, feed, threads)
  shelfRoutes(routes, store)
  changeRoutes(routes, feed)
  documentRoute(routes)

  const koa = new Koa()
  koa.silent = true
  koa.use(problems(log))
  koa.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          workerSrc: ["'self'", 'blob:'],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  )
  koa.use(guard)
  koa.use(
    bodyParser({
      enableTypes: ['json'],
      jsonLimit: '4mb',
      parsedMethods: ['POST', 'PUT', 'PATCH', 'DELETE'],
      extendTypes: { json: ['application/json'] },
    }),
  )
  koa.use(routes.router.routes())
  koa.use(routes.router.allowedMethods())
  if (options.web) koa.use(staticFiles(options.web))

  const callback = koa.callback()
  let server: Server | null = null
  return {
    store,
    callback,
    listen: (port) =>
      new Promise((resolve, reject) => {
        // Without a host it is turned away by the guard, in words.
        server = createServer({ requireHostHeader: false }, (request, response) => void callback(request, response))
        server.on('clientError', refuseUnreadable)
        server.once('error', reject)
        server.listen(port, '127.0.0.1', () => resolve(server!))
      }),
    close: async () => {
      feed.close()
      if (server) {
        const closing = new Promise((resolve) => server!.close(resolve))
        server.closeAllConnections()
        await closing
      }
      await threads.close()
      await store.close()
    },
  }
}
