// How often tests claim where there is nothing, how often intervals hold what is there, and what variances come out,
// for every design, whole and with a tenth of the plots lost. Seeded; RUNS (default 300) sets how long it takes, and a
// second word (designs, methods, variances, small or sites) which table is made.
import { analyseTrait, AnalysisOptions } from '../../core/src/analysis/index.ts'
import { chanceFrom, designs } from '../../core/src/design/index.ts'
import { layOut } from '../../core/src/ground/index.ts'
import { TrialBook } from '../../core/src/numbers/index.ts'
import { comparisonMethods } from '../../core/src/statistics/index.ts'
import { asTrial, countingIds, readingOf, trialFor } from '../../core/test/build.ts'
import { analyse, unitOf } from '../../core/test/plan-case.ts'

const RUNS = Number(process.argv[2] ?? 300)
const TRAIT = 'gross-weight'
const LEVEL = 0.05

/** One set of values without any effect of treatments: every kind of larger unit and every plot varies by one. */
function run(trial, seed, lost, methods) {
  const [ids, chance] = [countingIds(), chanceFrom(seed)]
  const noise = () => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
  const layouts = trial.sites.map((site) => layOut(trial, site.key, seed, ids))
  const records = layouts.flatMap(({ units }) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    const ground = new Map(units.map((unit) => [unit.id, noise()]))
    const under = (id) => index.get(id).in.reduce((sum, each) => sum + ground.get(each) + under(each), 0)
    const plots = units.filter((unit) => unit.kind === 'plot')
    return plots
      .filter((_, i) => !lost || (i * 7 + seed) % 10 !== 0)
      .map((unit) => readingOf(unit.id, TRAIT, 50 + noise() + under(unit.id)))
  })
  const values = new TrialBook(trial, layouts, records).observations(TRAIT, 'harvest')
  return analyseTrait(trial, layouts, values, TRAIT, { significance: LEVEL, method: methods }).without
}

const share = (hits, of) => (of === 0 ? '–' : `${((100 * hits) / of).toFixed(1)} %`)
const off = (p, of) => `± ${(196 * Math.sqrt((p * (1 - p)) / of)).toFixed(1)}`

function designTable() {
  console.log(`| design | plots | model | claims, % (5 is right) | intervals that hold, % (95) | any pair by Tukey, % (at most 5) |`)
  console.log('|---|---|---|---|---|---|')
  for (const { key } of designs) {
    const trial = asTrial(trialFor(key, 4))
    for (const lost of [false, true]) {
      let [tests, claims, pairs, held, families, broken, mixed] = [0, 0, 0, 0, 0, 0, 0]
      for (let seed = 1; seed <= RUNS; seed++) {
        const found = run(trial, seed, lost, ['lsd', 'tukey'])
        if (found.kind !== 'tested') continue
        if (found.mixed) mixed++
        for (const test of found.tests.filter((each) => each.term in found.terms && Number.isFinite(each.p))) {
          tests++
          if (test.p < LEVEL) claims++
        }
        const [term] = Object.values(found.terms)
        const [first] = term.comparisons['lsd']
        if (first && Number.isFinite(first.lower)) {
          pairs++
          if (first.lower <= 0 && first.upper >= 0) held++
        }
        families++
        if (term.comparisons['tukey'].some((row) => row.p < LEVEL)) broken++
      }
      const model = mixed === 0 ? 'least squares or strata' : mixed >= families ? 'restricted likelihood' : 'either'
      console.log(
        `| ${key} | ${lost ? 'a tenth lost' : 'whole'} | ${model} | ${share(claims, tests)} | ${share(held, pairs)} | ${share(broken, families)} |`,
      )
    }
  }
  console.log(`\nOf ${RUNS} trials each; chance alone puts such a share at 5 % ${off(0.05, RUNS)} where each trial gives one test.\n`)
}

function methodTable() {
  const trial = asTrial(trialFor('randomised-block', 4))
  const keys = comparisonMethods.map((each) => each.key)
  const broken = new Map(keys.map((key) => [key, 0]))
  for (let seed = 1; seed <= 3 * RUNS; seed++) {
    const [term] = Object.values(run(trial, seed, false, keys).terms)
    for (const key of keys) if (term.comparisons[key].some((row) => row.p < LEVEL)) broken.set(key, broken.get(key) + 1)
  }
  console.log('| method, four treatments in four blocks | any false difference, % |\n|---|---|')
  for (const [key, hits] of broken) console.log(`| ${key} | ${share(hits, 3 * RUNS)} |`)
  console.log(`\nOf ${3 * RUNS} trials (5 % ${off(0.05, 3 * RUNS)}).\n`)
}

function varianceTable() {
  // Searched layouts take long to draw.
  const trials = Math.min(RUNS, 60)
  console.log('| layout | variance of | is | found on average | s.e. of that |\n|---|---|---|---|---|')
  for (const [key, replicates] of [
    ['alpha-lattice', 6],
    ['row-column', 6],
    ['split-plot', 8],
  ]) {
    const trial = asTrial(trialFor(key, replicates))
    const sums = new Map()
    for (let seed = 1; seed <= trials; seed++)
      for (const { unit, variance } of run(trial, seed, key === 'split-plot', ['lsd']).components ?? [])
        sums.set(unit, [...(sums.get(unit) ?? []), variance])
    for (const [unit, values] of sums) {
      const mean = values.reduce((a, b) => a + b, 0) / values.length
      const spread = Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / (values.length - 1) / values.length)
      console.log(`| ${key} | ${unit} | 1 | ${mean.toFixed(3)} | ${spread.toFixed(3)} |`)
    }
  }
}

/** Plots in blocks read at visits, of one treatment each: whole, with main plots lost, or with single readings lost. */
function visitsOf(blocks, treatments, visits, lost, seed) {
  const chance = chanceFrom(1000 + seed)
  const noise = () => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
  const [units, values] = [[], new Map()]
  const gone = new Set()
  const plots = blocks * treatments
  while (gone.size < (lost.plots ?? lost.readings ?? 0)) gone.add(chance.below(lost.plots ? plots : plots * visits))
  for (let b = 0; b < blocks; b++) {
    units.push(unitOf('block', `b${b}`))
    for (let t = 0; t < treatments; t++) {
      const plot = b * treatments + t
      units.push(unitOf('main plot', `m${plot}`, [`b${b}`], { t: `t${t}` }))
      const ground = noise()
      for (let v = 0; v < visits; v++) {
        units.push(unitOf('plot', `p${plot}-${v}`, [`m${plot}`], { v: `v${v}` }))
        const value = 20 + ground + noise()
        if (!gone.has(lost.plots ? plot : plot * visits + v)) values.set(`p${plot}-${v}`, value)
      }
    }
  }
  const levels = (letter, of) => Array.from({ length: of }, (_, i) => `${letter}${i}`)
  return {
    structure: {
      schema: 1,
      kinds: [
        { kind: 'block', in: [] },
        { kind: 'main plot', in: ['block'] },
        { kind: 'plot', in: ['main plot'] },
      ],
      factors: [
        { factor: 't', appliedTo: 'main plot', within: 'block', how: 'randomised' },
        { factor: 'v', appliedTo: 'plot', within: 'main plot', how: 'randomised' },
      ],
      controls: [],
      seed: 1,
    },
    units,
    values,
    factors: [
      { key: 't', levels: levels('t', treatments) },
      { key: 'v', levels: levels('v', visits) },
    ],
    trait: { key: 'y', name: 'y', unit: '', kind: 'continuous' },
    options: AnalysisOptions.parse({ method: 'lsd' }),
  }
}

function smallTable() {
  console.log('| blocks × treatments × visits | lost | of treatments, % | of visits, % | of both, % | trials | not tested |')
  console.log('|---|---|---|---|---|---|---|')
  for (const sizes of [
    [2, 2, 2],
    [2, 3, 3],
    [3, 2, 2],
    [3, 2, 3],
    [3, 3, 2],
    [4, 2, 4],
    [4, 3, 3],
  ])
    // prettier-ignore
    for (const lost of [{}, { plots: 1 }, { plots: 2 }, { readings: 1 }, { readings: 2 }]) {
      const claims = { t: 0, v: 0, 't:v': 0 }
      const of = { t: 0, v: 0, 't:v': 0 }
      let described = 0
      for (let seed = 1; seed <= RUNS; seed++) {
        const found = analyse(visitsOf(...sizes, lost, seed))
        if (found.kind !== 'tested') described++
        for (const test of found.tests)
          if (test.term in of && Number.isFinite(test.p)) {
            of[test.term]++
            if (test.p < LEVEL) claims[test.term]++
          }
      }
      const what = lost.plots ? `${lost.plots} plots` : lost.readings ? `${lost.readings} readings` : 'none'
      console.log(`| ${sizes.join(' × ')} | ${what} | ${share(claims.t, of.t)} | ${share(claims.v, of.v)} | ${share(claims['t:v'], of['t:v'])} | ${RUNS} | ${described} |`) // prettier-ignore
    }
  console.log(`\n5 % is right; chance alone makes it 5 % ${off(0.05, RUNS)}.\n`)
}

/** Sites as a sample, where treatments do the same at each, or something else at each. */
function siteTable() {
  console.log('| sites × blocks | plots lost | s.d. of what treatments do at each site | claims, % (5 is right) |\n|---|---|---|---|')
  for (const [places, replicates] of [
    [5, 3],
    [6, 3],
  ])
    // prettier-ignore
    for (const lost of [false, true])
      for (const apart of [0, 1]) {
        const base = trialFor('randomised-block', replicates)
        const trial = asTrial({ ...base, sites: Array.from({ length: places }, (_, i) => ({ ...base.sites[0], key: `site-${i}`, name: `Site ${i}` })) }) // prettier-ignore
        let [tests, claims] = [0, 0]
        for (let seed = 1; seed <= RUNS; seed++) {
          const [ids, chance] = [countingIds(), chanceFrom(seed)]
          const noise = () => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
          const layouts = trial.sites.map((site) => layOut(trial, site.key, seed, ids))
          const records = layouts.flatMap(({ units }) => {
            const own = new Map(trial.treatments.factors[0].levels.map((level) => [level.key, apart * noise()]))
            const ground = new Map(units.map((unit) => [unit.id, noise()]))
            return units
              .filter((unit) => unit.kind === 'plot')
              .filter((_, i) => !lost || (i * 7 + seed) % 10 !== 0)
              .map((unit) => readingOf(unit.id, TRAIT, 50 + noise() + ground.get(unit.in[0]) + own.get(Object.values(unit.planned)[0])))
          })
          const values = new TrialBook(trial, layouts, records).observations(TRAIT, 'harvest')
          const found = analyseTrait(trial, layouts, values, TRAIT, { significance: LEVEL, method: ['lsd'] }).without
          const test = found.tests.find((each) => each.term === trial.treatments.factors[0].key)
          tests++
          if (test.p < LEVEL) claims++
        }
        console.log(`| ${places} × ${replicates} | ${lost ? 'a tenth' : 'none'} | ${apart} | ${share(claims, tests)} |`)
      }
  console.log(`\nOf ${RUNS} trials each (5 % ${off(0.05, RUNS)}).\n`)
}

const tables = { designs: designTable, methods: methodTable, variances: varianceTable, small: smallTable, sites: siteTable }
for (const [name, table] of Object.entries(tables)) if (process.argv[3] === undefined || process.argv[3] === name) table()
