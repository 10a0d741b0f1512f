import type { Locator, Page } from '@playwright/test'
import { expect, test, type Server } from './serve.ts'
import { choose, fileOf, sameAsCommandLine, step } from './kit.ts'

const BEET = '019d0a79-1280-7a47-ba7d-4216a351a6d3'

async function pick(page: Page, code: string): Promise<void> {
  const plan = page.getByLabel(/^Plan of/)
  await plan.getByRole('option', { name: new RegExp(`^\\S+ ${code},`) }).click()
  await expect(page.getByTestId('plot-card')).toContainText(` ${code}`)
}

/** The form of what happened to the unit that is picked. */
async function happened(page: Page, what: string): Promise<Locator> {
  const box = page.getByTestId('happened').first()
  await box.getByRole('combobox', { name: /^What happened to/ }).click()
  await page.getByRole('option', { name: what, exact: true }).click()
  return box
}

const treatmentIn = async (server: Server, trial: string, code: string) => {
  const { layouts } = await fileOf(server, trial)
  return layouts[0]!.units.find((unit) => unit.kind === 'plot' && unit.code === code)!
}

test('faults of a trial are put right by hand after planting: results follow what really was, and answer both ways', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/trials/${BEET}/results`)
  const before = await page.getByTestId('sentences').innerText()
  await step(page, 'Ground')

  // Two stakes had been swapped: only the labels were wrong.
  const plans = {
    '101': (await treatmentIn(demo, BEET, '101')).planned['nitrogen']!,
    '103': (await treatmentIn(demo, BEET, '103')).planned['nitrogen']!,
  }
  const names = new Map(
    (await fileOf(demo, BEET)).trial.treatments.list.map((each) => [each.levels['nitrogen']!, `${each.code}: ${each.name}`]),
  )
  for (const [code, other] of [
    ['101', plans['103']],
    ['103', plans['101']],
  ] as const) {
    await pick(page, code)
    const box = await happened(page, 'Given another treatment, or its label was wrong')
    await box.getByRole('combobox', { name: `Plot ${code} really got` }).click()
    await page.getByRole('option', { name: names.get(other)!, exact: true }).click()
    await box.getByLabel('Only the label was wrong: nothing else changes').check()
    await box.getByLabel('When, if it is known').fill('first week of April')
    await box.getByLabel('Reason').fill('stakes taken from the wrong bundle')
    await box.getByRole('button', { name: 'Put on record' }).click()
    await expect(page.getByTestId('plot-card')).toContainText('label corrected')
  }
  expect((await treatmentIn(demo, BEET, '101')).planned['nitrogen']).toBe(plans['101'])

  // A real mistake: a plot got the rate of another treatment. It is asked about when it is typed as an amount.
  const wrong = await treatmentIn(demo, BEET, '105')
  await pick(page, '105')
  let box = await happened(page, 'Given another amount')
  await box.getByLabel('It really got').fill('40 kg/ha')
  await box.getByLabel('It really got').blur()
  await expect(box).toContainText('That is 40 kg N/ha, which this trial has as a treatment.')
  await box.getByRole('button', { name: 'Record it as that treatment' }).click()
  await box.getByRole('combobox', { name: 'Plot 105 really got' }).click()
  await page.getByRole('option', { name: 'N40: 40 kg N/ha' }).click()
  await box.getByLabel('Reason').fill('bag of the next plot')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(page.getByTestId('plot-card')).toContainText('misapplied')

  // Another got a rate that nothing else has, on a day that has to be asked about.
  await pick(page, '304')
  box = await happened(page, 'Given another amount')
  await box.getByLabel('It really got').fill('85 lb/ac')
  await box.getByLabel('It really got').blur()
  await box.getByLabel('When').fill('five days later')
  await expect(box).toContainText('“five days later”: which day is meant?')
  await box.getByRole('button', { name: /counted from planting/ }).click()
  await box.getByLabel('Reason').last().fill('spreader stuck')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(box).toContainText('Plot 304 got 95.272 kg/ha of nitrogen on 7 April 2026 (spreader stuck)')

  // The corner that was lifted is lost, and another plot in part.
  await pick(page, '403')
  box = await happened(page, 'Partly lost')
  await box.getByLabel('How much of the harvested area remains').fill('80')
  await box.getByLabel('When').fill('late June')
  await box.getByLabel('Reason').last().fill('washed out at one end')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(page.getByTestId('plot-card')).toContainText('80 % of the harvested area remains between 21 and 30 June 2026')
  await pick(page, '206')
  box = await happened(page, 'Lost')
  await box.getByLabel('When').fill('2026-09-20')
  await box.getByLabel('Reason').last().fill('lifted by the contractor')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(page.getByTestId('plot-card')).toContainText('was lost on 20 September 2026')
  await page.getByText('As planned', { exact: true }).click()
  await expect(page.getByRole('option', { name: /^Plot 105,/ })).toHaveAttribute('aria-label', /planned/)

  // A plot stands there that no plan has.
  await page.getByRole('button', { name: 'Add a plot that no plan has' }).click()
  await page.getByLabel('How it came to stand there').fill('left over seed at the end of the row')
  await page.getByRole('button', { name: 'Put it on record' }).click()
  await expect(page.getByRole('option', { name: /^Plot X1,/ })).toBeVisible()

  // Results follow it all, say what was done, and answer both ways.
  await step(page, 'Results')
  const main = page.getByRole('main')
  await expect(main).toContainText('Plot 105 is analysed as treated, and not as randomised.')
  await expect(main).toContainText(
    'Plot 304 got 95.272 kg/ha of nitrogen on 7 April 2026 (spreader stuck). It stands for none of the treatments and is left out.',
  )
  await expect(main).toContainText('Its yield is that of the area that remains.')
  await expect(main).toContainText('Plot X1 stands beside the trial without a plan')
  await expect(page.getByTestId('what-became')).toContainText('24 plots started: 21 measured, 1 lost, 2 left out.')
  await expect(page.getByTestId('other-way')).toContainText('Without plot 403, to which something happened')
  await expect(page.getByTestId('other-way')).toContainText('As planned, as if plots 304 and 105 had got what they were to get')
  await expect.poll(() => page.getByTestId('sentences').innerText()).not.toBe(before)
  await sameAsCommandLine(page, demo)

  // What its ground got can be asked as of any day.
  await page.getByText('Treatment', { exact: true }).first().click()
  await pick(page, '304')
  await page.getByRole('button', { name: 'What its ground got' }).click()
  await page.getByLabel('What it had got by').fill('2026-04-06')
  await expect(page.getByTestId('layers')).toContainText('planted')
  await expect(page.getByTestId('layers')).not.toContainText('spreader stuck')
  await page.getByLabel('What it had got by').fill('2026-04-07')
  await expect(page.getByTestId('layers')).toContainText('spreader stuck')

  // And any square metre of it, a path too.
  await step(page, 'Ground')
  await page.getByRole('button', { name: 'Ask what a spot got' }).click()
  const plot = (await page.getByRole('option', { name: /^Plot 103,/ }).boundingBox())!
  await page.mouse.click(plot.x + plot.width / 2, plot.y + plot.height / 2)
  await expect(page.getByTestId('spot')).toContainText('Plot 103')
  await expect(page.getByTestId('spot')).toContainText('(planned: ')
  await page.mouse.click(plot.x + plot.width / 2, plot.y + plot.height + 12)
  await expect(page.getByTestId('spot')).toContainText('A path between plots')
  await expect(page.getByTestId('spot')).toContainText('planted')
  await page.getByRole('button', { name: 'Pick plots' }).click()

  // Taken back, the answer is what it was but for what stays on record.
  await pick(page, '304')
  await page.getByTestId('happened').first().getByRole('button', { name: 'Take back' }).click()
  await expect(page.getByTestId('plot-card')).not.toContainText('spreader stuck')
  expect(wrong.planned).toEqual((await treatmentIn(demo, BEET, '105')).planned)
})

test('a pot is moved to another block and divided in the field: it keeps its number, and its parts are one replicate', async ({
  page,
  demo,
}) => {
  await page.setViewportSize({ width: 390, height: 844 })
  await page.goto(demo.url)
  await page
    .getByRole('link', { name: /Pelargonium/ })
    .first()
    .click()
  await step(page, 'Walk')
  await page.getByLabel('Next plot').click()
  const code = await page.getByTestId('walk-plot').innerText()
  await page.getByRole('button', { name: 'Flag, note or what happened' }).click()
  let box = await happened(page, 'Moved')
  await box.getByRole('combobox', { name: 'Now stands in' }).click()
  await page.getByRole('option').first().click()
  await box.getByLabel('Place or container').fill('3 L pot')
  await box.getByLabel('Reason').last().fill('root bound')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(box).toContainText(`Pot ${code} was moved to`)
  await expect(box).toContainText('3 L pot')
  box = await happened(page, 'Divided')
  await box.getByLabel('When').fill('2026-01-02')
  await box.getByLabel('Into how many parts').fill('3')
  await box.getByLabel('Reason').last().fill('three crowns')
  await box.getByRole('button', { name: 'Put on record' }).click()
  await expect(box).toContainText('was divided into 3 parts')
  await page.getByRole('button', { name: 'Leave it' }).click()
  await expect(page.getByRole('main')).toContainText(`Pot ${code} was divided into 3 parts on 2 January 2026 (three crowns).`)
  // Each part has its own field; the number on the pot is what it was.
  await expect(page.getByLabel(/height.* 3 of 3|sample 3|3 of 3/i).first()).toBeVisible()
  await expect(page.getByTestId('walk-plot')).toHaveText(code)
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
})

test('a practice laid across later by hand is a comparison from its day on, and says so before it takes the only control', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/trials/${BEET}/question`)
  const { layouts } = await fileOf(demo, BEET)
  const none = layouts[0]!.units.filter((unit) => unit.planned['nitrogen'] === 'r0').map((unit) => unit.code)
  await page.getByRole('button', { name: 'Draw some to be handled another way' }).click()
  await page.getByText('Laid by hand at Hazel Bank').click()
  const form = page.getByRole('form', { name: 'Draw some to be handled another way' })
  await form.getByLabel('What is varied').fill('Second hoeing')
  await form.getByLabel('Those named are').fill('hoed twice')
  await form.getByLabel('From').fill('2026-06-01')
  await form.getByLabel('Which plots').fill(none.join(', '))
  await form.getByLabel('Reason').fill('weeds came back')
  await form.getByRole('button', { name: 'Put on record' }).click()
  await expect(form).toContainText('This leaves no unit of N0 (0 kg N/ha), the only control as it was')
  await expect(form.getByRole('button', { name: 'Keep it all the same' })).toBeVisible()
  await form.getByLabel('Which plots').fill('101-106, 201-206')
  await form.getByRole('button', { name: 'Put on record' }).click()
  await expect(form).toContainText('what it does cannot be told from what the blocks do')
  await form.getByLabel('Which plots').fill('101-103, 204-206, 304-306, 401-403')
  await form.getByRole('button', { name: 'Put on record' }).click()
  await expect(page.getByTestId('later-draw')).toContainText('Second hoeing was laid by hand on what stood, and is not randomised')
  await step(page, 'Results')
  const planned = page.getByTestId('planned')
  await expect(planned).toContainText('Second hoeing')
  await expect(planned).toContainText('compare')
  await expect(page.getByRole('main')).toContainText('Second hoeing was not randomised: its differences may be those of the ground.')
})

const ODD = `Oat nitrogen trial 2026\n\nPlot\tRep\tN rate (kg/ha)\tVariety\tYield (t/ha)\tRemarks
101\t1\t0\tBracken\t5.2\t\n102\t1\t80\tBracken\t6.9\t\n103\t1\t80\tSedge\t6.4\tedge\n104\t1\t0\tSedge\t4.8\t
201\t2\t80\tbracken \t7.1\t\n202\t2\t0\tSedge\t5.0\t\n203\t2\t0\tBracken\t-\tlodged\n204\t2\t80.0\tSedge\teaten by hares\t
301\t3\t0\tBracken\t5.4\t\n302\t3\t0\tSedge\t4.9\t\n303\t3\t80\tBrackn\t7.0\t\n304\t3\t80\tSedge\t6.6\t
401\t4\t80\tBracken\t7.4\t\n402\t4\t80\tSedge\t6.3\t\n403\t4\t0\tSedge\t4.6\t\n404\t4\t0\tBracken\t5.6\t
Mean\t\t\t\t6.0\t\n`

test('a trial begun elsewhere is analysed from one odd spreadsheet', async ({ page, empty }) => {
  await page.goto(empty.url)
  await page.getByRole('link', { name: 'From a spreadsheet' }).click()
  await page.getByLabel(/Or paste it from a spreadsheet/).fill(ODD)
  await page.getByRole('button', { name: 'Read what is pasted' }).click()
  const understood = page.getByTestId('understood')
  await expect(understood).toContainText('16 plots at one site, with 5 treatments.')
  await expect(page.getByTestId('odd-rows')).toContainText('“eaten by hares” is no value of Yield: it is taken as missing.')
  await expect(page.getByTestId('odd-rows')).toContainText('No treatment stands there (Mean, 6.0)')
  await page.getByRole('button', { name: 'Yes, read it as Bracken' }).click()
  await expect(understood).toContainText('4 blocks: each holds every treatment once.')
  await expect(understood).toContainText('Nitrogen, 2 levels (N0, N80), varies from plot to plot within each block.')
  // A column is matched otherwise, and back.
  await choose(page, 'Variety is', 'Not taken over')
  await expect(understood).toContainText('with 2 treatments')
  await choose(page, 'Variety is', 'Something that is varied')
  // That chance dealt it out nobody can see: it has to be said.
  await expect(page.getByRole('button', { name: 'So it is: take it over' })).toBeDisabled()
  await page.getByText('By chance', { exact: true }).click()
  await page.getByLabel('Title').fill('Oats from elsewhere')
  await page.getByRole('button', { name: 'So it is: take it over' }).click()
  await expect(page.getByText('Not taken over: It still needs the crop.')).toBeVisible()
  await page.getByLabel('Crop').fill('Oats')
  await page.getByRole('button', { name: 'So it is: take it over' }).click()
  await expect(page.getByTestId('sentences')).toContainText(/80 kg N\/ha gave [\d.]+ t\/ha more yield than no nitrogen/)
  await expect(page.getByTestId('means')).toContainText('7 of 8')
  await sameAsCommandLine(page, empty)
  await step(page, 'Ground')
  await expect(page.getByRole('option', { name: /^Plot 303, 80 kg N\/ha, Bracken/ })).toBeVisible()
})
