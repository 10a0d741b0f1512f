import { spawnSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { treatmentOn, type Layout, type Treatment, type TrialFile, type Unit } from '@canter/core/trial'
import { formatNumber, formatP } from '@canter/core/quantity'
import type { Page } from '@playwright/test'

import { expect, test, type Server } from './serve.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const LOCAL_PERSON = '00000000-0000-7000-8000-000000000001'

async function commit(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(label, { exact: true })
  await field.fill(value)
  await field.press('Enter')
  await field.blur()
}

async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click()
  await page.getByRole('option', { name: option, exact: true }).click()
}

const step = (page: Page, name: string) => page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
const trialIn = (page: Page): string => page.url().split('/trials/')[1]!.split(/[/?]/)[0]!

async function beginTrial(page: Page, server: Server, title: string, crop = 'Carrots'): Promise<void> {
  await page.goto(`${server.url}/trials/new`)
  await commit(page, 'Title', title)
  await commit(page, 'Crop', crop)
}

async function layOutSite(page: Page, seed: string): Promise<void> {
  await page.getByLabel('Seed (empty: drawn by chance)').fill(seed)
  await page.getByRole('button', { name: 'Randomise and lay out' }).click()
  await expect(page.getByTestId('seed')).toHaveText(seed)
}

/** Takes a design by its name, among the proposed or folded away. */
async function takeDesign(page: Page, name: string): Promise<void> {
  const radio = page.getByRole('radio', { name, exact: true })
  await expect(page.getByRole('radio').first()).toBeVisible()
  await expect(async () => {
    if (!(await radio.isVisible())) await page.getByText(/other designs? that would do here/).click()
    await expect(radio).toBeVisible({ timeout: 1000 })
  }).toPass()
  await radio.click()
  await expect(radio).toBeChecked()
}

const fileOf = async (server: Server, trial: string): Promise<TrialFile> =>
  (await (await fetch(`${server.url}/api/trials/${trial}`)).json()) as TrialFile

/** What chance adds, from the place of a unit alone: the same in every run. */
function wobble(unit: Unit, at: number): number {
  let hash = at * 7919
  for (const letter of unit.code) hash = (hash * hash + hash * 31 + letter.charCodeAt(0)) % 1009
  hash = (hash * hash * 7 + hash * 13) % 1009
  return (hash / 1009 - 0.5) * 0.8
}

/** A crew’s readings of one trait: the first two walked to by hand, the others sent as a device sends them. */
async function measure(
  page: Page,
  server: Server,
  { trait, label, decimals = 2 }: { trait: string; label: string; decimals?: number },
  valueOf: (treatment: Treatment, site: number) => number,
): Promise<void> {
  const trial = trialIn(page)
  const file = await fileOf(server, trial)
  const { treatments, traits } = file.trial
  const visit = traits.visits[0]!.key
  const treated = ({ units }: Layout): Unit[] => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return units.filter((unit) => unit.walk !== null && treatmentOn(unit, index, treatments)).sort((a, b) => a.walk! - b.walk!)
  }
  const all = file.layouts.flatMap((layout, at) => {
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    return treated(layout).map((unit) => ({
      unit,
      value: Number((valueOf(treatmentOn(unit, index, treatments)!, at) + wobble(unit, at)).toFixed(decimals)),
    }))
  })
  await step(page, 'Walk')
  for (const { value } of all.slice(0, 2)) {
    const field = page.getByLabel(label, { exact: true })
    await expect(field).toHaveValue('')
    await field.fill(String(value))
    await field.press('Enter')
    await page.getByLabel('Next plot').click()
  }
  await expect(page.getByTestId('send-state')).toHaveText('All saved')
  const records = all.slice(2).map(({ unit, value }) => ({
    type: 'reading',
    id: randomUUID(),
    at: '2026-10-06T08:00:00.000Z',
    person: LOCAL_PERSON,
    device: 'tablet',
    unit: unit.id,
    trait,
    visit,
    sample: 1,
    observer: LOCAL_PERSON,
    value: { kind: 'number', value, typed: String(value), typedMeasure: null },
    supersedes: [],
    confirmed: false,
  }))
  const sent = await fetch(`${server.url}/api/trials/${trial}/records`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ records }),
  })
  expect(sent.status).toBe(200)
  const { outcomes } = (await sent.json()) as { outcomes: { status: string; detail: string }[] }
  expect(outcomes.filter((each) => each.status !== 'saved').map((each) => each.detail)).toEqual([])
}

interface Told {
  readonly kind: string
  readonly tests: readonly { term: string; df: number; f: number; p: number }[]
  readonly contrasts: readonly { name: string; site: string | null; estimate: number; p: number }[]
  readonly terms: Readonly<Record<string, { means: readonly { level: string; n: number; mean: number }[] }>>
}

/** What the command line says of the exported package. */
async function commandLine(server: Server, trial: string): Promise<Told> {
  const folder = mkdtempSync(join(tmpdir(), 'canter-package-'))
  try {
    const file = join(folder, 'trial.canter.zip')
    writeFileSync(file, new Uint8Array(await (await fetch(`${server.url}/api/trials/${trial}/files/package`)).arrayBuffer()))
    const { stdout, stderr } = spawnSync(process.execPath, [join(root, 'cli/bin/canter.js'), 'analyse', file, '--json'], {
      encoding: 'utf8',
      maxBuffer: 2 ** 27,
    })
    expect(stderr).toBe('')
    return JSON.parse(stdout) as Told
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Every test on the screen is that of the command line, and so are the means shown first. */
async function sameAsCommandLine(page: Page, server: Server): Promise<Told> {
  const told = await commandLine(server, trialIn(page))
  await step(page, 'Results')
  await expect(page.getByTestId('means')).toBeVisible()
  const rows = page.getByTestId('anova').getByRole('row')
  for (const [i, test] of told.tests.entries()) {
    const cells = rows.nth(i + 1).getByRole('cell')
    await expect(cells.nth(-2), test.term).toHaveText(formatNumber(test.f, 3))
    await expect(cells.nth(-1), test.term).toHaveText(formatP(test.p))
  }
  const { means } = Object.values(told.terms).find((term) => term.means.length === 0) ?? Object.values(told.terms)[0]!
  const shown = await page.getByTestId('means').getByRole('row').count()
  expect(shown).toBeGreaterThan(2)
  expect(means.length).toBeGreaterThan(1)
  return told
}

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
  await expect(planned).toContainText('Rise with nitrogen: on average')
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
  await expect(page.getByText(/Water was not randomised \(not randomised\): its differences may be those of the ground/i)).toBeVisible()
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
    ['block', 27],
    ['factor-1', 59],
  ])
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
