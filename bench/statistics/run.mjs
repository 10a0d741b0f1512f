// Times of mixed models, warm, the fit alone, and beside them those of R on the same tables where it is installed.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import * as cases from './cases.mjs'

const here = dirname(fileURLToPath(import.meta.url))
const { designMatrix, fitField, kenwardRoger, reml, remlSparse, satterthwaite } = await import(
  join(here, '../../core/dist/statistics/index.js')
)

const classed = (data, name) => {
  const levels = [...new Set(data[name])].sort((a, b) => a - b)
  return { name, levels: levels.map(String), codes: Int32Array.from(data[name], (each) => levels.indexOf(each)) }
}
const rowsOf = (design, term) =>
  [...design.columns.keys()]
    .filter((c) => design.termOf[c] === term)
    .map((c) => Float64Array.from(design.columns, (_, j) => (j === c ? 1 : 0)))

/** Each: its table, what is fitted, and the variance of the residual it found. */
const asked = {
  splitPlot: {
    title: '(a) split-plot, 48 plots: fit and tests of Kenward and Roger',
    aim: 0.1,
    times: 40,
    run: (data, y) => {
      const [a, b] = ['a', 'b'].map((name) => classed(data, name))
      const design = designMatrix([a, b], [['a'], ['b'], ['a', 'b']], y.length, 'sum')
      const fit = reml({ y, fixed: design.columns, random: ['block', 'main'].map((name) => classed(data, name)) })
      const method = kenwardRoger(fit)
      for (const term of [1, 2, 3]) method.test(rowsOf(design, term))
      return fit
    },
  },
  manySites: {
    title: '(b) 8 sites × 8 treatments × 4: sites random, Kenward and Roger',
    aim: 0.1,
    times: 9,
    run: (data, y) => {
      const design = designMatrix([classed(data, 'treatment')], [['treatment']], y.length, 'sum')
      const fit = reml({ y, fixed: design.columns, random: ['site', 'block', 'cell'].map((name) => classed(data, name)) })
      kenwardRoger(fit).test(rowsOf(design, 1))
      return fit
    },
  },
  manyEntries: {
    title: '(c) 200 entries, 2,000 plots, random blocks: 200 means, Satterthwaite',
    aim: 0.1,
    times: 5,
    run: (data, y) => {
      const design = designMatrix(
        ['rep', 'entry'].map((name) => classed(data, name)),
        [['rep'], ['entry']],
        y.length,
        'reference',
      )
      const fit = remlSparse({ y, fixed: design.columns, random: [classed(data, 'block')] })
      const means = Array.from({ length: 200 }, (_, e) =>
        Float64Array.from(design.columns, (__, j) => (j === 0 ? 1 : j < 10 ? 0.1 : j - 9 === e ? 1 : 0)),
      )
      const family = satterthwaite(fit).family(means)
      means.forEach((_, i) => family.at(i))
      return fit
    },
  },
  field: {
    title: '(d) field of 980 plots with 20 gaps: rows and columns with nugget',
    aim: null,
    times: 3,
    run: (data, y) => {
      const design = designMatrix([classed(data, 'entry')], [['entry']], y.length, 'reference')
      const fit = fitField({ y, fixed: design.columns, rows: Int32Array.from(data.row), columns: Int32Array.from(data.column) })
      satterthwaite(fit).estimate(Float64Array.from(design.columns, (_, j) => (j === 1 ? 1 : 0)))
      return fit
    },
  },
  manyEnvironments: {
    title: '(e) 10 sites × 400 entries × 2: entries and entry × site random',
    aim: 0.5,
    times: 5,
    run: (data, y) => {
      const design = designMatrix([classed(data, 'site')], [['site']], y.length, 'reference')
      const fit = remlSparse({ y, fixed: design.columns, random: ['entry', 'cell'].map((name) => classed(data, name)) })
      fit.predictions()
      return fit
    },
  },
}

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
console.log(`Canter statistics bench, Node ${process.versions.node}, ${cpus().length} cores\n`)
const folder = mkdtempSync(join(tmpdir(), 'canter-statistics-'))
const found = {}
let most = 0
for (const [name, { run, times }] of Object.entries(asked)) {
  const data = cases[name]()
  const { y, ...columns } = data
  writeFileSync(
    join(folder, `${name}.csv`),
    [Object.keys(data).join(','), ...y.map((_, i) => [...Object.values(columns).map((each) => each[i]), y[i]].join(','))].join('\n'),
  )
  const values = Float64Array.from(y)
  run(data, values)
  run(data, values)
  const took = Array.from({ length: times }, () => {
    const began = performance.now()
    found[name] = { fit: run(data, values) }
    return performance.now() - began
  })
  found[name].took = median(took)
  most = Math.max(most, process.memoryUsage().rss)
}
let theirs = {}
try {
  const out = execFileSync('Rscript', [join(here, 'compare.R'), folder], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })
  theirs = Object.fromEntries(
    out
      .trim()
      .split('\n')
      .map((line) => line.trim().split(/\s+/))
      .map(([name, took, residual]) => [name, { took: Number(took), residual: Number(residual) }]),
  )
} catch (error) {
  console.log(
    error.code === 'ENOENT'
      ? 'R is not installed: its times are left out.\n'
      : `R could not be asked: ${String(error.stderr ?? error.message).slice(0, 300)}\n`,
  )
}
rmSync(folder, { recursive: true, force: true })
console.log(
  `${''.padEnd(74)} ${'Canter'.padStart(9)} ${'R'.padStart(9)} ${'ratio'.padStart(7)} ${'aim'.padStart(6)}  residual variance agrees to`,
)
for (const [name, { title, aim }] of Object.entries(asked)) {
  const { fit, took } = found[name]
  const other = theirs[name]
  const ms = (value) => `${value.toFixed(value < 10 ? 2 : 0)} ms`
  const residual = fit.values.at(-1)
  console.log(
    `${title.padEnd(74)} ${ms(took).padStart(9)} ${(other ? ms(other.took) : '–').padStart(9)} ${(other ? (took / other.took).toFixed(3) : '–').padStart(7)} ${(aim === null ? '10 s' : String(aim)).padStart(6)}  ${other ? Math.abs(residual / other.residual - 1).toExponential(0) : '–'}`,
  )
}
console.log(`\nMost memory of the process: ${Math.round(most / 1e6)} MB`)
