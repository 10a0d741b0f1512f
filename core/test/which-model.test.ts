import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AnalysisError, AnalysisOptions, cvInWords, otherSchools, type Analysis } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { formatByError, formatNumber } from '../src/quantity/index.ts'
import type { Structure, Unit, UnitKind } from '../src/trial/index.ts'
import { analyse, analysed, asRequest, requestOf, unitOf, type ValueRequest } from './plan-case.ts'

type Options = Partial<typeof AnalysisOptions._zod.input>

interface Plot {
  readonly site: number
  readonly block: number
  readonly got: Readonly<Record<string, string>>
}

/** Plots in blocks in sites, dealt out as they are listed; value by plot. */
function laid(plots: readonly Plot[], valueOf: (plot: Plot, noise: () => number) => number, options: Options = {}, seed = 3): ValueRequest {
  const chance = chanceFrom(seed)
  const noise = (): number => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
  const several = new Set(plots.map((plot) => plot.site)).size > 1
  const units = new Map<string, Unit>()
  const put = (kind: UnitKind, id: string, within: string[], got = {}): void => void (units.has(id) || units.set(id, unitOf(kind, id, within, got))) // prettier-ignore
  const values = new Map<string, number>()
  plots.forEach((plot, i) => {
    if (several) put('site', `s${plot.site}`, [])
    put('block', `s${plot.site}b${plot.block}`, several ? [`s${plot.site}`] : [])
    put('plot', `p${i}`, [`s${plot.site}b${plot.block}`], plot.got)
    values.set(`p${i}`, valueOf(plot, noise))
  })
  const factors = Object.keys(plots[0]!.got)
  const kinds: Structure['kinds'] = [
    ...(several ? [{ kind: 'site' as const, in: [] }] : []),
    { kind: 'block', in: several ? ['site'] : [] },
    { kind: 'plot', in: ['block'] },
  ]
  return {
    structure: {
      schema: 1,
      kinds,
      factors: factors.map((factor) => ({ factor, appliedTo: 'plot', within: 'block', how: 'randomised' })),
      controls: [],
      seed: null,
    },
    units: [...units.values()],
    factors: factors.map((key) => ({ key, levels: [...new Set(plots.map((plot) => plot.got[key]!))].sort() })),
    trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous' },
    values,
    options: AnalysisOptions.parse(options),
  }
}

const LEVELS = ['a', 'b', 'c', 'd']
const sites = (blocksAt: readonly number[], levels = LEVELS): Plot[] =>
  blocksAt.flatMap((blocks, site) => Array.from({ length: blocks }, (_, block) => levels.map((v) => ({ site, block, got: { v } }))).flat())
const testOf = (found: Analysis, term: string) => found.tests.find((test) => test.term === term)!

describe('which model a layout asks for', () => {
  it('sites as a sample: strata where all is even, a mixed model whatever is not, and one passes into the other', () => {
    const value = ({ site, block, got }: Plot, noise: () => number): number =>
      site +
      (got['v'] === 'a' ? 1 : 0) +
      1.5 * Math.sin(7 * site + 3 * got['v']!.charCodeAt(0)) +
      2 * Math.sin(5 * block + 11 * site) +
      noise()
    const even = laid(sites([3, 3, 3, 3, 3]), value)
    const strata = analyse(even)
    expect([strata.mixed, testOf(strata, 'v').errorDf]).toEqual([null, 12])
    // The same by restricted maximum likelihood where no variance is at zero: F and its df are those of the strata.
    const fitted = analyse({ ...even, options: AnalysisOptions.parse({ df: 'kenward-roger', random: ['site'] }) })
    expect(fitted.mixed!.parameters.filter((each) => each.atBound && each.name !== 'block').map((each) => each.name)).toEqual([])
    expect(testOf(fitted, 'v').f).toBeCloseTo(testOf(strata, 'v').f, 5)
    expect(testOf(fitted, 'v').errorDf).toBeCloseTo(12, 4)
    expect(testOf(fitted, 'v').stratum).toBe(testOf(strata, 'v').stratum)
    // Their variances are told without a model being named, and are those that are fitted.
    for (const { unit, variance } of fitted.components!)
      expect(strata.components!.find((each) => each.unit === unit)?.variance ?? variance).toBeCloseTo(variance, 5)
    expect(strata.components!.map((each) => each.unit)).toEqual(expect.arrayContaining(['site', 'site:v', 'plot']))
    const uneven: readonly (readonly [string, Plot[]])[] = [
      ['sites of unlike size', sites([2, 3, 3, 3, 4])],
      ['a level that one site lacks', sites([3, 3, 3, 3, 3]).filter((plot) => !(plot.site === 2 && plot.got['v'] === 'd'))],
      ['a plot lost', sites([3, 3, 3, 3, 3]).slice(1)],
      ['one treatment twice in a block', [...sites([3, 3, 3, 3, 3]), { site: 0, block: 0, got: { v: 'b' } }]],
    ]
    for (const [what, plots] of uneven) {
      const found = analyse(laid(plots, value))
      expect(found.mixed?.df, what).toBe('kenward-roger')
      expect(
        found.mixed!.parameters.map((each) => each.name),
        what,
      ).toContain('site:v')
      expect(testOf(found, 'v').errorDf, what).toBeLessThan(60)
    }
  })

  it('sites as a sample that differ less than chance: one rule with every plot or one less, and it is said', () => {
    let seen = 0
    for (let seed = 1; seed <= 30; seed++) {
      const chance = chanceFrom(seed)
      const noise = Array.from({ length: 200 }, () => Array.from({ length: 12 }, () => chance.below(1e6) / 1e6).reduce((a, b) => a + b, -6))
      const value = ({ site, block, got }: Plot): number => site + noise[site * 20 + block * 5 + got['v']!.charCodeAt(0) - 97]!
      const [whole, less] = [analyse(laid(sites([3, 3, 3, 3, 3, 3]), value)), analyse(laid(sites([3, 3, 3, 3, 3, 3]).slice(1), value))]
      const atZero = (found: typeof whole): boolean =>
        found.cautions.some((each) => each.kind === 'at zero' && /what v does/.test(each.text))
      if (!atZero(less) || !atZero(whole)) continue
      seen++
      const [a, b] = [testOf(whole, 'v'), testOf(less, 'v')]
      expect(Math.abs(a.errorDf - b.errorDf)).toBeLessThan(3)
      const [ms, msLess] = [whole.terms['v']!, less.terms['v']!].map((term) => term.means[1]!.se) as [number, number]
      expect(ms / msLess).toBeGreaterThan(0.8)
      expect(ms / msLess).toBeLessThan(1.25)
    }
    expect(seen).toBeGreaterThan(6)
  })

  it('a 2³ in blocks of four, its interaction between blocks: nothing is refused, and what lies within blocks is sharper', () => {
    const cells = [0, 1].flatMap((a) => [0, 1].flatMap((b) => [0, 1].map((c) => ({ a, b, c }))))
    const plots = Array.from({ length: 4 }, (_, r) =>
      cells.map(({ a, b, c }): Plot => ({ site: 0, block: 2 * r + ((a + b + c) % 2), got: { a: `a${a}`, b: `b${b}`, c: `c${c}` } })),
    ).flat()
    const found = analyse(laid(plots, ({ block, got }, noise) => 3 * Math.sin(block * 7) + (got['a'] === 'a1' ? 2 : 0) + 0.5 * noise()))
    expect([found.kind, found.mixed?.df]).toEqual(['tested', 'kenward-roger'])
    expect(testOf(found, 'a').p).toBeLessThan(1e-6)
    expect(testOf(found, 'a').errorDf).toBeCloseTo(18, 0)
    expect(testOf(found, 'a:b:c').errorDf).toBeCloseTo(6, 0)
    expect(found.model.words).toMatch(/Each block holds a part of the treatments only: the differences between blocks are taken as chance/)
    // Taken out instead, the interaction cannot be told from blocks, and that is said.
    const out = analyse({
      ...laid(plots, (_, noise) => noise(), {
        fixed: ['block'],
        contrasts: [
          {
            name: 'all three',
            term: ['a', 'b', 'c'],
            coefficients: Object.fromEntries(cells.map(({ a, b, c }) => [`a${a}:b${b}:c${c}`, (a + b + c) % 2 ? 1 : -1])),
          },
        ],
      }),
    })
    expect([out.contrasts.length, out.cautions.map((each) => each.text).join(' ')]).toEqual([
      0,
      expect.stringMatching(/“all three” cannot be estimated/),
    ])
  })

  it('one plot of each treatment at each of several sites is tested, with sites as blocks, and says so', () => {
    const value = ({ site, got }: Plot, noise: () => number): number => 5 * Math.sin(site) + (got['v'] === 'a' ? 2 : 0) + noise()
    for (const count of [2, 3, 8]) {
      const plots = sites(
        Array.from({ length: count }, () => 1),
        ['a', 'b', 'c', 'd', 'e'],
      )
      const found = analyse(laid(plots, value))
      expect([found.kind, found.mixed]).toEqual(['tested', null])
      expect(testOf(found, 'v').errorDf).toBe((count - 1) * 4)
      expect(found.model.words).toMatch(/Each site has one plot of each treatment: sites are taken as blocks/)
      // The same numbers with blocks in the place of sites.
      const blocks = analyse(laid(plots.map((plot) => ({ ...plot, site: 0, block: plot.site })), (plot, noise) => value({ ...plot, site: plot.block }, noise))) // prettier-ignore
      expect(testOf(found, 'v').f).toBeCloseTo(testOf(blocks, 'v').f, 9)
      expect(found.terms['v']!.comparisons).toEqual(blocks.terms['v']!.comparisons)
      expect(found.terms['site:v']).toBeUndefined()
    }
    // A plot lost leaves the others their test; a second plot at one site makes sites places of their own again.
    const eight = sites(Array.from({ length: 8 }, () => 1))
    expect(testOf(analyse(laid(eight.slice(1), value)), 'v').errorDf).toBe(20)
    expect(analyse(laid([...eight, ...sites([1])], value)).model.words).not.toMatch(/taken as blocks/)
  })

  it('values without any error say so, where blocks are random and plots are lost too', () => {
    const exact = ({ site, block, got }: Plot): number => 3 * site + block + got['v']!.charCodeAt(0)
    for (const [plots, options] of [
      [sites([3, 3]), {}],
      [sites([3, 3, 3, 3, 3, 3]), {}],
      [sites([3, 3, 3, 3, 3]).slice(2), {}],
      [sites([4]), { random: ['block'] }],
      [sites([4]).slice(1), { random: ['block'] }],
    ] as const) {
      const found = analyse(laid(plots, exact, options as Options))
      expect([found.kind, found.notTested?.reason]).toEqual(['described', 'no error'])
      expect(found.cautions.map((each) => each.text).join(' ')).not.toMatch(/could not be fitted|lost/)
    }
  })

  it('sites that differ in their error are each judged by their own', () => {
    const wild = laid(sites([4, 4, 4]), ({ site, got }, noise) => 20 + (got['v'] === 'a' ? 1 : 0) + (site === 0 ? 6 : 0.4) * noise())
    const found = analyse(wild)
    // The CV of each, and that of all together, which lies among them.
    const [row] = found.errors
    expect(found.errors).toHaveLength(1)
    expect(row!.groups!.map((each) => each.level)).toEqual(['s0', 's1', 's2'])
    const cvs = row!.groups!.map((each) => each.cv)
    expect(cvs[0]!).toBeGreaterThan(15)
    for (const cv of cvs.slice(1)) expect(cv).toBeLessThan(5)
    expect(row!.cv).toBeGreaterThan(Math.min(...cvs))
    expect(row!.cv).toBeLessThan(Math.max(...cvs))
    const mean = found.grandMean
    expect(row!.cv).toBeCloseTo((100 * Math.sqrt(row!.ms)) / mean, 9)
    expect(cvInWords(row!)).toMatch(/^[\d.]+ % \([\d.]+ % at s0, [\d.]+ % at s1, [\d.]+ % at s2\)$/)
    expect(found.mixed?.errors?.key).toBe('by group')
    expect(found.cautions.map((each) => each.text).join(' ')).toMatch(/differ in their error.*each is judged by its own/)
    const widths = ['s0', 's1', 's2'].map((site) => found.terms['site:v']!.comparisons['tukey']!.find((row) => row.a.startsWith(site))!.sed)
    expect(widths[0]! / widths[1]!).toBeGreaterThan(4)
    const calm = laid(sites([4, 4, 4]), (_, noise) => noise())
    expect(analyse(calm).mixed).toBeNull()
  })

  it('what cannot be fitted is said, with the simpler model that was used', () => {
    const few = laid(sites([8]), (_, noise) => noise(), { ground: 'exponential' })
    expect(() => analyse(few)).toThrow(AnalysisError)
    const placed = few.units.map((unit, i) => (unit.kind === 'plot' ? { ...unit, place: { x: i % 4, y: i, width: 1, length: 1 } } : unit))
    const dated = analyse({ ...few, units: placed, options: AnalysisOptions.parse({ errorBy: 'v' }) })
    expect([dated.kind, dated.mixed?.errorTest?.df]).toEqual(['tested', 3])
    const spent = analyse({
      ...few,
      units: placed,
      values: new Map([...few.values].slice(0, 5)),
      options: AnalysisOptions.parse({ ground: 'gaussian' }),
    })
    expect(spent.cautions[0]?.text ?? spent.notTested?.text).toMatch(
      /could not be fitted, since .*: blocks alone are trusted|No residual degrees|nothing/,
    )
  })

  it('entries refuse what they do not have: unknown names, checks that are none, two ways for errors to go together', () => {
    const base = requestOf('augmented-oat')
    const asked = (options: Options) => () => analyse({ ...base, options: AnalysisOptions.parse(options) })
    expect(asked({ random: ['entri'] })).toThrow(/“entri”.*neither a kind of unit \(block, plot\) nor a factor \(entry\)/)
    expect(asked({ random: ['entry'], checks: { entry: ['check9'] } })).toThrow(/“check9”/)
    expect(asked({ ground: 'best', errorBy: 'block' })).toThrow(/“errorBy” and “ground” each say how errors go together/)
    expect(asked({ df: 'kenward-roger', errorBy: 'nobody' })).toThrow(/“nobody”/)
    expect(asked({ dates: { occasion: 'entry', subject: 'plot' } })).toThrow(AnalysisError)
  })

  it('a covariate in a mixed model is that of least squares where nothing is chance, and is adjusted for under several errors', () => {
    const options = { covariates: ['stand'], method: 'lsd' as const }
    for (const slopes of ['common', 'separate'] as const) {
      const [plain, mixed] = [
        analysed('m-ancova', { options: { ...options, slopes, tests: 'III' } }),
        analysed('m-ancova', { options: { ...options, slopes, df: 'kenward-roger' } }),
      ]
      expect(mixed.mixed).not.toBeNull()
      for (const [at, there] of [[plain.covariates[0]!, mixed.covariates[0]!]] as const) {
        at.slopes.forEach((each, i) => {
          expect(there.slopes[i]!.slope).toBeCloseTo(each.slope, 8)
          expect(there.slopes[i]!.se).toBeCloseTo(each.se, 8)
          expect(there.slopes[i]!.df).toBeCloseTo(each.df, 4)
        })
        expect(there.equalSlopes.f).toBeCloseTo(at.equalSlopes.f, 6)
        expect(there.byTreatment.p).toBeCloseTo(at.byTreatment.p, 6)
      }
      Object.values(plain.terms).forEach((term) =>
        term.means.forEach((mean, i) => {
          const own = mixed.terms[term.term]!.means[i]!
          expect([own.mean, own.se].map((each) => each.toFixed(7))).toEqual([mean.mean, mean.se].map((each) => each.toFixed(7)))
        }),
      )
      if (slopes === 'common')
        for (const test of plain.tests.filter((each) => each.term !== 'block')) expect(testOf(mixed, test.term).f).toBeCloseTo(test.f, 6)
    }
    // Main plots keep their error, and what the plots had of the covariate is taken out of the means.
    const request = requestOf('split-plot-barley', { options: { covariates: ['yield'] } })
    const chance = chanceFrom(8)
    const stand = new Map([...request.values.keys()].map((unit) => [unit, 50 + chance.below(100) / 5]))
    const values = new Map([...request.values].map(([unit, value]) => [unit, value + 0.2 * stand.get(unit)!]))
    const found = analyse({
      ...request,
      values,
      covariates: new Map([['stand', stand]]),
      options: AnalysisOptions.parse({ covariates: ['stand'], method: 'lsd' }),
    })
    expect(found.mixed!.parameters.map((each) => each.name)).toEqual(['main plot', 'residual'])
    const [slope] = found.covariates[0]!.slopes
    expect(Math.abs(slope!.slope - 0.2)).toBeLessThan(3 * slope!.se)
    const before = analysed('split-plot-barley', { options: { method: 'lsd' } }).terms['nitrogen']!
    const shift = 0.2 * found.covariates[0]!.at
    found.terms['nitrogen']!.means.forEach((mean, i) => expect(Math.abs(mean.mean - shift - before.means[i]!.mean)).toBeLessThan(0.3))
  })

  it('the full likelihood gives variances without the loss of what is fitted', () => {
    const [full, restricted] = (['ML', 'REML'] as const).map(
      (likelihood) => analysed('alpha-lattice-oat', { options: { likelihood, df: 'satterthwaite' } }).mixed!,
    )
    expect(full!.parameters.at(-1)!.value).toBeLessThan(restricted!.parameters.at(-1)!.value)
    expect(full!.likelihood).toBe('ML')
    // The residual alone: its maximum is the sum of squares over the observations.
    const plain = analysed('rcbd-oat-screening', { options: { likelihood: 'ML' } })
    const { errors } = analysed('rcbd-oat-screening')
    expect(plain.mixed!.parameters.at(-1)!.value).toBeCloseTo((errors[0]!.ms * errors[0]!.df) / plain.observations, 8)
  })
})

describe('where practitioners differ', () => {
  it('the answer the other way stands beside it in a sentence', () => {
    const of = (name: string) => otherSchools(asRequest(requestOf(name)))
    const [blocks] = of('alpha-lattice-oat')
    expect([blocks!.question, blocks!.taken, blocks!.other]).toEqual(['blocks', 'blocks as chance', 'blocks taken out'])
    expect(blocks!.sentence).toMatch(/^With blocks taken out, .*told apart.*\(19 of 276, not 18\)\.$/)
    const [barley] = of('multi-site-barley')
    expect(barley!.because).toMatch(/4 sites are too few/)
    expect(barley!.sentence).toMatch(/variety is no longer significant \(p 0\.089, not < 0\.001\)/)
    expect(of('m-stability')[0]!.taken).toBe('sites as a sample of many')
    const [ground] = of('m-spatial')
    expect(ground!.aic!.taken - ground!.aic!.other).toBeCloseTo(98.0, 0)
    expect(ground!.sentence).toMatch(/fits better, for what it costs \(AIC 98\.0 less\)/)
    expect(of('rcbd-oat-screening')).toEqual([])
  })
})

describe('what was asked for is answered or told', () => {
  it('a contrast between sites; a family of contrasts; parts of a trend that are not told', () => {
    const coefficients = { 'hill:var1': 1, 'hill:var2': -1, 'lake:var1': -1, 'lake:var2': 1 }
    const found = analysed('multi-site-barley', { options: { contrasts: [{ name: 'hill against lake in var1 over var2', term: ['variety', 'site'], coefficients }, { name: 'two', term: ['variety'], coefficients: { var1: 1, var2: -1 } }] } }) // prettier-ignore
    const [across, two] = found.contrasts
    const at = (level: string) => found.terms['site:variety']!.means.find((mean) => mean.level === level)!.mean
    expect(across!.estimate).toBeCloseTo(at('hill:var1') - at('hill:var2') - at('lake:var1') + at('lake:var2'), 8)
    expect(two!.adjusted.bonferroni).toBeCloseTo(Math.min(1, found.contrasts.filter((each) => each.site === null).length * two!.p), 8)
    expect(two!.adjusted.scheffe).toBeGreaterThan(two!.p)
    expect(found.sentences[0]!.text).toMatch(
      /^As planned, “hill against lake in var1 over var2”: not told from none; the weighted difference is −0\.\d+ t\/ha/,
    )
    const six = Array.from({ length: 24 }, (_, i): Plot => ({ site: 0, block: Math.floor(i / 6), got: { n: String(i % 6) } }))
    const trend = analyse(laid(six, (_, noise) => noise(), { polynomials: ['n'] }))
    expect(trend.contrasts).toHaveLength(4)
    expect(trend.cautions.map((each) => each.text).join(' ')).toMatch(/up to the fourth degree are told; one higher part is not/)
  })

  it('digits follow the standard error from small to large', () => {
    fc.assert(
      fc.property(fc.integer({ min: -12, max: 12 }), fc.double({ min: 1, max: 9.99, noNaN: true }), (power, head) => {
        const se = head * 10 ** (power - 3)
        const value = 5 * 10 ** power
        // What differs by a standard error never prints alike.
        expect(formatByError(value, se)).not.toBe(formatByError(value + se, se))
        expect(formatByError(value, se)).not.toMatch(/NaN|e[+-]/)
      }),
    )
    expect(new Set([1e12, 1e12 + 3, 1e12 + 6].map((mean) => formatByError(mean, 0.5))).size).toBe(3)
    expect([formatNumber(1.2e-12, 3), formatNumber(1e-17, 4), formatByError(1e-17, 0.02)]).toEqual([
      '1.20 × 10⁻¹²',
      '1.000 × 10⁻¹⁷',
      '0.0000',
    ])
  })
})
