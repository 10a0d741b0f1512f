import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { gunzipSync } from 'node:zlib'
import { checkTrial } from '@canter/core/document'
import { unpackTrial } from '@canter/core/exchange'
import { sugarBeetDraft } from '@canter/demo'
import { Person, Site, Trial, TrialEvent, Unit, type RecordsReply, type TrialFile } from '@canter/core/trial'
import { QueryTypes } from 'sequelize'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { LOCAL_PERSON } from '../src/store/people.ts'
import { Store } from '../src/store/store.ts'
import { reading, Running } from './running.ts'

const titled = (title: string) => ({ ...sugarBeetDraft, question: { ...sugarBeetDraft.question, title } })

let folder: string
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'canter-store-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

describe('the store', () => {
  it('has a column for every field of the vocabulary', async () => {
    const store = await Store.open(join(folder, 'a.sqlite'))
    const columns = async (table: string) => Object.keys(await store.database.getQueryInterface().describeTable(table))
    const snake = (keys: string[]) => keys.map((key) => key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`))
    // Sites have a table of their own.
    expect((await columns('trial')).sort()).toEqual(snake(Object.keys(Trial.shape).filter((key) => key !== 'sites')).sort())
    expect((await columns('site')).sort()).toEqual([...snake(Object.keys(Site.shape)), 'position', 'trial_id'].sort())
    expect((await columns('person')).sort()).toEqual(snake(Object.keys(Person.shape)).sort())
    expect(await columns('event')).toEqual(expect.arrayContaining(snake(Object.keys(TrialEvent.shape))))
    // Membership has a table of its own: a unit belongs to any number of others.
    expect(await columns('unit')).toEqual(expect.arrayContaining(snake(Object.keys(Unit.shape).filter((key) => key !== 'in'))))
    await store.close()
  })

  it('keeps foreign keys, write-ahead log and full sync on every connection, and records append-only', async () => {
    const store = await Store.open(join(folder, 'b.sqlite'))
    const pragma = async (name: string) =>
      Object.values((await store.database.query(`PRAGMA ${name}`, { type: QueryTypes.SELECT }))[0]!)[0] as unknown
    expect([await pragma('foreign_keys'), await pragma('journal_mode'), await pragma('synchronous')]).toEqual([1, 'wal', 2])
    const inTransaction = await store.queue.run((transaction) =>
      store.database.query('PRAGMA foreign_keys', { transaction, type: QueryTypes.SELECT }),
    )
    expect(inTransaction).toEqual([{ foreign_keys: 1 }])
    const { trial } = await store.trials.create(sugarBeetDraft, LOCAL_PERSON)
    await expect(store.database.query(`DELETE FROM event WHERE trial_id = '${trial.id}'`)).rejects.toMatchObject({
      parent: { message: expect.stringContaining('append-only') as string },
    })
    await expect(
      store.queue.run((transaction) =>
        store.models.layout.create({ trialId: 'nobody', siteKey: 'x', structure: {} as never }, { transaction }),
      ),
    ).rejects.toThrow(/FOREIGN KEY/)
    await store.close()
  })

  it('brings a store of the first shape up to date: the same trials, plots, readings and history', async () => {
    const file = join(folder, 'old.sqlite')
    writeFileSync(file, gunzipSync(readFileSync(new URL('../fixtures/store-001.sqlite.gz', import.meta.url))))
    const store = await Store.open(file)
    const trials = await store.trials.list(false)
    expect(trials.map((trial) => trial.question.title).sort()).toEqual([
      'Leek transplants: phosphorus at planting',
      'Oats: eight lines for light land',
      'Straw mulch depth under young hedging',
      'Sugar beet: how much nitrogen pays?',
    ])
    for (const { id } of trials) {
      const opened = (await store.trials.file(id))!
      expect(checkTrial(opened.trial, opened.layouts)).toEqual([])
      const name = { Leek: 'leek', Oats: 'oats', 'Sugar beet': 'sugar-beet' }[opened.trial.question.crop] ?? 'hedging-hornbeam'
      const packed = readFileSync(new URL(`../../core/fixtures/packages/schema-1-${name}.zip`, import.meta.url))
      // The store and the package of one day are upgraded to the same trial.
      const { trial, layouts, records } = unpackTrial(packed)
      expect(opened.trial).toEqual(trial)
      expect(opened.layouts).toEqual(layouts)
      expect(await store.records.all(id)).toEqual(records)
    }
    await expect(store.database.query('DELETE FROM record')).rejects.toMatchObject({
      parent: { message: expect.stringContaining('append-only') as string },
    })
    await store.close()
    await (await Store.open(file)).close()
  })

  it('a write that fails takes no other write of its batch with it', async () => {
    const store = await Store.open(join(folder, 'c.sqlite'))
    const results = await Promise.allSettled([
      store.trials.create(titled('One'), LOCAL_PERSON),
      store.queue.run(async (transaction) => {
        await store.models.person.create(
          { id: 'half', name: 'Half written', units: 'metric', shortcuts: true, theme: 'auto' },
          { transaction },
        )
        throw new Error('on purpose')
      }),
      store.trials.create(titled('Two'), LOCAL_PERSON),
    ])
    expect(results.map((each) => each.status)).toEqual(['fulfilled', 'rejected', 'fulfilled'])
    expect((await store.trials.list(false)).map((trial) => trial.question.title).sort()).toEqual(['One', 'Two'])
    expect(await store.models.person.findByPk('half')).toBeNull()
    await store.close()
  })

  it('every acknowledged reading is there after the process is killed', async () => {
    const main = fileURLToPath(new URL('./serve-for-kill.ts', import.meta.url))
    const child = spawn(process.execPath, ['--import', 'tsx', '--conditions', 'source', main, join(folder, 'test.sqlite')], {
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    const address = await new Promise<string>((resolve) => child.stdout.once('data', (data: Buffer) => resolve(data.toString().trim())))
    const send = async (path: string, body: unknown) =>
      await (
        await fetch(address + path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
      ).json()
    const { trial } = (await send('/api/trials', sugarBeetDraft)) as TrialFile
    const { layouts } = (await send(`/api/trials/${trial.id}/sites/hazel-bank/layout`, { version: 1, seed: 1 })) as TrialFile
    const plot = layouts[0]!.units.find((unit) => unit.walk === 1)!
    const acknowledged: string[] = []
    const sending = Array.from({ length: 60 }, async (_, i) => {
      const record = reading(plot.id, i, { sample: i + 1 })
      await send(`/api/trials/${trial.id}/records`, { records: [record] }).then(
        () => acknowledged.push(record.id),
        () => undefined,
      )
      if (acknowledged.length === 20) child.kill('SIGKILL')
    })
    await Promise.all(sending)
    const running = await Running.start(folder)
    const kept = ((await running.call('GET', `/api/trials/${trial.id}/records`)).body as RecordsReply).records.map((each) => each.record.id)
    expect(acknowledged.length).toBeGreaterThanOrEqual(20)
    expect(kept).toEqual(expect.arrayContaining(acknowledged))
    await running.stop(true)
  })
})
