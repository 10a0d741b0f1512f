import { request as httpRequest } from 'node:http'
import { sugarBeet, sugarBeetDraft } from '@canter/demo'
import { packTrial } from '@canter/core/exchange'
import type { Problem, RecordOutcome, RecordsReply, TrialFile, TrialSummary } from '@canter/core/trial'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { v7 as uuidv7 } from 'uuid'
import { PERSON, reading, Running } from './running.ts'

let running: Running
beforeAll(async () => void (running = await Running.start()))
afterAll(() => running.stop())
const call = (...args: Parameters<Running['call']>) => running.call(...args)

describe('trials', () => {
  it('are begun, listed, edited against their version, put aside and brought back', async () => {
    const created = await call('POST', '/api/trials', { ...sugarBeetDraft, title: 'Edited trial' })
    expect(created.status).toBe(201)
    const { trial } = created.body as TrialFile
    const path = `/api/trials/${trial.id}`
    const edited = await call('PUT', path, { version: 1, trial: { ...sugarBeetDraft, title: 'Second title' }, reason: '' })
    expect((edited.body as TrialFile).trial).toMatchObject({ version: 2, title: 'Second title' })

    const stale = await call('PUT', path, { version: 1, trial: { ...sugarBeetDraft, title: 'Third title' }, reason: '' })
    expect(stale.status).toBe(409)
    expect(((stale.body as Problem).current as TrialFile).trial.title).toBe('Second title')

    const listed = async (aside: string) =>
      ((await call('GET', `/api/trials?deleted=${aside}`)).body as { trials: TrialSummary[] }).trials.map((each) => each.id)
    expect(await listed('no')).toContain(trial.id)
    expect((await call('DELETE', path, { version: 2, reason: '' })).status).toBe(200)
    expect(await listed('no')).not.toContain(trial.id)
    expect(await listed('yes')).toContain(trial.id)
    const back = (await call('POST', `${path}/restore`, { version: 3, reason: '' })).body as TrialFile
    expect(back.events.map((event) => event.kind)).toEqual(['created', 'edited', 'deleted', 'restored'])
    expect(back.events[1]!.before).toEqual({ title: 'Edited trial' })
  })

  it('are randomised until they stand on the ground; from then on changes need a reason or are refused', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    const again = (await call('POST', `${path}/layout`, { version: 2, seed: 42, reason: '' })).body as TrialFile
    expect(again.layout!.structure.seed).toBe(42)
    const planted = {
      type: 'operation',
      id: uuidv7(),
      at: '2026-04-02T08:00:00.000Z',
      person: PERSON,
      device: 'test',
      kind: 'planted',
      siteKey: 'hazel-bank',
      on: '2026-04-02',
      text: '',
    }
    expect((await call('POST', `${path}/records`, { records: [planted] })).status).toBe(200)
    expect((await call('POST', `${path}/layout`, { version: 3, seed: 43, reason: '' })).body).toMatchObject({
      status: 409,
      title: 'Locked',
    })

    const wider = {
      ...sugarBeetDraft,
      sites: [{ ...sugarBeetDraft.sites[0]!, ground: { ...sugarBeetDraft.sites[0]!.ground, plotWidth: 3 } }],
    }
    expect((await call('PUT', path, { version: 3, trial: { ...sugarBeetDraft, replicates: 5 }, reason: 'why not' })).body).toMatchObject({
      status: 409,
    })
    expect((await call('PUT', path, { version: 3, trial: wider, reason: '' })).body).toMatchObject({
      status: 422,
      errors: [{ path: 'reason' }],
    })
    const changed = (await call('PUT', path, { version: 3, trial: wider, reason: 'Measured again' })).body as TrialFile
    expect(changed.layout!.units.find((unit) => unit.walk === 1)!.place!.width).toBe(3)
    expect(changed.layout!.units.map((unit) => unit.id)).toEqual(again.layout!.units.map((unit) => unit.id))

    const plot = changed.layout!.units.find((unit) => unit.walk === 1)!
    const other = plot.planned['nitrogen'] === 'r0' ? 'r40' : 'r0'
    const swap = { version: 4, level: other, change: 'misapplied', reason: 'Bag mixed up' }
    const swapped = (await call('POST', `${path}/units/${plot.id}/treatment`, swap)).body as TrialFile
    expect(swapped.layout!.units.find((unit) => unit.id === plot.id)).toMatchObject({
      planned: plot.planned,
      received: { nitrogen: other },
      change: 'misapplied',
    })
    expect(swapped.events.at(-1)).toMatchObject({ kind: 'treatment changed', reason: 'Bag mixed up' })
  })

  it('lose their layout when the treatments change before planting', async () => {
    const { trial } = await running.laidOut()
    const factor = sugarBeetDraft.factors[0]!
    const fewer = { ...sugarBeetDraft, factors: [{ ...factor, levels: factor.levels.slice(0, 4) }] }
    expect(((await call('PUT', `/api/trials/${trial.id}`, { version: 2, trial: fewer, reason: '' })).body as TrialFile).layout).toBeNull()
  })
})

describe('records', () => {
  it('are saved once however often they are sent, and another body under the same id is a conflict', async () => {
    const { trial, layout } = await running.laidOut()
    const path = `/api/trials/${trial.id}/records`
    const plot = layout!.units.find((unit) => unit.walk === 1)!
    const first = reading(plot.id, 61.5)
    const sent = await call('POST', path, { records: [first] })
    const [saved] = (sent.body as { outcomes: RecordOutcome[] }).outcomes
    expect(saved).toMatchObject({ status: 'saved' })
    const again = await call('POST', path, { records: [first] })
    expect(again.status).toBe(200)
    expect((again.body as { outcomes: RecordOutcome[] }).outcomes[0]).toMatchObject({ status: 'already', seq: saved!.seq })
    const other = await call('POST', path, { records: [{ ...first, confirmed: true }] })
    expect(other.status).toBe(409)

    const good = reading(plot.id, 62, { supersedes: [first.id] })
    const bad = reading(plot.id, 1, { trait: 'no-such-trait' })
    const mixed = await call('POST', path, { records: [bad, good] })
    expect(mixed.status).toBe(422)
    expect((mixed.body as Problem).outcomes!.map((each) => each.status)).toEqual(['refused', 'saved'])

    const all = (await call('GET', `${path}?after=0`)).body as RecordsReply
    expect(all.records.map((each) => each.record)).toEqual([first, good])
    const rest = (await call('GET', `${path}?after=${saved!.seq}`)).body as RecordsReply
    expect(rest.records.map((each) => each.record)).toEqual([good])
    expect(((await call('GET', `${path}?after=${rest.cursor}`)).body as RecordsReply).records).toEqual([])
  })

  it('of 50 people at once are all there, each with its own number', async () => {
    const { trial, layout } = await running.laidOut()
    const plots = layout!.units.filter((unit) => unit.walk !== null)
    const path = `/api/trials/${trial.id}/records`
    const replies = await Promise.all(
      Array.from({ length: 50 }, (_, i) =>
        call('POST', path, { records: [reading(plots[i % plots.length]!.id, 50 + i, { replicate: i + 1 })] }),
      ),
    )
    const numbers = replies.map((reply) => (reply.body as { outcomes: RecordOutcome[] }).outcomes[0]!.seq)
    expect(new Set(numbers).size).toBe(50)
    expect(((await call('GET', path)).body as RecordsReply).records).toHaveLength(50)
  })
})

describe('packages', () => {
  it('go out and come back equal, byte for byte', async () => {
    const bytes = packTrial(sugarBeet())
    const id = sugarBeet().trial.id
    expect((await call('POST', '/api/packages', bytes)).status).toBe(201)
    const out = await call('GET', `/api/trials/${id}/package`)
    expect(Buffer.from(out.body).equals(Buffer.from(bytes))).toBe(true)

    const refused = await call('POST', '/api/packages', bytes)
    expect(refused.body).toMatchObject({ status: 409, title: 'Already here' })
    const copy = await call('POST', '/api/packages?as=copy', bytes)
    expect((copy.body as TrialFile).trial.id).not.toBe(id)
    expect(Buffer.from((await call('GET', `/api/trials/${id}/plots.csv`)).body).toString()).toMatch(/^plot,block,nitrogen/)
  })

  it('are refused whole when damaged, saying where', async () => {
    expect((await call('POST', '/api/packages', 'not a zip')).body).toMatchObject({ status: 422, title: 'Package not read' })
    expect((await call('POST', '/api/packages')).status).toBe(422)
  })
})

describe('hostile and mistaken requests get a problem that says what to do', () => {
  const problem = async (reply: Promise<{ status: number; type: string; body: never }>, status: number) => {
    const { status: got, type, body } = await reply
    expect({ got, type: type.split(';')[0] }).toEqual({ got: status, type: 'application/problem+json' })
    expect((body as Problem).detail.length).toBeGreaterThan(10)
    return body as Problem
  }

  it.each([
    ['POST', '/api/trials', {}, 422],
    ['POST', '/api/trials', [], 422],
    ['POST', '/api/trials', { ...sugarBeetDraft, title: 'x'.repeat(5000) }, 422],
    ['POST', '/api/trials', { ...sugarBeetDraft, season: 'last year' }, 422],
    ['GET', '/api/trials/not-an-id', undefined, 422],
    ['GET', `/api/trials/${uuidv7()}`, undefined, 404],
    ['GET', `/api/trials/${uuidv7()}/package`, undefined, 404],
    ['GET', `/api/trials/${uuidv7()}/records?after=-1`, undefined, 422],
    ['GET', '/api/nothing-here', undefined, 404],
    ['PUT', '/api/person', { units: 'furlongs' }, 422],
  ])('%s %s', async (method, path, body, status) => {
    const told = await problem(call(method, path, body), status)
    expect(told.detail).not.toMatch(/undefined|\[object|at .*\.ts/)
  })

  it('bodies that are no JSON, or too large', async () => {
    await problem(call('POST', '/api/trials', '{"title":', { 'Content-Type': 'application/json' }), 400)
    await problem(call('POST', '/api/trials', `"${'x'.repeat(5_000_000)}"`, { 'Content-Type': 'application/json' }), 413)
  })

  it('other hosts and pages of other sites', async () => {
    const { port } = new URL(running.address)
    const status = await new Promise((resolve) =>
      httpRequest({ host: '127.0.0.1', port, path: '/api/trials', headers: { Host: 'elsewhere.example' } }, (reply) =>
        resolve(reply.statusCode),
      ).end(),
    )
    expect(status).toBe(421)
    await problem(call('POST', '/api/trials', sugarBeetDraft, { Origin: 'http://elsewhere.example' }), 403)
  })

  it('the API describes itself', async () => {
    const document = (await call('GET', '/api/openapi.json')).body as { openapi: string; paths: Record<string, unknown> }
    expect(document.openapi).toBe('3.1.0')
    expect(Object.keys(document.paths)).toContain('/api/trials/{trial}/records')
  })
})
