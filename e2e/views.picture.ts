import { fileURLToPath } from 'node:url'
import { expect, test } from './serve.ts'

const BEET = '/trials/0195a87b-2e80-70ec-9bdb-b154bff31c0a'
const ONE_SITE = '/trials/019d0a79-1280-7a47-ba7d-4216a351a6d3'
const CARROTS = '/trials/019cadc6-9a80-7682-b029-3b1e30755c4d'
const POTS = '/trials/019c65ad-9280-7591-a8c8-70f6f2b4e15b'
/** As somebody kept it: an odd spelling, a gap. */
const ELSEWHERE = `plot,block,N rate (kg/ha),variety,yield (t/ha)
101,1,0,Bracken,5.2\n102,1,80,Bracken,6.9\n103,1,80,Sedge,6.4\n104,1,0,Sedge,4.8
201,2,80,bracken,7.1\n202,2,0,Sedge,5.0\n203,2,0,Bracken,-\n204,2,80,Sedge,6.2
301,3,0,Bracken,5.4\n302,3,0,Sedge,4.9\n303,3,80,Brackn,7.0\n304,3,80,Sedge,6.6
401,4,80,Bracken,7.4\n402,4,80,Sedge,6.3\n403,4,0,Sedge,4.6\n404,4,0,Bracken,5.6`
const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url))

test('the main views', async ({ page, demo }) => {
  const take = async (name: string, path: string) => {
    await page.goto(demo.url + path)
    // An answer may still be to come when the first words are there.
    await page.waitForLoadState('networkidle')
    await page.waitForTimeout(800)
    await expect(page.getByText(/Working (it )?out|^Opening/)).toHaveCount(0, { timeout: 60_000 })
    await page.waitForTimeout(1200)
    await page.screenshot({ path: `${folder}${name}.png` })
  }
  await take('week', '/')
  await take('new-trial', '/trials/new')
  await take('ground', `${ONE_SITE}/ground`)
  for (const step of ['question', 'amounts', 'walk', 'numbers', 'results', 'decision']) await take(step, `${BEET}/${step}`)
  await take('split-plot-results', `${CARROTS}/results`)
  await take('shelf', '/shelf')
  await take('over-visits', `${POTS}/results?trait=height&visits=all`)
  await page.goto(`${demo.url}/trials/import`)
  await page.getByLabel(/Or paste it/).fill(ELSEWHERE)
  await page.getByRole('button', { name: 'Read what is pasted' }).click()
  await page.getByLabel('Title').fill('Oats: nitrogen for two varieties')
  await page.getByLabel('Crop').fill('Oats')
  await page.waitForTimeout(800)
  await page.screenshot({ path: `${folder}from-spreadsheet.png` })
  await page.setViewportSize({ width: 900, height: 1270 })
  await take('report', `${BEET}/report`)
  await take('mixing-sheet', `${POTS}/sheet`)
  await take('stakes', `${CARROTS}/stakes`)
  await take('water-plan', `${CARROTS}/water`)
  await take('plan-on-paper', `${ONE_SITE}/plan`)
  await page.setViewportSize({ width: 390, height: 800 })
  await take('walk-phone', `${BEET}/walk`)
})
