import { request as httpRequest } from 'node:http'
import { sugarBeet, sugarBeetDraft } from '@canter/demo'
import { packTrial } from '@canter/core/exchange'
import { treatmentsOf, type Problem, type RecordOutcome, type RecordsReply, type TrialFile, type TrialSummary } from '@canter/core/trial'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { v7 as uuidv7 } from 'uuid'
import { PERSON, reading, Running } from './running.ts'

let running: Running
beforeAll(async () => void (running = await Running.start()))
afterAll(() => running.stop())
const call = (...args: Parameters<Running['call']>) => running.call(...args)

const planted = (siteKey = 'hazel-bank') => ({
  type: 'operation',
  id: uuidv7(),
  at: '2026-04-02T08:00:00.000Z',
  person: PERSON,
  device: 'test',
  kind: 'planted',
  siteKey,
  on: '2026-04-02',
  text: '',
})
const titled = (title: string) => ({ ...sugarBeetDraft, question: { ...sugarBeetDraft.question, title } })
const begun = async (draft: object = sugarBeetDraft) => (await call('POST', '/api/trials', draft)).body as TrialFile

describe('trials', () => {
  it('are begun, listed, edited by section against its version, put aside and brought back', async () => {
    const file = await begun(titled('Edited trial'))
    const path = `/api/trials/${file.trial.id}`
    const edited = (await running.edit(file, 'question', { title: 'Second title' })).body as TrialFile
    expect(edited.trial).toMatchObject({
      version: 2,
      versions: { question: 2, prices: 1 },
      question: { title: 'Second title', crop: 'Sugar beet' },
    })

    const stale = await running.edit(file, 'question', { title: 'Third title' })
    expect(stale.status).toBe(409)
    expect(((stale.body as Problem).current as TrialFile).trial.question.title).toBe('Second title')
    // Another section is another matter.
    expect((await running.edit(file, 'prices', { pricePerTonne: 44 })).status).toBe(200)

    const listed = async (aside: string) =>
      ((await call('GET', `/api/trials?deleted=${aside}`)).body as { trials: TrialSummary[] }).trials.map((each) => each.id)
    expect(await listed('no')).toContain(file.trial.id)
    expect((await call('DELETE', path, { version: 3 })).status).toBe(200)
    expect(await listed('no')).not.toContain(file.trial.id)
    expect(await listed('yes')).toContain(file.trial.id)
    const back = (await call('POST', `${path}/restore`, { version: 4 })).body as TrialFile
    expect(back.events.map((event) => event.kind)).toEqual(['created', 'edited', 'edited', 'deleted', 'restored'])
    expect(back.events[1]).toMatchObject({ section: 'question', before: { patch: { title: 'Edited trial' } }, person: PERSON })
  })

  it('undo turns back one change and nothing that others changed meanwhile', async () => {
    const file = await begun(titled('First'))
    const undo = (event: string) => call('POST', `/api/trials/${file.trial.id}/events/${event}/undo`, {})
    const first = (await running.edit(file, 'question', { title: 'Mine' })).body as TrialFile
    const second = (await running.edit(first, 'question', { crop: 'Mangel' })).body as TrialFile
    const mine = second.events.find((event) => event.what.includes('title'))!
    const turned = (await undo(mine.id)).body as TrialFile
    expect(turned.trial.question).toMatchObject({ title: 'First', crop: 'Mangel' })
    expect((await undo(mine.id)).status).toBe(409)
    // Turning back the turning back is a change like any other.
    const again = (await undo(turned.events.at(-1)!.id)).body as TrialFile
    expect(again.trial.question.title).toBe('Mine')
    await running.edit(again, 'question', { title: 'Somebody else’s' })
    expect((await undo(again.events.at(-1)!.id)).body).toMatchObject({
      status: 409,
      detail: expect.stringContaining('Changed again since: title') as string,
    })
  })

  it('are randomised until they stand on the ground; from then on changes need a reason or are refused', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    const again = (await call('POST', `${path}/sites/hazel-bank/layout`, { version: 2, seed: 42 })).body as TrialFile
    expect(again.layouts[0]!.structure.seed).toBe(42)
    // The plots are the same ground: what was said of one stays with it.
    expect(again.layouts[0]!.units.map((unit) => unit.id)).toEqual(file.layouts[0]!.units.map((unit) => unit.id))
    const turned = (await call('POST', `${path}/events/${again.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect(turned.layouts).toEqual(file.layouts)
    // A plan of an older version is made again by its draw; that draw is then gone from the plan only by another.
    expect(await call('POST', `${path}/sites/hazel-bank/layout`, { version: turned.trial.version, seed: 42, draw: 9 })).toMatchObject({
      status: 422,
    })
    const older = (await call('POST', `${path}/sites/hazel-bank/layout`, { version: turned.trial.version, seed: 42, draw: 1 }))
      .body as TrialFile
    expect(older.layouts[0]!.structure).toMatchObject({ seed: 42 })
    expect(older.layouts[0]!.structure.draw).toBeUndefined()
    expect(older.events.at(-1)!.what).toMatch(/from seed 42 by draw 1/)
    const newest = (await call('POST', `${path}/sites/hazel-bank/layout`, { version: older.trial.version, seed: 42 })).body as TrialFile
    expect(newest.layouts).toEqual(again.layouts)
    expect(newest.layouts[0]!.units).not.toEqual(older.layouts[0]!.units)
    await call('POST', `${path}/events/${newest.events.at(-1)!.id}/undo`, {})
    const back = (await call('POST', `${path}/events/${older.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect(back.layouts).toEqual(file.layouts)
    // Two plots of a block swapped on paper: it is no longer a draw; turned back, it is.
    const [one, mate] = turned.layouts[0]!.units.filter((unit) => unit.kind === 'plot')
    const byHand = (await call('POST', `${path}/units/${one!.id}/swap`, { version: back.trial.version, with: mate!.id, reason: 'Gate' }))
      .body as TrialFile
    expect(byHand.layouts[0]!.structure.factors[0]!.how).toBe('not randomised')
    const now = (await call('POST', `${path}/events/${byHand.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect(now.layouts).toEqual(file.layouts)
    expect((await call('POST', `${path}/records`, { records: [planted()] })).status).toBe(200)
    expect(
      (await call('POST', `${path}/units/${one!.id}/swap`, { version: now.trial.version, with: mate!.id, reason: 'Gate' })).body,
    ).toMatchObject({
      status: 409,
      title: 'Locked',
    })
    expect((await call('POST', `${path}/sites/hazel-bank/layout`, { version: now.trial.version, seed: 43 })).body).toMatchObject({
      status: 409,
      title: 'Locked',
    })
    expect(
      (await running.edit(now, 'site:hazel-bank', { 'design.replicates': 5 }, { reason: 'why not', confirm: true })).body,
    ).toMatchObject({ status: 409, title: 'Locked' })
    expect((await running.edit(now, 'site:hazel-bank', { 'ground.plotLength': 11 })).body).toMatchObject({
      status: 422,
      errors: [{ path: 'reason' }],
    })
    const changed = (await running.edit(now, 'site:hazel-bank', { 'ground.plotLength': 11 }, { reason: 'Measured again' }))
      .body as TrialFile
    expect(changed.layouts[0]!.units.find((unit) => unit.walk === 1)!.place!.length).toBe(11)

    const plot = changed.layouts[0]!.units.find((unit) => unit.walk === 1)!
    const other = plot.planned['nitrogen'] === 'r0' ? 'r40' : 'r0'
    const swap = { version: changed.trial.version, received: { nitrogen: other }, change: 'misapplied', reason: 'Bag mixed up' }
    const swapped = (await call('POST', `${path}/units/${plot.id}/treatment`, swap)).body as TrialFile
    expect(swapped.layouts[0]!.units.find((unit) => unit.id === plot.id)).toMatchObject({
      planned: plot.planned,
      received: { nitrogen: other },
      changes: { nitrogen: 'misapplied' },
    })
    expect(swapped.events.at(-1)).toMatchObject({ kind: 'treatment changed', reason: 'Bag mixed up' })
    expect(
      (
        await call('POST', `${path}/units/${plot.id}/treatment`, {
          ...swap,
          version: swapped.trial.version,
          received: { nitrogen: 'gold' },
        })
      ).status,
    ).toBe(422)
  })

  it('a draw among what stands is made once, from today on, kept as it was made, and turned back whole', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    expect((await call('POST', `${path}/records`, { records: [planted()] })).status).toBe(200)
    const asked = {
      version: file.trial.version,
      seed: 9,
      name: 'Feeding',
      levels: [
        { code: 'AS', name: 'as before' },
        { code: 'FED', name: 'fed' },
      ],
      on: new Date().toISOString().slice(0, 10),
      treatments: file.trial.treatments.list.map((each) => each.key),
      sites: ['hazel-bank'],
      reason: 'Half of each like the neighbour’s',
    }
    const draw = (over: object) => call('POST', `${path}/draws`, { ...asked, ...over })
    expect((await draw({ on: '2026-01-05' })).body).toMatchObject({ status: 422, errors: [{ path: 'on' }] })
    expect((await draw({ reason: '' })).status).toBe(422)
    // Two people at once: the second sees what the first has drawn.
    const both = await Promise.all([draw({}), draw({ seed: 10 })])
    expect(both.map((each) => each.status).sort()).toEqual([200, 409])
    const drawn = both.find((each) => each.status === 200)!.body as TrialFile
    expect((await call('GET', path)).body).toEqual(drawn)
    expect(drawn.events.at(-1)).toMatchObject({ kind: 'drawn', reason: asked.reason })
    expect(drawn.layouts[0]!.units.filter((unit) => unit.received['drawn'] === 'way-1').length).toBeGreaterThan(4)
    expect((await running.edit(drawn, 'treatments', { list: [...drawn.trial.treatments.list].reverse() }, { reason: 'x' })).status).toBe(
      409,
    )
    const back = (await call('POST', `${path}/events/${drawn.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect([back.trial.treatments, back.layouts]).toEqual([file.trial.treatments, file.layouts])
    expect((await call('GET', path)).body).toEqual(back)
  })

  it('halves of plots are kept, take readings of their own, come back in a package, and stay once they are read', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    const visits = [...file.trial.traits.visits, { key: 'late', name: 'Late', on: null }].map((each) => ({
      ...each,
      on: each.on ?? '2026-10-01',
    }))
    const dated = (await running.edit(file, 'traits', { visits })).body as TrialFile
    const asked = { version: dated.trial.version, seed: 4, name: 'Feeding', levels: [{ code: 'AS', name: 'as before' }, { code: 'FED', name: 'fed' }], on: '2026-06-01', treatments: [file.trial.treatments.list[0]!.key], sites: ['hazel-bank'], reason: 'hungry' } // prettier-ignore
    expect((await call('POST', `${path}/draws`, { ...asked, halves: 'by chance' })).body).toMatchObject({
      status: 422,
      errors: [{ path: 'on' }],
    })
    const laid = (await call('POST', `${path}/draws`, { ...asked, halves: 'a' })).body as TrialFile
    expect((await call('GET', path)).body).toEqual(laid)
    const { units } = laid.layouts[0]!
    const half = units.find((unit) => unit.kind === 'half plot')!
    const undo = () => call('POST', `${path}/events/${laid.events.at(-1)!.id}/undo`, {})
    const back = (await undo()).body as TrialFile
    expect([back.layouts, back.trial.treatments]).toEqual([dated.layouts, dated.trial.treatments])
    const again = (await call('POST', `${path}/draws`, { ...asked, version: back.trial.version, halves: 'b' })).body as TrialFile
    const own = again.layouts[0]!.units.filter((unit) => unit.kind === 'half plot')
    expect(own).toHaveLength(units.filter((unit) => unit.kind === 'half plot').length)
    expect(own.some((unit) => unit.id === half.id)).toBe(false)
    const saved = await call('POST', `${path}/records`, { records: [reading(own[0]!.id, 40), reading(own[0]!.in[0]!, 80), reading(half.id, 40)] }) // prettier-ignore
    const { outcomes } = saved.body as { outcomes: { status: string; detail: string }[] }
    expect(outcomes.map((each) => each.status)).toEqual(['saved', 'refused', 'refused'])
    expect(outcomes[1]!.detail).toMatch(/halves of this plot are read one by one/)
    const event = again.events.at(-1)!
    expect((await call('POST', `${path}/events/${event.id}/undo`, {})).body).toMatchObject({
      status: 409,
      detail: expect.stringMatching(/Halves of plots have been read/) as string,
    })
    // A visit that was read on halves does not come to lie before there were any.
    const earlier = visits.map((each) => ({ ...each, on: '2026-05-01' }))
    expect((await running.edit(again, 'traits', { visits: earlier }, { reason: 'typed wrong' })).body).toMatchObject({ status: 409 })
    const zip = new Uint8Array((await call('GET', `${path}/files/package`)).body)
    const copy = (await call('POST', '/api/packages?as=copy', zip)).body as TrialFile
    const told = ({ layouts }: TrialFile) => layouts[0]!.units.map(({ kind, code, planned: was, place }) => ({ kind, code, was, place }))
    expect(told(copy)).toEqual(told(again))
    expect(copy.layouts[0]!.structure).toEqual(again.layouts[0]!.structure)
  })

  it('what really happened is put on record, comes back in a package and a copy of it, and is turned back', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    expect((await call('POST', `${path}/records`, { records: [planted()] })).status).toBe(200)
    const plots = file.layouts[0]!.units.filter((unit) => unit.kind === 'plot')
    const fate = (over: object) => ({ type: 'fate', id: uuidv7(), at: '2026-06-04T08:00:00.000Z', person: planted().person, device: 'tablet', unit: plots[0]!.id, kind: 'partly lost', on: { from: '2026-06-01', to: '2026-06-07', typed: 'first week of June' }, share: 0.6, factor: null, amount: null, to: null, place: '', parts: null, reason: 'washed out', ...over }) // prettier-ignore
    const outcomes = async (...records: object[]) => ((await call('POST', `${path}/records`, { records })).body as { outcomes: { status: string; detail: string }[] }).outcomes // prettier-ignore
    const kept = fate({})
    expect((await outcomes(kept, fate({ share: null }), fate({ unit: uuidv7() }), fate({ kind: 'moved', share: null }), fate({ on: { from: '2026-06-07', to: '2026-06-01', typed: '' } }))).map((each) => each.status)).toEqual(['saved', 'refused', 'refused', 'refused', 'refused']) // prettier-ignore
    expect((await outcomes(kept)).map((each) => each.status)).toEqual(['already'])

    // An extra plot, a practice laid by hand (asked about where it takes the only control), and both in a package.
    const extra = (await call('POST', `${path}/units`, { version: file.trial.version, site: 'hazel-bank', treatment: file.trial.treatments.list[2]!.key, reason: 'left over seed' })).body as TrialFile // prettier-ignore
    expect(extra.events.at(-1)).toMatchObject({ kind: 'added', reason: 'left over seed' })
    const beside = extra.layouts[0]!.units.find((unit) => unit.code === 'X1')!
    expect((await outcomes(fate({ unit: beside.id, kind: 'lost', share: null }))).map((each) => each.status)).toEqual(['saved'])
    expect(
      (await call('POST', `${path}/units`, { version: file.trial.version, site: 'hazel-bank', treatment: null, reason: 'x' })).status,
    ).toBe(409)
    const control = plots.filter((unit) => unit.planned['nitrogen'] === 'r0')
    const byHand = (units: typeof plots, over = {}) => call('POST', `${path}/draws`, { version: extra.trial.version, seed: 0, name: 'Hoeing', levels: [{ code: 'ONE', name: 'once' }, { code: 'TWO', name: 'twice' }], on: '2026-05-10', treatments: [plots[0]!.planned['nitrogen']], sites: ['hazel-bank'], byHand: units.map(({ id }) => ({ unit: id, way: 1 })), reason: 'weeds', ...over }) // prettier-ignore
    expect((await byHand(control)).body).toMatchObject({ status: 422, errors: [{ path: 'confirm' }] })
    const laid = (await byHand(control, { confirm: true })).body as TrialFile
    expect(laid.layouts[0]!.structure.factors.at(-1)).toMatchObject({ how: 'not randomised' })

    const zip = new Uint8Array((await call('GET', `${path}/files/package`)).body)
    const copied = await call('POST', '/api/packages?as=copy', zip)
    expect(copied.status).toBe(201)
    const copy = copied.body as TrialFile
    const told = ({ layouts }: TrialFile) =>
      layouts[0]!.units.map(({ kind, code, planned: was, received, place }) => ({ kind, code, was, received, place }))
    expect(told(copy)).toEqual(told(laid))
    const records = ((await call('GET', `/api/trials/${copy.trial.id}/records`)).body as { records: { record: { type: string; unit?: string } }[] }).records // prettier-ignore
    const units = new Set(copy.layouts[0]!.units.map((unit) => unit.id))
    expect(records.filter(({ record }) => record.type === 'fate').map(({ record }) => units.has(record.unit!))).toEqual([true, true])

    const undo = async (of: TrialFile, event: string) => (await call('POST', `/api/trials/${of.trial.id}/events/${event}/undo`, {})).body as TrialFile // prettier-ignore
    const back = await undo(await undo(laid, laid.events.at(-1)!.id), extra.events.at(-1)!.id)
    expect(back.layouts).toEqual(file.layouts)
    expect(back.trial.treatments).toEqual(file.trial.treatments)
    // What was said of the plot that is gone stays, and a package with it opens.
    const again = new Uint8Array((await call('GET', `${path}/files/package`)).body)
    expect((await call('POST', '/api/packages?as=copy', again)).status).toBe(201)
  })

  it('a change that would deal out anew asks first, and Undo brings the layout back', async () => {
    const file = await running.laidOut()
    const fewer = { 'design.replicates': 3 }
    expect((await running.edit(file, 'site:hazel-bank', fewer)).body).toMatchObject({ status: 422, errors: [{ path: 'confirm' }] })
    const gone = (await running.edit(file, 'site:hazel-bank', fewer, { confirm: true })).body as TrialFile
    expect(gone.layouts).toEqual([])
    const back = (await call('POST', `/api/trials/${file.trial.id}/events/${gone.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect([back.layouts, back.trial.sites]).toEqual([file.layouts, file.trial.sites])
  })

  it('a search tells how far it is, and ends at a word with the best plan it has, which stands on record', async () => {
    const levels = Array.from({ length: 300 }, (_, i) => ({ key: `e${i}`, code: `E${i}`, name: `entry ${i}`, amount: null }))
    const [site] = sugarBeetDraft.sites
    const design = { ...site!.design, key: 'alpha-lattice', replicates: 2, settings: { blockSize: 10 } }
    const entry = { key: 'entry', name: 'Entry', kind: 'kind' as const, measure: '', of: null, levels }
    const file = await begun({
      ...titled('Three hundred entries'),
      treatments: treatmentsOf([entry]),
      prices: { ...sugarBeetDraft.prices, reference: null },
      sites: [{ ...site!, design }],
    })
    const path = `/api/trials/${file.trial.id}/sites/hazel-bank/layout`
    const heard: { kind: string; share?: number }[] = []
    const listening = new AbortController()
    const stream = await fetch(`${running.address}/api/changes`, { signal: listening.signal })
    const hearing = (async () => {
      for await (const chunk of stream.body!) {
        const text = new TextDecoder().decode(chunk as Uint8Array)
        for (const [, json] of text.matchAll(/data: (.*)/g)) heard.push(JSON.parse(json!) as { kind: string })
        if (heard.some((each) => each.kind === 'search')) await call('POST', `${path}/end`, {})
      }
    })().catch(() => undefined)
    expect((await call('POST', `${path}/end`, {})).body).toEqual({ ended: false })
    const laid = (await call('POST', path, { version: 1, seed: 7 })).body as TrialFile
    listening.abort()
    await hearing
    expect(heard.find((each) => each.kind === 'search')!.share).toBeGreaterThanOrEqual(0)
    expect(laid.events.at(-1)!.what).toMatch(/^Hazel Bank randomised from seed 7; the search was ended at \d+ %$/)
    expect(laid.layouts[0]!.units.filter((unit) => unit.kind === 'plot')).toHaveLength(600)
  })

  it('a remark and a reading taken back do not keep a trial from being laid out anew', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    const plot = file.layouts[0]!.units.find((unit) => unit.walk === 1)!
    const taken = reading(plot.id, 61)
    const remark = {
      type: 'note',
      id: uuidv7(),
      at: taken.at,
      person: PERSON,
      device: 'test',
      unit: plot.id,
      trait: null,
      kind: 'remark',
      flag: null,
      text: 'stony corner',
    }
    const back = {
      type: 'retraction',
      id: uuidv7(),
      at: taken.at,
      person: PERSON,
      device: 'test',
      retracts: taken.id,
      reason: 'wrong plot',
    }
    expect((await call('POST', `${path}/records`, { records: [taken, remark, back] })).status).toBe(200)
    const fewer = (await running.edit(file, 'site:hazel-bank', { 'design.replicates': 2 }, { confirm: true })).body as TrialFile
    expect(fewer.layouts).toEqual([])
    const laid = await call('POST', `${path}/sites/hazel-bank/layout`, { version: 3, seed: 8 })
    expect(laid.status).toBe(200)
    // And the whole, with a remark about a plot that is no more, goes out and comes back.
    const out = await call('GET', `${path}/files/package`)
    expect((await call('POST', '/api/packages?as=copy', new Uint8Array(out.body as ArrayBuffer))).status).toBe(201)
  })

  it('sites come and go by their keys, each laid out by itself', async () => {
    const file = await running.laidOut()
    const path = `/api/trials/${file.trial.id}`
    const [first] = file.trial.sites
    const two = (await running.edit(file, 'sites', { 'lower-quillon': { ...first, key: 'lower-quillon', name: 'Lower Quillon' } }))
      .body as TrialFile
    expect(two.trial.sites.map((site) => site.key)).toEqual(['hazel-bank', 'lower-quillon'])
    const laid = (await call('POST', `${path}/sites/lower-quillon/layout`, { version: 3, seed: 5 })).body as TrialFile
    expect(laid.layouts.map((layout) => layout.siteKey)).toEqual(['hazel-bank', 'lower-quillon'])
    await call('POST', `${path}/records`, { records: [planted('lower-quillon')] })
    expect((await running.edit(laid, 'sites', { 'lower-quillon': null }, { confirm: true })).body).toMatchObject({
      status: 409,
      title: 'Locked',
    })
    const one = (await running.edit(laid, 'sites', { 'hazel-bank': null }, { confirm: true })).body as TrialFile
    expect(one.trial.sites.map((site) => site.key)).toEqual(['lower-quillon'])
  })
})

describe('records', () => {
  it('are saved once however often they are sent, and another body under the same id is a conflict', async () => {
    const { trial, layouts } = await running.laidOut()
    const path = `/api/trials/${trial.id}/records`
    const plot = layouts[0]!.units.find((unit) => unit.walk === 1)!
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

  it('are judged by the trial as it stands, and written under the name of whoever sends them', async () => {
    const { trial, layouts } = await running.laidOut()
    const plot = layouts[0]!.units.find((unit) => unit.walk === 1)!
    const said = async (record: object) =>
      ((await call('POST', `/api/trials/${trial.id}/records`, { records: [record] })).body as Problem).detail
    const stranger = '00000000-0000-7000-8000-00000000beef'
    expect(await said(reading(plot.id, 6, { person: stranger }))).toMatch(/under the name of whoever sends them/)
    expect(await said(reading(plot.id, 6, { observer: stranger }))).toMatch(/observer is not known here/)
    expect(await said(reading(plot.id, 6, { visit: 'spring' }))).toMatch(/“spring” is not a visit/)
    expect(await said(reading(stranger, 6))).toMatch(/not part of this trial’s layout/)
    expect(await said(reading(plot.id, 1e300))).toMatch(/too large to be measured/)
    expect(await said(reading(plot.id, 6, { trait: 'leaf-health' }))).toMatch(/is a score and cannot hold a number/)
    const { people } = (await call('POST', '/api/people', { name: 'Second observer' })).body as { people: { id: string; name: string }[] }
    const second = people.find((each) => each.name === 'Second observer')!
    expect(
      (await call('POST', `/api/trials/${trial.id}/records`, { records: [reading(plot.id, 6, { observer: second.id })] })).status,
    ).toBe(200)
  })

  it('of 50 people at once are all there, each with its own number', async () => {
    const { trial, layouts } = await running.laidOut()
    const plots = layouts[0]!.units.filter((unit) => unit.walk !== null)
    const path = `/api/trials/${trial.id}/records`
    const replies = await Promise.all(
      Array.from({ length: 50 }, (_, i) =>
        call('POST', path, { records: [reading(plots[i % plots.length]!.id, 50 + i, { sample: i + 1 })] }),
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
    const out = await call('GET', `/api/trials/${id}/files/package`)
    expect(Buffer.from(out.body).equals(Buffer.from(bytes))).toBe(true)

    const refused = await call('POST', '/api/packages', bytes)
    expect(refused.body).toMatchObject({ status: 409, title: 'Already here' })
    const copy = await call('POST', '/api/packages?as=copy', bytes)
    expect((copy.body as TrialFile).trial.id).not.toBe(id)
    expect(Buffer.from((await call('GET', `/api/trials/${id}/files/plots`)).body).toString()).toMatch(
      /^site,visit,kind,plot,block,lies_in,treatment/,
    )
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
    ['POST', '/api/trials', titled('x'.repeat(5000)), 422],
    ['POST', '/api/trials', { ...sugarBeetDraft, question: { ...sugarBeetDraft.question, season: 'last year' } }, 422],
    ['POST', '/api/trials', { ...sugarBeetDraft, prices: { ...sugarBeetDraft.prices, reference: 'nobody' } }, 422],
    ['GET', '/api/trials/not-an-id', undefined, 422],
    ['GET', `/api/trials/${uuidv7()}`, undefined, 404],
    ['GET', `/api/trials/${uuidv7()}/files/package`, undefined, 404],
    ['GET', `/api/trials/${uuidv7()}/files/stone-tablet`, undefined, 404],
    ['PATCH', `/api/trials/${uuidv7()}/sections/question`, { version: 1, patch: { title: 'x' } }, 404],
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
