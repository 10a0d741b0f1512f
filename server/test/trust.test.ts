import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { demoTrials } from '@canter/demo'
import { newTrialDraft } from '@canter/core/numbers'
import {
  holding,
  NOTHING_HELD,
  type FieldRecord,
  type RecordOutcome,
  type RecordsReply,
  type TrialFile,
  type TrialSummary,
} from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { backUp, putBack } from '../src/store/backup.ts'
import { StoreProblem } from '../src/store/opening.ts'
import { Store } from '../src/store/store.ts'
import { PERSON, reading, Running } from './running.ts'

let folder: string
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'canter-trust-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

const file = (name: string) => join(folder, name)
const plotOf = (laid: Awaited<ReturnType<Running['laidOut']>>, walk: number) =>
  laid.layouts[0]!.units.find((unit) => unit.walk === walk)!.id

/** A server with a trial laid out and so many readings in it. */
async function measured(readings: number): Promise<{ running: Running; path: string; laid: Awaited<ReturnType<Running['laidOut']>> }> {
  const running = await Running.start(folder)
  const laid = await running.laidOut()
  const path = `/api/trials/${laid.trial.id}/records`
  for (let i = 1; i <= readings; i++) await running.call('POST', path, { records: [reading(plotOf(laid, i), 50 + i)] })
  return { running, path, laid }
}

describe('records', () => {
  it('are judged one by one: a batch with a note too long, a stranger and no record at all keeps the good ones', async () => {
    const { running, path, laid } = await measured(0)
    const plot = plotOf(laid, 1)
    const good = [reading(plot, 61), reading(plotOf(laid, 2), 62)]
    const note = {
      type: 'note',
      id: uuidv7(),
      at: '2026-10-06T08:00:00Z',
      person: PERSON,
      device: 'test',
      unit: plot,
      trait: null,
      kind: 'remark',
      flag: null,
    }
    const sent = await running.call('POST', path, {
      records: [
        good[0],
        { ...note, text: 'wet '.repeat(600) },
        { ...note, id: uuidv7(), text: 'by another', person: uuidv7() },
        { id: 'x' },
        good[1],
      ],
    })
    expect(sent.status).toBe(422)
    const { outcomes } = sent.body as { outcomes: RecordOutcome[] }
    expect(outcomes.map((each) => each.status)).toEqual(['saved', 'refused', 'refused', 'refused', 'saved'])
    expect(outcomes[1]!.detail).toContain('longer than 2000 characters')
    const { records } = (await running.call('GET', path)).body as RecordsReply
    expect(records.map(({ record }) => record.id)).toEqual(good.map((each) => each.id))
    await running.stop(true)
  })

  it('once taken are not refused when the trial has moved on and they are sent again', async () => {
    const { running, path, laid } = await measured(0)
    const remark: FieldRecord = {
      type: 'note',
      id: uuidv7(),
      at: '2026-10-06T08:00:00Z',
      person: PERSON,
      device: 'test',
      unit: plotOf(laid, 1),
      trait: null,
      kind: 'remark',
      flag: null,
      text: 'Wet.',
    }
    await running.call('POST', path, { records: [remark] })
    await running.call('POST', `/api/trials/${laid.trial.id}/sites/hazel-bank/layout`, { version: laid.trial.version, seed: 99 })
    const again = await running.call('POST', path, { records: [remark] })
    expect((again.body as { outcomes: RecordOutcome[] }).outcomes[0]).toMatchObject({ status: 'already' })
    await running.stop(true)
  })

  it('are told with a mark of all that is held up to the cursor, whoever asks from wherever', async () => {
    const { running, path } = await measured(5)
    const whole = (await running.call('GET', path)).body as RecordsReply
    expect(whole.held).toEqual(NOTHING_HELD)
    for (const [i, { seq }] of whole.records.entries()) {
      const { held } = (await running.call('GET', `${path}?after=${seq}`)).body as RecordsReply
      expect(held).toEqual(whole.records.slice(0, i + 1).reduce((mark, { record }) => holding(mark, record.id), NOTHING_HELD))
    }
    await running.stop(true)
  })

  it('taken back and brought back thousands of times do not keep lists from being made', async () => {
    const { running, path } = await measured(1)
    let last = ((await running.call('GET', path)).body as RecordsReply).records[0]!.record.id
    for (let piece = 0; piece < 15; piece++) {
      const records = Array.from({ length: 500 }, (): FieldRecord => {
        const retraction: FieldRecord = {
          type: 'retraction',
          id: uuidv7(),
          at: '2026-10-06T08:00:00Z',
          person: PERSON,
          device: 'test',
          retracts: last,
          reason: 'Undo',
        }
        last = retraction.id
        return retraction
      })
      expect((await running.call('POST', path, { records })).status).toBe(200)
    }
    const { trials } = (await running.call('GET', '/api/trials')).body as { trials: TrialSummary[] }
    // An even number of undos: the reading stands.
    expect(trials[0]!.progress.readings).toBe(1)
    await running.stop(true)
  })
})

describe('a trial that is damaged', () => {
  it('says so in the list, and hides no other', async () => {
    const { running, laid } = await measured(1)
    await running.laidOut()
    await running.application.store.database.query(`UPDATE trial SET traits = '{"observed": 7}', version = 9 WHERE id = '${laid.trial.id}'`)
    const { trials } = (await running.call('GET', '/api/trials')).body as { trials: TrialSummary[] }
    expect(trials).toHaveLength(2)
    expect(trials.filter((each) => each.problem === null)).toHaveLength(1)
    expect(trials.find((each) => each.id === laid.trial.id)!.problem).toContain('The other trials are whole')
    await running.stop(true)
  })
})

describe('a trial on the ground', () => {
  it('has its title and its people changed without a word about the ground, each of the demonstration', async () => {
    const running = await Running.start(folder)
    for (const contents of demoTrials()) {
      const { trial } = await running.application.store.trials.restore(contents)
      const edited = await running.edit({ ...contents, trial } as never, 'question', {
        title: `${trial.question.title} (again)`,
        askedBy: 'Somebody',
      })
      expect(edited).toMatchObject({ status: 200, body: { trial: { question: { title: `${trial.question.title} (again)` } } } })
    }
    await running.stop(true)
  })
})

describe('a package', () => {
  const count = async (store: Store, table: string) =>
    Number(((await store.database.query(`SELECT COUNT(*) AS n FROM ${table}`))[0] as { n: number }[])[0]!.n)
  const guarded = async (store: Store) =>
    expect(store.database.query('DELETE FROM record')).rejects.toMatchObject({
      parent: { message: expect.stringContaining('append-only') as string },
    })

  it('of which a part is here already is taken out again whole, and nobody else loses anything', async () => {
    const store = await Store.open(file('a.sqlite'))
    const [beet, other] = demoTrials()
    await store.trials.restore(beet!)
    const before = [await count(store, 'record'), await count(store, 'event'), await count(store, 'unit'), await count(store, 'trial')]
    // Another trial whose last event is one of the first: all but the end goes in before that is seen.
    const clash = { ...other!, events: [...other!.events, beet!.events.at(-1)!] }
    await expect(store.trials.restore(clash)).rejects.toThrow()
    expect([await count(store, 'record'), await count(store, 'event'), await count(store, 'unit'), await count(store, 'trial')]).toEqual(
      before,
    )
    expect(await count(store, 'arriving')).toBe(0)
    await guarded(store)
    await store.trials.restore(other!)
    expect((await store.records.all(other!.trial.id)).length).toBe(other!.records.length)
    await store.close()
  })

  it('that was cut off half way is there for nobody, and gone when the store is opened again', async () => {
    const first = await Store.open(file('a.sqlite'))
    const [beet, other] = demoTrials()
    await first.trials.restore(beet!)
    await first.trials.restore(other!)
    await first.database.query(`INSERT INTO arriving (trial_id) VALUES ('${other!.trial.id}')`)
    expect((await first.trials.heads(false)).map((each) => each.id)).toEqual([beet!.trial.id])
    await first.close()
    const store = await Store.open(file('a.sqlite'))
    expect((await store.trials.list(false)).map((trial) => trial.id)).toEqual([beet!.trial.id])
    expect(await store.records.all(other!.trial.id)).toEqual([])
    expect(await store.records.all(beet!.trial.id)).toEqual(beet!.records)
    await guarded(store)
    await store.close()
  })
})

describe('a change that takes long', () => {
  it('is not worked out again for readings that say nothing new, and is for those that do', async () => {
    const { running, path, laid } = await measured(1)
    const { store } = running.application
    let performed = 0
    const change = async (record: FieldRecord) => {
      const edit = (file: TrialFile) => {
        const trial = { ...file.trial, version: file.trial.version + 1 }
        return {
          change: { trial, layouts: file.layouts, section: null, what: 'Looked at', before: {}, after: {} },
          kind: 'edited' as const,
          reason: '',
        }
      }
      return store.trials.change(
        laid.trial.id,
        PERSON,
        (file) => {
          performed++
          return edit(file)
        },
        async () => {
          const prepared = (await store.trials.prepare(laid.trial.id, PERSON, edit))!
          expect((await running.call('POST', path, { records: [record] })).status).toBe(200)
          return { ...prepared, changed: JSON.stringify(prepared.changed) }
        },
        true,
      )
    }
    expect(await change(reading(plotOf(laid, 2), 61))).not.toBeNull()
    expect(performed).toBe(0)
    expect(await change(reading(plotOf(laid, 3), 8, { trait: 'dirt-tare' }))).not.toBeNull()
    expect(performed).toBe(1)
    expect((await store.trials.file(laid.trial.id))!.trial.version).toBe(laid.trial.version + 2)
    await running.stop(true)
  })
})

describe('a large layout', () => {
  it('is dealt anew and turned back whole, while readings of another trial come in; what was prepared and not used is gone', async () => {
    const running = await Running.start(folder)
    const draft = newTrialDraft(2026)
    const levels = Array.from({ length: 60 }, (_, i) => ({ key: `l${i}`, code: `T${i}`, name: `T${i}`, amount: i }))
    const list = levels.map(({ key, code, name }) => ({ key, code, name, colour: null, role: 'none', levels: { 'factor-1': key } }))
    const [site] = draft.sites
    const created = await running.call('POST', '/api/trials', {
      ...draft,
      question: { ...draft.question, title: 'Large', crop: 'Beet' },
      treatments: { factors: [{ ...draft.treatments.factors[0], name: 'Rate', levels }], list },
      sites: [{ ...site!, design: { ...site!.design, replicates: 20 } }],
    })
    expect(created.status).toBe(201)
    const { trial } = created.body as TrialFile
    const deal = async (version: number, seed: number) =>
      (await running.call('POST', `/api/trials/${trial.id}/sites/site-1/layout`, { version, seed })).body as TrialFile
    const first = await deal(1, 1)
    const small = await running.laidOut()
    const [second, saved] = await Promise.all([
      deal(2, 2),
      Promise.all(
        Array.from({ length: 10 }, (_, i) =>
          running.call('POST', `/api/trials/${small.trial.id}/records`, { records: [reading(plotOf(small, i + 1), 60)] }),
        ),
      ),
    ])
    expect(saved.map((each) => each.status)).toEqual(saved.map(() => 200))
    const stored = async () => ((await running.call('GET', `/api/trials/${trial.id}`)).body as TrialFile).layouts
    expect(second.layouts).not.toEqual(first.layouts)
    expect(await stored()).toEqual(second.layouts)
    // Worked out beside the thread that answers, and refused in the same words as a small one.
    expect(await running.call('POST', `/api/trials/${trial.id}/sites/site-1/layout`, { version: 2, seed: 3 })).toMatchObject({
      status: 409,
      body: { title: 'Changed meanwhile', current: { trial: { version: second.trial.version } } },
    })
    expect(await running.edit(second, 'treatments', { list: list.slice(1) })).toMatchObject({
      status: 422,
      body: { title: 'To be confirmed' },
    })
    const edited = await running.edit(second, 'question', { why: 'Because.' })
    expect(edited).toMatchObject({ status: 200, body: { trial: { question: { why: 'Because.' } } } })
    expect(await stored()).toEqual(second.layouts)
    const undone = await running.call('POST', `/api/trials/${trial.id}/events/${second.events.at(-1)!.id}/undo`, {})
    expect(undone.status).toBe(200)
    await running.stop(true)

    // From the disk, not from what was remembered.
    const leftover = await Store.open(file('test.sqlite'))
    await leftover.database.query(
      `INSERT INTO unit (id, trial_id, site_key, position, kind, code, planned, received, changes) VALUES ('x', '${trial.id}', '~half', 1, 'plot', '1', '{}', '{}', '{}')`,
    )
    expect((await leftover.trials.file(trial.id))!.layouts).toEqual(first.layouts)
    await leftover.close()
    const again = await Store.open(file('test.sqlite'))
    const [rows] = await again.database.query("SELECT COUNT(*) AS n FROM unit WHERE site_key LIKE '~%'")
    expect(rows).toEqual([{ n: 0 }])
    expect((await again.trials.file(trial.id))!.layouts).toEqual(first.layouts)
    await again.close()
  })
})

describe('backups', () => {
  it('are whole while the server writes, are not written over, and put back count one epoch more', async () => {
    const { running, path, laid } = await measured(2)
    let going = true
    const writing = (async () => {
      for (let i = 0; going; i++) await running.call('POST', path, { records: [reading(plotOf(laid, 3), i)] })
    })()
    const copied = await backUp(file('test.sqlite'), file('copy.sqlite'))
    going = false
    await writing
    expect(copied.trials).toBe(1)
    expect(copied.records).toBeGreaterThanOrEqual(2)
    await expect(backUp(file('test.sqlite'), file('copy.sqlite'))).rejects.toThrow('not written over')
    // While the server has it, it cannot be put back.
    await expect(putBack(file('copy.sqlite'), file('test.sqlite'))).rejects.toThrow('open in another Canter')
    const before = ((await running.call('GET', path)).body as RecordsReply).store
    await running.stop(true)

    const { kept, records } = await putBack(file('copy.sqlite'), file('test.sqlite'))
    expect(records).toBe(copied.records)
    expect(existsSync(kept!)).toBe(true)
    const again = await Running.start(folder)
    const now = (await again.call('GET', path)).body as RecordsReply
    expect(now.store).toEqual({ id: before.id, epoch: before.epoch + 1 })
    expect(now.records).toHaveLength(copied.records)
    await again.stop(true)
  })

  it('of something else are refused, and leave what stands', async () => {
    await (await Store.open(file('good.sqlite'))).close()
    writeFileSync(file('text'), 'no database at all, only words')
    const before = readFileSync(file('good.sqlite'))
    await expect(putBack(file('text'), file('good.sqlite'))).rejects.toThrow(StoreProblem)
    await expect(putBack(file('nowhere'), file('good.sqlite'))).rejects.toThrow('is not there')
    expect(readFileSync(file('good.sqlite')).equals(before)).toBe(true)
  })
})

describe('a database', () => {
  it('is had by one store at a time, under whatever moment the first lets go', async () => {
    const first = await Store.open(file('a.sqlite'))
    await expect(Store.open(file('a.sqlite'))).rejects.toThrow('open in another Canter')
    await first.close()
    await (await Store.open(file('a.sqlite'))).close()
  })

  it('keeps its identity through copies, and has one of its own when it is made', async () => {
    const identity = async (name: string) => {
      const store = await Store.open(file(name))
      const [rows] = await store.database.query('SELECT id, epoch FROM store')
      await store.close()
      return rows[0]
    }
    const a = await identity('a.sqlite')
    copyFileSync(file('a.sqlite'), file('b.sqlite'))
    expect(await identity('b.sqlite')).toEqual(a)
    expect(await identity('c.sqlite')).not.toEqual(a)
  })
})
