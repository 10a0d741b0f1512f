import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { FileError, readPlan, readPlanTable, type PlanFile } from '@canter/core/exchange'
import { AnalysisError, AnalysisOptions, type Analysis } from '@canter/core/analysis'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { analyseTableCommand } from '../src/analyse-table.ts'
import { checkTableCommand } from '../src/check-table.ts'

const fixtures = fileURLToPath(new URL('../../core/fixtures/', import.meta.url))
const data = (name: string) => join(fixtures, 'reference', name, 'data.csv')
const plan = (name: string) => join(fixtures, 'plans', `${name}.json`)
const expectedOf = (name: string) =>
  new Map(
    (
      JSON.parse(readFileSync(join(fixtures, 'reference', name, 'expected.json'), 'utf8')) as {
        values: { name: string; value: number; rel: number }[]
      }
    ).values.map((each) => [each.name, each]),
  )
const traitOf = (name: string) => Object.keys((JSON.parse(readFileSync(plan(name), 'utf8')) as { traits: object }).traits)[0]!

let folder: string
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'canter-table-'))))
afterAll(() => rmSync(folder, { recursive: true }))
const file = (name: string, text: string): string => {
  const path = join(folder, name)
  writeFileSync(path, text)
  return path
}
const run = (name: string, options?: object): Analysis => {
  const extra = options ? ['--options', file('options.json', JSON.stringify(options))] : []
  return JSON.parse(
    analyseTableCommand(['--data', data(name), '--plan', plan(name), '--trait', traitOf(name), '--json', ...extra]),
  ) as Analysis
}

const said = (analysis: Analysis) => analysis.cautions.map((each) => each.text).join()

/** Where the case keeps the tests of each layout, and what it calls terms that Canter names by the unit. */
const PLACES: Record<string, string> = {
  'crd-plantgrowth': 'anova',
  'rcbd-oat-screening': 'anova',
  'rcbd-missing-oat': 'typeI',
  'factorial-rcbd-lentil': 'anova',
  'factorial-rcbd-missing-lentil': 'typeI',
  'factorial-plus-control-lentil': 'anova_whole',
  'latin-square-carrot': 'anova',
  'split-plot-barley': 'anova',
  'strip-plot-carrot': 'anova',
  'split-split-plot-onion': 'anova',
  'multi-site-barley': 'fixed.anova',
  'multi-site-factorial-lentil': 'combined.anova',
  'multiple-comparisons-balanced-lavender': 'anova',
}

/** The JSON blocks of a page, each with the CSV block before it. */
function documented(page: string): { json: string; csv: string }[] {
  const text = readFileSync(new URL(`../../${page}`, import.meta.url), 'utf8')
  let csv = ''
  return [...text.matchAll(/```(csv|json)\n([\s\S]*?)```/g)].flatMap(([, kind, body]) => {
    if (kind === 'json') return [{ json: body!, csv }]
    csv = body!
    return []
  })
}

describe('reference cases on the command line', () => {
  it.each(Object.entries(PLACES))('%s: every term against its own error', (name, place) => {
    const expected = expectedOf(name)
    const { tests } = run(name)
    let held = 0
    for (const test of tests) {
      const term = { column: 'col', block: name.startsWith('multi-site') ? 'block_within_site' : 'block' }[test.term] ?? test.term
      // Parts of whole treatments stand in a table of their own.
      const at = test.partOf ? `anova.${term === 'outside' ? 'control_vs_factorial' : term}` : `${place}.${term}`
      const f = expected.get(`${at}.F`)
      if (!f) continue
      expect(Math.abs(test.f - f.value)).toBeLessThanOrEqual(f.rel * Math.abs(f.value))
      const p = expected.get(`${at}.p`)!
      if (p) expect(Math.abs(test.p - p.value)).toBeLessThanOrEqual(p.rel * p.value)
      held++
    }
    expect(held).toBe(tests.length)
  })

  it('forces the type of test and the method as asked', () => {
    const expected = expectedOf('factorial-rcbd-missing-lentil')
    const third = run('factorial-rcbd-missing-lentil', { tests: 'III', method: 'lsd' })
    expect(third.tests.find((test) => test.term === 'inoculant')!.f).toBeCloseTo(expected.get('typeIII.inoculant.F')!.value, 8)
    const lavender = expectedOf('multiple-comparisons-balanced-lavender')
    for (const [method, key] of [
      ['scheffe', 'scheffe'],
      ['student-newman-keuls', 'snk'],
      ['holm', 'holm'],
      ['benjamini-hochberg', 'bh'],
    ] as const) {
      const pair = run('multiple-comparisons-balanced-lavender', { method }).terms['rate']!.comparisons[method]!.find(
        (each) => each.a === 'r0' && each.b === 'r40',
      )!
      expect(pair.p).toBeCloseTo(lavender.get(`pair.r0-r40.p.${key}`)!.value, 7)
    }
    const against = run('multiple-comparisons-balanced-lavender', { method: 'dunnett' }).terms['rate']!.comparisons.dunnett!
    expect(against).toHaveLength(6)
    expect(against.find((pair) => pair.a === 'r40')!.p).toBeCloseTo(lavender.get('dunnett.r40-r0.p')!.value, 6)
    expect(() => run('latin-square-carrot', { method: 'dunnett' })).toThrow(/needs a control/)
    const kinds = run('split-plot-barley', { method: 'lsd' }).terms['variety:nitrogen']!.comparisons.lsd!
    const within = kinds.find((pair) => pair.a === 'alpha:N0' && pair.b === 'alpha:N40')!
    expect(within.sed).toBeCloseTo(expectedOf('split-plot-barley').get('sed.nitrogen_within_variety.sed')!.value, 8)
    expect(run('latin-square-carrot', { protect: true, significance: 0.0001 }).terms['irrigation']!.comparisons.tukey).toEqual([])
  })

  it('takes units as fixed, and only the terms asked for', () => {
    const fixed = run('split-plot-barley', { fixed: ['main plot'], method: 'lsd' })
    expect(fixed.errors).toHaveLength(1)
    expect(fixed.tests.find((test) => test.term === 'nitrogen')!.f).toBeCloseTo(
      expectedOf('split-plot-barley').get('anova.nitrogen.F')!.value,
      8,
    )
    const additive = run('factorial-rcbd-lentil', { terms: [['inoculant'], ['starter']] })
    expect(additive.tests.map((test) => test.term)).toEqual(['block', 'inoculant', 'starter'])
    expect(additive.errors[0]!.df).toBe(17)
    expect(() => run('factorial-rcbd-lentil', { terms: [['water']] })).toThrow(/“water”, which is not a factor/)
    expect(() => run('factorial-rcbd-lentil', { levels: 3 })).toThrow(/options\.json/)
  })

  it('ends with code 0, 1 or 2 and a message on the other stream', () => {
    const main = fileURLToPath(new URL('../src/main.ts', import.meta.url))
    const end = (...args: string[]) =>
      spawnSync(process.execPath, ['--import', 'tsx', '--conditions', 'source', main, ...args], { encoding: 'utf8' })
    const good = end('analyse', '--data', data('crd-plantgrowth'), '--plan', plan('crd-plantgrowth'), '--trait', 'weight')
    expect([good.status, good.stderr]).toEqual([0, ''])
    expect(good.stdout).toMatch(
      /^\[trial\] trt2 gave 0\.86 g more weight than trt1 \(95 % interval 0\.17 to 1\.56 g, allowing for 3 comparisons/,
    )
    expect(end('analyse', '--data', data('crd-plantgrowth'), '--plan', plan('crd-plantgrowth'), '--trait', 'height')).toMatchObject({
      status: 1,
      stdout: '',
    })
    expect(end('analyse', '--data', 'x.csv').status).toBe(2)
    expect(end('dance').stderr).toMatch(/There is no “dance”/)
    expect(end('--help').stdout).toMatch(/canterPlan/)
  })

  it('a lost sub-plot is fitted by a mixed model, and the reader told so', () => {
    const lines = readFileSync(data('split-plot-barley'), 'utf8').split('\n')
    const lost = file('lost.csv', lines.map((line, i) => (i === 3 ? line.replace(/,[^,]*$/, ',') : line)).join('\n'))
    const text = analyseTableCommand(['--data', lost, '--plan', plan('split-plot-barley'), '--trait', 'yield'])
    expect(text).toMatch(/The differences between main plots are taken as chance of their own/)
    expect(text).toMatch(/alpha:N0 +4 +4\.935/)
    expect(text).not.toMatch(/NaN|undefined/)
  })

  it('samples inside a plot are one replicate', () => {
    const own = JSON.parse(readFileSync(plan('rcbd-oat-screening'), 'utf8')) as { structure: { kinds: object[] } }
    own.structure.kinds.push({ kind: 'sample', in: ['plot'] })
    const [header, ...rows] = readFileSync(data('rcbd-oat-screening'), 'utf8').trim().split('\n')
    const doubled = rows.flatMap((row) => [row, row.replace(/([\d.]+)$/, (value) => String(Number(value) + 0.2))])
    const args = [
      '--data',
      file('samples.csv', [header, ...doubled].join('\n')),
      '--plan',
      file('samples.json', JSON.stringify(own)),
      '--trait',
      'yield',
      '--json',
    ]
    const analysis = JSON.parse(analyseTableCommand(args)) as Analysis
    expect(analysis.errors[0]!.df).toBe(24)
    expect(analysis.tests[1]!.f).toBeCloseTo(expectedOf('rcbd-oat-screening').get('anova.variety.F')!.value, 6)
    expect(said(analysis)).toMatch(/one replicate/)
    const uneven = [
      '--data',
      file('uneven.csv', [header, ...doubled.slice(1)].join('\n')),
      '--plan',
      file('samples.json', JSON.stringify(own)),
      '--trait',
      'yield',
      '--json',
    ]
    const weighed = JSON.parse(analyseTableCommand(uneven)) as Analysis
    expect(said(weighed)).toMatch(/each plot counts by it/)
    expect(weighed.errors[0]!.df).toBe(24)
  })

  it('covariates, planned comparisons, trends and scales', () => {
    const ancova = expectedOf('m-ancova')
    const adjusted = run('m-ancova', { covariates: ['stand'], tests: 'III' })
    expect(adjusted.tests.find((test) => test.term === 'irrigation')!.f).toBeCloseTo(ancova.get('treatment.f_adjusted')!.value, 8)
    const high = adjusted.terms['irrigation']!.means.find((mean) => mean.level === 'high')!
    expect(high.mean).toBeCloseTo(ancova.get('adjusted_mean.high')!.value, 8)
    const planned = { name: 'A against B at 10', term: ['treatment'], coefficients: { A10: 1, B10: -1 } }
    expect(run('m-contrasts', { contrasts: [planned] }).contrasts[0]!.t).toBeCloseTo(
      expectedOf('m-contrasts').get('contrast.A_vs_B_at_10.t')!.value,
      8,
    )
    const args = ['--data', data('m-transform'), '--plan', plan('m-transform'), '--trait', 'weed_mass_g']
    const text = analyseTableCommand([...args, '--options', file('log.json', '{"scale": "log", "equivalence": 0.3}')])
    expect(text).toMatch(/brought back/)
    expect(text).toMatch(/Scale: log/)
    expect(text).toMatch(/within ± 0\.300/)
    expect(run('m-transform', { scale: 'log' }).terms['weeding']!.means.find((mean) => mean.level === 'hoe')!.back!.mean).toBeCloseTo(
      expectedOf('m-transform').get('log.back.hoe')!.value,
      8,
    )
  })

  it('shares are totals over what was looked at, each plot by how much that was', () => {
    // Two quadrats a plot of unlike size: 10 of 20 and 60 of 80 are 70 of 100.
    const rows = [1, 2, 3, 4].flatMap((block) =>
      ['none', 'oil', 'heat'].flatMap((dressing, i) => [
        `${block},${block}${i},1,${dressing},${8 + ((block * 3 + i) % 5)},20`,
        `${block},${block}${i},2,${dressing},${60 + 4 * i + ((block * 7 + i * 5) % 6)},${block === 1 ? 100 : 80}`,
      ]),
    )
    const share = (lines: readonly string[]): Analysis =>
      JSON.parse(
        analyseTableCommand([
          ...['--data', file('share.csv', ['block,plot,quadrat,dressing,seedlings,sown', ...lines].join('\n')), '--json'],
          ...['--plan', file('share.json', documented('docs/plan-file.md').at(-1)!.json), '--trait', 'seedlings'],
        ]),
      ) as Analysis
    const found = share(rows)
    expect(found.unit).toBe('plot')
    expect(found.trait.unit).toBe('%')
    const first = found.residuals.find((row) => row.code === '10')!
    expect(first.exposure).toBe(120)
    const [small, large] = [rows[0]!, rows[1]!].map((row) => Number(row.split(',')[4]))
    expect(first.value).toBeCloseTo((100 * (small! + large!)) / 120, 10)
    expect(Object.keys(found.terms['dressing']!.comparisons)).toEqual(['dunnett'])
    expect(() => share([...rows, '4,42,3,heat,21,20'])).toThrow(/21 of 20 in seedlings: a part is never more than its whole/)
  })

  it('names and controls may be any text of the table', () => {
    const text = 'Block;Sorte;Ertrag\n1;1:2;4,1\n1;Früh A;5,2\n2;1:2;4,3\n2;Früh A;5,1\n3;1:2;4,0\n3;Früh A;5,3\n'
    const { structure } = JSON.parse(readFileSync(plan('rcbd-oat-screening'), 'utf8')) as PlanFile
    const own = {
      canterPlan: 1,
      structure: {
        ...structure,
        factors: [{ ...structure.factors[0]!, factor: 'Sorte Nr. 1' }],
        controls: [{ factor: 'Sorte Nr. 1', level: '1:2' }],
      },
      columns: { units: { block: ['Block'] }, factors: { 'Sorte Nr. 1': 'Sorte' } },
    }
    const read = ['--data', file('sorte.csv', text), '--plan', file('sorte.json', JSON.stringify(own)), '--trait', 'Ertrag', '--json']
    const [pair] = (JSON.parse(analyseTableCommand(read)) as Analysis).terms['Sorte Nr. 1']!.comparisons.dunnett!
    expect(pair).toMatchObject({ a: 'Früh A', b: '1:2' })
    const pasted = read.with(1, file('sorte.tsv', text.replaceAll(';', '\t').replace('Sorte', ' Sorte ')))
    expect((JSON.parse(analyseTableCommand(pasted)) as Analysis).terms['Sorte Nr. 1']!.comparisons.dunnett![0]).toEqual(pair)
    expect(pair!.difference).toBeCloseTo(5.2 - 4.4 / 3 - 8 / 3, 10)
  })

  it('check names slipped decimals, copied values, levels that may be one, and edges', () => {
    const check = (text: string, extra: readonly string[] = []): string =>
      checkTableCommand(['--data', file('odd.csv', text), '--plan', plan('rcbd-oat-screening'), '--trait', 'yield', ...extra])
    const clean = readFileSync(data('rcbd-oat-screening'), 'utf8').trim()
    expect(check(clean)).toMatch(/^\d+ plots with a value of yield, 0 without\./)
    const lines = clean.split('\n')
    const changed = (at: number, change: (cells: string[]) => string[]): string =>
      lines.map((line, i) => (i === at ? change(line.split(',')).join(',') : line)).join('\n')
    expect(check(changed(2, ([block, plot, line, value]) => [block!, plot!, line!, String(Number(value) * 10)]))).toMatch(
      /plot 102: 69\.65 t\/ha is about ten times the others of line03 \([\d.]+\): has the decimal point slipped\?/,
    )
    expect(check(lines.map((line, i) => (i > 3 && i < 9 ? line.replace(/[\d.]+$/, '6.1') : line)).join('\n'))).toMatch(
      /5 plots one after another \(104 to 108\) have the same value, 6\.1 t\/ha: were they copied\?/,
    )
    expect(check(changed(1, ([block, plot, , value]) => [block!, plot!, 'Line 04', value!]))).toMatch(
      /Levels of variety that may be one: “Line 04”, “line04”\./,
    )
    const json = JSON.parse(
      check(
        changed(2, (cells) => [...cells.slice(0, 3), '69.65']),
        ['--json'],
      ),
    ) as {
      findings: string[]
      checks: Analysis['checks']
    }
    expect(json.findings[0]).toMatch(/slipped/)
    expect(json.checks.outlier!.unit).toBe('102')
  })

  it('the examples of the documentation are plans and options that can be read', () => {
    const plans = documented('docs/plan-file.md')
    expect(plans.length).toBeGreaterThanOrEqual(10)
    for (const { json, csv } of plans) {
      const read = readPlan('plan.json', json)
      const [trait] = Object.keys(read.traits)
      expect(readPlanTable('plots.csv', csv, read, trait!).observations).toHaveLength(2)
    }
    for (const { json } of documented('docs/result-file.md')) expect(() => AnalysisOptions.parse(JSON.parse(json))).not.toThrow()
  })

  it('check tells what is odd', () => {
    const text = checkTableCommand([
      '--data',
      data('m-diagnostics'),
      '--plan',
      file('diag.json', readFileSync(plan('rcbd-oat-screening'), 'utf8')),
      '--trait',
      'yield_t_ha',
    ])
    expect(text).toMatch(/plot|far from/i)
    expect(text).toMatch(/20 lies far from/)
  })
})

describe('files that cannot be analysed say where and why', () => {
  const base = readFileSync(data('rcbd-oat-screening'), 'utf8')
  const call = (text: string, planText = readFileSync(plan('rcbd-oat-screening'), 'utf8'), trait = 'yield', options: object = {}) => {
    const args = ['--data', file('plots.csv', text), '--plan', file('plan.json', planText), '--trait', trait]
    return analyseTableCommand([...args, '--options', file('options.json', JSON.stringify(options)), '--json'])
  }

  it.each([
    ['a missing column', () => call(base.replace('variety', 'line')), /column “variety” is missing/],
    ['text in a number column', () => call(base.replace('5.685', 'about six')), /line 2, column “yield”: “about six” is not a number/],
    [
      'text on a line after empty ones',
      () => call(base.replace('1,102', '\n,,,\n1,102').replace('6.965', 'six')),
      /line 5, column “yield”: “six” is not/,
    ],
    ['two columns of one name', () => call(base.replace('block,plot', 'yield,plot')), /line 1: the column “yield” stands there twice/],
    ['a figure that can be read two ways', () => call(base.replace('5.685', '"5,685"')), /“5,685” may mean 5685 or 5\.685/],
    ['a unit twice', () => call(`${base.trim()}\n1,101,line01,5\n`), /line \d+: plot 101 stands there twice \(first on line 2\)/],
    ['one level only', () => call(base.replace(/line\d+/g, 'line01')), /one level only/],
    ['all missing', () => call(base.replace(/,[\d.]+$/gm, ',')), /every value is missing/],
    ['a constant response', () => call(base.replace(/,[\d.]+$/gm, ',5')), /constant response/],
    ['no such trait', () => call(base, undefined, 'height'), /column “height” is missing/],
    ['an empty file', () => call(''), /line must name the columns/],
    ['a plan that is no JSON', () => call(base, '{'), /plan\.json: it is not JSON/],
    ['a plan of another version', () => call(base, '{"canterPlan": 9}'), /“canterPlan” must be 1/],
    [
      'a plan in a ring',
      () =>
        call(
          base,
          JSON.stringify({
            canterPlan: 1,
            structure: {
              schema: 1,
              kinds: [
                { kind: 'block', in: ['plot'] },
                { kind: 'plot', in: ['block'] },
              ],
              factors: [],
              controls: [],
              seed: null,
            },
            columns: { units: {}, factors: {} },
          }),
        ),
      /exactly one kind|lies in itself/,
    ],
  ])('%s', (_, act, message) => {
    expect(act).toThrow(message)
  })

  it('one replicate is described', () => {
    const one = base
      .split('\n')
      .filter((line, i) => i === 0 || line.startsWith('1,'))
      .join('\n')
    expect((JSON.parse(call(one)) as Analysis).kind).toBe('described')
  })

  it('1000 damaged or random files never crash it, nor show what is not a number as one', () => {
    const sources = readdirSync(join(fixtures, 'plans')).map((name) => name.replace('.json', ''))
    const inputs = sources.map((name) => ({
      text: readFileSync(data(name), 'utf8'),
      plan: readFileSync(plan(name), 'utf8'),
      trait: traitOf(name),
    }))
    // Most damage is what hands do in a spreadsheet: a cell emptied, a figure mistyped; some is of single characters.
    const cell = fc.constantFrom('', 'NA', '0', '-5', '1e9', '1e308', 'x', ' 7 ', '1,5', '12.34', 'NaN', '"', 'line01')
    const character = fc.oneof(fc.constantFrom(',', '\n', '"', '', 'NaN', '1e400', '-', ';', '0', 'x'), fc.string({ maxLength: 3 }))
    const seldom = <T>(of: fc.Arbitrary<T>, one: number) =>
      fc.oneof({ arbitrary: fc.constant(null), weight: one - 1 }, { arbitrary: of, weight: 1 })
    const damage = fc.array(fc.tuple(fc.nat(), character), { minLength: 1, maxLength: 3 })
    const cells = fc.array(fc.tuple(fc.nat(), fc.nat(), cell), { maxLength: 5 })
    const spoil = (text: string, edits: [number, string][]) =>
      edits.reduce((now, [at, put]) => {
        const i = at % (now.length + 1)
        return now.slice(0, i) + put + now.slice(i + 1)
      }, text)
    const mistype = (text: string, edits: [number, number, string][]) => {
      const lines = text.trim().split('\n')
      for (const [at, column, put] of edits) {
        const row = 1 + (at % (lines.length - 1))
        const parts = lines[row]!.split(',')
        // Twice as often the response, the last column, as any other.
        parts[column % 2 === 0 ? parts.length - 1 : column % parts.length] = put
        lines[row] = parts.join(',')
      }
      return lines.join('\n')
    }
    let analysed = 0
    fc.assert(
      fc.property(
        fc.constantFrom(...inputs),
        cells,
        seldom(damage, 4),
        seldom(damage, 8),
        seldom(fc.string({ maxLength: 200 }), 20),
        fc.record(
          {
            method: fc.constantFrom('lsd', 'holm', 'scheffe', 'student-newman-keuls', ['lsd', 'bonferroni']),
            tests: fc.constantFrom('I', 'II', 'III'),
            weights: fc.constantFrom('equal', 'observed'),
            scale: fc.constantFrom('none', 'log', 'square root', 'logit', { power: 0.5 }),
            random: fc.constantFrom([], ['block'], ['site']),
            equivalence: fc.constantFrom(0.5, 2),
          },
          { requiredKeys: [] },
        ),
        fc.constantFrom('json', 'report', 'check'),
        (input, typed, edits, planEdits, random, options, as) => {
          try {
            const text = random ?? spoil(mistype(input.text, typed), edits ?? [])
            const args = [
              '--data',
              file('plots.csv', text),
              '--plan',
              file('plan.json', planEdits ? spoil(input.plan, planEdits) : input.plan),
            ]
            const asked = [...args, '--trait', input.trait, '--options', file('options.json', JSON.stringify(options))]
            if (as !== 'json') {
              // Words of the report, apart from names out of the spoilt file.
              const said = as === 'report' ? analyseTableCommand(asked) : checkTableCommand(asked)
              analysed++
              if (!/NaN|Infinity|undefined/.test(text)) expect(said).not.toMatch(/NaN|Infinity|undefined/)
              return
            }
            // A level may be called NaN in a spoilt file; a figure may not be (JSON would make it null).
            const result = JSON.parse(analyseTableCommand([...asked, '--json'])) as Analysis
            analysed++
            const terms = Object.values(result.terms)
            for (const mean of terms.flatMap((term) => term.means)) expect(Number.isFinite(mean.mean)).toBe(true)
            for (const test of result.tests) if (test.df > 0) expect([test.f, test.p].every(Number.isFinite)).toBe(true)
            for (const pair of terms.flatMap((term) => Object.values(term.comparisons).flatMap((rows) => rows ?? []))) {
              // With no error of its own a pair is not judged at all.
              if (pair.p === null) expect([pair.sed, pair.t, pair.lower]).toEqual([null, null, null])
              else expect([pair.difference, pair.sed, pair.df, pair.t].every(Number.isFinite)).toBe(true)
              if (pair.p === null) continue
              expect(pair.p).toBeGreaterThanOrEqual(0)
              expect(pair.p).toBeLessThanOrEqual(1)
            }
          } catch (error) {
            if (!(error instanceof FileError) && !(error instanceof AnalysisError)) throw error
          }
        },
      ),
      { numRuns: 1000 },
    )
    // The damage must leave enough to analyse, or nothing is shown.
    expect(analysed).toBeGreaterThan(150)
  }, 180_000)
})
