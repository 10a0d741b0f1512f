import { FileError, fileFormats } from '@canter/core/exchange'
import { api } from '@canter/core/trial'
import type { Context } from 'koa'
import type { Store } from '../store/store.ts'
import { TooMuch } from '../long-work/work-thread.ts'
import type { WorkThreads } from '../long-work/work-threads.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './http-problem.ts'
import type { Routes } from './route.ts'
import { trialReply } from './trial-reply.ts'

const MOST_BYTES = 16 * 1024 * 1024

export function fileRoutes(routes: Routes, store: Store, feed: ChangeFeed, threads: WorkThreads): void {
  routes.serve(api.file, async ({ params, context }) => {
    const format = fileFormats.find((each) => each.key === params.format)
    if (!format)
      throw new HttpProblem(404, 'Not found', `There is no such format. Known: ${fileFormats.map((each) => each.key).join(', ')}.`)
    const made = await threads.reading.ask('file', params.trial, format.key)
    if (made === 'no trial') throw notFound('The trial')
    if (made === 'no plots') throw new HttpProblem(409, 'Not laid out', 'The trial has no plots yet. Lay it out under Ground first.')
    context.type = format.type
    context.set('Content-Disposition', `attachment; filename="${fileName(made.title)}${format.ending}"`)
    context.body = Buffer.from(made.bytes)
  })

  routes.serve(api.importPackage, async ({ query, context }) => {
    const bytes = await readBytes(context)
    const arrival = await threads.opening.ask('unpack', bytes, query.as === 'copy').catch((error: unknown) => {
      if (error instanceof FileError)
        throw new HttpProblem(422, 'Package not read', error.message, { errors: [{ path: error.where, message: error.message }] })
      if (error instanceof TooMuch)
        throw new HttpProblem(422, 'Package not read', `${error.message} No package of a trial is like that; nothing was taken from it.`)
      throw error
    })
    const found = await store.trials.trial(arrival.id)
    if (found) throw new HttpProblem(409, 'Already here', `“${found.question.title}” is here already. Import it as a copy, or leave it.`)
    await store.trials.arrive(arrival).catch((error: unknown) => {
      // Ids of records, units and events are had once in a store.
      if ((error as { name?: string }).name !== 'SequelizeUniqueConstraintError') throw error
      throw new HttpProblem(409, 'Already here', 'Parts of this package are here already under another trial. Import it as a copy.')
    })
    feed.tell({ kind: 'trial', trial: arrival.id })
    return (await trialReply(store, threads, arrival.id))!
  })
}

function fileName(title: string): string {
  return (
    title
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 60) || 'trial'
  )
}

async function readBytes(context: Context): Promise<Uint8Array> {
  const pieces: Buffer[] = []
  let size = 0
  for await (const piece of context.req) {
    size += (piece as Buffer).length
    if (size > MOST_BYTES) throw new HttpProblem(413, 'Too large', 'The package is larger than 16 MB.')
    pieces.push(piece as Buffer)
  }
  if (size === 0) throw new HttpProblem(422, 'Package not read', 'Nothing was sent. Choose a package file (zip).')
  return Buffer.concat(pieces)
}
