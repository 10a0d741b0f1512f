import type { RecordsReply } from '@canter/core/trial'
import { expect, test, type Server } from './serve.ts'

/** The oats of the demonstration, whose last eight moistures are still to come. */
const OATS = '019cdc1f-d680-7865-9f0c-dfa2a99af052'

async function readingsOnServer(server: Server): Promise<number> {
  const reply = (await (await fetch(`${server.url}/api/trials/${OATS}/records`)).json()) as RecordsReply
  return reply.records.filter(({ record }) => record.type === 'reading').length
}

test.describe('on a phone', () => {
  test.use({ viewport: { width: 390, height: 800 }, hasTouch: true, isMobile: true })

  test('plots are walked with big targets, and an odd value is asked about', async ({ page, demo }) => {
    await page.goto(`${demo.url}/trials/${OATS}/walk`)
    await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
    const small = await page.locator('main button:visible, main input:visible').evaluateAll((targets) =>
      targets
        .filter((target) => !target.closest('table, .mantine-SegmentedControl-root'))
        .map((target) => ({ name: target.getAttribute('aria-label') ?? target.textContent, height: target.getBoundingClientRect().height }))
        .filter((each) => each.height < 47.5),
    )
    expect(small).toEqual([])
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)
    expect(wide).toBeLessThanOrEqual(0)

    const moisture = page.getByLabel('Grain moisture', { exact: true })
    await moisture.fill('41')
    await moisture.press('Enter')
    await expect(page.getByText('41 % is outside what is plausible')).toBeVisible()
    await expect(page.getByRole('button', { name: 'Next plot' })).toBeDisabled()
    await page.getByRole('button', { name: 'It is right' }).click()
    await expect(page.getByTestId('walk-progress')).toHaveText('61 of 72 plots done')
    await page.getByRole('button', { name: 'Flag, note or what happened' }).click()
    await page.getByRole('button', { name: 'washed out' }).click()
    await page.getByRole('button', { name: 'Keep it' }).click()
    await expect(page.getByText('washed out: washed out')).toBeVisible()
    await page.getByRole('button', { name: 'Show the plan' }).click()
    await expect(page.getByRole('listbox', { name: /^Plan of Hazel Bank/ })).toBeVisible()
  })
})

test('a dead server and a reload in mid-entry lose nothing', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  // The pages are kept on the device once the service worker has them.
  await page.evaluate(() => navigator.serviceWorker.ready.then(() => undefined))
  await expect.poll(() => page.evaluate(async () => (await caches.keys()).length)).toBeGreaterThan(0)
  await page.reload()
  const before = await readingsOnServer(demo)

  await demo.kill()
  const moisture = page.getByLabel('Grain moisture', { exact: true })
  for (const [i, value] of ['13.1', '13.2', '13.3'].entries()) {
    const plot = await page.getByTestId('walk-plot').textContent()
    await moisture.fill(value)
    await moisture.press('Enter')
    await expect(page.getByTestId('walk-plot')).not.toHaveText(plot!)
    await expect(page.getByTestId('walk-progress')).toHaveText(`${61 + i} of 72 plots done`)
  }
  await expect(page.getByTestId('send-state')).toHaveText('3 records on this device, not yet sent')
  await page.reload()
  await expect(page.getByTestId('walk-progress')).toHaveText('63 of 72 plots done')
  await expect(page.getByTestId('send-state')).toHaveText('3 records on this device, not yet sent')

  await demo.run()
  await expect(page.getByTestId('send-state')).toHaveText('All saved', { timeout: 40_000 })
  expect(await readingsOnServer(demo)).toBe(before + 3)
})

test('a value the device cannot keep stays in its field, and says so', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  const before = await readingsOnServer(demo)
  await page.evaluate(() => {
    const whole = Object.getOwnPropertyDescriptor(IDBObjectStore.prototype, 'put')!
    IDBObjectStore.prototype.put = () => {
      throw new DOMException('The disk is full.', 'QuotaExceededError')
    }
    Object.assign(window, { mend: () => Object.defineProperty(IDBObjectStore.prototype, 'put', whole) })
  })
  const plot = await page.getByTestId('walk-plot').textContent()
  const moisture = page.getByLabel('Grain moisture', { exact: true })
  await moisture.fill('13.4')
  await moisture.press('Enter')
  await expect(page.getByRole('alert')).toContainText('Not kept. This device could not keep it')
  await expect(moisture).toHaveValue('13.4')
  await expect(page.getByTestId('walk-plot')).toHaveText(plot!)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  expect(await readingsOnServer(demo)).toBe(before)
  await page.evaluate(() => (window as unknown as { mend: () => unknown }).mend())
  await moisture.press('Enter')
  await expect(page.getByTestId('walk-progress')).toHaveText('61 of 72 plots done')
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
  expect(await readingsOnServer(demo)).toBe(before + 1)
})

test('a scale that types faster than the device keeps gives each plot its own value', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${OATS}/walk`)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  const first = await page.getByTestId('walk-plot').textContent()
  await expect(page.getByLabel('Grain moisture', { exact: true })).toBeFocused()
  for (const key of ['13.1', '13.2', '13.3', '13.4'].flatMap((value) => [...value, 'Enter'])) await page.keyboard.press(key)
  await expect(page.getByTestId('walk-progress')).toHaveText('64 of 72 plots done')
  await page.keyboard.press('PageUp')
  for (const value of ['13.4', '13.3', '13.2', '13.1']) {
    await expect(page.getByLabel('Grain moisture', { exact: true })).toHaveValue(value)
    await page.keyboard.press('PageUp')
  }
  await page.keyboard.press('PageDown')
  await expect(page.getByTestId('walk-plot')).toHaveText(first!)
})

test('a value entered on two devices is shown as such and settled by a person', async ({ page, demo, browser }) => {
  const url = `${demo.url}/trials/${OATS}/walk`
  await page.goto(url)
  await expect(page.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
  await other.goto(url)
  await expect(other.getByTestId('walk-progress')).toHaveText('60 of 72 plots done')
  await other.route('**/records', (route) => (route.request().method() === 'POST' ? route.abort() : route.continue()))
  for (const [on, value] of [
    [other, '13.9'],
    [page, '13.4'],
  ] as const) {
    const field = on.getByLabel('Grain moisture', { exact: true })
    await field.fill(value)
    await field.press('Enter')
    await expect(on.getByTestId('walk-progress')).toHaveText('61 of 72 plots done')
  }
  await other.unroute('**/records')
  await page.goto(`${demo.url}/trials/${OATS}/numbers`)
  await expect(page.getByText('Grain moisture was entered twice')).toBeVisible({ timeout: 20_000 })
  await page.getByRole('listitem').filter({ hasText: 'entered twice' }).getByRole('button').click()
  await page.getByRole('link', { name: /^Walk/ }).click()
  await page.getByRole('button', { name: /^13.4 %/ }).click()
  await expect(page.getByText('Entered twice.')).toBeHidden()
})
