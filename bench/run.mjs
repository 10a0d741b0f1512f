// Prints the figures to hold: ratios, counts and times of this machine, in one run. Never part of the tests.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { gzipSync } from 'node:zlib'

const root = join(dirname(fileURLToPath(import.meta.url)), '..')
const folder = mkdtempSync(join(tmpdir(), 'canter-bench-'))
const line = (name, value) => console.log(`${name.padEnd(58)} ${value}`)
const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
const ms = (value) => `${value.toFixed(value < 10 ? 1 : 0)} ms`

console.log(`Canter bench, Node ${process.versions.node}, ${cpus().length} cores\n`)

const { TrialBook, traitsAt, unitViews } = await import(join(root, 'core/dist/numbers/index.js'))
const { analyse, AnalysisOptions, trialRequest } = await import(join(root, 'core/dist/analysis/index.js'))
const { layOut } = await import(join(root, 'core/dist/ground/index.js'))
const { chanceFrom } = await import(join(root, 'core/dist/design/index.js'))

const { ladder } = await import(join(root, 'trials/kit.mjs'))

async function post(url, body) {
  const reply = await fetch(url, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
  const told = await reply.json()
  if (!reply.ok) throw new Error(JSON.stringify(told))
  return told
}

/** From starting the process to its first reply. */
async function serverStart(database) {
  const began = performance.now()
  const child = spawn(process.execPath, [join(root, 'server/dist/main.js')], {
    env: { ...process.env, PORT: '0', CANTER_DATABASE: database },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const url = await new Promise((resolve) => child.stdout.once('data', (data) => resolve(/http:\S+/.exec(data.toString())[0])))
  await (await fetch(`${url}api/trials`)).json()
  return { child, url: url.replace(/\/$/, ''), took: performance.now() - began }
}

const times = []
for (let i = 0; i < 3; i++) {
  const { child, took } = await serverStart(join(folder, 'start.sqlite'))
  times.push(took)
  child.kill()
}
line('server start to first reply, median of 3', ms(median(times)))

/** 50 people who enter about a reading a second each for ten seconds, then all as fast as they can. */
async function saving() {
  const { child, url } = await serverStart(join(folder, 'saving.sqlite'))
  const send = (path, body) => post(url + path, body)
  const { trial } = await send('/api/trials', ladder(6, 20))
  const { layouts } = await send(`/api/trials/${trial.id}/sites/site-1/layout`, {
    version: trial.version,
    seed: 1,
    reason: '',
    confirm: false,
  })
  const plots = layouts[0].units.filter((unit) => unit.walk !== null)
  const person = '00000000-0000-7000-8000-000000000001'
  let n = 0
  const save = async (who, i) => {
    const id = `00000000-0000-7000-9000-${(++n).toString(16).padStart(12, '0')}`
    const record = {
      type: 'reading',
      id,
      at: '2026-10-01T08:00:00Z',
      person,
      device: `bench-${who}`,
      unit: plots[(who + i) % plots.length].id,
      trait: trial.traits.observed[0].key,
      visit: trial.traits.visits[0].key,
      sample: 1,
      observer: person,
      value: { kind: 'number', value: 60, typed: '60', typedMeasure: null },
      supersedes: [],
      confirmed: false,
    }
    const began = performance.now()
    await send(`/api/trials/${trial.id}/records`, { records: [record] })
    return performance.now() - began
  }
  const pause = (time) => new Promise((resolve) => setTimeout(resolve, time))
  const people = Array.from({ length: 50 }, (_, who) => who)
  const paced = []
  await Promise.all(
    people.map(async (who) => {
      await pause((who * 1000) / 50)
      for (let i = 0; i < 10; i++) {
        const took = await save(who, i)
        paced.push(took)
        await pause(Math.max(0, 900 + ((who * 37 + i * 61) % 200) - took))
      }
    }),
  )
  const began = performance.now()
  await Promise.all(
    people.map(async (who) => {
      for (let i = 0; i < 40; i++) await save(who, i)
    }),
  )
  const rate = (50 * 40) / ((performance.now() - began) / 1000)
  child.kill()
  paced.sort((a, b) => a - b)
  line('saving a reading, 50 people entering: median', ms(median(paced)))
  line('saving a reading, 50 people entering: p95', ms(paced[Math.floor(paced.length * 0.95)]))
  line('readings saved a second when all press at once', `${Math.round(rate)}`)
}
await saving()

/** Analysis of a trial from its layout: all tests, means, every way of comparing, evidence, residuals, all checks. */
for (const [treatments, blocks] of [
  [5, 4],
  [20, 10],
  [20, 100],
  [200, 10],
]) {
  const draft = ladder(treatments, blocks)
  let n = 0
  const layout = layOut(draft, 'site-1', 1, () => `u${++n}`)
  const chance = chanceFrom(1)
  const observations = layout.units
    .filter((unit) => unit.walk !== null)
    .map((unit) => ({ unit: unit.id, value: 50 + chance.below(1000) / 100 }))
  const options = { method: ['lsd', 'tukey', 'holm', 'dunnett'] }
  const request = trialRequest(draft, [layout], { key: 'y', name: 'Yield', unit: 't/ha', kind: 'continuous' }, observations, options)
  const runs = []
  for (let i = 0; i < 3; i++) {
    const began = performance.now()
    analyse(request)
    runs.push(performance.now() - began)
  }
  line(`analysis of ${treatments * blocks} plots (${treatments} treatments × ${blocks} blocks)`, ms(median(runs)))
}

/** One more reading in a large trial: until the book has it, and the plan, the table and the walk know what they show of it. */
function book() {
  const draft = ladder(30, 100)
  const visits = [1, 2, 3].map((each) => ({ key: `v${each}`, name: `Visit ${each}`, on: null }))
  const [one] = draft.traits.observed
  const observed = Array.from({ length: 20 }, (_, i) => ({
    ...one,
    key: `t${i}`,
    code: `T${i}`,
    name: `Trait ${i}`,
    samples: 1,
    visits: [],
  }))
  const traits = { ...draft.traits, observed, derived: [], visits, response: 't0', yieldTrait: null, qualityTrait: null }
  let n = 0
  const layout = layOut(draft, 'site-1', 1, () => `u${++n}`)
  const plots = layout.units.filter((unit) => unit.walk !== null)
  const reading = (unit, trait, visit, value) => ({
    type: 'reading',
    id: `r${++n}`,
    at: '2026-10-01T08:00:00Z',
    person: 'p',
    device: 'd',
    unit,
    trait,
    visit,
    sample: 1,
    observer: 'p',
    value: { kind: 'number', value, typed: String(value), typedMeasure: null },
    supersedes: [],
    confirmed: false,
  })
  const records = []
  for (const { id } of plots) for (const { key } of observed) for (const visit of visits) records.push(reading(id, key, visit.key, 50))
  const began = performance.now()
  const trial = { ...draft, traits }
  const kept = new TrialBook(trial, [layout], records)
  unitViews(
    kept,
    plots.map((unit) => unit.id),
    traitsAt(trial, 'v1'),
    't0',
    'v1',
  )
  line(`${records.length} readings of 3000 plots read into the book and shown`, ms(performance.now() - began))
  const runs = []
  for (let i = 0; i < 200; i++) {
    const from = performance.now()
    const touched = kept.add([reading(plots[i * 7].id, 't3', 'v2', 51)])
    unitViews(kept, [...touched], traitsAt(trial, 'v2'), 't3', 'v2')
    for (const id of touched) kept.row(id, 'v2')
    kept.progress()
    runs.push(performance.now() - from)
  }
  runs.sort((a, b) => a - b)
  line('one more reading until all that shows it is known: median', ms(median(runs)))
  line('one more reading until all that shows it is known: p95', ms(runs[190]))
}
book()

/** The same in the browser: 3,000 plots opened, the plan moved, a reading typed. */
async function browser() {
  const { child, url } = await serverStart(join(folder, 'browser.sqlite'))
  const send = (path, body) => post(url + path, body)
  const draft = ladder(60, 50)
  const traits = { ...draft.traits, observed: draft.traits.observed.slice(0, 1), derived: [], response: draft.traits.observed[0].key }
  const { trial } = await send('/api/trials', { ...draft, traits })
  await send(`/api/trials/${trial.id}/sites/site-1/layout`, { version: trial.version, seed: 1, reason: '', confirm: false })
  const chromium = await (
    await import('@playwright/test')
  ).chromium.launch({ executablePath: process.env.CANTER_CHROMIUM, args: ['--no-sandbox', '--disable-gpu'] })
  const page = await chromium.newPage({ viewport: { width: 1280, height: 800 } })
  const began = performance.now()
  await page.goto(`${url}/trials/${trial.id}/walk`)
  await page.getByTestId('walk-progress').getByText('0 of 3000').waitFor()
  line('3000 plots opened in the browser', ms(performance.now() - began))
  const runs = []
  for (let i = 0; i < 10; i++) {
    // One trait a plot, so that Enter is the end of the plot and its count goes up.
    await page
      .getByTestId('walk-plot')
      .getByText(`${Math.floor(i / 60) + 1}${String((i % 60) + 1).padStart(2, '0')}`)
      .waitFor()
    const field = page.locator('[data-entry]').first()
    await field.fill('50')
    runs.push(
      await field.evaluate(
        (input) =>
          new Promise((resolve) => {
            const told = document.querySelector('[data-testid=walk-progress]')
            const plot = document.querySelector('[data-testid=walk-plot]')
            const before = [told.textContent, plot.textContent]
            const from = performance.now()
            let moved
            const watch = new MutationObserver(() => {
              if (plot.textContent !== before[1]) moved ??= performance.now() - from
              if (told.textContent === before[0] || moved === undefined) return
              watch.disconnect()
              requestAnimationFrame(() => resolve({ moved, counted: performance.now() - from }))
            })
            watch.observe(document.body, { subtree: true, childList: true, characterData: true })
            input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }))
          }),
      ),
    )
  }
  line('a reading typed until it is kept and the next plot shown', ms(median(runs.map((run) => run.moved))))
  line('a reading typed until plan, counts and notes have it', ms(median(runs.map((run) => run.counted))))
  await page.goto(`${url}/trials/${trial.id}/ground`)
  await page.getByRole('button', { name: 'Closer' }).waitFor()
  const box = await page
    .locator('svg')
    .filter({ has: page.getByRole('option').first() })
    .first()
    .boundingBox()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.evaluate(() => {
    window.frames_ = []
    let last = performance.now()
    const each = (now) => {
      window.frames_.push(now - last)
      last = now
      requestAnimationFrame(each)
    }
    requestAnimationFrame(each)
  })
  for (let i = 0; i < 30; i++) await page.mouse.wheel(0, i < 15 ? -60 : 60)
  const frames = await page.evaluate(() => window.frames_)
  line('plan of 3000 plots, moved with the wheel: median frame', ms(median(frames)))
  // A block taken by hand: the shape that is dragged, not its plots, is drawn anew.
  await page.getByRole('button', { name: 'Whole site' }).click()
  await page.getByRole('button', { name: 'Move and turn groups' }).click()
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  await page.evaluate(() => void (window.frames_ = []))
  for (let i = 0; i < 40; i++) await page.mouse.move(box.x + box.width / 2 + i * 2, box.y + box.height / 2 - i)
  const dragged = await page.evaluate(() => window.frames_)
  line('plan of 3000 plots, a block dragged: median frame', ms(median(dragged)))
  line('plan of 3000 plots, a block dragged: longest frame', ms(Math.max(...dragged.slice(1))))
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await chromium.close()
  child.kill()
}
if (process.env.CANTER_CHROMIUM) await browser()

/** The same of tables with a plan, on the command line's way: a split-plot, and sites with an error each. */
const { readPlan, readPlanTable } = await import(join(root, 'core/dist/exchange/index.js'))
for (const [name, copies] of [
  ['split-plot-barley', 10],
  ['multi-site-factorial-lentil', 4],
]) {
  const plan = readPlan('plan.json', readFileSync(join(root, `core/fixtures/plans/${name}.json`), 'utf8'))
  const [header, ...rows] = readFileSync(join(root, `core/fixtures/reference/${name}/data.csv`), 'utf8')
    .trim()
    .split('\n')
  const chance = chanceFrom(1)
  // More blocks of the same, each value moved a little.
  const block = header.split(',').indexOf('block')
  const text = Array.from({ length: copies }, (_, copy) =>
    rows.map((row) => {
      const cells = row.split(',')
      cells[block] = `${cells[block]}-${copy}`
      return [...cells.slice(0, -1), Number(cells.at(-1)) + chance.below(1000) / 5000].join(',')
    }),
  ).flat()
  const [trait] = Object.keys(plan.traits)
  const runs = []
  for (let i = 0; i < 3; i++) {
    const began = performance.now()
    analyse({ ...readPlanTable('plots.csv', [header, ...text].join('\n'), plan, trait), options: AnalysisOptions.parse({}) })
    runs.push(performance.now() - began)
  }
  line(`table of ${text.length} plots read and analysed (${name.split('-').slice(0, 2).join('-')})`, ms(median(runs)))
}

/** What the first page asks for before it shows. */
const page = readFileSync(join(root, 'web/dist/index.html'), 'utf8')
const assets = [...page.matchAll(/(?:src|href)="(\/assets\/[^"]+\.(js|css))"/g)].map((match) => ({ path: match[1], type: match[2] }))
const size = (type) =>
  assets
    .filter((each) => each.type === type)
    .reduce((sum, each) => sum + gzipSync(readFileSync(join(root, 'web/dist', each.path))).length, 0)
line('first load: JavaScript, gzip', `${Math.round(size('js') / 1024)} kB`)
line('first load: style sheets, gzip', `${Math.round(size('css') / 1024)} kB`)

rmSync(folder, { recursive: true, force: true })
