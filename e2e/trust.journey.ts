import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { RecordsReply, TrialFile } from '@canter/core/trial'
import type { Page } from '@playwright/test'
import { expect, test, type Server } from './serve.ts'

/** The oats of the demonstration, whose last eight moistures are still to come. */
const OATS = '019cdc1f-d680-7865-9f0c-dfa2a99af052'
/** Whoever sits at this desk. */
const LOCAL = '00000000-0000-7000-8000-000000000001'
const canter = fileURLToPath(new URL('../cli/bin/canter.js', import.meta.url))

const file = async ({ url }: Server): Promise<TrialFile> => (await (await fetch(`${url}/api/trials/${OATS}`)).json()) as TrialFile
const records = async ({ url }: Server): Promise<RecordsReply['records']> =>
  ((await (await fetch(`${url}/api/trials/${OATS}/records`)).json()) as RecordsReply).records

async function enter(page: Page, value: string): Promise<void> {
  const plot = await page.getByTestId('walk-plot').textContent()
  await page.getByLabel('Grain moisture', { exact: true }).fill(value)
  await page.getByLabel('Grain moisture', { exact: true }).press('Enter')
  await expect(page.getByTestId('walk-plot')).not.toHaveText(plot!)
}

async function change(page: Page, label: string, value: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(value)
  await page.getByLabel(label, { exact: true }).blur()
}

test('undo and “Take mine” change what one changed, and leave what another changed meanwhile', async ({ page, demo, browser }) => {
  // Without a service worker, which would ask past what is closed to the page below.
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, serviceWorkers: 'block' })).newPage()
  for (const each of [page, other]) await each.goto(`${demo.url}/trials/${OATS}/question`)
  await change(page, 'Asked by', 'The growers’ circle')
  await expect.poll(async () => (await file(demo)).trial.question.askedBy).toBe('The growers’ circle')
  await change(other, 'Paid by', 'The mill')
  await expect.poll(async () => (await file(demo)).trial.question.paidBy).toBe('The mill')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => (await file(demo)).trial.question.askedBy).not.toBe('The growers’ circle')
  expect((await file(demo)).trial.question.paidBy).toBe('The mill')

  // One page no longer hears of changes, as without a signal: it writes against what it last saw.
  await other.route(`**/api/trials/${OATS}`, (route) => (route.request().method() === 'GET' ? route.abort() : route.continue()))
  await change(page, 'Why', 'Which line stands in a dry year?')
  await change(page, 'Ground lent by', 'The school farm')
  await expect.poll(async () => (await file(demo)).trial.question.hostedBy).toBe('The school farm')
  await change(other, 'Why', 'Which line the mill will take')
  await expect(other.getByRole('dialog', { name: 'Changed elsewhere meanwhile' })).toContainText('Which line stands in a dry year?')
  await other.getByRole('button', { name: 'Take mine' }).click()
  await expect.poll(async () => (await file(demo)).trial.question.why).toBe('Which line the mill will take')
  expect((await file(demo)).trial.question.hostedBy).toBe('The school farm')
})

test('a backup put back loses nothing that a device still has', async ({ page, demo }) => {
  const copy = join(demo.folder, 'copy.sqlite')
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  const before = (await records(demo)).length
  // While the server works on it.
  expect(execFileSync(process.execPath, [canter, 'backup', demo.database, copy], { encoding: 'utf8' })).toContain('opened and counted')
  for (const value of ['13.1', '13.2', '13.3']) await enter(page, value)
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
  await expect.poll(async () => (await records(demo)).length).toBe(before + 3)

  await page.goto('about:blank')
  await demo.kill()
  execFileSync(process.execPath, [canter, 'restore', copy, demo.database])
  await demo.run()
  const held = await records(demo)
  expect(held).toHaveLength(before)
  // Another device has gone on meanwhile: the place this one last heard of is passed.
  const last = held.at(-1)!.record
  for (let i = 1; i <= 5; i++) {
    const note = {
      type: 'note',
      id: `00000000-0000-7000-9000-00000000000${i}`,
      at: last.at,
      person: LOCAL,
      device: 'another',
      unit: null,
      trait: null,
      kind: 'remark',
      flag: null,
      text: `Remark ${i}`,
    }
    const sent = await fetch(`${demo.url}/api/trials/${OATS}/records`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ records: [note] }),
    })
    expect(sent.status).toBe(200)
  }
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect.poll(async () => (await records(demo)).length, { timeout: 15_000 }).toBe(before + 8)
  await expect(page.getByTestId('walk-progress')).toHaveText('63 of 72 plots done')
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
})

test('a page left open catches up by itself after a break', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  await demo.kill()
  await enter(page, '13.1')
  await expect(page.getByTestId('send-state')).toContainText('1 record on this device')
  await demo.run()
  await expect(page.getByTestId('send-state')).toHaveText('All saved', { timeout: 5000 })
})

test('eight pages of one browser all load, and each hears of a change, also when the one that listened is closed', async ({
  page,
  demo,
}) => {
  const pages = [page]
  while (pages.length < 8) pages.push(await page.context().newPage())
  for (const each of pages) {
    await each.goto(`${demo.url}/trials/${OATS}/ground`)
    await expect(each.getByRole('heading', { name: /^Oats/ })).toBeVisible()
  }
  // Somebody at another desk: nothing goes from page to page within this browser.
  const retitle = async (title: string) => {
    const { trial } = await file(demo)
    const sent = await fetch(`${demo.url}/api/trials/${OATS}/sections/question`, {
      method: 'PATCH',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ version: trial.versions['question'], patch: { title }, reason: '' }),
    })
    expect(sent.status).toBe(200)
  }
  await retitle('Oats at another desk')
  for (const each of pages) await expect(each.getByRole('heading', { name: 'Oats at another desk' })).toBeVisible()
  await page.close()
  await pages[1]!.waitForTimeout(1500)
  await retitle('Oats once more')
  for (const each of pages.slice(1)) await expect(each.getByRole('heading', { name: 'Oats once more' })).toBeVisible({ timeout: 5000 })
})

test('home and every trial opened before are there with the server dead', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  await page.goto(demo.url)
  await expect(page.getByRole('link', { name: /^Oats/ })).toBeVisible()
  await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined))
  await expect.poll(() => page.evaluate(async () => (await caches.keys()).length)).toBeGreaterThan(0)
  await page.reload()
  await demo.kill()
  await page.reload()
  await page.getByRole('link', { name: /^Oats/ }).click()
  await expect(page.getByRole('heading', { name: /^Oats/ })).toBeVisible()
  await page.getByRole('link', { name: /^Numbers/ }).click()
  await expect(page.getByTestId('values')).toBeVisible()
})

test('a note that is too long takes nothing with it, and can be mended', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  const before = (await records(demo)).length
  await demo.kill()
  await enter(page, '13.1')
  // As a device of an older version may have kept it.
  await page.evaluate(
    async ([trial, local]) => {
      const open = await new Promise<IDBDatabase>((resolve) => {
        const asked = indexedDB.open('canter')
        asked.onsuccess = () => resolve(asked.result)
      })
      const store = open.transaction('records', 'readwrite').objectStore('records')
      const rows = await new Promise<{ record: Record<string, unknown> }[]>((resolve) => {
        const asked = store.getAll()
        asked.onsuccess = () => resolve(asked.result as { record: Record<string, unknown> }[])
      })
      const { record } = rows.find((row) => row.record['type'] === 'reading')!
      const id = '00000000-0000-7000-9000-0000000000aa'
      const note = {
        type: 'note',
        id,
        at: record['at'],
        person: local,
        device: 'old',
        unit: record['unit'],
        trait: null,
        kind: 'remark',
        flag: null,
        text: 'wet '.repeat(600),
      }
      store.put({ id, trial, record: note, state: 'waiting', problem: '' })
      open.close()
    },
    [OATS, LOCAL] as const,
  )
  await enter(page, '13.2')
  await demo.run()
  await expect(page.getByText('was not taken')).toBeVisible({ timeout: 15_000 })
  await expect.poll(async () => (await records(demo)).length).toBe(before + 2)
  await page.getByLabel('Mend the text').fill('Wet where the track crosses.')
  await page.getByRole('button', { name: 'Send it mended' }).click()
  await expect.poll(async () => (await records(demo)).length).toBe(before + 3)
  await expect(page.getByText('was not taken')).toBeHidden()
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
})
