import { fileOf, step } from './kit.ts'
import { expect, test } from './serve.ts'

const POTS = '019c65ad-9280-7591-a8c8-70f6f2b4e15b'
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
  await page.getByText('What else is in it').click()
  await page.getByLabel('Calcium, Ca').fill('5')
  await page.getByLabel('Magnesium, Mg').fill('2.4')
  await page.getByLabel('Density, of a liquid').fill('1.25')
  await page.getByLabel('Density, of a liquid').blur()
  // 160 kg N/ha ÷ 0.27 = 592.6 kg/ha, with 29.6 kg Ca and 14.2 kg Mg.
  const row = page.getByTestId('others').getByRole('row', { name: /N160/ })
  await expect(row).toContainText('29.6 kg Ca/ha')
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
