import { formatP } from '@canter/core/quantity'
import { beginTrial, choose, commit, fileOf, layOutSite, measure, sameAsCommandLine, step, takeDesign, trialIn } from './kit.ts'
import { expect, test } from './serve.ts'

test('a 3 × 4 factorial with two controls outside at three sites', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Inoculant and starter')
  await page.getByRole('button', { name: 'Two things crossed, against checks that have neither?' }).click()
  await commit(page, 'Called 1', 'Inoculant')
  await commit(page, 'Levels 1', 'peat, granular, liquid')
  await choose(page, 'Rates of 2', 'Nitrogen (N)')
  await commit(page, 'Levels 2, kg/ha', '0 0.5 1 2 × 20')
  const list = page.getByTestId('treatments')
  await expect(list.getByRole('row')).toHaveCount(1 + 12 + 2)

  // A combination dropped is a hole that says what it costs, and can be put in again.
  await expect(page.getByLabel('Drop PEAT·N10')).toHaveAttribute('title', /Drop it/)
  await page.getByLabel('Drop PEAT·N10').click()
  await expect(list.getByText('left out')).toBeVisible()
  await list.getByRole('button', { name: 'put it in' }).click()
  await expect(list.getByText('left out')).toHaveCount(0)
  await expect(page.getByTestId('mixed-up')).toContainText('untreated lacks inoculant and nitrogen at once')

  await page.getByRole('button', { name: 'Plan untreated against all others' }).click()
  await page.getByRole('button', { name: /^Plan how the response rises with nitrogen/ }).click()
  await page.getByRole('button', { name: 'Set two groups of treatments against each other' }).click()
  for (const code of ['PEAT·N40', 'GRANUL·N40', 'LIQUID·N40']) await page.getByLabel(`${code} on the first side`).click()
  await page.getByLabel('STD on the second side').click()
  await page.getByLabel('Called', { exact: true }).fill('Full starter against usual practice')
  await page.getByRole('button', { name: 'Plan it' }).click()
  await expect(page.getByRole('list', { name: 'Planned comparisons' }).getByRole('listitem')).toHaveCount(4)
  await commit(page, 'Replicates (blocks)', '3')
  await page.getByRole('button', { name: 'Begin the trial' }).click()

  await expect(page).toHaveURL(/\/ground$/)
  await commit(page, 'Name', 'North field')
  for (const name of ['South field', 'West field']) {
    await page.getByRole('button', { name: 'Add a site' }).click()
    await page.getByRole('menuitem', { name: 'Like this one, to be named' }).click()
    await expect(page.getByLabel('Name', { exact: true })).not.toHaveValue(/field$/)
    await commit(page, 'Name', name)
  }
  for (const [i, name] of ['North field', 'South field', 'West field'].entries()) {
    await page.getByRole('button', { name: new RegExp(`^${name}, not laid out`) }).click()
    await layOutSite(page, String(21 + i))
    await expect(page.getByTestId('evenness')).toBeVisible()
  }
  const { treatments } = (await fileOf(empty, trialIn(page))).trial
  await measure(page, empty, { trait: 'marketable-weight', label: 'Marketable weight' }, (treatment, site) => {
    const amount = treatments.factors[1]!.levels.find((level) => level.key === treatment.levels['factor-2'])?.amount ?? 0
    return 9 + site + 0.06 * amount - 0.0006 * amount ** 2 + (treatment.levels['factor-1'] === 'l1' ? 0.6 : 0)
  })
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.map((each) => each.term)).toEqual(
    expect.arrayContaining(['treatment', 'outside', 'factor-1', 'factor-2', 'factor-1:factor-2', 'site:treatment']),
  )
  const planned = page.getByTestId('planned')
  await expect(planned).toContainText(/As planned, “Rise with nitrogen”: .*marketable yield rises with nitrogen, on average/)
  await expect(planned).toContainText('Full starter against usual practice')
  expect(new Set(told.contrasts.map((each) => each.site))).toEqual(new Set([null, 'North field', 'South field', 'West field']))
  await planned.getByText('The figures behind them').click()
  for (const { name, p } of told.contrasts.filter((each) => each.site === null))
    await expect(
      planned
        .getByRole('row', { name: new RegExp(`^${name}`) })
        .getByRole('cell')
        .nth(-1),
    ).toHaveText(formatP(p))

  // The report says the same as the page and the command line.
  await page.goto(`${new URL(page.url()).origin}/trials/${trialIn(page)}/report`)
  for (const { text } of told.sentences) await expect(page.getByTestId('report')).toContainText(text)
  await page.goBack()

  // One added when there are readings says so for good.
  await step(page, 'Question')
  await page.getByRole('button', { name: /^Plan peat against liquid/ }).click()
  await expect(page.getByText('peat against liquid, at 0 kg N/ha · added late')).toBeVisible()
})

test('main plots along a water line: laid in order, described and not tested', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Water along the line')
  await choose(page, 'What is varied', 'Practice: how it is done')
  await commit(page, 'Called', 'Water')
  await commit(page, 'Levels', 'dry, full')
  await page.getByRole('button', { name: 'Vary something else too' }).click()
  await commit(page, 'Called 2', 'Cultivar')
  await commit(page, 'Levels 2', 'early, main, late')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await takeDesign(page, 'Split plots')
  await page.getByLabel('Main plots in the order listed, in every block').click()
  await expect(page.getByLabel('Main plots in the order listed, in every block')).toBeChecked()
  await layOutSite(page, '31')
  await measure(page, empty, { trait: 'marketable-weight', label: 'Marketable weight' }, (treatment) =>
    treatment.levels['factor-1'] === 'l2' ? 11 : 9,
  )
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.map((each) => each.term)).toContain('factor-1')
  await expect(page.getByText(/Water was not randomised: its differences may be those of the ground/i)).toBeVisible()
  await expect(page.getByTestId('sentences')).toContainText('compare')
})

test('a bench of pots', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Drench on the bench', 'Pelargonium')
  await choose(page, 'Rates of', 'an active ingredient')
  await choose(page, 'Measured in', 'mg/L')
  await commit(page, 'Called', 'Drench')
  await commit(page, 'Levels, mg/L', '0 5 10')
  await choose(page, 'The response that matters', 'Height')
  await commit(page, 'Replicates (blocks)', '6')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await takeDesign(page, 'Completely randomised')
  await layOutSite(page, '41')
  await expect(page.getByRole('option', { name: /^Pot/ })).toHaveCount(18)
  await measure(
    page,
    empty,
    { trait: 'height', label: 'Height', decimals: 1 },
    (treatment) => 26 - 4 * Number(treatment.levels['factor-1']!.slice(1)),
  )
  const told = await sameAsCommandLine(page, empty)
  expect(told.kind).toBe('tested')
})

test('sixty entries from a list, in small blocks', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Sixty lines')
  await page.getByRole('button', { name: 'A list from a spreadsheet' }).click()
  await page.getByLabel('Paste the list').fill(['Entry', ...Array.from({ length: 60 }, (_, i) => `line${i + 1}`)].join('\n'))
  await page.getByRole('button', { name: 'Take 60 treatments' }).click()
  await commit(page, 'Replicates (blocks)', '3')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await takeDesign(page, 'Small blocks in complete replicates')
  await commit(page, 'Units in a block', '6')
  await layOutSite(page, '51')
  await expect(page.getByTestId('efficiency')).toContainText(/Comparisons have 79\.8 % of the precision/)
  await measure(
    page,
    empty,
    { trait: 'marketable-weight', label: 'Marketable weight' },
    (treatment) => 9 + 0.02 * Number(treatment.levels['factor-1']!.slice(1)),
  )
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.map((each) => [each.term, each.df])).toEqual([
    ['replicate', 2],
    ['factor-1', 59],
  ])
  // Small blocks hold a part of the entries: they are taken as chance.
  await expect(page.getByTestId('schools')).toContainText('blocks as chance, since each block holds a part of the treatments only')
})

test('paired strips', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Two ways, side by side')
  await choose(page, 'What is varied', 'Practice: how it is done')
  await commit(page, 'Called', 'Tillage')
  await commit(page, 'Levels', 'plough 25 cm > harrow 8 cm, direct drill')
  await commit(page, 'Replicates (blocks)', '6')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await takeDesign(page, 'Paired strips')
  await layOutSite(page, '61')
  await measure(page, empty, { trait: 'marketable-weight', label: 'Marketable weight' }, (treatment) =>
    treatment.levels['factor-1'] === 'l2' ? 10 : 9,
  )
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.find((each) => each.term === 'factor-1')!.df).toBe(1)
})

test('a pasted list that is in truth a factorial', async ({ page, empty }) => {
  await beginTrial(page, empty, 'Two carriers, four rates')
  await page.getByRole('button', { name: 'A list from a spreadsheet' }).click()
  await page
    .getByLabel('Paste the list')
    .fill(['peat', 'clay'].flatMap((carrier) => [0, 1, 2, 4].map((rate) => `${carrier} ${rate} L/ha`)).join('\n'))
  await expect(page.getByRole('radio', { name: /^2 × 4/ })).toBeChecked()
  await expect(page.getByRole('radio', { name: '8 treatments as they stand' })).not.toBeChecked()
  await page.getByRole('button', { name: 'Take 8 treatments' }).click()
  await commit(page, 'Called 1', 'Carrier')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await layOutSite(page, '71')
  await measure(page, empty, { trait: 'marketable-weight', label: 'Marketable weight' }, (treatment) =>
    treatment.levels['factor-1'] === 'l1' ? 10 : 9,
  )
  const told = await sameAsCommandLine(page, empty)
  expect(told.tests.map((each) => [each.term, each.df])).toEqual([
    ['block', 3],
    ['factor-1', 1],
    ['factor-2', 3],
    ['factor-1:factor-2', 3],
  ])
})
