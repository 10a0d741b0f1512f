import { beginTrial, choose, commit, fileOf, layOutSite, measure, sameAsCommandLine, step, trialIn } from './kit.ts'
import { expect, test } from './serve.ts'

test('drawn among what stands in mid-season, with one shown beside, blinded and opened', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Three cultivars, and then feeding')
  await choose(page, 'What is varied', 'Kinds: which one')
  await commit(page, 'Called', 'Cultivar')
  await commit(page, 'Levels', 'early, main, late')
  await page.getByRole('button', { name: 'Add a treatment outside these' }).click()
  await choose(page, 'Part of NIL', 'only shown, beside')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await layOutSite(page, '81')
  await expect(page.getByRole('option', { name: /^Plot/ })).toHaveCount(3 * 4 + 1)
  const weight = { trait: 'marketable-weight', label: 'Marketable weight' }
  await measure(page, empty, weight, (treatment) => (treatment.role === 'shown' ? 20 : 9))
  const before = await sameAsCommandLine(page, empty)
  expect(before.tests.map((each) => [each.term, each.df])).toEqual([
    ['block', 3],
    ['factor-1', 2],
  ])
  await expect(page.getByText(/^Untreated stood in one plot beside the trial and had 5\d\.\d t.ha/)).toBeVisible()

  // Half of each cultivar, by chance, from today.
  await step(page, 'Question')
  await page.getByRole('button', { name: 'Draw some to be handled another way' }).click()
  const form = page.getByRole('form', { name: 'Draw some to be handled another way' })
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(form.getByText('Name it, for example Feeding.')).toBeVisible()
  await form.getByLabel('What is varied').fill('Feeding')
  await form.getByLabel('Those drawn are').fill('fed weekly')
  await form.getByLabel('Reason').fill('Half of them to be fed like the neighbour’s')
  await form.getByLabel('From').fill('2026-01-05')
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(form.getByText(/A draw holds from the day it is made/)).toBeVisible()
  const today = new Date()
  const day = [today.getFullYear(), today.getMonth() + 1, today.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
  await form.getByLabel('From').fill(day)
  // What is only shown stands once: there is nothing to draw among.
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(page.getByTestId('later-draw')).toContainText('Feeding was drawn among what stood')
  const { trial, layouts } = await fileOf(empty, trialIn(page))
  const fed = layouts[0]!.units.filter((unit) => unit.received['drawn'] === 'way-1')
  expect(fed).toHaveLength(6)
  expect(trial.treatments.list.filter((each) => each.levels['drawn'] === 'way-1').map((each) => each.code)).toEqual([
    'EARLY·FW',
    'MAIN·FW',
    'LATE·FW',
  ])

  // What was read before stays as it was; what comes after is told with it.
  await step(page, 'Results')
  await expect(page.getByText(/Feeding was drawn on .* after these readings were taken/)).toBeVisible()
  expect((await sameAsCommandLine(page, empty)).tests).toEqual(before.tests)
  await step(page, 'Question')
  await page.getByRole('button', { name: 'Add a visit' }).click()
  await expect(page.getByLabel('Name of visit 2')).toBeVisible()
  await page.goto(`${empty.url}/trials/${trialIn(page)}/walk`)
  await measure(page, empty, { ...weight, visit: 'visit-2', taken: new Date().toISOString() }, ({ levels }) =>
    levels['drawn'] === 'way-1' ? 11 : 9,
  )
  const after = await sameAsCommandLine(page, empty)
  expect(after.tests.map((each) => each.term)).toEqual(['block', 'factor-1', 'drawn', 'factor-1:drawn'])
  const [planned] = after.contrasts
  expect(planned!.estimate).toBeGreaterThan(1)
  await expect(page.getByTestId('planned')).toContainText(/As planned, “Feeding: fed weekly against as before, from .* gave .* more/)
  await expect(page.getByTestId('planned').locator('.badge').first()).toContainText('trial: randomised')

  // Blinded, codes alone are seen, and the answer is the same; it is opened on the record.
  const figures = async (): Promise<string[]> =>
    page
      .getByTestId('anova')
      .getByRole('cell')
      .filter({ hasText: /^[<\d]/ })
      .allInnerTexts()
  const seen = await figures()
  expect(seen.length).toBeGreaterThan(10)
  for (const [act, reason] of [
    ['Blind it', 'The graders come on Monday'],
    ['Open it', 'Graded'],
  ] as const) {
    await step(page, 'Question')
    await page.getByRole('button', { name: act }).click()
    await page.getByRole('dialog').getByLabel('Reason').fill(reason)
    await page.getByRole('dialog').getByRole('button', { name: 'Change it on record' }).click()
    await expect(page.getByRole('button', { name: act })).toHaveCount(0)
    await step(page, 'Results')
    await expect(page.getByTestId('means')).toContainText(act === 'Blind it' ? 'A1' : 'EARLY')
    if (act === 'Blind it') await expect(page.getByText('early')).toHaveCount(0)
    expect(await figures()).toEqual(seen)
  }
  expect((await sameAsCommandLine(page, empty)).tests).toEqual(after.tests)
})

test('the same plots for a second season, ranked in money at each', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Two ways on the same plots')
  await choose(page, 'What is varied', 'Practice: how it is done')
  await commit(page, 'Called', 'Mulch')
  await commit(page, 'Levels', 'bare, thin, thick')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await commit(page, 'Name', 'Garden 2026')
  await layOutSite(page, '91')
  await page.getByRole('button', { name: 'Add a site' }).click()
  await page.getByRole('menuitem', { name: 'The same plots of Garden 2026 again, next season' }).click()
  await expect(page.getByText('These are the plots of Garden 2026, with what stands on them')).toBeVisible()
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Garden 2027')
  await expect(page.getByRole('option', { name: /^Plot/ })).toHaveCount(12)
  const { layouts } = await fileOf(empty, trialIn(page))
  const [first, again] = layouts.map(({ units }) =>
    units.filter((unit) => unit.kind === 'plot').map(({ code, received }) => ({ code, received })),
  )
  expect(again).toEqual(first)
  await page.getByRole('button', { name: /^Garden 2026/ }).click()
  await page.getByRole('button', { name: 'Randomise again' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Deal out anew' }).click()
  await expect(page.getByText(/Garden 2027 is the same plots in a later season/)).toBeVisible()

  await measure(page, empty, { trait: 'marketable-weight', label: 'Marketable weight' }, (treatment, site) => {
    const thick = treatment.levels['factor-1'] === 'l3'
    return 9 + (thick ? (site === 0 ? 2 : -2) : 0)
  })
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.map((each) => [each.term, each.df])).toEqual([
    ['factor-1', 2],
    ['season', 1],
    ['factor-1:season', 2],
  ])
  await expect(page.getByTestId('sentences')).toContainText('What mulch does depends on season')

  await step(page, 'Decision')
  await commit(page, 'Price of marketable yield', '100')
  for (const code of ['BARE', 'THIN', 'THICK']) await commit(page, `${code} costs`, code === 'BARE' ? '0' : '50')
  const rows = page.getByTestId('rankings').getByRole('row')
  await expect(rows).toHaveCount(4)
  const thick = rows.filter({ hasText: 'THICK' }).getByRole('cell')
  await expect(thick.nth(2)).toHaveText(/ ?1$/)
  await expect(thick.nth(3)).toHaveText(/3$/)
  await expect(page.getByTestId('basis')).toContainText(told.sentences[0]!.text)
  await expect(page.getByTestId('decision-sentences')).toContainText('at Garden 2026 it was thick')
  await expect(page.getByTestId('decision-sentences')).toContainText('One site, 2 seasons, on the same plots')

  // Stakes by treatment, each plot once.
  await page.goto(`${empty.url}/trials/${trialIn(page)}/stakes?by=treatment`)
  const stakes = page.getByRole('list', { name: 'Stakes by treatment' }).getByRole('listitem')
  await expect(stakes).toHaveCount(12)
  await expect(stakes.nth(0)).toContainText('BARE')
  await expect(stakes.nth(11)).toContainText('THICK')
})

test('fed on half of each plot from a day on: drawn in each, walked half by half, and tested within plots', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Three cultivars, each fed on one half')
  await choose(page, 'What is varied', 'Kinds: which one')
  await commit(page, 'Called', 'Cultivar')
  await commit(page, 'Levels', 'early, main, late')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await layOutSite(page, '82')
  const weight = { trait: 'marketable-weight', label: 'Marketable weight' }
  await measure(page, empty, weight, () => 9)
  const before = await sameAsCommandLine(page, empty)

  // A visit that was read has to have its day, so that it is known of what it was read.
  await step(page, 'Question')
  await page.getByRole('button', { name: 'Draw some to be handled another way' }).click()
  const form = page.getByRole('form', { name: 'Draw some to be handled another way' })
  await form.getByText('On half of each plot').click()
  await form.getByLabel('What is varied').fill('Feeding')
  await form.getByLabel('One half is').fill('fed, left alone')
  await form.getByLabel('Reason').fill('Half of each to be fed like the neighbour’s')
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(form.getByText('A plot has two halves: say one way.')).toBeVisible()
  await form.getByLabel('One half is').fill('fed weekly')
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(form).toContainText('Harvest has readings and no day: give the visit its day first')
  await page.getByLabel('Date of visit 1').fill('2026-08-20')
  await page.getByLabel('Date of visit 1').blur()
  await page.getByRole('button', { name: 'Add a visit' }).click()
  await expect(page.getByLabel('Name of visit 2')).toBeVisible()
  await form.getByRole('button', { name: 'Draw by chance' }).click()
  await expect(page.getByTestId('later-draw')).toContainText('Feeding was drawn among what stood')

  // At the visit before, plots; after it, the two halves of each.
  await page.goto(`${empty.url}/trials/${trialIn(page)}/walk?visit=harvest`)
  await expect(page.getByRole('option', { name: /^Plot/ })).toHaveCount(12)
  await page.goto(`${empty.url}/trials/${trialIn(page)}/walk?visit=visit-2`)
  await expect(page.getByRole('option', { name: /^Half plot/ })).toHaveCount(24)
  await measure(page, empty, { ...weight, visit: 'visit-2', taken: new Date().toISOString() }, ({ levels }) =>
    levels['drawn'] === 'way-1' ? 6 : 4,
  )
  // The stake of a plot opens its first half.
  const { layouts } = await fileOf(empty, trialIn(page))
  const plot = layouts[0]!.units.find((unit) => unit.code === '203')!
  await page.goto(`${empty.url}/trials/${trialIn(page)}/walk?visit=visit-2&plot=${plot.id}`)
  await expect(page.getByRole('main')).toContainText('203a')
  const after = await sameAsCommandLine(page, empty)
  expect(after.tests.map((each) => each.term)).toEqual(['factor-1', 'drawn', 'factor-1:drawn'])
  await expect(page.getByRole('main')).toContainText('feeding was randomised to half plots within each plot')
  // Once halves are read, they stay; what was read before is told as it was.
  await page.goto(`${empty.url}/trials/${trialIn(page)}/results?visit=harvest`)
  await expect(page.getByText(/Feeding was drawn on .* after these readings were taken/)).toBeVisible()
  expect(before.tests.map((each) => each.term)).toEqual(['block', 'factor-1'])
})
