import { fitOf } from '@canter/core/ground'
import type { Point, ShelfItem, TrialFile, Unit } from '@canter/core/trial'
import type { Page } from '@playwright/test'
import { beginTrial, choose, commit, fileOf, layOutSite, takeDesign, trialIn } from './kit.ts'
import { expect, test, type Server } from './serve.ts'

const tool = (page: Page, name: string) => page.getByRole('toolbar', { name: 'Tools of the plan' }).getByRole('button', { name }).click()

/** Where a place of the site is on the screen, by a plot whose place is known. */
async function onScreen(page: Page, [unit]: readonly Unit[]): Promise<(place: Point) => { x: number; y: number }> {
  const box = (await page.locator(`[data-unit="${unit!.id}"] rect`).first().boundingBox())!
  const place = unit!.place!
  const perMetre = box.width / place.width
  return ([x, y]) => ({
    x: box.x + (x - place.x) * perMetre,
    y: box.y + box.height - (y - place.y) * perMetre,
  })
}

const plotsOf = async (server: Server, page: Page): Promise<Unit[]> => {
  const { layouts } = await fileOf(server, trialIn(page))
  return layouts[0]!.units.filter((unit) => unit.kind === 'plot').sort((a, b) => a.walk! - b.walk!)
}
const groundOf = async (server: Server, page: Page) => (await fileOf(server, trialIn(page))).trial.sites[0]!.ground

async function drag(page: Page, from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 4 })
  await page.mouse.move(to.x, to.y, { steps: 4 })
  await page.mouse.up()
}

test('a site placed with a slope arrow and a wet corner, its groups moved, its plots numbered and swapped', async ({ page, empty }) => {
  await beginTrial(page, empty, 'On a slope', 'Sugar beet')
  await page.getByRole('button', { name: 'How much of one thing?' }).click()
  await choose(page, 'Rates of', 'Nitrogen (N)')
  await commit(page, 'Levels, kg/ha', '0 40 80 120')
  await commit(page, 'Replicates (blocks)', '4')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await expect(page).toHaveURL(/\/ground$/)
  await takeDesign(page, 'Complete blocks')
  await layOutSite(page, '7')
  const misfit = page.getByTestId('misfit')

  // Blocks stacked away from the front edge; the slope runs along it: blocks are laid across.
  let plots = await plotsOf(empty, page)
  let at = await onScreen(page, plots)
  await tool(page, 'Draw what changes across the ground')
  const { border } = await groundOf(empty, page)
  const right = Math.max(...plots.map(({ place }) => place!.x + place!.width))
  await drag(page, at([border, 1]), at([right, 1]))
  await expect(page.getByTestId('along-gradient')).toContainText('Along the arrow plots of one block lie up to')
  await page.getByRole('button', { name: 'Lay blocks across it' }).click()
  await expect(page.getByTestId('along-gradient')).toContainText('Blocks lie across it.')
  expect((await groundOf(empty, page)).gradient).toMatchObject({ what: 'slope' })

  // A wet corner on the first plot: the plots of its block flow round it.
  await tool(page, 'Pick plots')
  plots = await plotsOf(empty, page)
  at = await onScreen(page, plots)
  const wet = plots[0]!.place!
  await tool(page, 'Draw ground to avoid')
  for (const corner of [
    [wet.x - 1, wet.y - 1],
    [wet.x + wet.width / 2, wet.y - 1],
    [wet.x + wet.width / 2, wet.y + 2],
    [wet.x - 1, wet.y + 2],
  ] as Point[]) {
    // prettier-ignore
    const { x, y } = at(corner)
    await page.mouse.click(x, y)
  }
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await groundOf(empty, page)).avoid.length).toBe(1)
  const moved = await plotsOf(empty, page)
  expect(moved.some((plot) => plot.place!.y > Math.max(...plots.map((each) => each.place!.y)))).toBe(true)
  expect(fitOf(moved, await groundOf(empty, page)).avoided).toEqual([])
  // What was dealt out stays with its plot.
  expect(moved.map((plot) => [plot.id, plot.planned]).sort()).toEqual(plots.map((plot) => [plot.id, plot.planned]).sort())
  await expect(misfit).toHaveCount(0)
  await page.getByLabel('Avoided ground 1').fill('spring')
  await page.getByLabel('Avoided ground 1').press('Enter')

  // Ground too short for it is told, with what would fit.
  await tool(page, 'Back a step on the plan')
  await expect.poll(async () => (await groundOf(empty, page)).avoid.length).toBe(0)
  plots = await plotsOf(empty, page)
  at = await onScreen(page, plots)
  await tool(page, 'Draw the edge of the ground')
  const back = Math.max(...plots.map(({ place }) => place!.y + place!.length))
  for (const corner of [
    [0, 0],
    [right + 6, 0],
    [right + 6, back - 8],
    [0, back - 8],
  ] as Point[]) {
    // prettier-ignore
    const { x, y } = at(corner)
    await page.mouse.click(x, y)
  }
  await page.keyboard.press('Enter')
  await expect(misfit).toContainText(/plots lie beyond the edge of the ground by \d/)
  await page.getByRole('button', { name: 'What would fit?' }).click()
  await expect(page.getByTestId('what-fits')).toContainText(/These ways fit|However its rows are broken, it does not fit/)
  await tool(page, 'Back a step on the plan')
  await expect(misfit).toHaveCount(0)
  await tool(page, 'Do it again on the plan')
  await expect(misfit).toBeVisible()
  await tool(page, 'Back a step on the plan')
  await expect(misfit).toHaveCount(0)

  // A block dragged aside falls back with undo; keys nudge it; over another it is refused in words.
  plots = await plotsOf(empty, page)
  at = await onScreen(page, plots)
  await tool(page, 'Move and turn groups')
  const last = plots.at(-1)!.place!
  const grip: Point = [last.x + last.width / 2, last.y + last.length / 2]
  await drag(page, at(grip), at([grip[0] + 5, grip[1] + 3]))
  await expect.poll(async () => Object.keys((await groundOf(empty, page)).moved)).toHaveLength(1)
  const [ref] = Object.keys((await groundOf(empty, page)).moved)
  const first = (await groundOf(empty, page)).moved[ref!]!
  // Each step is let go while the one before is still on its way, and none is lost.
  const slow = '**/sections/**'
  await page.route(slow, async (route) => {
    await page.waitForTimeout(900)
    await route.continue()
  })
  for (const key of ['ArrowRight', 'Shift+ArrowUp', ']']) {
    await page.keyboard.press(key)
    await page.waitForTimeout(650)
  }
  await expect.poll(async () => (await groundOf(empty, page)).moved[ref!]!.turn).toBe(-1)
  await page.unroute(slow)
  const nudged = (await groundOf(empty, page)).moved[ref!]!
  // Turned about its middle, its corner moves a little beside.
  expect(Math.abs(nudged.x - first.x - 0.1)).toBeLessThan(0.5)
  expect(Math.abs(nudged.y - first.y - 1)).toBeLessThan(0.5)
  await page.keyboard.press('Escape')
  // Keys pressed slowly are steps of their own, each turned back by itself.
  const lies = async () => JSON.stringify((await groundOf(empty, page)).moved[ref!])
  for (let n = 0; n < 3 && (await lies()) !== JSON.stringify(first); n++) {
    const before = await lies()
    await tool(page, 'Back a step on the plan')
    await expect.poll(lies).not.toBe(before)
  }
  expect((await groundOf(empty, page)).moved[ref!]).toEqual(first)
  // Put down on another block it is refused in words, and lies where it was.
  await page.waitForTimeout(300)
  plots = await plotsOf(empty, page)
  at = await onScreen(page, plots)
  const [other, now] = [plots[0]!.place!, plots.at(-1)!.place!]
  const from: Point = [now.x + now.width / 2, now.y + now.length / 2]
  await drag(page, at(from), at([from[0] + other.x - now.x, from[1] + other.y - now.y]))
  await expect(misfit).toContainText('lie on the same ground')
  await expect(page.getByTestId('moving')).toHaveAttribute('transform', /^translate\(0 0\) rotate\(0 |^translate\(0 -0\) rotate\(-0 |^$/)
  expect((await groundOf(empty, page)).moved[ref!]).toEqual(first)
  await page.getByText('Groups set aside: 1 group').click()
  await page.getByRole('button', { name: 'Put back' }).click()
  await expect.poll(async () => (await groundOf(empty, page)).moved).toEqual({})

  // What was done on the plan of one site is not undone on that of another.
  await page.getByRole('button', { name: 'Add a site' }).click()
  await page.getByRole('menuitem', { name: 'Like this one, to be named' }).click()
  const undoing = page.getByRole('toolbar', { name: 'Tools of the plan' }).getByRole('button', { name: 'Back a step on the plan' })
  await expect(page).toHaveURL(/site=site-2/)
  await expect(undoing).toBeDisabled()
  await page.getByRole('button', { name: 'Take it out of the trial' }).click()
  await expect(page.getByRole('button', { name: 'Take it out of the trial' })).toHaveCount(0)

  // A distance is measured, and kept by nobody.
  await tool(page, 'Measure a distance')
  plots = await plotsOf(empty, page)
  at = await onScreen(page, plots)
  await drag(page, at([border, border]), at([border + 10, border]))
  await expect(page.getByTestId('stroke')).toContainText(/^(9\.9|10(\.\d)?|10\.0) m$/)
  await tool(page, 'Pick plots')

  // Numbers by another scheme, and one typed by hand.
  await choose(page, 'Numbers on the stakes', 'running over the site')
  await expect.poll(async () => (await plotsOf(empty, page)).map((plot) => Number(plot.code)).sort((a, b) => a - b)).toEqual(Array.from({ length: 16 }, (_, i) => i + 1)) // prettier-ignore
  await choose(page, 'Numbers on the stakes', 'block and position, as the design counts')
  await expect.poll(async () => (await plotsOf(empty, page)).every((plot) => plot.counted === undefined)).toBe(true)

  // Two plots swapped before planting: no longer a draw, and said so with the way out beside it.
  const [one] = await plotsOf(empty, page)
  await page.locator(`[data-unit="${one!.id}"]`).click()
  await page.getByRole('button', { name: `Swap plot ${one!.code} with another` }).click()
  await page.getByRole('combobox', { name: new RegExp(`^plot ${one!.code}`) }).click()
  await page
    .getByRole('option', { name: /^\d+: N\d+$/ })
    .first()
    .click()
  await page
    .getByRole('form', { name: /^Swap plot/ })
    .getByLabel('Why')
    .fill('The gate')
  await page.getByRole('button', { name: 'Swap', exact: true }).click()
  await expect(page.getByTestId('swap')).toContainText('no longer randomised here')
  await expect(page.getByTestId('swap').getByRole('button', { name: 'Deal out anew' })).toBeVisible()
  const { layouts } = await fileOf(empty, trialIn(page))
  expect(layouts[0]!.structure.factors[0]!.how).toBe('not randomised')
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect.poll(async () => (await fileOf(empty, trialIn(page))).layouts[0]!.structure.factors[0]!.how).toBe('randomised')
})

test('the plan as planned beside the plan as it is', async ({ page, demo }) => {
  const path = `${demo.url}/api/trials/019d0a79-1280-7a47-ba7d-4216a351a6d3`
  const { trial, layouts } = (await (await fetch(path)).json()) as TrialFile
  const plot = layouts[0]!.units.find((unit) => unit.kind === 'plot')!
  const [factor, level] = Object.entries(plot.planned)[0]!
  const other = trial.treatments.factors[0]!.levels.find((each) => each.key !== level)!
  const sent = await fetch(`${path}/units/${plot.id}/treatment`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ version: trial.version, received: { [factor]: other.key }, change: 'misapplied', reason: 'Wrong bag' }),
  })
  expect(sent.status).toBe(200)
  await page.goto(`${demo.url}/trials/${trial.id}/ground`)
  const drawn = page.locator(`[data-unit="${plot.id}"]`)
  await expect(drawn).toContainText(other.code)
  await page.getByRole('radiogroup', { name: 'What the plan shows' }).getByText('As planned').click()
  await expect(drawn).toHaveAttribute('aria-label', /, planned \d+ kg N\/ha/)
  await expect(drawn).toContainText(`got ${other.code}`)
  await expect(page.getByRole('option', { name: /, planned / })).toHaveCount(1)
})

test('a site from the shelf brings what is known of it; a change there changes nothing here until it is taken over', async ({
  page,
  demo,
}) => {
  await beginTrial(page, demo, 'On known ground', 'Sugar beet')
  await page.getByRole('button', { name: 'How much of one thing?' }).click()
  await choose(page, 'Rates of', 'Nitrogen (N)')
  await commit(page, 'Levels, kg/ha', '0 60 120')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await expect(page).toHaveURL(/\/ground$/)
  const before = await groundOf(demo, page)
  await page.getByRole('button', { name: 'Take this site from the shelf' }).click()
  await page.getByRole('menuitem', { name: 'Hazel Bank', exact: true }).click()
  await expect(page.getByTestId('from-shelf')).toContainText('Started from Hazel Bank on the shelf.')
  const { items: shelf } = (await (await fetch(`${demo.url}/api/shelf`)).json()) as { items: ShelfItem[] }
  const item = shelf.find((each) => each.kind === 'site' && each.name === 'Hazel Bank')!
  if (item.kind !== 'site') throw new Error('Not a site')
  const siteNow = async () => (await fileOf(demo, trialIn(page))).trial.sites[0]!
  const own = await siteNow()
  expect(own).toMatchObject({ name: 'Hazel Bank', soil: item.body.soil, facts: item.body.facts, shelf: item.id })
  // Its piece of ground comes along, the measures of the trial stay.
  expect(own.ground).toEqual({ ...before, gradient: item.body.ground.gradient, avoid: item.body.ground.avoid, bearing: item.body.ground.bearing }) // prettier-ignore

  const found = 'pH 7.2, P 19 mg/kg'
  const soilTests = [...item.body.facts.soilTests, { on: '2026-10-30', depth: '0–30 cm', found }]
  const sent = await fetch(`${demo.url}/api/shelf`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ kind: 'site', name: item.name, body: { ...item.body, facts: { ...item.body.facts, soilTests } } }),
  })
  expect(sent.ok).toBe(true)
  await page.reload()
  await expect(page.getByTestId('from-shelf')).toContainText('Changed there since: soil tests. Nothing changes here by itself.')
  expect((await siteNow()).facts).toEqual(item.body.facts)
  await page.getByRole('button', { name: 'Take it over' }).click()
  await expect(page.getByTestId('from-shelf')).not.toContainText('Changed there')
  await page.getByText(/^What is known of this ground: \d+ entries$/).click()
  await expect(page.getByRole('cell', { name: found })).toBeVisible()
})
