import { unpackTrial } from '@canter/core/exchange'
import { newTrialDraft } from '@canter/core/numbers'
import { marksOn, treatmentsOf, type TrialFile } from '@canter/core/trial'
import { choose, commit, step } from './kit.ts'
import { expect, test } from './serve.ts'

/** Marketable weight on 1 m²: t/ha is ten times the kg. Full water adds 2 kg to the early cultivar and 1 to the late; blocks and main plots differ by a little. */
function weightOf(water: string, cultivar: string, block: number, site: number): number {
  const gain = water === 'FULL' ? (cultivar === 'EARLY' ? 2 : 1) : 0
  const late = cultivar === 'LATE' ? 0.4 : 0
  const wobble =
    [0.1, -0.2, 0.15, -0.05][(block * 3 + (water === 'FULL' ? 1 : 0)) % 4]! +
    [0.03, -0.04, 0.02][(block + (cultivar === 'LATE' ? 2 : 0) + (water === 'FULL' ? 1 : 0)) % 3]!
  return Number((5 + site * 0.5 + gain + late + wobble).toFixed(2))
}

test('a split-plot at two sites, from New trial to Report', async ({ page, empty }) => {
  await page.goto(`${empty.url}/trials/new`)
  await commit(page, 'Title', 'Water and cultivar')
  await commit(page, 'Crop', 'Carrots')
  await choose(page, 'What is varied', 'Practice: how it is done')
  await commit(page, 'Called', 'Water')
  await commit(page, 'Levels', 'dry, full')
  await page.getByRole('button', { name: 'Vary something else too' }).click()
  await commit(page, 'Called 2', 'Cultivar')
  await commit(page, 'Levels 2', 'early, late')
  await expect(page.getByTestId('treatments').getByRole('row')).toHaveCount(5)
  await commit(page, 'Replicates (blocks)', '3')
  await page.getByRole('button', { name: 'Begin the trial' }).click()

  // Ground: each site its own design, seed and plan.
  await expect(page).toHaveURL(/\/ground$/)
  await commit(page, 'Name', 'North field')
  await page.getByRole('radio', { name: 'Split plots', exact: true }).click()
  await expect(page.getByText(/2 degrees of freedom to judge chance by between main plots/)).toBeVisible()
  await commit(page, 'Harvested width', '1')
  await commit(page, 'Harvested length', '1')
  await page.getByRole('button', { name: 'Add a site' }).click()
  await page.getByRole('menuitem', { name: 'Like this one, to be named' }).click()
  await expect(page).toHaveURL(/site=site-2/)
  await commit(page, 'Name', 'South field')
  for (const [site, seed] of [
    ['South field', '12'],
    ['North field', '11'],
  ] as const) {
    await page.getByRole('button', { name: new RegExp(`^${site}, not laid out`) }).click()
    await page.getByLabel('Seed (empty: drawn by chance)').fill(seed)
    await page.getByRole('button', { name: 'Randomise and lay out' }).click()
    await expect(page.getByTestId('seed')).toHaveText(seed)
    await expect(page.getByRole('option', { name: /^Plot/ })).toHaveCount(12)
  }

  // A design changed after chance has dealt is asked about, left as it was, changed, and brought back by Undo.
  await page.getByText(/other designs? that would do here/).click()
  await page.getByRole('radio', { name: 'Crossing strips' }).click()
  await expect(page.getByRole('dialog', { name: 'Deal out anew?' })).toBeVisible()
  await page.getByRole('button', { name: 'Leave it as it was' }).click()
  await expect(page.getByTestId('seed')).toHaveText('11')
  await page.getByRole('radio', { name: 'Crossing strips' }).click()
  await page.getByRole('button', { name: 'Change it' }).click()
  await expect(page.getByTestId('seed')).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByTestId('seed')).toHaveText('11')

  // Walk both sites.
  for (const [s, site] of ['North field', 'South field'].entries()) {
    await page.getByRole('button', { name: new RegExp(`^${site}`) }).click()
    if (s === 0) await step(page, 'Walk')
    for (let i = 0; i < 12; i++) {
      await expect(page.getByText(`· ${i + 1} of 12`)).toBeVisible()
      const code = (await page.getByTestId('walk-plot').textContent())!.trim()
      const [water, cultivar] = (await page.getByTestId('walk-treatment').textContent())!.trim().split('·') as [string, string]
      const block = Number(code.at(-3)) - 1
      const weight = page.getByLabel('Marketable weight', { exact: true })
      await expect(weight, `at ${site} ${code}`).toBeFocused()
      await weight.fill(String(weightOf(water, cultivar, block, s)))
      await weight.press('Enter')
      const stand = page.getByLabel('Stand', { exact: true })
      await expect(stand).toBeFocused()
      await stand.fill('90')
      await stand.press('Enter')
    }
    await expect(page.getByTestId('walk-progress')).toHaveText('12 of 12 plots done')
  }
  await expect(page.getByTestId('send-state')).toHaveText('All saved')

  // Results: each factor against its own error, the sites together.
  await step(page, 'Results')
  const anova = page.getByTestId('anova')
  await expect(anova.getByRole('row', { name: /^Water main plots 1/ })).toBeVisible()
  await expect(anova.getByRole('row', { name: /^Cultivar plots 1/ })).toBeVisible()
  await expect(
    anova
      .getByRole('row', { name: /^Residual of main plots/ })
      .getByRole('cell')
      .nth(2),
  ).toHaveText('4')
  await expect(
    anova
      .getByRole('row', { name: /^Residual of plots/ })
      .getByRole('cell')
      .nth(2),
  ).toHaveText('8')
  await expect(page.getByTestId('sentences')).toContainText('What water does depends on cultivar')
  await page.getByRole('radiogroup', { name: 'Sites' }).getByText('South field').click()
  await expect(
    anova
      .getByRole('row', { name: /^Residual of main plots/ })
      .getByRole('cell')
      .nth(2),
  ).toHaveText('2')

  // Decision keeps silent without prices; the report says what was laid out where.
  await step(page, 'Decision')
  await expect(page.getByText('State the price of the yield')).toBeVisible()
  await page.getByRole('link', { name: 'Report' }).click()
  const report = page.getByTestId('report')
  await expect(report).toHaveAttribute('data-ready', 'true')
  await expect(report).toContainText('North field. Split plots: 4 treatments on 12 plots')
  await expect(report).toContainText('South field. Split plots')
  await expect(report).not.toContainText('€')

  // What stands is what was dealt: main plots whole.
  const trial = page.url().split('/trials/')[1]!.split('/')[0]!
  const bytes = new Uint8Array(await (await fetch(`${empty.url}/api/trials/${trial}/files/package`)).arrayBuffer())
  const { layouts } = unpackTrial(bytes)
  expect(layouts).toHaveLength(2)
  for (const { units } of layouts) {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    for (const main of units.filter((unit) => unit.kind === 'main plot')) {
      const inside = units.filter((unit) => unit.in.includes(main.id)).map((unit) => marksOn(unit, index, 'received'))
      expect(new Set(inside.map((marks) => marks['factor-1'])).size).toBe(1)
      expect(new Set(inside.map((marks) => marks['factor-2'])).size).toBe(2)
    }
  }
})

test('pots with three plants each, counted on two visits by two observers, from New trial to Report', async ({ page, empty }) => {
  await page.goto(`${empty.url}/trials/new`)
  await commit(page, 'Title', 'Pinching pots')
  await commit(page, 'Crop', 'Pelargonium')
  await choose(page, 'What is varied', 'Practice: how it is done')
  await commit(page, 'Called', 'Pinching')
  await commit(page, 'Levels', 'none, once')
  await page.getByRole('button', { name: 'Add a visit' }).click()
  await commit(page, 'Name of visit 1', 'First count')
  await commit(page, 'Name of visit 2', 'Second count')
  await commit(page, 'Replicates (blocks)', '3')
  await page.getByRole('button', { name: 'Begin the trial' }).click()
  await page.getByLabel('Seed (empty: drawn by chance)').fill('5')
  await page.getByRole('button', { name: 'Randomise and lay out' }).click()
  await expect(page.getByRole('option', { name: /^Pot/ })).toHaveCount(6)
  await page.getByRole('button', { name: 'Mark as planted' }).click()
  await expect(page.getByText('Locked since it is planted or measured. A single')).toBeVisible()

  /** Pots treated alike do not grow alike; over the blocks it comes to nothing. */
  const uneven = (treatment: string, block: number, plant: number): number =>
    treatment === 'ONCE' && plant === 1 ? [1, -1, 0][block - 1]! : 0
  /** Walks the shoots of all pots at the open visit; each plant one more than the last. */
  const countShoots = async (base: (treatment: string) => number, more = 0): Promise<void> => {
    for (let i = 0; i < 6; i++) {
      await expect(page.getByText(`· ${i + 1} of 6`)).toBeVisible()
      const treatment = (await page.getByTestId('walk-treatment').textContent())!.trim()
      const block = Number((await page.getByTestId('walk-plot').textContent())!.trim()[0])
      for (const plant of [1, 2, 3]) {
        const field = page.getByLabel(`Shoots, plant ${plant}`, { exact: true })
        await expect(field).toHaveValue('')
        const count = String(base(treatment) + plant + block + more + uneven(treatment, block, plant))
        await field.fill(count)
        await field.press('Enter')
        // The last plant leads on to the next pot.
        if (plant < 3) await expect(field).toHaveValue(count)
      }
      if (i < 5) await expect(page.getByText(`· ${i + 2} of 6`)).toBeVisible()
    }
  }
  await step(page, 'Walk')
  await page.getByRole('button', { name: /^First count/ }).click()
  await page.locator('label', { hasText: /^SH$/ }).click()
  await countShoots((treatment) => (treatment === 'ONCE' ? 3 : 1))
  await expect(page.getByTestId('walk-progress')).toHaveText('6 of 6 pots done')
  await page.getByRole('button', { name: /^Second count/ }).click()
  await page.getByLabel('Last plot').click({ clickCount: 1 })
  for (let i = 0; i < 4; i++) await page.getByLabel('Last plot').click()
  await countShoots((treatment) => (treatment === 'ONCE' ? 9 : 4))

  // Somebody else counts the second visit again: two readings of one thing, kept apart.
  for (let i = 0; i < 5; i++) await page.getByLabel('Last plot').click()
  await page.getByRole('combobox', { name: 'Observed by' }).click()
  await page.getByRole('option', { name: 'Somebody else…' }).click()
  await page.getByLabel('Name, as it stands in the records').last().fill('Second pair of eyes')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByRole('combobox', { name: 'Observed by' })).toHaveValue('Second pair of eyes')
  await countShoots((treatment) => (treatment === 'ONCE' ? 9 : 4), 2)
  await expect(page.getByTestId('send-state')).toHaveText('All saved')

  // Results: nothing is averaged that nobody asked to average, and visits stay apart.
  await step(page, 'Results')
  await page.getByRole('combobox', { name: 'Trait', exact: true }).click()
  await page.getByRole('option', { name: /^Shoots/ }).click()
  await page.getByRole('button', { name: /^Second count/ }).click()
  await expect(page.getByTestId('observers')).toContainText('2 people read some of the same; their readings are kept apart')
  await page.getByRole('button', { name: 'Second pair of eyes only' }).click()
  const means = page.getByTestId('means')
  // Three plants of 9 + 1..3 + block + 2, over blocks 1 to 3: 3 × 9 + 6 + 6 + 6 = 45 in a pot.
  await expect(means.getByRole('row', { name: /^ONCE/ }).getByRole('cell').nth(2)).toHaveText(/^45\.0+$/)
  await page.getByRole('button', { name: 'Second pair of eyes only' }).click()
  await page.getByRole('button', { name: 'Average them' }).click()
  await expect(means.getByRole('row', { name: /^ONCE/ }).getByRole('cell').nth(2)).toHaveText(/^42\.0+$/)
  await page.getByRole('button', { name: /^First count/ }).click()
  await expect(means.getByRole('row', { name: /^ONCE/ }).getByRole('cell').nth(2)).toHaveText(/^21\.0+$/)
  await expect(page.getByTestId('sentences')).toContainText(
    'Pinching “once” gave 6.0 more shoots than pinching “none” (95 % interval 3.5 to 8.5;',
  )

  await page.goto(page.url().replace(/\/results.*/, '/report'))
  await expect(page.getByTestId('report')).toHaveAttribute('data-ready', 'true')
  await expect(page.getByTestId('report')).toContainText('2 treatments on 6 pots')
  await expect(page.getByTestId('report')).toContainText('Second count')
})

test('a plan that an older version drew two at a time says so, until it is randomised again', async ({ page, empty }) => {
  const send = async (path: string, body: unknown): Promise<TrialFile> =>
    (await (
      await fetch(`${empty.url}${path}`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
    ).json()) as TrialFile
  const draft = newTrialDraft(2026)
  const site = draft.sites[0]!
  const levels = ['lime', 'none'].map((key) => ({ key, code: key.toUpperCase(), name: key, amount: null }))
  const { trial } = await send('/api/trials', {
    ...draft,
    question: { ...draft.question, title: 'Lime on two fields', crop: 'Carrots' },
    treatments: treatmentsOf([{ key: 'lime', name: 'Lime', kind: 'kind', measure: '', of: null, levels }]),
    sites: [{ ...site, design: { ...site.design, key: 'randomised-block', replicates: 6 } }],
  })
  const layout = `/api/trials/${trial.id}/sites/${site.key}/layout`
  const older = await send(layout, { version: trial.version, seed: 41, draw: 1 })
  await page.goto(`${empty.url}/trials/${trial.id}/ground`)
  await expect(page.getByTestId('drawn-in-twos')).toContainText('Where only two plots are randomised at a time')
  await expect(page.getByText('(earlier version)')).toBeVisible()
  await send(layout, { version: older.trial.version, seed: 41 })
  await page.reload()
  await expect(page.getByTestId('seed')).toHaveText('41')
  await expect(page.getByTestId('drawn-in-twos')).toHaveCount(0)
})
