import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { unpackTrial } from '@canter/core/exchange'
import { commit } from './kit.ts'
import { expect, test } from './serve.ts'

/**
 * Three rates in three blocks, weights in kg on 10 m² harvested, by block and treatment. With
 * 10 % dirt and 20 % sugar, sugar yield is weight × 0.9 ÷ 10 m² × 10 × 0.2 = 0.18 t/ha a kg.
 * The expected figures below were worked apart from Canter: SS treatments 11.4552, blocks
 * 1.0656, residual 0.3168 on 4 df; F = 72.32; SED = √(2 × 0.0792 ÷ 3) = 0.2298; LSD = 2.776 × SED = 0.6380.
 * N120 and N60 differ by 0.84, √2 × 3.66 = 5.17 against Tukey's 5.04: three letters.
 */
const WEIGHTS: Record<string, [number, number, number]> = { N0: [50, 52, 54], N60: [60, 61, 66], N120: [64, 69, 68] }

test('from a new trial to the printed report and the exported package', async ({ page, empty }) => {
  await page.goto(empty.url)
  await expect(page.getByText('No trial yet.')).toBeVisible()
  await page.getByRole('link', { name: 'New trial' }).click()
  await commit(page, 'Title', 'Nitrogen for beet')
  await commit(page, 'Crop', 'Sugar beet')
  await commit(page, 'Asked by', 'A growers’ circle')
  await page.getByRole('combobox', { name: 'Rates of', exact: true }).click()
  await page.getByRole('option', { name: 'Nitrogen (N)' }).click()
  await commit(page, 'Levels, kg/ha', '0 60 120')
  await commit(page, 'Replicates (blocks)', '3')
  await commit(page, 'Smallest difference worth knowing', '0.5')
  await page.getByRole('button', { name: 'Begin the trial' }).click()

  // Ground: sizes typed in feet are understood; the seed is kept and shown.
  await expect(page).toHaveURL(/\/ground$/)
  await commit(page, 'Plot width', '3')
  await commit(page, 'Plot length', '19.685 ft')
  await expect(page.getByText('19.685 ft = 6 m')).toBeVisible()
  await commit(page, 'Harvested width', '2')
  await commit(page, 'Harvested length', '5')
  await expect(page.getByText('2 m × 5 m = 10.00 m²')).toBeVisible()
  await page.getByLabel('Seed (empty: drawn by chance)').fill('41')
  await page.getByRole('button', { name: 'Randomise and lay out' }).click()
  await expect(page.getByTestId('seed')).toHaveText('41')
  await expect(page.getByRole('option', { name: /^Plot/ })).toHaveCount(9)
  await page.getByRole('button', { name: 'Mark as planted' }).click()
  await expect(page.getByText('Locked since it is planted or measured. A single')).toBeVisible()

  // Amounts: 120 kg N/ha ÷ 27 % on 18 m² is 800 g.
  await page.getByRole('link', { name: /^Amounts/ }).click()
  await commit(page, 'N by weight', '27')
  await expect(page.getByTestId('per-plot-N120')).toHaveText('800 g')
  await page.getByTestId('per-plot-N120').click()
  await expect(page.getByTestId('working')).toContainText('120 kg N/ha ÷ 27 % = 444.4 kg/ha')
  await expect(page.getByTestId('working')).toContainText('444.4 kg/ha × 18.00 m² = 800.0 g')
  // Over a stated maximum, and with a label that nobody looked up, nothing is printed until a reason is on record.
  await commit(page, 'Label maximum, one application', '400')
  await expect(page.getByText('the stated maximum is 400 kg/ha.')).toBeVisible()
  await expect(page.getByText(/The label of .* is not looked up: the maximum for the season/)).toBeVisible()
  await expect(page.getByText('sheet stopped')).toBeVisible()
  await page.getByLabel(/^Why this is right here/).fill('Trial permit 7')
  await page.getByLabel(/^Why this is right here/).blur()
  await page.getByRole('link', { name: 'Mixing sheet to print' }).click()
  await expect(page.getByText('Reason on record: Trial permit 7')).toBeVisible()
  await expect(page.getByTestId('mixing').getByRole('row').nth(1)).toContainText('Untreated')
  await page.getByRole('link', { name: 'Back to the trial' }).click()
  // A lower maximum is no longer answered by it.
  await commit(page, 'Label maximum, one application', '300')
  await expect(page.getByText('sheet stopped')).toBeVisible()
  await page.getByRole('button', { name: 'It holds for this too' }).click()
  await expect(page.getByText('sheet stopped')).toBeHidden()

  // Walk: by keyboard, Enter from field to field and plot to plot.
  await page.getByRole('link', { name: /^Walk/ }).click()
  for (let i = 0; i < 9; i++) {
    await expect(page.getByText(`· ${i + 1} of 9`)).toBeVisible()
    const code = (await page.getByTestId('walk-plot').textContent())!.trim()
    const treatment = (await page.getByTestId('walk-treatment').textContent())!.trim()
    const weight = WEIGHTS[treatment]![Number(code[0]) - 1]!
    const field = page.getByLabel('Gross root weight', { exact: true })
    await expect(field).toBeFocused()
    if (i === 0) {
      await field.fill('5000')
      await field.press('Enter')
      await expect(page.getByText('is outside what is plausible')).toBeVisible()
      await page.getByRole('button', { name: 'Type again' }).click()
    }
    if (i === 1) {
      await field.fill(String(weight + 9))
      await field.press('Enter')
      await expect(page.getByLabel('Dirt tare', { exact: true })).toBeFocused()
      await field.focus()
    }
    await field.fill(String(weight))
    await field.press('Enter')
    await expect(page.getByLabel('Dirt tare', { exact: true })).toBeFocused()
    await page.keyboard.type('10')
    await page.keyboard.press('Enter')
    await expect(page.getByLabel('Sugar content', { exact: true })).toBeFocused()
    await page.keyboard.type('20')
    await page.keyboard.press('Enter')
    await expect(page.getByRole('button', { name: 'Leaf health 1' })).toBeFocused()
    await page.keyboard.press('7')
  }
  await expect(page.getByTestId('walk-progress')).toHaveText('9 of 9 plots done')
  await expect(page.getByTestId('send-state')).toHaveText('All saved')

  // Numbers: the working of a value.
  await page.getByRole('link', { name: /^Numbers/ }).click()
  await page.getByRole('button', { name: /^Clean root yield of plot 101/ }).click()
  await expect(page.getByTestId('value-detail')).toContainText(/kg × \(1 − 10 %\) ÷ 10\.00 m² = \d\d\.\d\d t\/ha/)

  await page.getByRole('button', { name: /^Sugar yield of plot 101/ }).click()

  // Results, against figures worked apart.
  await page.getByRole('link', { name: /^Results/ }).click()
  const sentences = page.getByTestId('sentences')
  await expect(sentences).toContainText('120 kg N/ha gave 2.70 t/ha more sugar yield than no nitrogen')
  await expect(sentences).toContainText('trial: randomised, 3 plots each')
  const anova = page.getByTestId('anova')
  await expect(anova.getByRole('row', { name: /^Nitrogen/ }).getByRole('cell')).toHaveText([
    'Nitrogen',
    '2',
    '11.46',
    '5.728',
    '72.3',
    '< 0.001',
  ])
  await expect(
    anova
      .getByRole('row', { name: /^Residual/ })
      .getByRole('cell')
      .nth(2),
  ).toHaveText('0.3168')
  await expect(page.getByTestId('means').getByRole('row', { name: /^N120/ }).getByRole('cell').nth(2)).toHaveText('12.060')
  await expect(page.getByTestId('precision')).toContainText('SED 0.230 · LSD 0.638')
  await page.getByRole('combobox', { name: 'How means are compared', exact: true }).click()
  await page.getByRole('option', { name: 'All pairs, guarded (Tukey)' }).click()
  await expect(page.getByText('even one false difference among all pairs')).toBeVisible()
  await expect(page.getByTestId('means').getByRole('row', { name: /^N0/ }).getByRole('cell').nth(5)).toHaveText('c')

  // A plot left out with a reason: the answer both ways.
  await page.getByRole('link', { name: /^Numbers/ }).click()
  await page.getByRole('button', { name: /^Sugar yield of plot 101/ }).click()
  await page.getByLabel('Leave this plot out of the analysis, because').fill('Grazed by deer')
  await page.getByRole('button', { name: 'Leave out' }).click()
  await expect(page.getByTestId('plot-card').getByText('Left out: Grazed by deer')).toBeVisible()
  await page.getByRole('link', { name: /^Results/ }).click()
  await expect(page.getByTestId('other-way')).toContainText('120 kg N/ha gave 2.70 t/ha more')
  await page.getByRole('link', { name: /^Numbers/ }).click()
  await page.getByRole('button', { name: /^Sugar yield of plot 101/ }).click()
  await page.getByRole('button', { name: 'Take it back in' }).click()

  // Decision: nothing is said of money before it is stated.
  await page.getByRole('link', { name: /^Decision/ }).click()
  await expect(page.getByText('State the price of the yield')).toBeVisible()
  await commit(page, 'Price of clean root yield', '40')
  await commit(page, 'at sugar content of', '16')
  await commit(page, 'more or less for each point', '9')
  await commit(page, 'Price of the product', '0.35')
  await commit(page, 'Each pass', '10')
  // 46.8 t at 40 × 1.36 is 2546; 222.2 kg at 0.35 and a pass at 10 is 87.8, paid by 1.61 t.
  const row = (code: string) => page.getByTestId('returns').getByRole('row', { name: new RegExp(`^${code} `) })
  await expect(row('N0').getByRole('cell').nth(1)).toHaveText('2546')
  await expect(row('N60').getByRole('cell').nth(2)).toHaveText('87.8')
  await expect(row('N60').getByRole('cell').nth(7)).toHaveText('1.61')

  // Report and package.
  await page.getByRole('link', { name: 'Report' }).click()
  await expect(page.getByTestId('report')).toHaveAttribute('data-ready', 'true')
  await expect(page.getByTestId('report')).toContainText('120 kg N/ha gave 2.70 t/ha more sugar yield')
  for (const format of ['A4', 'Letter'] as const) {
    await page.locator('label', { hasText: format }).click()
    const pdf = await page.pdf({ preferCSSPageSize: true })
    const box = /\/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]/.exec(pdf.toString('latin1'))!
    expect(Number(box[2])).toBeCloseTo(format === 'A4' ? 841.9 : 792, -1)
  }
  await page.getByRole('link', { name: 'Back to the trial' }).click()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Whole trial (zip)' }).click()])
  const file = join(empty.folder, 'trial.zip')
  await download.saveAs(file)
  const contents = unpackTrial(readFileSync(file))
  expect(contents.records.filter((record) => record.type === 'reading')).toHaveLength(37)
  const cli = fileURLToPath(new URL('../cli/bin/canter.js', import.meta.url))
  expect(execFileSync(process.execPath, [cli, 'analyse', file], { encoding: 'utf8' })).toMatch(
    /Nitrogen +2 +11\.455 +5\.7276 +72\.32 +< 0\.001/,
  )

  // The package comes back as a copy beside the trial that exists.
  await page.goto(empty.url)
  await page.setInputFiles('input[type=file]', file)
  await page.getByRole('button', { name: 'Import as a copy' }).click()
  await expect(page.getByRole('heading', { name: 'Nitrogen for beet (copy)' })).toBeVisible()
})
