import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AnalysisOptions, checkReadings, type Analysis, type ComparisonRow, type Method, type TermResult } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { putPair, putRows, type Got } from './classify.ts'
import { referenceCase } from './fixture.ts'
import { analyse, analysed, blocksOf, requestOf, unitOf } from './plan-case.ts'

/** Where each case keeps its tests, and how many values it has that the layout alone must give. */
const PLACES: Record<string, { place: string; least: number; terms?: Record<string, string> }> = {
  'crd-plantgrowth': { place: 'anova', least: 40 },
  'rcbd-oat-screening': { place: 'anova', least: 200 },
  'rcbd-missing-oat': { place: 'typeI', least: 100 },
  'factorial-rcbd-lentil': { place: 'anova', least: 100 },
  'factorial-rcbd-missing-lentil': { place: 'typeI', least: 100 },
  'factorial-plus-control-lentil': { place: 'anova_whole', least: 90 },
  'latin-square-carrot': { place: 'anova', least: 80, terms: { column: 'col' } },
  'split-plot-barley': { place: 'anova', least: 40, terms: { 'error main plot': 'error_main', 'error plot': 'error_sub' } },
  'strip-plot-carrot': { place: 'anova', least: 20 },
  'split-split-plot-onion': { place: 'anova', least: 40 },
  'multi-site-barley': { place: 'fixed.anova', least: 20, terms: { block: 'block_within_site' } },
  'multi-site-factorial-lentil': { place: 'combined.anova', least: 30, terms: { block: 'block_within_site' } },
  'multiple-comparisons-balanced-lavender': { place: 'anova', least: 10 },
}

/** An analysis under the names of the cases. */
function named(analysis: Analysis, place: string, rename: Record<string, string> = {}, prefix = ''): Got {
  const got: Got = new Map()
  const called = (term: string): string => rename[term] ?? term
  putRows(got, place, analysis.tests, rename)
  for (const error of analysis.errors) {
    for (const at of [`${place}.${called(`error ${error.stratum}`)}`, ...(analysis.errors.length === 1 ? [`${place}.residual`] : [])])
      got.set(`${at}.df`, error.df).set(`${at}.ss`, error.ss).set(`${at}.ms`, error.ms)
  }
  got.set('grand.mean', analysis.grandMean)
  if (analysis.errors.length === 1) got.set('cv', analysis.errors[0]!.cv)
  for (const [name, term] of Object.entries(analysis.terms)) putTerm(got, prefix, name, term)
  return got
}

function putTerm(got: Got, prefix: string, name: string, { means, comparisons }: TermResult): void {
  for (const mean of means) {
    got.set(`mean.${name}.${mean.level}`, mean.mean)
    for (const at of [`${prefix}emm.${name}.${mean.level}`, `${prefix}emm.kr.${name}.${mean.level}`])
      got
        .set(`${at}.mean`, mean.mean)
        .set(`${at}.se`, mean.se)
        .set(`${at}.df`, mean.df)
        .set(`${at}.lower`, mean.lower)
        .set(`${at}.upper`, mean.upper)
  }
  for (const pair of comparisons.lsd ?? [])
    for (const kind of ['pair', 'pair.kr']) putPair(got, `${prefix}${kind}.${name}`, [pair.a, pair.b], pair)
}

/** How many values of a case agree, having shown that none of those that could be compared is off. */
function agreement(name: string, got: Got, only: (value: string) => boolean = () => true): number {
  const shared = referenceCase(name).expected.filter((each) => got.has(each.name) && only(each.name))
  const off = shared.filter(({ name: at, value, rel, abs = 0 }) => {
    const x = got.get(at)
    return typeof value === 'string' || typeof x !== 'number' ? x !== value : !(Math.abs(x - value) <= Math.max(rel * Math.abs(value), abs))
  })
  expect(off.slice(0, 10).map((each) => `${each.name}: ${got.get(each.name)} is not ${each.value}`)).toEqual([])
  return shared.length
}

describe('the model follows from the structure', () => {
  it.each(Object.entries(PLACES))('%s: tests, errors, means and differences from the layout alone', (name, { place, least, terms }) => {
    const got = named(analysed(name, { options: { method: 'lsd' } }), place, terms, place.startsWith('fixed.') ? 'fixed.' : '')
    expect(agreement(name, got)).toBeGreaterThanOrEqual(least)
  })

  it('whole treatments are taken apart into what stands outside, their factors, and how these depend on each other', () => {
    const found = analysed('factorial-plus-control-lentil', { options: { method: 'lsd' } })
    const got: Got = new Map()
    const rows = found.tests.filter((test) => test.partOf === 'treatment')
    putRows(got, 'anova', rows, { outside: 'control_vs_factorial' })
    for (const name of ['inoculant', 'starter']) {
      const { means, sed, lsd } = found.terms[name]!
      for (const mean of means) got.set(`mean.${name}.${mean.level}`, mean.mean)
      got.set(`sed.${name}.sed`, sed.mean).set(`sed.${name}.lsd`, lsd.max)
    }
    expect(agreement('factorial-plus-control-lentil', got)).toBe(4 * 5 + 5 + 4)
    const whole = found.tests.find((test) => test.term === 'treatment')!
    expect(rows.reduce((sum, row) => sum + row.ss, 0)).toBeCloseTo(whole.ss, 10)
    expect(found.terms['inoculant:starter']!.simpleEffects).toHaveLength(5)
    // A combination that was not grown: no averages are told, the rest of the split stands.
    const holed = analysed('factorial-plus-control-lentil', {
      data: (text) =>
        text
          .split('\n')
          .filter((line) => !line.includes('liquid_N30'))
          .join('\n'),
    })
    expect(holed.tests.filter((test) => test.partOf).map((test) => [test.term, test.df])).toEqual([
      ['outside', 1],
      ['inoculant', 2],
      ['starter', 1],
      ['inoculant:starter', 1],
    ])
    expect(Object.keys(holed.terms)).toEqual(['treatment', 'inoculant:starter'])
  })

  it('Type II and III tests, and the four kinds of difference in a split plot', () => {
    for (const tests of ['II', 'III'] as const) {
      const got = named(analysed('factorial-rcbd-missing-lentil', { options: { tests, method: 'lsd' } }), `type${tests}`)
      expect(agreement('factorial-rcbd-missing-lentil', got, (at) => at.startsWith(`type${tests}.`))).toBeGreaterThanOrEqual(12)
    }
    const { terms } = analysed('split-plot-barley', { options: { method: 'lsd' } })
    const got: Got = new Map()
    const kinds = {
      variety: ['variety', 'alpha', 'beta'],
      nitrogen: ['nitrogen', 'N0', 'N40'],
      nitrogen_within_variety: ['variety:nitrogen', 'alpha:N0', 'alpha:N40'],
      variety_across_nitrogen: ['variety:nitrogen', 'alpha:N0', 'beta:N0'],
    } as const
    for (const [kind, [term, a, b]] of Object.entries(kinds)) {
      const pair = terms[term]!.comparisons.lsd!.find((each) => each.a === a && each.b === b)!
      got.set(`sed.${kind}.sed`, pair.sed).set(`sed.${kind}.df`, pair.df).set(`sed.${kind}.lsd`, pair.threshold)
    }
    expect(agreement('split-plot-barley', got)).toBe(12)
  })

  it('sites as a sample of many: treatments against their interaction, means with the spread of sites in them', () => {
    const found = analysed('multi-site-barley', { options: { random: ['site', 'block'], method: 'lsd' } })
    const got = named(found, 'none', {}, 'random.')
    const [test] = found.tests
    for (const at of ['sat', 'kr'])
      got
        .set(`random.anova.${at}.variety.F`, test!.f)
        .set(`random.anova.${at}.variety.dendf`, test!.errorDf)
        .set(`random.anova.${at}.variety.p`, test!.p)
    expect(agreement('multi-site-barley', got, (at) => at.startsWith('random.'))).toBeGreaterThanOrEqual(6 + 30 + 90)
    const sites = analysed('multi-site-barley').checks.equalSiteErrors!
    expect(
      agreement(
        'multi-site-barley',
        new Map([
          ['bartlett.chisq', sites.statistic],
          ['bartlett.df', sites.df],
          ['bartlett.p', sites.p],
        ]),
      ),
    ).toBe(3)
  })

  it('simple effects in a split plot: subplots against their own error, main plots against the mixture', () => {
    const { errors, terms } = analysed('split-plot-barley')
    const { simpleEffects, means } = terms['variety:nitrogen']!
    expect(simpleEffects).toHaveLength(7)
    const [main, plot] = ['main plot', 'plot'].map((stratum) => errors.find((error) => error.stratum === stratum)!)
    const mixture = (main!.ms + 3 * plot!.ms) / 4
    const df = (main!.ms + 3 * plot!.ms) ** 2 / (main!.ms ** 2 / main!.df + (3 * plot!.ms) ** 2 / plot!.df)
    const between = (levels: readonly string[]): number => {
      const own = levels.map((level) => means.find((mean) => mean.level === level)!.mean)
      const middle = own.reduce((sum, each) => sum + each, 0) / own.length
      return (4 * own.reduce((sum, each) => sum + (each - middle) ** 2, 0)) / (own.length - 1)
    }
    const found = (factor: string, level: string) => simpleEffects.find((row) => row.factor === factor && row.level === level)!
    const variety = found('variety', 'N40')
    expect(variety.f).toBeCloseTo(between(['alpha:N40', 'beta:N40', 'gamma:N40']) / mixture, 8)
    expect(variety.errorDf).toBeCloseTo(df, 8)
    const nitrogen = found('nitrogen', 'beta')
    expect(nitrogen.f).toBeCloseTo(between(['beta:N0', 'beta:N40', 'beta:N80', 'beta:N120']) / plot!.ms, 8)
    expect(nitrogen.errorDf).toBeCloseTo(27, 8)
  })

  it('the standard error of a split-plot mean is that of its larger units', () => {
    const { terms, errors } = analysed('split-plot-barley')
    const [, main, sub] = errors
    const se = (term: string) => terms[term]!.means[0]!.se
    // Four blocks, four rates: a variety mean rests on 4 main plots; a cell on one main plot and one plot in each block.
    expect(se('variety')).toBeCloseTo(Math.sqrt(main!.ms / 16), 12)
    expect(se('variety:nitrogen')).toBeCloseTo(Math.sqrt((main!.ms + 3 * sub!.ms) / 16), 12)
  })

  it('where sites have unlike numbers of blocks, each site counts alike and each mean is that of its site', () => {
    const found = analysed('multi-site-barley', {
      data: (text) =>
        text
          .split('\n')
          .filter((line) => !line.startsWith('hill,1,'))
          .join('\n'),
    })
    const mean = (term: string, level: string) => found.terms[term]!.means.find((each) => each.level === level)!.mean
    const own = found.residuals.filter((row) => row.level === 'var1' && row.unit.startsWith('site hill '))
    expect(own).toHaveLength(3)
    expect(mean('site:variety', 'hill:var1')).toBeCloseTo(own.reduce((sum, row) => sum + row.value, 0) / 3, 10)
    const sites = ['hill', 'lake', 'plain', 'valley'].map((site) => mean('site:variety', `${site}:var1`))
    expect(mean('variety', 'var1')).toBeCloseTo(sites.reduce((sum, each) => sum + each, 0) / 4, 10)
  })

  it('split plots at several sites keep the sites apart from the error', () => {
    const chance = chanceFrom(5, 1)
    const units = [unitOf('site', 'east'), unitOf('site', 'west')]
    const values = new Map<string, number>()
    for (const site of ['east', 'west'])
      for (const block of [1, 2, 3]) {
        units.push(unitOf('block', `${site}${block}`, [site]))
        for (const water of ['dry', 'wet']) {
          units.push(unitOf('main plot', `${site}${block}${water}`, [`${site}${block}`], { water }))
          for (const variety of ['a', 'b', 'c']) {
            const id = `${site}${block}${water}${variety}`
            units.push(unitOf('plot', id, [`${site}${block}${water}`], { variety }))
            values.set(id, chance.below(1000) / 100 + (site === 'west' && water === 'wet' ? 9 : 0))
          }
        }
      }
    const found = analyse({
      units,
      values,
      structure: {
        schema: 1,
        kinds: [
          { kind: 'site', in: [] },
          { kind: 'block', in: ['site'] },
          { kind: 'main plot', in: ['block'] },
          { kind: 'plot', in: ['main plot'] },
        ],
        factors: [
          { factor: 'water', appliedTo: 'main plot', within: 'block', how: 'randomised' },
          { factor: 'variety', appliedTo: 'plot', within: 'main plot', how: 'randomised' },
        ],
        controls: [],
        seed: 1,
      },
      factors: [
        { key: 'water', levels: ['dry', 'wet'] },
        { key: 'variety', levels: ['a', 'b', 'c'] },
      ],
      trait: { key: 'y', name: 'Yield', unit: 't/ha', kind: 'continuous' },
      options: AnalysisOptions.parse({}),
    })
    expect(found.tests.map(({ term, stratum, errorDf }) => `${term} / ${stratum} ${errorDf}`)).toEqual([
      'water / main plot 4',
      'site:water / main plot 4',
      'variety / plot 16',
      'water:variety / plot 16',
      'site:variety / plot 16',
      'site:water:variety / plot 16',
    ])
    expect(found.terms['site:water']!.comparisons.tukey!.map(({ a, b }) => `${a} ${b}`)).toEqual(['east:dry east:wet', 'west:dry west:wet'])
    expect(found.sentences[0]!.text).toMatch(
      /^What water does depends on site \(F [\d.]+, p 0\.007\)\. At east, .* At west, water “wet” gave/,
    )
  })

  it('offsets 10¹² times the effect cost no more than the data have lost', () => {
    const request = requestOf('rcbd-oat-screening')
    const moved = analyse({ ...request, values: new Map([...request.values].map(([id, value]) => [id, value + 1e9])) })
    expect(moved.tests.at(-1)!.f).toBeCloseTo(analyse(request).tests.at(-1)!.f, 4)
  })
})

describe('options reach what the reference cases state', () => {
  const estimate = (got: Got, at: string, of: { estimate: number; se: number; t: number; p: number; lower?: number; upper?: number }) => {
    got.set(`${at}.estimate`, of.estimate).set(`${at}.se`, of.se).set(`${at}.t`, of.t).set(`${at}.p`, of.p)
    if (of.lower !== undefined) got.set(`${at}.ci_lo`, of.lower).set(`${at}.ci_hi`, of.upper!)
  }

  it('m-ancova: a covariate with common and separate slopes, means at a value of it, and its cautions', () => {
    const got: Got = new Map()
    const put = (prefix: string, { terms }: Analysis) => {
      for (const mean of terms['irrigation']!.means) {
        const at = `${prefix}adjusted_mean.${mean.level}`
        got.set(at, mean.mean).set(`${at}.se`, mean.se).set(`${at}.ci_lo`, mean.lower).set(`${at}.ci_hi`, mean.upper)
      }
      const holm = terms['irrigation']!.comparisons.holm!
      terms['irrigation']!.comparisons.lsd!.forEach((pair, i) => {
        const at = `${prefix}difference.${pair.a}_minus_${pair.b}`
        estimate(got, at, { ...pair, estimate: pair.difference, se: pair.sed })
        got.set(`${at}.p_holm`, holm[i]!.p)
      })
    }
    const common = analysed('m-ancova', { options: { covariates: ['stand'], method: ['lsd', 'holm'], tests: 'III' } })
    put('', common)
    const [row] = common.covariates
    got.set('common_slope.estimate', row!.slopes[0]!.slope).set('common_slope.se', row!.slopes[0]!.se).set('covariate_mean', row!.at)
    for (const [key, value] of Object.entries({
      f: row!.equalSlopes.f,
      df1: row!.equalSlopes.df,
      df2: row!.equalSlopes.errorDf,
      p: row!.equalSlopes.p,
    }))
      got.set(`equal_slopes.${key}`, value)
    got.set('covariate_anova.treatment.f', row!.byTreatment.f).set('covariate_anova.treatment.p', row!.byTreatment.p)
    for (const [term, name] of [
      ['irrigation', 'treatment'],
      ['stand', 'covariate'],
    ] as const) {
      const test = common.tests.find((each) => each.term === term)!
      got.set(`${name}.f_adjusted`, test.f).set(`${name}.p_adjusted`, test.p).set(`${name}.ss_adjusted`, test.ss)
    }
    for (const value of [45, 70]) {
      const separate = analysed('m-ancova', {
        options: { covariates: ['stand'], slopes: 'separate', at: { stand: value }, method: ['lsd', 'holm'] },
      })
      put(`separate.at_${value}.`, separate)
      for (const slope of separate.covariates[0]!.slopes) estimate(got, `slope.${slope.level}`, { ...slope, estimate: slope.slope })
      if (value === 45)
        expect(separate.cautions.find((each) => each.kind === 'extrapolated')!.text).toMatch(/no unit of .*very_high.* stood/)
    }
    expect(agreement('m-ancova', got)).toBeGreaterThanOrEqual(200)
    expect(common.cautions.map((each) => each.kind)).toContain('heterogeneous')
    const beyond = analysed('m-ancova', { options: { covariates: ['stand'], at: { stand: 120 } } })
    expect(beyond.cautions.find((each) => each.kind === 'extrapolated')!.text).toMatch(/outside all that was observed \(45.0 to 83.0\)/)
    expect(() => analysed('m-ancova', { options: { covariates: ['height'] } })).toThrow(/column “height” is missing/)
  })

  it('m-contrasts and m-contrasts-unequal: planned comparisons and trends over amounts', () => {
    const rest = ['A', 'B'].flatMap((product) => [10, 20, 30, 40].map((rate) => `${product}${rate}`))
    const { contrasts } = analysed('m-contrasts', {
      options: {
        contrasts: [
          {
            name: 'control_vs_rest',
            term: ['treatment'],
            coefficients: { control: 1, ...Object.fromEntries(rest.map((level) => [level, -1 / 8])) },
          },
          ...[10, 20, 30, 40].map((rate) => ({
            name: `A_vs_B_at_${rate}`,
            term: ['treatment'],
            coefficients: { [`A${rate}`]: 1, [`B${rate}`]: -1 },
          })),
        ],
      },
    })
    const got: Got = new Map()
    for (const row of contrasts) estimate(got, `contrast.${row.name}`, row)
    expect(agreement('m-contrasts', got)).toBe(30)
    expect(contrasts[0]!.evidence).toEqual({ kind: 'trial', why: 'randomised, 5 and 40 plots each' })
    const trends: Got = new Map()
    for (const row of analysed('m-contrasts-unequal', { options: { polynomials: ['nitrogen'] } }).contrasts)
      estimate(trends, `poly.${row.name.split(', ')[1]}`, row)
    expect(agreement('m-contrasts-unequal', trends)).toBe(24)
    const bad = (coefficients: Record<string, number>) => () =>
      analysed('m-contrasts', { options: { contrasts: [{ name: 'mine', term: ['treatment'], coefficients }] } })
    expect(bad({ A10: 1, B10: -2 })).toThrow(/“mine” has coefficients that do not sum to zero/)
    expect(bad({ A10: 1, B99: -1 })).toThrow(/names “B99”/)
    expect(() => analysed('m-contrasts', { options: { polynomials: ['treatment'] } })).toThrow(/“A10” has none. Give amounts in the plan/)
  })

  it('m-transform: other scales with means brought back, ratios, and the power that fits', () => {
    const got: Got = new Map()
    const scales = {
      log: ['weed_mass_g', 'log'],
      log10: ['weed_mass_g', 'log10'],
      log1: ['weeds', 'log(y + 1)'],
      sqrt: ['weeds', 'square root'],
      sqrt_half: ['weeds', 'square root of (y + 1/2)'],
      arcsine: ['cover_pct', 'arcsine'],
      logit: ['cover_pct', 'logit'],
    } as const
    for (const [key, [trait, scale]] of Object.entries(scales)) {
      const found = analysed('m-transform', { trait, options: { scale, method: 'lsd' } })
      const { means, comparisons } = found.terms['weeding']!
      got.set(`${key}.error_ms`, found.errors[0]!.ms).set(`${key}.shapiro_residuals.w`, found.checks.normality!.w)
      for (const mean of means) {
        got.set(`${key}.mean.${mean.level}`, mean.mean).set(`${key}.mean.${mean.level}.se`, mean.se)
        const at = `${key}.back.${mean.level}`
        got.set(at, mean.back!.mean).set(`${at}.ci_lo`, mean.back!.lower).set(`${at}.ci_hi`, mean.back!.upper)
        if (Number.isFinite(mean.back!.biasCorrected)) got.set(`${key}.back_bias_corrected.${mean.level}`, mean.back!.biasCorrected)
      }
      if (key !== 'log') continue
      const first = means[0]!.level
      for (const { a, b, ratio } of comparisons.lsd!) {
        if (a !== first) continue
        const at = `log.ratio.${b}_over_${a}`
        got
          .set(at, 1 / ratio!.estimate)
          .set(`${at}.ci_lo`, 1 / ratio!.upper)
          .set(`${at}.ci_hi`, 1 / ratio!.lower)
      }
      expect(found.scale!.bias).toMatch(/median, not the arithmetic mean/)
      expect(found.sentences[0]!.text).toMatch(
        /gave \d\.\d\d times the weed_mass_g of .* \(95 % interval [\d.]+ to [\d.]+ times, of this pair alone; a ratio of geometric means/,
      )
    }
    const power = analysed('m-transform', { trait: 'weed_mass_g' }).checks.boxCox!
    got.set('boxcox.lambda', power.lambda).set('boxcox.ci_lo', power.lower).set('boxcox.ci_hi', power.upper)
    got.set('boxcox.lr_log_p', power.log.p).set('boxcox.lr_none_p', power.none.p)
    expect(agreement('m-transform', got)).toBeGreaterThanOrEqual(160)
    const zero = (scale: 'log' | 'logit') => () =>
      analysed('m-transform', {
        trait: 'cover_pct',
        options: { scale },
        data: (text) => text.replace('25.3', scale === 'log' ? '0' : '125'),
      })
    expect(zero('log')).toThrow(/needs values above zero; plot 1 has 0/)
    expect(zero('logit')).toThrow(/needs percentages between 0 and 100; plot 1 has 125/)
  })

  it('m-diagnostics: every check of the residuals, by the places and the walk in the plan', () => {
    const { checks, residuals } = analysed('m-diagnostics')
    const got: Got = new Map()
    got.set('residuals.shapiro_wilk.w', checks.normality!.w).set('residuals.shapiro_wilk.p', checks.normality!.p)
    const { levene, brownForsythe, bartlett } = checks.equalVariance!
    got
      .set('levene.residual_mean.f', levene.statistic)
      .set('levene.residual_median.p', brownForsythe.p)
      .set('bartlett.residual.k2', bartlett.statistic)
    got.set('tukey_1df.f', checks.nonAdditivity!.f).set('tukey_1df.p', checks.nonAdditivity!.p)
    got.set('outlier.plot', Number(checks.outlier!.unit)).set('outlier.t', checks.outlier!.t).set('outlier.p_bonferroni', checks.outlier!.p)
    got.set('serial.r1', checks.walk!.r1).set('serial.durbin_watson', checks.walk!.durbinWatson)
    got.set('moran.residual.i', checks.neighbours!.i).set('moran.residual.z_randomisation', checks.neighbours!.z)
    got.set('moran.s0', 2 * checks.neighbours!.pairs)
    for (const row of residuals) {
      got
        .set(`plot_${row.code}.fitted`, row.fitted)
        .set(`plot_${row.code}.residual`, row.residual)
        .set(`plot_${row.code}.internal`, row.studentised)
      got.set(`plot_${row.code}.external`, row.deleted).set(`plot_${row.code}.cook`, row.cook).set('leverage', row.leverage)
    }
    const { skewness, excessKurtosis } = checks.normality!
    got.set('residuals.skewness_g1', skewness).set('residuals.excess_kurtosis_g2', excessKurtosis)
    const { varianceRandomised, varianceNormal } = checks.neighbours!
    got.set('moran.residual.variance_randomisation', varianceRandomised).set('moran.residual.variance_normality', varianceNormal)
    const raw = checks.equalVariance!.raw!
    for (const [name, { statistic, df2, p }] of [
      ['levene.raw_mean', raw.levene],
      ['levene.raw_median', raw.brownForsythe],
    ] as const)
      got.set(`${name}.f`, statistic).set(`${name}.df2`, df2).set(`${name}.p`, p)
    got.set('bartlett.raw.k2', raw.bartlett.statistic).set('bartlett.raw.df', raw.bartlett.df).set('bartlett.raw.p', raw.bartlett.p)
    expect(agreement('m-diagnostics', got)).toBe(29 + 5 * residuals.length)
    // The profile of powers is highest near the best of them.
    const { lambda, logLikelihood, profile } = checks.boxCox!
    expect(profile.every((each) => each.logLikelihood <= logLikelihood + 1e-9)).toBe(true)
    const nearest = profile.reduce((a, b) => (Math.abs(b.lambda - lambda) < Math.abs(a.lambda - lambda) ? b : a))
    expect(Math.max(...profile.map((each) => each.logLikelihood))).toBeCloseTo(nearest.logLikelihood, 1)
    const odd = checkReadings({ checks, unit: 'plot' }).filter((each) => each.odd)
    expect(odd.map((each) => `${each.question} ${each.answer} (${each.figure})`)).toEqual([
      'A trend in the ground inside the blocks? neighbours are alike (Moran’s I 0.28, p 0.004)',
    ])
    expect(checks.influence!.unit).toBe(checks.outlier!.unit)
  })

  it('m-two-sample: two groups are the pooled test, with equivalence at a margin', () => {
    const got: Got = new Map()
    for (const margin of [0.3, 0.6]) {
      const found = analysed('m-two-sample', {
        options: { equivalence: margin, method: 'lsd' },
        data: (text) =>
          text
            .split('\n')
            .filter((line, i) => i === 0 || line.startsWith('independent'))
            .join('\n'),
      })
      const [pair] = found.terms['group']!.comparisons.lsd!
      estimate(got, 'pooled', { ...pair!, estimate: pair!.difference, se: pair!.sed })
      got.set(`pooled.tost_${margin}.p`, pair!.equivalence!.p)
      expect(found.sentences.map((each) => each.text).join(' ')).toMatch(
        pair!.equivalence!.equivalent ? /Shown to differ in value by less than/ : /The two were not shown to differ in value by less than/,
      )
    }
    const part = (name: string) => (text: string) => text.split('\n').filter((line, i) => i === 0 || line.startsWith(name)).join('\n') // prettier-ignore
    const { welch, varianceRatio, paired } = analysed('m-two-sample', { data: part('independent') }).checks.twoSamples!
    expect(paired).toBeNull()
    estimate(got, 'welch', welch)
    got.set('variance_ratio.f', varianceRatio.f).set('variance_ratio.df1', varianceRatio.df).set('variance_ratio.df2', varianceRatio.df2).set('variance_ratio.p', varianceRatio.p) // prettier-ignore
    const inPairs = analysed('m-two-sample', {
      data: part('paired'),
      plan: (plan) => {
        plan.structure.kinds = [{ kind: 'block', in: [] }, { kind: 'pot', in: ['block'] }] // prettier-ignore
        plan.columns.units = { block: ['pair'] }
      },
    })
    estimate(got, 'paired', inPairs.checks.twoSamples!.paired!)
    expect(agreement('m-two-sample', got)).toBeGreaterThanOrEqual(24)
  })

  it.each([
    ['multiple-comparisons-balanced-lavender', 190],
    ['multiple-comparisons-unbalanced-lavender', 200],
  ])('%s: every method at once, with limits and letters', (name, least) => {
    const called = {
      lsd: 'unadjusted',
      tukey: 'tukey',
      scheffe: 'scheffe',
      'student-newman-keuls': 'snk',
      bonferroni: 'bonferroni',
    } as const
    const others = { sidak: 'sidak', holm: 'holm', 'benjamini-hochberg': 'bh' } as const
    const methods = { ...called, ...others }
    const { tests, errors, terms } = analysed(name, { options: { method: [...Object.keys(methods), 'dunnett'] as Method[] } })
    const { means, comparisons, letters } = terms['rate']!
    const got: Got = new Map()
    putRows(got, 'anova', tests)
    got.set('anova.residual.df', errors[0]!.df).set('anova.residual.ms', errors[0]!.ms)
    for (const mean of means) got.set(`mean.${mean.level}`, mean.mean)
    const put = (at: string, { difference, sed, t, p, lower, upper }: ComparisonRow): void => {
      got
        .set(`${at}.diff`, difference)
        .set(`${at}.sed`, sed)
        .set(`${at}.t`, t)
        .set(`${at}.p`, p)
        .set(`${at}.lower`, lower)
        .set(`${at}.upper`, upper)
    }
    for (const row of comparisons.dunnett!) put(`dunnett.${row.a}-${row.b}`, row)
    for (const [method, short] of Object.entries(methods)) {
      for (const [level, letter] of Object.entries(letters[method] ?? {})) got.set(`letters.${method}.${level}`, letter)
      for (const row of comparisons[method]!) {
        const at = `pair.${row.a}-${row.b}`
        got.set(`${at}.diff`, row.difference).set(`${at}.sed`, row.sed).set(`${at}.t`, row.t).set(`${at}.p.${short}`, row.p)
        got.set(`${at}.${short}.lower`, row.lower).set(`${at}.${short}.upper`, row.upper)
        got.set(`${at}.${method === 'tukey' ? 'hsd' : method}`, row.threshold)
      }
    }
    expect(agreement(name, got)).toBeGreaterThanOrEqual(least)
  })

  it('equal and observed weights, methods by term, a control given or not', () => {
    const weighed = analysed('factorial-rcbd-missing-lentil', { options: { weights: 'observed' } }).terms['starter']!.means
    const alike = analysed('factorial-rcbd-missing-lentil').terms['starter']!.means
    expect(weighed.some((mean, i) => Math.abs(mean.mean - alike[i]!.mean) > 1e-6)).toBe(true)
    expect(Object.keys(analysed('m-contrasts').terms['treatment']!.comparisons)).toEqual(['dunnett'])
    expect(Object.keys(analysed('m-ancova').terms['irrigation']!.comparisons)).toEqual(['tukey'])
    const one = analysed('m-contrasts', { options: { method: 'dunnett', side: 'greater' } }).terms['treatment']!.comparisons.dunnett!
    expect(one.every((row) => row.upper === Infinity)).toBe(true)
    const simple = analysed('factorial-rcbd-lentil').terms['inoculant:starter']!.simpleEffects
    expect(new Set(simple.map((row) => row.factor))).toEqual(new Set(['inoculant', 'starter']))
    expect(() => analysed('split-plot-barley', { options: { covariates: ['block'] } })).toThrow(/“block” names two things/)
  })
})

const near = (value: number) => expect.closeTo(value, 9) as number

describe('what was observed is brought up to what was treated', () => {
  /** Three trays on each plot, of which some plants rooted. */
  const trays = (kind: 'count' | 'share' | 'score' | 'continuous', drop: string[] = []) => {
    const base = blocksOf(['a', 'b'], 3, () => 0)
    const values = new Map<string, number>()
    const exposure = new Map<string, number>()
    const units = [...base.units]
    for (const plot of base.units.filter((unit) => unit.kind === 'plot'))
      for (const tray of [1, 2, 3]) {
        const id = `${plot.id}-${tray}`
        units.push(unitOf('sample', id, [plot.id]))
        if (drop.includes(id)) continue
        exposure.set(id, 10 * tray)
        values.set(id, tray + Number(plot.id) / 100)
      }
    const structure = { ...base.structure, kinds: [...base.structure.kinds, { kind: 'sample' as const, in: ['plot' as const] }] }
    return { ...base, units, structure, values, exposure, trait: { ...base.trait, kind } }
  }
  const first = (of: Parameters<typeof analyse>[0]) => analyse(of).residuals[0]!
  const without = (of: ReturnType<typeof trays>) => ({ ...of, exposure: undefined })

  it('continuous by their mean, counts by their total, shares by what was looked at', () => {
    // Plot 101: values 2.01, 3.01 and 4.01, of 10, 20 and 30 looked at.
    expect(first(without(trays('continuous')))).toMatchObject({ value: near(3.01), samples: 3, exposure: NaN })
    expect(first(without(trays('count')))).toMatchObject({ value: near(9.03) })
    expect(first(trays('count'))).toMatchObject({ value: near(9.03 / 60), exposure: 60 })
    expect(first(trays('share'))).toMatchObject({ value: near((100 * 9.03) / 60), exposure: 60 })
  })

  it('where numbers differ, each counts by what was looked at, and counts are taken per sample', () => {
    const uneven = analyse(without(trays('continuous', ['101-3'])))
    expect(uneven.cautions.map((each) => each.text).join()).toMatch(/each plot counts by it/)
    expect(first(without(trays('count', ['101-3'])))).toMatchObject({ value: near(5.02 / 2), samples: 2 })
    expect(first(trays('share', ['101-3']))).toMatchObject({ value: near((100 * 5.02) / 30), exposure: 30 })
    const textOf = (of: Parameters<typeof analyse>[0]) =>
      analyse(of)
        .cautions.map((each) => each.text)
        .join()
    expect(textOf(without(trays('share')))).toMatch(/How many were looked at is not known/)
    expect(textOf(without(trays('score')))).toMatch(/takes their steps as equal/)
  })

  it('a part above its whole is refused, with the unit', () => {
    const of = trays('share')
    of.exposure.set('101-1', 1)
    expect(() => analyse(of)).toThrow(/sample 101-1 has 2.01 of 1 in Yield: a part is never more than its whole/)
  })

  it('copies of every sample change nothing but how many there are', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 1, max: 9, noNaN: true }), { minLength: 6, maxLength: 6 }),
        fc.integer({ min: 2, max: 4 }),
        (yields, copies) => {
          let at = 0
          const base = { ...blocksOf(['a', 'b'], 3, () => yields[at++]!), options: AnalysisOptions.parse({ method: 'lsd' }) }
          const units = base.units.flatMap((unit) =>
            unit.kind === 'plot'
              ? [unit, ...Array.from({ length: copies }, (_, i) => unitOf('sample', `${unit.id}-${i}`, [unit.id]))]
              : [unit],
          )
          const values = new Map(
            [...base.values].flatMap(([id, value]) => Array.from({ length: copies }, (_, i) => [`${id}-${i}`, value] as const)),
          )
          const structure = { ...base.structure, kinds: [...base.structure.kinds, { kind: 'sample' as const, in: ['plot' as const] }] }
          const [plain, sampled] = [analyse(base), analyse({ ...base, units, values, structure })]
          expect(sampled.kind).toBe(plain.kind)
          plain.tests.forEach((test, i) => expect(sampled.tests[i]!.p).toBeCloseTo(test.p, 9))
        },
      ),
      { numRuns: 40 },
    )
  })
})

describe('what can be said', () => {
  const request = requestOf('rcbd-missing-oat')

  it('one replicate is described and not tested', () => {
    const one = new Map([...request.values].filter(([id]) => id.startsWith('block 1 ')))
    const result = analyse({ ...request, values: one })
    expect([result.kind, result.notTested!.reason, result.tests]).toEqual(['described', 'no error df', []])
    expect(result.cautions[0]!.text).toMatch(/^No treatment is repeated/)
    expect(result.sentences[0]!.text).toMatch(/without replication a difference cannot be told/)
    expect(result.terms['variety']!.evidence.kind).toBe('look')
  })

  it('a factor on single larger units is described beside what the smaller ones can test', () => {
    const sprayed = (name: string): string => (name === 'm1' ? 'early' : 'late')
    const units = ['m1', 'm2'].flatMap((main) => [
      unitOf('main plot', main, [], { time: sprayed(main) }),
      ...['a', 'b', 'c', 'a', 'b', 'c'].map((rate, i) => unitOf('plot', `${main}.${i}`, [main], { rate })),
    ])
    const plots = units.filter((unit) => unit.kind === 'plot')
    const analysis = analyse({
      structure: {
        schema: 1,
        kinds: [
          { kind: 'main plot', in: [] },
          { kind: 'plot', in: ['main plot'] },
        ],
        factors: [
          { factor: 'time', appliedTo: 'main plot', within: null, how: 'randomised' },
          { factor: 'rate', appliedTo: 'plot', within: 'main plot', how: 'randomised' },
        ],
        controls: [],
        seed: null,
      },
      units,
      factors: [
        { key: 'time', levels: ['early', 'late'] },
        { key: 'rate', levels: ['a', 'b', 'c'] },
      ],
      trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous' },
      values: new Map(plots.map((plot, i) => [plot.id, 5 + ((i * 7) % 5) / 3 + (i > 5 ? 2 : 0)])),
      options: AnalysisOptions.parse({ method: ['tukey', 'holm'] }),
    })
    const [time] = analysis.terms['time']!.comparisons.tukey!
    expect([time!.p, time!.sed]).toEqual([NaN, NaN])
    expect(analysis.terms['rate']!.comparisons.tukey!.every((pair) => pair.p > 0 && pair.p <= 1)).toBe(true)
    const mixed = analysis.terms['time:rate']!.comparisons.holm!
    expect(mixed.filter((pair) => Number.isFinite(pair.p))).toHaveLength(6)
    expect(analysis.sentences[0]!.text).toMatch(
      /^Yield was 7\.\d+ t\/ha with time “late” and 5\.\d+ t\/ha with time “early”\. This describes these main plots/,
    )
    expect(analysis.cautions.map((each) => each.text).join()).toMatch(/Nothing tells chance differences between main plots/)
  })

  it('says what is open where pairs were not compared, have no limits, or lie on another scale', () => {
    const even = (options: object): string =>
      analyse({
        ...blocksOf(['a', 'b', 'c'], 4, (level, block) => 5 + ((block * 5 + level.charCodeAt(0) * 3) % 7) / 4),
        factors: [{ key: 'rate', levels: ['a', 'b', 'c'] }],
        trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous' },
        options: AnalysisOptions.parse(options),
      }).sentences[0]!.text
    expect(even({ protect: true })).toMatch(/pairs were not compared, as asked\. The widest difference seen .* could have gone unseen/)
    expect(even({ method: 'holm' })).toMatch(/\(95 % interval −?[\d.]+ to [\d.]+ t\/ha, of this pair alone\)\. A true difference anywhere/)
    expect(even({ scale: 'square root' })).toMatch(
      /more yield with .*, [\d.]+ against [\d.]+ t\/ha \(p [\d.]+, judged on the square root scale\)\. That does not show/,
    )
    expect(even({ scale: 'log' })).toMatch(
      /[\d.]+ times as much with .* \(95 % interval [\d.]+ to [\d.]+ times, .*a ratio of geometric means\)/,
    )
  })

  it('says why there is nothing to analyse or to test', () => {
    expect(() => analyse({ ...request, values: new Map() })).toThrow(/No plot has a value/)
    const constant = analyse({ ...request, values: new Map([...request.values.keys()].map((id) => [id, 5])) })
    expect(constant.notTested!.reason).toBe('constant')
    const additive = analyse(blocksOf(['a', 'b', 'c'], 3, (level, block) => level.charCodeAt(0) + block))
    expect(additive.notTested!.reason).toBe('no error')
    expect(analyse(blocksOf(['a'], 3, (_, block) => block)).notTested!.reason).toBe('one level')
  })

  it('evidence is a trial only when randomised and repeated, as received, and worked out for each pair', () => {
    const base = blocksOf(['a', 'b', 'c'], 3, (level, block) => level.charCodeAt(0) * block)
    const pairs = (of: typeof base) =>
      Object.fromEntries(analyse(of).terms['rate']!.comparisons.tukey!.map((row) => [`${row.a}${row.b}`, row.evidence.kind]))
    expect(pairs(base)).toEqual({ ab: 'trial', ac: 'trial', bc: 'trial' })
    const how = (value: 'systematic' | 'constrained') => ({
      ...base,
      structure: { ...base.structure, factors: base.structure.factors.map((each) => ({ ...each, how: value })) },
    })
    expect(pairs(how('systematic'))).toEqual({ ab: 'compare', ac: 'compare', bc: 'compare' })
    expect(pairs(how('constrained'))).toEqual({ ab: 'trial', ac: 'trial', bc: 'trial' })
    const change = (kind: 'misapplied' | 'label corrected') => ({
      ...base,
      units: base.units.map((unit) => (unit.id === '101' ? { ...unit, changes: { rate: kind } } : unit)),
    })
    expect(pairs(change('misapplied'))).toEqual({ ab: 'compare', ac: 'compare', bc: 'trial' })
    expect(pairs(change('label corrected'))).toEqual({ ab: 'trial', ac: 'trial', bc: 'trial' })
    const single = { ...base, values: new Map([...base.values].filter(([id]) => !['202', '302'].includes(id))) }
    expect(pairs(single)).toEqual({ ab: 'look', ac: 'trial', bc: 'look' })
  })

  it('the evidence of a cell is that of the factors in which two cells differ', () => {
    const { terms } = analysed('split-plot-barley', {
      plan: (plan) => (plan.structure.factors[0]!.how = 'systematic'),
      options: { method: 'lsd' },
    })
    const pair = (a: string, b: string) =>
      terms['variety:nitrogen']!.comparisons.lsd!.find((each) => each.a === a && each.b === b)!.evidence.kind
    expect(pair('alpha:N0', 'alpha:N40')).toBe('trial')
    expect(pair('alpha:N0', 'beta:N0')).toBe('compare')
    expect(terms['variety']!.evidence.kind).toBe('compare')
  })

  it('treatments that stood at different sites, or always changed together, are not told apart', () => {
    const together = analysed('factorial-rcbd-lentil', {
      data: (text) =>
        text
          .split('\n')
          .filter((line, i) => i === 0 || /peat,N0|liquid,N20/.test(line))
          .join('\n'),
    })
    expect(together.cautions[0]).toEqual({
      kind: 'confounded',
      text: 'inoculant and starter always changed together: their effects cannot be told apart.',
    })
    // var1 at the hill only: over all sites it has no mean that could stand beside the others.
    const apart = analysed('multi-site-barley', {
      data: (text) =>
        text
          .split('\n')
          .filter((line) => line.startsWith('hill') || !line.includes('var1'))
          .join('\n'),
    })
    expect(apart.terms['variety']!.means.map((mean) => mean.level)).toEqual(['var2', 'var3', 'var4', 'var5', 'var6'])
    expect(apart.cautions.find((each) => each.kind === 'confounded')!.text).toBe(
      '1 of 6 means of variety cannot be estimated from what was grown.',
    )
    expect(apart.terms['site:variety']!.means.filter((mean) => mean.level.endsWith('var1'))).toHaveLength(1)
  })

  it('cautions name few degrees of freedom, missing plots, uneven spread and a trend in the ground', () => {
    const kinds = (of: Parameters<typeof analyse>[0]) => analyse(of).cautions.map((each) => each.kind)
    const chance = chanceFrom(9, 1)
    const noise = () => chance.below(1000) / 1000
    const small = blocksOf(['a', 'b', 'c'], 3, noise)
    small.values.delete('101')
    expect(kinds(small)).toEqual(['missing', 'few error degrees of freedom'])
    const wild = blocksOf(['a', 'b', 'c', 'd'], 8, (level) => (level === 'd' ? 60 : 1) * noise())
    expect(kinds(wild)).toContain('heterogeneous')
    // A trend across the blocks, the same in each: neither blocks nor treatments can take it out.
    const levels = [...'abcdefghij']
    const trend = blocksOf(levels, 6, noise)
    const at = (id: string) => ({ x: Number(id.slice(1)), y: Number(id[0]) })
    const units = trend.units.map((unit) =>
      unit.kind === 'plot'
        ? { ...unit, received: { rate: levels[(at(unit.id).x + 3 * at(unit.id).y) % 10]! }, place: { ...at(unit.id), width: 1, length: 1 } }
        : unit,
    )
    const values = new Map([...trend.values].map(([id, value]) => [id, value + Math.abs(at(id).x - 5)]))
    const onThePlan = analyse({ ...trend, units, values })
    expect(onThePlan.cautions.find((each) => each.kind === 'ground trend')!.text).toMatch(/side by side are more alike/)
    const walked = units.map((unit, i) => ({ ...unit, place: null, walk: unit.kind === 'plot' ? i + 1 : null }))
    expect(analyse({ ...trend, units: walked, values }).cautions.at(-1)!.text).toMatch(/drift along the walking order/)
    expect(kinds(trend)).toEqual([])
  })
})

describe('whatever the numbers', () => {
  const yields = fc.array(fc.double({ min: 0.5, max: 20, noNaN: true }), { minLength: 12, maxLength: 12 })
  const layout = (values: readonly number[]) => {
    let at = 0
    // Each pair alone, as the quickest method; the others are asked for by name.
    return { ...blocksOf(['a', 'b', 'c'], 4, () => values[at++]!), options: AnalysisOptions.parse({ method: 'lsd' }) }
  }

  it('tests do not depend on the unit, on the level of blocks or on the order of rows', () => {
    fc.assert(
      fc.property(
        yields,
        fc.double({ min: 0.01, max: 1000, noNaN: true }),
        fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 4, maxLength: 4 }),
        (values, factor, lift) => {
          const base = layout(values)
          const plain = analyse(base)
          fc.pre(plain.kind === 'tested' && plain.errors[0]!.ms > 1e-6)
          const scaled = analyse({ ...base, values: new Map([...base.values].map(([id, value]) => [id, value * factor])) })
          const lifted = analyse({
            ...base,
            values: new Map([...base.values].map(([id, value]) => [id, value + lift[Number(id[0]) - 1]!])),
          })
          const turned = analyse({ ...base, units: [...base.units].reverse() })
          for (const other of [scaled, lifted, turned]) {
            expect(other.tests.at(-1)!.f).toBeCloseTo(plain.tests.at(-1)!.f, 5)
            expect(other.terms['rate']!.letters).toEqual(plain.terms['rate']!.letters)
          }
        },
      ),
      { numRuns: 60 },
    )
  })

  it('equivalence is shown exactly when the interval at twice the level lies inside the margin', () => {
    fc.assert(
      fc.property(yields, fc.double({ min: 0.1, max: 15, noNaN: true }), (values, margin) => {
        const base = layout(values)
        const [tost, wide] = [
          { equivalence: margin, method: 'lsd' },
          { significance: 0.1, method: 'lsd' },
        ].map((options) => analyse({ ...base, options: AnalysisOptions.parse(options) }))
        fc.pre(tost!.kind === 'tested')
        tost!.terms['rate']!.comparisons.lsd!.forEach((row, i) => {
          const { lower, upper } = wide!.terms['rate']!.comparisons.lsd![i]!
          fc.pre(Math.min(Math.abs(lower + margin), Math.abs(upper - margin)) > 1e-9)
          expect(row.equivalence!.equivalent).toBe(lower > -margin && upper < margin)
        })
      }),
      { numRuns: 60 },
    )
  })

  it('a factor of which one level is left is not compared, and the other is, as if it had stood alone', () => {
    const rows = (keep: RegExp) => (text: string) => text.split('\n').filter((line, i) => i === 0 || keep.test(line)).join('\n') // prettier-ignore
    const data = rows(/,N0,/)
    const found = analysed('factorial-rcbd-lentil', { data })
    const alone = analysed('factorial-rcbd-lentil', {
      data,
      plan: (plan) => {
        plan.structure.factors = plan.structure.factors.filter((each) => each.factor === 'inoculant')
        delete plan.columns.factors['starter']
      },
    })
    expect(alone.kind).toBe('tested')
    expect([found.tests, found.terms, found.errors]).toEqual([alone.tests, alone.terms, alone.errors])
    expect(found.cautions.find((each) => each.kind === 'missing')!.text).toBe(
      'Starter has values for N0 only: it is not compared, and all that is said holds at N0.',
    )
    // On main plots or inside them: what is left is held against its own units.
    const inside = analysed('split-plot-barley', { data: rows(/,beta,/) })
    expect(inside.tests.map((test) => test.term)).toContain('nitrogen')
    expect(inside.tests.map((test) => test.term)).not.toContain('variety')
    const main = analysed('split-plot-barley', { data: rows(/,N0,/) })
    expect(main.tests.find((test) => test.term === 'variety')!.stratum).toBe('main plot')
    // What was planned of it goes with it, and none at all is left where nothing varies.
    const options = { contrasts: [{ name: 'starter', term: ['starter'], coefficients: { N0: 1, N20: -1 } }], terms: [['starter']] }
    expect(analysed('factorial-rcbd-lentil', { data, options }).tests.map((test) => test.term)).toContain('inoculant')
    expect(analysed('factorial-rcbd-lentil', { data: rows(/,peat,N0,/) }).notTested!.reason).toBe('one level')
  })

  it('of a factorial with a control the parts are asked too where blocks are a sample, with plots lost or not', () => {
    const fixed = analysed('factorial-plus-control-lentil')
    const parts = fixed.tests.filter((test) => test.partOf !== undefined)
    expect(parts.map((test) => test.term)).toContain('outside')
    const random = analysed('factorial-plus-control-lentil', { options: { random: ['block'] } })
    expect(random.mixed).not.toBeNull()
    const asked = random.tests.filter((test) => test.partOf !== undefined)
    expect(asked.map((test) => [test.term, test.df])).toEqual(parts.map((test) => [test.term, test.df]))
    // In whole blocks nothing is won between them: F, means and what they differ by are those of blocks taken out.
    asked.forEach((test, i) => {
      expect(test.f / parts[i]!.f).toBeCloseTo(1, 5)
      expect(test.errorDf).toBeCloseTo(parts[i]!.errorDf, 3)
      expect(test.stratum).toBe('plot')
    })
    const inParts = Object.keys(fixed.terms)
    expect(Object.keys(random.terms)).toEqual(inParts)
    for (const term of inParts) {
      const [a, b] = [fixed.terms[term]!, random.terms[term]!]
      expect(b.means.map((mean) => mean.level)).toEqual(a.means.map((mean) => mean.level))
      b.means.forEach((mean, m) => expect(mean.mean).toBeCloseTo(a.means[m]!.mean, 6))
      expect(b.sed.mean).toBeCloseTo(a.sed.mean, 5)
      b.simpleEffects.forEach((row, r) => expect(row.f / a.simpleEffects[r]!.f).toBeCloseTo(1, 4))
    }
    const lost = analysed('factorial-plus-control-lentil', {
      options: { random: ['block'] },
      data: (text) => text.split('\n').filter((_, line) => line !== 3 && line !== 9).join('\n'), // prettier-ignore
    })
    expect(lost.tests.filter((test) => test.partOf !== undefined).map((test) => test.term)).toEqual(parts.map((test) => test.term))
  })

  it.each([false, true])('with a slope for each treatment they are tested where their means are shown (blocks random: %s)', (sampled) => {
    const random: 'block'[] = sampled ? ['block'] : []
    const options = { covariates: ['stand'], slopes: 'separate' as const, tests: 'III' as const, method: 'lsd', random }
    const request = requestOf('m-ancova', { options })
    // Counted from elsewhere a covariate says the same: no test is at its zero.
    const moved = new Map(
      [...request.covariates!].map(([name, own]) => [name, new Map([...own].map(([unit, value]) => [unit, value + 1e4]))]),
    )
    const [found, shifted] = [analyse(request), analyse({ ...request, covariates: moved })]
    found.tests.forEach((test, i) => expect(shifted.tests[i]!.f / test.f).toBeCloseTo(1, 6))
    expect(shifted.covariates[0]!.at).toBeCloseTo(found.covariates[0]!.at + 1e4, 6)
    expect(found.model.words).toMatch(/with a slope for each treatment: treatments are tested where it is as their means are shown/)
    // Of two, F is the square of their difference over its error, as it is shown.
    const [first, second] = request.factors[0]!.levels
    const two = analysed('m-ancova', {
      options,
      data: (text) => text.split('\n').filter((line, n) => n === 0 || line.split(',').some((cell) => cell === first || cell === second)).join('\n'), // prettier-ignore
    })
    const [row] = two.terms['irrigation']!.comparisons['lsd']!
    expect(two.tests.find((test) => test.term === 'irrigation')!.f / (row!.difference / row!.sed) ** 2).toBeCloseTo(1, 6)
  })

  it('means that share a letter are those not told apart, for every method', () => {
    fc.assert(
      fc.property(
        yields,
        fc.constantFrom('lsd', 'tukey', 'scheffe', 'student-newman-keuls', 'bonferroni', 'holm', 'benjamini-hochberg', 'sidak'),
        (values, method) => {
          const found = analyse({ ...layout(values), options: AnalysisOptions.parse({ method, significance: 0.3 }) })
          fc.pre(found.kind === 'tested')
          const { letters, comparisons } = found.terms['rate']!
          const own = letters[method as 'lsd']!
          for (const row of comparisons[method as 'lsd']!) {
            const shared = [...own[row.a]!].some((letter) => own[row.b]!.includes(letter))
            expect(shared).toBe(row.p >= 0.3)
          }
        },
      ),
      { numRuns: 80 },
    )
  })
})
