import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { sugarBeetDraft } from '@canter/demo'
import { Person, Trial, TrialEvent, Unit, type RecordsReply, type TrialFile } from '@canter/core/trial'
import { QueryTypes } from 'sequelize'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { Store } from '../src/store/store.ts'
import { reading, Running } from './running.ts'

let folder: string
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'canter-store-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

describe('the store', () => {
  it('has a column for every field of the vocabulary', async () => {
    const store = await Store.open(join(folder, 'a.sqlite'))
    const columns = async (table: string) => Object.keys(await store.database.getQueryInterface().describeTable(table))
    const snake = (keys: string[]) => keys.map((key) => key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`))
    expect((await columns('trial')).sort()).toEqual(snake(Object.keys(Trial.shape)).sort())
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
    const { trial } = await store.trials.create(sugarBeetDraft)
    await expect(store.database.query(`DELETE FROM event WHERE trial_id = '${trial.id}'`)).rejects.toMatchObject({
      parent: { message: expect.stringContaining('append-only') as string },
    })
    await expect(
      store.queue.run((transaction) => store.models.layout.create({ trialId: 'nobody', siteKey: 'x', structure: {} }, { transaction })),
    ).rejects.toThrow(/FOREIGN KEY/)
    await store.close()
  })

  it('a write that fails takes no other write of its batch with it', async () => {
    const store = await Store.open(join(folder, 'c.sqlite'))
    const results = await Promise.allSettled([
      store.trials.create({ ...sugarBeetDraft, title: 'One' }),
      store.queue.run(async (transaction) => {
        await store.models.person.create(
          { id: 'half', name: 'Half written', units: 'metric', shortcuts: true, theme: 'auto' },
          { transaction },
        )
        throw new Error('on purpose')
      }),
      store.trials.create({ ...sugarBeetDraft, title: 'Two' }),
    ])
    expect(results.map((each) => each.status)).toEqual(['fulfilled', 'rejected', 'fulfilled'])
    expect((await store.trials.list(false)).map((trial) => trial.title).sort()).toEqual(['One', 'Two'])
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
    const { layout } = (await send(`/api/trials/${trial.id}/layout`, { version: 1, seed: 1, reason: '' })) as TrialFile
    const plot = layout!.units.find((unit) => unit.walk === 1)!
    const acknowledged: string[] = []
    const sending = Array.from({ length: 60 }, async (_, i) => {
      const record = reading(plot.id, i, { replicate: i + 1 })
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
