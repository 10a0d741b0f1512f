import { FileError, packTrial, plotsCsv, unpackTrial, withNewIds, type TrialContents } from '@canter/core/exchange'
import { plotTable } from '@canter/core/numbers'
import { id, TrialFile } from '@canter/core/trial'
import type { Context } from 'koa'
import { v7 as uuidv7 } from 'uuid'
import { z } from 'zod'
import type { Store } from '../store/store.ts'
import type { ChangeFeed } from './changes.ts'
import { HttpProblem, notFound } from './problem.ts'
import type { Routes } from './route.ts'

const OneTrial = z.object({ trial: id })
const MOST_BYTES = 32 * 1024 * 1024

export function packageRoutes(routes: Routes, store: Store, feed: ChangeFeed): void {
  routes.add({
    method: 'get',
    path: '/api/trials/:trial/package',
    summary: 'The whole trial as one data package (zip)',
    params: OneTrial,
    handle: async ({ params, context }) => {
      const contents = await contentsOf(store, params.trial)
      send(context, Buffer.from(packTrial(contents)), 'application/zip', `${fileName(contents.trial.title)}.canter.zip`)
    },
  })

  routes.add({
    method: 'get',
    path: '/api/trials/:trial/plots.csv',
    summary: 'One row a plot with every current and derived value (CSV)',
    params: OneTrial,
    handle: async ({ params, context }) => {
      const { trial, layout, records } = await contentsOf(store, params.trial)
      if (!layout) throw new HttpProblem(409, 'Not laid out', 'The trial has no plots yet. Lay it out under Ground first.')
      const csv = plotsCsv(trial, layout, plotTable(trial, layout, records))
      send(context, Buffer.from(csv), 'text/csv; charset=utf-8', `${fileName(trial.title)}-plots.csv`)
    },
  })

  routes.add({
    method: 'post',
    path: '/api/packages',
    summary: 'Import a data package, sent as the body; ?as=copy gives it new ids',
    query: z.object({ as: z.enum(['same', 'copy']).default('same') }),
    reply: TrialFile,
    status: 201,
    handle: async ({ query, context }) => {
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
      const found = await store.trials.file(contents.trial.id)
      if (found) throw new HttpProblem(409, 'Already here', `“${found.trial.title}” is here already. Import it as a copy, or leave it.`)
      const file = await store.trials.restore(contents, store.records)
      feed.tell({ kind: 'trial', trial: file.trial.id })
      return file
    },
  })
}

async function contentsOf(store: Store, trialId: string): Promise<TrialContents> {
  const file = await store.trials.file(trialId)
  if (!file) throw notFound('The trial')
  const records = await store.records.all(trialId)
  const people = await store.people.named([
    ...new Set([...records.map((record) => record.person), ...file.events.map((event) => event.person)]),
  ])
  return { ...file, records, people }
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

function send(context: Context, body: Buffer, type: string, name: string): void {
  context.type = type
  context.set('Content-Disposition', `attachment; filename="${name}"`)
  context.body = body
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
