import { FileError, fileFormats, unpackTrial, withNewIds, type TrialContents } from '@canter/core/exchange'
import { api } from '@canter/core/trial'
import type { Context } from 'koa'
import { v7 as uuidv7 } from 'uuid'
import type { Store } from '../store/store.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

const MOST_BYTES = 32 * 1024 * 1024

export function fileRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  routes.serve(api.file, async ({ params, context }) => {
    const format = fileFormats.find((each) => each.key === params.format)
    if (!format)
      throw new HttpProblem(404, 'Not found', `There is no such format. Known: ${fileFormats.map((each) => each.key).join(', ')}.`)
    const contents = await contentsOf(store, params.trial)
    if (format.needsLayout && contents.layouts.length === 0)
      throw new HttpProblem(409, 'Not laid out', 'The trial has no plots yet. Lay it out under Ground first.')
    context.type = format.type
    context.set('Content-Disposition', `attachment; filename="${fileName(contents.trial.question.title)}${format.ending}"`)
    context.body = Buffer.from(format.make(contents))
  })

  routes.serve(api.importPackage, async ({ query, context }) => {
    const bytes = await readBytes(context)
    let contents: TrialContents
    try {
      contents = unpackTrial(bytes)
    } catch (error) {
      if (error instanceof FileError)
        throw new HttpProblem(422, 'Package not read', error.message, { errors: [{ path: error.where, message: error.message }] })
      throw error
    }
    if (query.as === 'copy') contents = withNewIds(contents, uuidv7)
    const found = await store.trials.trial(contents.trial.id)
    if (found) throw new HttpProblem(409, 'Already here', `“${found.question.title}” is here already. Import it as a copy, or leave it.`)
    const file = await store.trials.restore(contents).catch((error: unknown) => {
      // Ids of records, units and events are had once in a store.
      if ((error as { name?: string }).name !== 'SequelizeUniqueConstraintError') throw error
      throw new HttpProblem(409, 'Already here', 'Parts of this package are here already under another trial. Import it as a copy.')
    })
    feed.tell({ kind: 'trial', trial: file.trial.id })
    return file
  })
}

async function contentsOf(store: Store, trialId: string): Promise<TrialContents> {
  const file = await store.trials.file(trialId)
  if (!file) throw notFound('The trial')
  const records = await store.records.all(trialId)
  const named = new Set([
    ...records.map((record) => record.person),
    ...records.flatMap((record) => (record.type === 'reading' ? [record.observer] : [])),
    ...file.events.map((event) => event.person),
  ])
  return { ...file, records, people: await store.people.named([...named]) }
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
    if (size > MOST_BYTES) throw new HttpProblem(413, 'Too large', 'The package is larger than 32 MB.')
    pieces.push(piece as Buffer)
  }
  if (size === 0) throw new HttpProblem(422, 'Package not read', 'Nothing was sent. Choose a package file (zip).')
  return Buffer.concat(pieces)
}
