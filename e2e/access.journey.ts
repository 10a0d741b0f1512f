import { AxeBuilder } from '@axe-core/playwright'
import { expect, test } from './serve.ts'

const BEET = '/trials/019d0a79-1280-7a47-ba7d-4216a351a6d3'
const CARROTS = '/trials/019cadc6-9a80-7682-b029-3b1e30755c4d'
const POTS = '/trials/019c65ad-9280-7591-a8c8-70f6f2b4e15b'
const STEPS = ['question', 'ground', 'amounts', 'walk', 'numbers', 'results', 'decision']
const PAGES = [
  '/',
  '/trials/new',
  '/trials/import',
  '/shelf',
  ...[...STEPS, 'sheet', 'report'].map((step) => `${BEET}/${step}`),
  `${CARROTS}/results`,
  `${POTS}/walk`,
  `${POTS}/numbers`,
]

for (const scheme of ['light', 'dark'] as const) {
  test(`no serious barrier on any page, ${scheme}`, async ({ page, demo }) => {
    await page.emulateMedia({ colorScheme: scheme })
    for (const path of PAGES) {
      await page.goto(demo.url + path)
      await expect(page.locator('#main')).not.toHaveAttribute('aria-busy', 'true')
      await page.waitForLoadState('networkidle').catch(() => undefined)
      await expect(page.getByText(/Working it out|^Opening|One moment/)).toHaveCount(0)
      const { violations } = await new AxeBuilder({ page }).analyze()
      const serious = violations.filter((each) => each.impact === 'serious' || each.impact === 'critical')
      expect(
        serious.map(
          (each) =>
            `${path}: ${each.id}: ${each.nodes
              .map((node) => node.target.join(' '))
              .slice(0, 4)
              .join(' | ')}`,
        ),
      ).toEqual([])
    }
  })
}

test('no page asks anything of another machine', async ({ page, demo }) => {
  const elsewhere: string[] = []
  page.on('request', (request) => {
    const url = new URL(request.url())
    if (url.protocol.startsWith('http') && url.origin !== demo.url) elsewhere.push(request.url())
  })
  for (const path of PAGES) {
    await page.goto(demo.url + path)
    await page.waitForTimeout(300)
  }
  expect(elsewhere).toEqual([])
})
