import { sugarBeetDraft } from '@canter/demo'
import { bareProduct, type Dose, type Problem, type ShelfItem, type TrialFile } from '@canter/core/trial'
import { packTrial, unpackTrial } from '@canter/core/exchange'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { PERSON, Running } from './running.ts'

let running: Running
beforeAll(async () => void (running = await Running.start()))
afterAll(() => running.stop())
const call = (...args: Parameters<Running['call']>) => running.call(...args)
const product = (name: string) => ({ kind: 'product' as const, name, body: { ...bareProduct(name), analysis: { N: 46 } } })
const onShelf = async () => ((await call('GET', '/api/shelf')).body as { items: ShelfItem[] }).items

describe('the shelf', () => {
  it('keeps what two people change of one thing at once, field by field, and says what is wrong', async () => {
    const item = (await call('POST', '/api/shelf', product('Urea'))).body as ShelfItem
    const path = `/api/shelf/${item.id}`
    await Promise.all([
      call('PATCH', path, { body: { labelMaximumPerSeason: 300 } }),
      call('PATCH', path, { body: { protection: 'gloves' } }),
      call('PATCH', path, { name: 'Urea, prilled', body: { product: 'Urea, prilled' } }),
    ])
    expect((await onShelf()).find((each) => each.id === item.id)).toMatchObject({
      name: 'Urea, prilled',
      body: { product: 'Urea, prilled', analysis: { N: 46 }, labelMaximumPerSeason: 300, protection: 'gloves' },
    })
    const wrong = await call('PATCH', path, { body: { analysis: { N: 146 } } })
    expect([wrong.status, (wrong.body as Problem).detail]).toEqual([422, expect.stringContaining('at most 100 %')])
    await call('POST', '/api/shelf', product('Gypsum'))
    expect((await call('PATCH', path, { name: 'Gypsum' })).status).toBe(409)
    expect((await call('DELETE', path, undefined)).status).toBe(200)
    expect((await onShelf()).map((each) => each.name)).toEqual(['Gypsum'])
    expect((await call('DELETE', path, undefined)).status).toBe(404)
    expect((await call('PATCH', path, { body: {} })).status).toBe(404)
  })

  it('changes no trial that took something from it', async () => {
    const item = (await call('POST', '/api/shelf', product('Liquid feed'))).body as Extract<ShelfItem, { kind: 'product' }>
    const dose: Dose = { key: 'd1', to: null, product: 'feed', of: 'N', amount: 30, measure: 'kg/ha', per: 'unit', carrier: null, carrierToAll: false, placement: 'broadcast', depth: null, band: null, parts: [{ when: 'at sowing', on: null, share: 100 }], reason: '' } // prettier-ignore
    const amounts = { ...sugarBeetDraft.amounts, products: [{ ...item.body, key: 'feed' }], doses: [dose] }
    const begun = (await call('POST', '/api/trials', { ...sugarBeetDraft, amounts })).body as TrialFile
    await call('PATCH', `/api/shelf/${item.id}`, { body: { analysis: { N: 20 } } })
    const path = `/api/trials/${begun.trial.id}`
    const standing = (await call('GET', path)).body as TrialFile
    expect(standing.trial.amounts.products![0]!.analysis).toEqual({ N: 46 })

    // What is put on and what went out go with the trial: into its package and back, and are turned back as an edit.
    const actual = [{ key: 'o1', site: 'hazel-bank', dose: 'd1', part: 0, level: null, share: 93, how: 'emptied' as const, on: '2026-04-03', note: '', sheet: null }] // prettier-ignore
    const out = (await running.edit(standing, 'amounts', { actual })).body as TrialFile
    const packed = packTrial({ ...out, records: [], people: [{ id: PERSON, name: 'Somebody' }] })
    const back = unpackTrial(packed)
    expect(back.trial.amounts).toEqual(out.trial.amounts)
    const undone = (await call('POST', `${path}/events/${out.events.at(-1)!.id}/undo`, {})).body as TrialFile
    expect([undone.trial.amounts.actual ?? null, undone.trial.amounts.doses]).toEqual([null, [dose]])
  })
})
