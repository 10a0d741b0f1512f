import { spawnSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { formatNumber, formatP } from '@canter/core/quantity'
import { asVisited, treatmentOn, type Layout, type Treatment, type TrialFile, type Unit } from '@canter/core/trial'
import type { Page } from '@playwright/test'
import { expect, type Server } from './serve.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const LOCAL_PERSON = '00000000-0000-7000-8000-000000000001'

export async function commit(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByLabel(label, { exact: true })
  await field.fill(value)
  await field.press('Enter')
  await field.blur()
}

export async function choose(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click()
  await page.getByRole('option', { name: option, exact: true }).click()
}

export const step = (page: Page, name: string) => page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
export const trialIn = (page: Page): string => page.url().split('/trials/')[1]!.split(/[/?]/)[0]!

export async function beginTrial(page: Page, server: Server, title: string, crop = 'Carrots'): Promise<void> {
  await page.goto(`${server.url}/trials/new`)
  await commit(page, 'Title', title)
  await commit(page, 'Crop', crop)
}

export async function layOutSite(page: Page, seed: string): Promise<void> {
  await page.getByLabel('Seed (empty: drawn by chance)').fill(seed)
  await page.getByRole('button', { name: 'Randomise and lay out' }).click()
  await expect(page.getByTestId('seed')).toHaveText(seed)
}

/** Takes a design by its name, among the proposed or folded away. */
export async function takeDesign(page: Page, name: string): Promise<void> {
  const radio = page.getByRole('radio', { name, exact: true })
  await expect(page.getByRole('radio').first()).toBeVisible()
  await expect(async () => {
    if (!(await radio.isVisible())) await page.getByText(/other designs? that would do here/).click()
    await expect(radio).toBeVisible({ timeout: 1000 })
  }).toPass()
  await radio.click()
  await expect(radio).toBeChecked()
}

export const fileOf = async (server: Server, trial: string): Promise<TrialFile> =>
  (await (await fetch(`${server.url}/api/trials/${trial}`)).json()) as TrialFile

/** What chance adds, from the place of a unit alone: the same in every run. */
function wobble(unit: Unit, at: number): number {
  let hash = at * 7919
  for (const letter of unit.code) hash = (hash * hash + hash * 31 + letter.charCodeAt(0)) % 1009
  hash = (hash * hash * 7 + hash * 13) % 1009
  return (hash / 1009 - 0.5) * 0.8
}

interface Measured {
  readonly trait: string
  readonly label: string
  readonly decimals?: number
  /** Its first visit unless another is named. */
  readonly visit?: string
  /** When the device says they were taken. */
  readonly taken?: string
}

/** A crew’s readings of one trait: the first two walked to by hand, the others sent as a device sends them. */
export async function measure(
  page: Page,
  server: Server,
  { trait, label, decimals = 2, visit: at, taken = '2026-10-06T08:00:00.000Z' }: Measured,
  valueOf: (treatment: Treatment, site: number) => number,
): Promise<void> {
  const trial = trialIn(page)
  const file = await fileOf(server, trial)
  const { treatments, traits } = file.trial
  const visit = at ?? traits.visits[0]!.key
  const on = traits.visits.find((each) => each.key === visit)!.on
  const treated = (layout: Layout): Unit[] => {
    const { units } = asVisited(layout, { on })
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
    at: taken,
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
  readonly sentences: readonly { text: string }[]
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
export async function sameAsCommandLine(page: Page, server: Server): Promise<Told> {
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
  // Every claim stands on the page in the words of the command line.
  for (const { text } of told.sentences) await expect(page.getByRole('main')).toContainText(text)
  return told
}
