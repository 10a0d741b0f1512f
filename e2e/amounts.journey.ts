import { calculationOf } from '@canter/core/amounts'
import type { ShelfItem, TrialDraft, TrialFile } from '@canter/core/trial'
import type { Locator, Page } from '@playwright/test'
import { commit, fileOf, step } from './kit.ts'
import { expect, test, type Server } from './serve.ts'

const POTS = '019c65ad-9280-7591-a8c8-70f6f2b4e15b'
const CARROTS = '019cadc6-9a80-7682-b029-3b1e30755c4d'
const BEET = '019d0a79-1280-7a47-ba7d-4216a351a6d3'

test('a drench for pots is worked out, kept with the trial, printed, changed and turned back', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${POTS}/amounts`)
  await page.getByRole('combobox', { name: 'Work something out' }).click()
  await page.getByRole('option', { name: 'Drench for pots' }).click()
  const form = page.getByRole('form', { name: 'Drench for pots' })
  // What is known of the site stands there already.
  await expect(form.getByLabel('Pots')).toHaveValue('30')
  await form.getByLabel('Drench on a pot').fill('2 fl oz')
  await form.getByLabel('Left in tank and hose').fill('0.2')
  await form.getByLabel('Active ingredient on the label').fill('4 g/L')
  await form.getByLabel('Strength wanted').fill('1 tsp')
  await expect(form).toContainText('“tsp” is no measure here')
  await form.getByLabel('Strength wanted').fill('4 ppm')
  // 30 × 59.147 mL + 0.2 L = 1.974 L; 4 mg/L of it ÷ 4 mg/mL = 1.974 mL.
  const worked = form.getByTestId('worked')
  await expect(worked).toContainText('1.974 L')
  await expect(worked).toContainText('1.974 mL')
  await expect(form).toContainText('The product label, local rules and licensed practice come first.')
  await form.getByLabel('Title').fill('Second drench')
  await form.getByLabel('Made or measured on').fill('2026-05-04')
  await form.getByRole('button', { name: 'Keep with the trial' }).click()
  const kept = page.getByTestId('worksheets')
  await expect(kept).toContainText('Second drench')
  await expect(kept).toContainText('1.97 L')
  expect((await fileOf(demo, POTS)).trial.amounts.sheets).toMatchObject([
    { title: 'Second drench', given: { strength: '4 ppm', pots: '30' } },
  ])

  await kept.getByRole('link', { name: 'Print' }).click()
  await expect(page.getByRole('heading', { name: 'Second drench' })).toBeVisible()
  await expect(page.getByTestId('worksheet')).toContainText('1.974 mL')
  await expect(page.getByRole('article').or(page.locator('main'))).toContainText('Drench on a pot: 2 fl oz')
  await page.goBack()

  await kept.getByRole('button', { name: 'Second drench', exact: true }).click()
  await form.getByLabel('Drench on a pot').fill('120')
  await form.getByRole('button', { name: 'Keep with the trial' }).click()
  await expect(kept).toContainText('3.80 L')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(kept).toContainText('1.97 L')
  await kept.getByRole('button', { name: 'Remove Second drench' }).click()
  await expect(kept).not.toContainText('Second drench')
})

test('what else a product brings is shown for each treatment, and two fields left at once are both kept', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${BEET}/amounts`)
  const product = page.getByRole('region', { name: 'Product', exact: true })
  await product.getByText('What else is in it').click()
  await product.getByLabel('Calcium, Ca').fill('5')
  await product.getByLabel('Magnesium, Mg').fill('2.4')
  await product.getByLabel('Density, of a liquid').fill('1.25')
  await product.getByLabel('Density, of a liquid').blur()
  // 160 kg N/ha ÷ 0.27 = 592.6 kg/ha, with 29.6 kg Ca and 14.2 kg Mg; 21 kg Ca came in autumn.
  const row = page.getByTestId('others').getByRole('row', { name: /N160/ })
  await expect(row).toContainText('50.6 kg Ca/ha')
  await expect(row).toContainText('14.2 kg Mg/ha')
  await expect(page.getByText('The treatments differ also in calcium (Ca) and magnesium (Mg)')).toBeVisible()
  // 800 g a plot ÷ 1.25.
  await expect(page.getByRole('main')).toContainText('640 mL')
  expect((await fileOf(demo, BEET)).trial.amounts.supply).toMatchObject({ analysis: { N: 27, Ca: 5, Mg: 2.4 }, density: 1.25 })
})

test('boron goes on as a solution that a balance of 0.1 g can weigh, and a sprayer is calibrated, on US units', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${BEET}/amounts`)
  const begin = async (name: string) => {
    await page.getByRole('combobox', { name: 'Work something out' }).click()
    await page.getByRole('option', { name }).click()
    return page.getByRole('form', { name })
  }
  const boron = await begin('A dose too small to spread dry')
  await expect(boron.getByLabel('Area of a plot')).toHaveValue('27')
  await boron.getByLabel('Rate of the element or product').fill('1 kg/ha')
  await boron.getByLabel('Of it in the product').fill('20')
  await boron.getByLabel('Plots', { exact: true }).fill('4')
  await boron.getByLabel('One division of the balance').fill('0.1')
  // 1 ÷ 0.2 = 5 kg/ha = 0.5 g/m²: 13.5 g a plot, 54 g in all, in 2.7 L a plot.
  await expect(boron.getByTestId('worked')).toContainText('54.00 g')
  await expect(boron.getByTestId('worked')).toContainText('5.000 g/L')
  await expect(boron).toContainText('below the 5 g/m² that can be spread evenly dry')
  await boron.getByRole('button', { name: 'Keep with the trial' }).click()
  await expect(page.getByTestId('worksheets')).toContainText('A dose too small to spread dry')

  const sprayer = await begin('Sprayer calibration')
  await sprayer.getByLabel('Distance of a run').fill('50 m')
  await sprayer.getByLabel('Time of each run').fill('30 30 30')
  await sprayer.getByLabel('Catch of each nozzle').fill('500 495 505 400')
  await sprayer.getByLabel('Nozzle spacing').fill('20 in')
  await sprayer.getByLabel('Volume wanted').fill('10 gal/ac')
  await expect(sprayer).toContainText('More than 10 % from the mean: nozzle 4 (400 mL/min)')
  await sprayer.getByLabel('Catch of each nozzle').fill('500 495 505 500')
  // 600 × 0.5 ÷ (6 × 0.508) = 98.43 L/ha, and 10 gal/ac is 93.54.
  await expect(sprayer.getByTestId('worked')).toContainText('98.43 L/ha')
  await expect(sprayer.getByTestId('worked')).toContainText('105.2 %')
  await sprayer.getByRole('button', { name: 'Keep with the trial' }).click()
  await expect(page.getByTestId('worksheets')).toContainText('98.4 L/ha')
  await step(page, 'Question')
  await step(page, 'Amounts')
  await expect(page.getByTestId('worksheets')).toContainText('98.4 L/ha')
})

/** A trial with other treatments on the ground of another, begun as a program would. */
async function begun(demo: Server, from: string, change: (draft: TrialDraft) => TrialDraft): Promise<string> {
  const { question, treatments, traits, sites, amounts, prices } = (await fileOf(demo, from)).trial
  const sent = await fetch(`${demo.url}/api/trials`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(change({ question, treatments, traits, sites, amounts, prices })),
  })
  const file = (await sent.json()) as TrialFile
  expect(sent.status, JSON.stringify(file).slice(0, 300)).toBe(201)
  return file.trial.id
}

async function putOn(
  page: Page,
  what: { goes: string; product: string; rate?: string; more?: Record<string, string>; choose?: Record<string, string> },
) {
  await page.getByRole('button', { name: /^Put something (else )?on$/ }).click()
  const form = page.getByRole('form', { name: 'Put something on' })
  const pick = async (label: string, option: string): Promise<void> => {
    await form.getByRole('combobox', { name: label, exact: true }).click()
    await page.getByRole('option', { name: option, exact: true }).click()
  }
  await pick('Goes on', what.goes)
  await pick('Product', what.product)
  for (const [label, option] of Object.entries(what.choose ?? {})) await pick(label, option)
  if (what.rate) await form.getByLabel('How much over the season').fill(what.rate)
  for (const [label, text] of Object.entries(what.more ?? {})) await form.getByLabel(label).fill(text)
  return form
}

test('two sources matched on phosphorus at three sites, what else comes with each, made even, and a sheet that waits for the label', async ({
  page,
  demo,
}) => {
  const levels = [['none', 'NONE', 'no phosphorus'], ['tsp', 'TSP', 'superphosphate'], ['dap', 'DAP', 'diammonium phosphate']] as const // prettier-ignore
  const trial = await begun(demo, BEET, (draft) => ({
    ...draft,
    question: { ...draft.question, title: 'Which phosphorus?' },
    treatments: {
      ...draft.treatments,
      comparisons: [],
      factors: [{ key: 'source', name: 'Source', kind: 'kind', measure: '', of: null, levels: levels.map(([key, code, name]) => ({ key, code, name, amount: null })) }], // prettier-ignore
      list: levels.map(([key, code, name], i) => ({
        key,
        code,
        name,
        colour: null,
        role: i === 0 ? 'untreated control' : 'none',
        levels: { source: key },
      })),
    },
    // Plots of unlike size: 27, 54 and 13.5 m².
    sites: [1, 2, 0.5].map((times, i) => ({ ...draft.sites[0]!, key: `site-${i + 1}`, name: `Field ${i + 1}`, shelf: null, ground: { ...draft.sites[0]!.ground, rows: null, outline: null, avoid: [], plotLength: draft.sites[0]!.ground.plotLength * times, harvestLength: draft.sites[0]!.ground.harvestLength * times } })), // prettier-ignore
    amounts: { supply: null, common: [] },
    prices: { ...draft.prices, reference: null, otherCost: {} },
  }))
  await page.goto(`${demo.url}/trials/${trial}/amounts`)
  const first = await putOn(page, { goes: 'Source: superphosphate', product: 'Triple superphosphate', rate: '1 tsp/plot' })
  await expect(first).toContainText('“tsp” is no measure here')
  await first.getByLabel('How much over the season').fill('40 kg P/ha')
  // 40 ÷ 0.2 = 200 kg/ha = 20 g/m² on 27 m².
  await expect(first.getByTestId('dose-preview')).toContainText('540 g')
  await first.getByRole('button', { name: 'Put it on' }).click()
  const second = await putOn(page, { goes: 'Source: diammonium phosphate', product: 'Diammonium phosphate', rate: '35.687 lb P/ac' })
  await second.getByRole('button', { name: 'Put it on' }).click()
  await expect(page.getByTestId('per-plot-dose-2-DAP')).toHaveText('540 g')

  // With it 28 kg Ca/ha here, 36 kg N/ha there; the control has nothing.
  const totals = page.getByTestId('others')
  await expect(totals.getByRole('row', { name: /TSP/ })).toContainText('28.0 kg Ca/ha')
  await expect(totals.getByRole('row', { name: /DAP/ })).toContainText('36.0 kg N/ha')
  await expect(page.getByText('The treatments differ also in nitrogen (N) and calcium (Ca)')).toBeVisible()
  await page.getByText('Make the rest even with further products').click()
  const products = page.getByRole('combobox', { name: 'Products that may be used' })
  await products.click()
  await page.getByRole('option', { name: 'Urea', exact: true }).click()
  await products.fill('Ground')
  await page.getByRole('option', { name: 'Ground limestone', exact: true }).click()
  // 36 ÷ 0.46 = 78.26 kg/ha of urea for the control and TSP; 28 ÷ 0.38 = 73.68 of limestone for the control and DAP.
  const even = page.getByTestId('balance')
  await expect(even.getByRole('row', { name: /^NONE/ })).toContainText(/78\.26 kg\/ha.*73\.68 kg\/ha.*even with the others/)
  await expect(even.getByRole('row', { name: /^TSP/ })).toContainText(/78\.26 kg\/ha.*–.*even with the others/)

  // Half, whole and double of 40 kg P/ha from each, with what else the whole brings.
  await page.getByText('Half, whole and double of one rate').click()
  await expect(page.getByTestId('sources').getByRole('row', { name: /^Triple superphosphate/ })).toContainText(
    /100 kg\/ha200 kg\/ha400 kg\/ha.*28\.0 kg Ca\/ha/,
  )
  await page.getByLabel('Whole rate of it').fill('20 kg/ha')
  await expect(page.getByTestId('sources').getByRole('row', { name: /^Diammonium phosphate/ })).toContainText(
    /50\.0 kg\/ha100 kg\/ha200 kg\/ha.*18\.0 kg N\/ha/,
  )

  // Each site by its own plots.
  for (const [site, grams] of [
    ['site-2', '1080 g'],
    ['site-3', '270 g'],
  ] as const) {
    await page.goto(`${demo.url}/trials/${trial}/amounts?site=${site}`)
    await expect(page.getByTestId('per-plot-dose-1-TSP')).toHaveText(grams)
  }
  // What the label says is typed once, then the sheet is printed: untreated first.
  await expect(page.getByTestId('pass-dose-2.1')).toContainText('sheet stopped')
  await page.getByTestId('label-diammonium-phosphate').locator('summary').first().click()
  const label = page.getByTestId('label-diammonium-phosphate')
  for (const [field, value] of [
    ['Label maximum, one application', '300'],
    ['Label maximum, whole season', '300'],
    ['Stay out after (hours)', '0'],
    ['Before harvest (days)', '0'],
    ['Protective equipment', 'gloves'],
  ] as const) {
    // prettier-ignore
    await label.getByLabel(field).fill(value)
    await label.getByLabel(field).blur()
  }
  await page.getByTestId('pass-dose-2.1').getByRole('link', { name: 'Mixing sheet to print' }).click()
  const sheet = page.getByTestId('mixing')
  await expect(sheet.getByRole('row').nth(1)).toContainText('Without it')
  await expect(sheet.getByRole('row').nth(2)).toContainText('DAP')
  await expect(sheet.getByRole('row').nth(2)).toContainText('270 g')
  await expect(page.locator('main')).toContainText('Stated maximum per season: 300 kg/ha of product.')
})

test('a drench in ppm for pots: each level its own strength, the untreated get water, and what a tank takes', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${POTS}/amounts`)
  // 10 mg/L × 60 mL = 0.6 mg ÷ 4 mg/mL = 0.15 mL in a pot; ten pots and 0.2 L in the hose.
  await expect(page.getByTestId('per-plot-drench-G10')).toHaveText('0.150 mL')
  await expect(page.getByRole('main')).toContainText('Drench: moisten the pots the day before')
  await page.getByRole('link', { name: 'Mixing sheet to print' }).click()
  const sheet = page.getByTestId('mixing')
  await expect(sheet.getByRole('row').nth(1)).toContainText('Carrier alone')
  await expect(sheet.getByRole('row').nth(1)).toContainText('60 mL')
  await expect(sheet.getByRole('row').nth(3)).toContainText(/0\.15 mL or 0\.153 g.*1\.5 mL/)
  // 10 × 60 mL + 0.2 L = 0.8 L at 10 mg/L: 2 mL of 4 g/L.
  await expect(page.getByTestId('tank').getByRole('row', { name: /^10 mg/ })).toContainText(/0\.8 L.*2 mL/)
  await page.goBack()
  // Shown on the plan, pot by pot.
  await expect(page.getByRole('option', { name: /10 mg\/L drench.*0\.150 mL of Growth regulator/ }).first()).toBeAttached()
})

test('a sprayer calibrated and used: what went out by calibration and by what was emptied, asked about, and Results by either rate', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/trials/${BEET}/amounts`)
  const begin = await putOn(page, {
    goes: 'Nitrogen: each level by its own amount',
    product: 'Urea and ammonium nitrate solution',
    more: { 'Water that carries it': '200 L/ha' },
  })
  // What the nutrient is given by so far makes room for it.
  await begin.getByRole('button', { name: 'Put it on' }).click()
  const dose = page.getByTestId('dose-dose-3')
  await expect(dose).toContainText('Urea and ammonium nitrate solution')
  // 160 kg N/ha ÷ 28 % ÷ 1.28 kg/L = 446.4 L/ha on 27 m²: 1.205 L.
  await expect(page.getByTestId('per-plot-dose-3-N160')).toHaveText('1205 mL')

  const pass = page.getByTestId('pass-dose-3.1')
  await pass.getByRole('button', { name: 'Calibrate, or work out for this pass' }).click()
  await page.getByRole('menuitem', { name: 'for Urea and ammonium nitrate solution' }).click()
  const sheet = page.getByRole('form', { name: 'Sprayer calibration' })
  // What is known of the pass stands there: 200 L/ha on 20 plots of 27 m².
  await expect(sheet.getByLabel('Volume wanted')).toHaveValue('200')
  await expect(sheet.getByLabel('Area to spray')).toHaveValue('0.054')
  for (const [label, value] of [['Distance of a run', '50 m'], ['Time of each run', '30 30'], ['Catch of each nozzle', '1000 1000'], ['Nozzle spacing', '50']] as const) await sheet.getByLabel(label).fill(value) // prettier-ignore
  // Another that is begun meanwhile does not take what is typed.
  await page.getByTestId('pass-autumn-p.1').getByRole('button', { name: 'Calibrate, or work out for this pass' }).click()
  await page.getByRole('menuitem').first().click()
  await expect(page.getByText(/Keep this worksheet or leave it first; then begin “Spreader/)).toBeVisible()
  // 1 L/min over 6 km/h and 0.5 m: 200 L/ha, as wanted.
  await expect(sheet.getByTestId('worked')).toContainText('100.0 %')
  await sheet.getByRole('button', { name: 'Keep with the trial' }).click()
  // It is kept with its pass, whose sheets wait for the label.
  await expect(pass.getByTestId('pass-sheet')).toContainText('100 % of what is wanted goes out sheet stopped')
  await pass.getByLabel('Why this is right here all the same').fill('calibrated with water alone')
  await pass.getByLabel('Why this is right here all the same').press('Enter')
  await pass.getByTestId('pass-sheet').getByRole('link', { name: 'Print' }).click()
  await expect(page.getByText('For Urea and ammonium nitrate solution.')).toBeVisible()
  await expect(page.getByTestId('worksheet')).toContainText('Of the target goes out')
  await page.getByRole('link', { name: 'Back to the trial' }).click()
  const record = async (how: string, fill: (form: Locator) => Promise<void>) => {
    await pass.getByRole('button', { name: 'What really went out' }).click()
    const form = pass.getByRole('form', { name: 'What went out' })
    await form.getByRole('combobox', { name: 'How it is known' }).click()
    await page.getByRole('option', { name: how }).click()
    await fill(form)
    await form.getByRole('button', { name: 'Put on record' }).click()
    await expect(form).toBeHidden()
  }
  await record('as calibrated beforehand', async (form) => {
    await expect(form.getByRole('combobox', { name: 'Calibration' })).toHaveValue(/^Sprayer calibration.*: 100 %/)
  })
  // 20 plots × 0.54 L of water planned is 10.8 L.
  await record('by what was filled and left', async (form) => {
    await expect(form).toContainText('planned 10.8 L')
    await form.getByLabel('Filled in all').fill('14 L')
    await form.getByLabel('Left over').fill('0.5')
  })
  // 13.5 of 10.8 L is 125 %.
  const doubt = pass.getByRole('group', { name: 'Which is right' })
  await expect(doubt).toContainText('Calibrated it was 100 % of the plan, by what was emptied 125 %')
  await doubt.getByRole('button', { name: 'What was emptied' }).click()
  await expect(pass.getByTestId('went-out')).toHaveCount(1)
  await expect(pass.getByTestId('went-out')).toContainText('125 %')

  await step(page, 'Results')
  const rates = page.getByTestId('rates')
  await expect(rates).toContainText('200 kg N/ha for 160 kg N/ha (+25 %)')
  const sentences = page.getByTestId('sentences')
  await expect(sentences).toContainText('160 kg N/ha')
  const f = await page.getByTestId('anova').getByRole('row').nth(1).innerText()
  await rates.getByText('Rates as they went out').click()
  await expect(sentences).toContainText('200 kg N/ha')
  await expect(sentences).not.toContainText('160 kg N/ha')
  // Which plots got which treatment is the same, and so is the test of it.
  expect(await page.getByTestId('anova').getByRole('row').nth(1).innerText()).toBe(f)
})

test('a week of deficit irrigation, and a replant supplement, kept with the trial', async ({ page, demo }) => {
  await page.goto(`${demo.url}/trials/${CARROTS}/amounts`)
  const work = async (name: string, fields: Record<string, string>): Promise<Locator> => {
    await page.getByRole('combobox', { name: 'Work something out' }).click()
    await page.getByRole('option', { name, exact: true }).click()
    const form = page.getByRole('form', { name })
    for (const [label, value] of Object.entries(fields)) await form.getByLabel(label, { exact: true }).fill(value)
    return form
  }
  const water = await work('Deficit day by day, and water to give', {
    'Reference evapotranspiration of each day': '5 5 5 5 5 5 5',
    'Rain of each day': '0 0 8 0 0 0',
    'Crop coefficient': '0.8',
    'Shares of its use that are given back': '100 50',
    'Deficit before the first day': '2',
    'Water the root zone holds for the crop': '60',
    'Area that is watered': '10',
  })
  await expect(water).toContainText('There are 7 days of evapotranspiration and 6 of rain')
  await water.getByLabel('Rain of each day').fill('0 0 8 0 0 0 0')
  // At the whole: 2 + 7 × 4 − 8 = 22 mm; at half: 8 mm; 14 mm on 10 m² are 140 L.
  const worked = water.getByTestId('worked')
  await expect(worked.getByRole('row', { name: /To give, at 100 %/ })).toContainText('22.00 mm')
  await expect(worked.getByRole('row', { name: /To give, at 50 %/ })).toContainText('8.000 mm')
  await expect(worked.getByRole('row', { name: /Water saved at 50 %/ })).toContainText('140.0 L')
  await water.getByLabel('Title').fill('Week 27')
  await water.getByRole('button', { name: 'Keep with the trial' }).click()
  await expect(page.getByTestId('worksheets')).toContainText('Week 27')

  const again = await work('Replant: a supplement, or all anew', {})
  for (const input of calculationOf('replant')!.inputs)
    if (!input.optional) await again.getByLabel(input.name, { exact: true }).fill(input.example)
  await expect(again.getByTestId('worked')).toBeVisible()
  await again.getByLabel('Title').fill('Gaps of June')
  await again.getByRole('button', { name: 'Keep with the trial' }).click()
  await expect(page.getByTestId('worksheets')).toContainText('Gaps of June')
  // With the worksheets of the drip lines of each site.
  expect((await fileOf(demo, CARROTS)).trial.amounts.sheets).toHaveLength(4)

  // The water plan: 14 mm on 10.8 m², of which 90 % reach the plants, is 168 L in 14 ÷ 7.11 ÷ 0.9 = 2.19 h.
  await page.getByRole('link', { name: 'Water plan to print' }).first().click()
  await expect(page.getByTestId('water').getByRole('row', { name: /each time HALF/ })).toContainText(/14\.0 mm\s*168 L\s*2\.19 h\s*2016 L/)
  await expect(page.getByTestId('water-season').getByRole('row', { name: /^HALF/ })).toContainText(
    /70\.0 mm.*840 L.*70\.0 mm \(50\.0 %\).*840 L/,
  )

  // What the water costs is worked out from it: 70 mm are 700 m³/ha at 0.20, and five waterings at 3: €155/ha.
  await page.goto(`${demo.url}/trials/${CARROTS}/decision`)
  await commit(page, 'Price of marketable yield', '120')
  await commit(page, 'Price of Water', '0.2/m3')
  await expect(page.getByText('State what each pass costs')).toBeVisible()
  await commit(page, 'Each pass', '3')
  await expect(page.getByRole('row', { name: /^HALF·EARLY/ }).first()).toContainText('155')
})

test('the shelf: a product as it usually is, its label typed, taken into a trial, changed there later and not here', async ({
  page,
  demo,
}) => {
  await page.goto(`${demo.url}/`)
  await page.getByRole('link', { name: 'Shelf' }).click()
  await page.getByRole('combobox', { name: /Begin with one/ }).click()
  await page.getByRole('option', { name: 'Gypsum', exact: true }).click()
  const product = page.getByRole('region', { name: 'Gypsum' })
  for (const [field, value] of [
    ['Label maximum, whole season', '900'],
    ['Protective equipment', 'dust mask'],
  ] as const) {
    await product.getByLabel(field).fill(value)
    await product.getByLabel(field).blur()
  }
  await page.goto(`${demo.url}/trials/${CARROTS}/amounts`)
  const form = await putOn(page, { goes: 'Every plot alike', product: 'Gypsum', rate: '400 kg/ha' })
  await form.getByRole('button', { name: 'Put it on' }).click()
  const before = await page.getByTestId('per-plot-dose-3-every').textContent()
  await page.goto(`${demo.url}/shelf`)
  await page.getByRole('button', { name: 'Gypsum', exact: true }).click()
  await page.getByRole('region', { name: 'Gypsum' }).getByLabel('Label maximum, whole season').fill('350')
  await page.getByRole('region', { name: 'Gypsum' }).getByLabel('Label maximum, whole season').blur()
  await expect.poll(async () => ((await (await fetch(`${demo.url}/api/shelf`)).json()) as { items: ShelfItem[] }).items.find((each) => each.name === 'Gypsum')).toMatchObject({ body: { labelMaximumPerSeason: 350 } }) // prettier-ignore
  await page.goto(`${demo.url}/trials/${CARROTS}/amounts`)
  await expect(page.getByTestId('per-plot-dose-3-every')).toHaveText(before!)
  await page.getByTestId('label-gypsum').locator('summary').first().click()
  await expect(page.getByTestId('changed-on-shelf')).toContainText('The shelf says otherwise of: maximum for the season')
  await page.getByRole('button', { name: 'Take it over' }).click()
  await expect(page.getByText('the stated maximum is 350 kg/ha.')).toBeVisible()
})
