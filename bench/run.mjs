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
  const { newTrialDraft } = await import(join(root, 'core/dist/numbers/index.js'))
  const send = async (path, body) =>
    (await fetch(url + path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })).json()
  const { trial } = await send('/api/trials', { ...newTrialDraft('sugar-beet', 2026), title: 'Bench', crop: 'Beet', replicates: 20 })
  const { layout } = await send(`/api/trials/${trial.id}/layout`, { version: 1, seed: 1, reason: '' })
  const plots = layout.units.filter((unit) => unit.walk !== null)
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
      trait: 'gross-weight',
      occasion: 'harvest',
      replicate: (n % 9999) + 1,
      observer: person,
      value: { kind: 'number', value: 60, typed: '60' },
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

/** Analysis of a trial from its layout: all tests, means, four ways of comparing, evidence, residuals, all checks. */
const { analyse, AnalysisOptions } = await import(join(root, 'core/dist/analysis/index.js'))
const { layOut } = await import(join(root, 'core/dist/ground/index.js'))
const { newTrialDraft } = await import(join(root, 'core/dist/numbers/index.js'))
const { chanceFrom } = await import(join(root, 'core/dist/design/index.js'))
for (const [treatments, blocks] of [
  [5, 4],
  [20, 10],
  [20, 100],
  [200, 10],
]) {
  const draft = newTrialDraft('grain', 2026)
  const levels = Array.from({ length: treatments }, (_, i) => ({ key: `l${i}`, code: `T${i}`, name: `T${i}`, amount: i, control: i === 0 }))
  let n = 0
  const layout = layOut({ ...draft, replicates: blocks, factors: [{ ...draft.factors[0], levels }] }, 1, () => `u${++n}`)
  const chance = chanceFrom(1)
  const values = new Map(layout.units.filter((unit) => unit.walk !== null).map((unit) => [unit.id, 50 + chance.below(1000) / 100]))
  const runs = []
  for (let i = 0; i < 3; i++) {
    const began = performance.now()
    analyse({
      structure: layout.structure,
      units: layout.units,
      factors: [{ key: layout.structure.factors[0].factor, levels: levels.map((level) => level.key), control: 'l0' }],
      trait: { key: 'y', name: 'Yield', unit: 't/ha', kind: 'continuous' },
      values,
      options: AnalysisOptions.parse({ method: ['lsd', 'tukey', 'holm', 'dunnett'] }),
    })
    runs.push(performance.now() - began)
  }
  line(`analysis of ${treatments * blocks} plots (${treatments} treatments × ${blocks} blocks)`, ms(median(runs)))
}

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
