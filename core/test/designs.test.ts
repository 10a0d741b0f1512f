import { describe, expect, it } from 'vitest'
import {
  contrast,
  crossed,
  designMatrix,
  fitLinear,
  fUpper,
  marginalAnova,
  marginalMeans,
  partialAnova,
  restrictedMinus2LogLikelihood,
  sequentialAnova,
  strataAnova,
  stratumDifference,
  tUpperQuantile,
  varianceComponents,
  varianceFactor,
  bartlettTest,
  type AnovaRow,
  type Classification,
  type LinearFit,
} from '../src/statistics/index.ts'
import { pairs } from './compare.ts'
import { classify, meanOf, putPair, putRows, respond, type Got } from './classify.ts'
import { expectAgreement, referenceCase } from './fixture.ts'

/** The reference cases of factorial, latin-square, split, strip and several-site layouts, through the public functions. */
function putResidual(got: Got, prefix: string, fit: LinearFit): void {
  got.set(`${prefix}.df`, fit.residualDf).set(`${prefix}.ss`, fit.residualSs).set(`${prefix}.ms`, fit.residualMs)
}

function putMeans(got: Got, fit: LinearFit, names: string[], label = names.join(':')): void {
  const { residualMs: ms, residualDf: df } = fit
  const critical = tUpperQuantile(0.025, df)
  const means = marginalMeans(fit, names)
  for (const mean of means) {
    const at = `emm.${label}.${mean.level}`
    const se = Math.sqrt(ms * varianceFactor(mean))
    got.set(`${at}.mean`, mean.estimate).set(`${at}.se`, se).set(`${at}.df`, df)
    got.set(`${at}.lower`, mean.estimate - critical * se).set(`${at}.upper`, mean.estimate + critical * se)
  }
  for (const pair of pairs(means, ms, df, 'lsd')) putPair(got, `pair.${label}`, [means[pair.a]!.level, means[pair.b]!.level], pair)
}

function putCommon(got: Got, y: Float64Array, fit: LinearFit): void {
  got.set('grand.mean', meanOf(y)).set('cv', (100 * Math.sqrt(fit.residualMs)) / meanOf(y))
}

describe('fixed layouts', () => {
  it.each(['factorial-rcbd-lentil', 'factorial-rcbd-missing-lentil', 'latin-square-carrot'])('%s', (name) => {
    const { rows: all, info, expected } = referenceCase(name)
    const rows = all.filter((row) => row[info.response] !== '')
    const y = respond(rows, info.response)
    const blocking = info.block ? [info.block] : ['row', 'col']
    const variables = [...blocking, ...info.factors].map((column) => classify(rows, column, info.levels[column]))
    const terms = [
      ...blocking.map((each) => [each]),
      ...info.factors.map((each) => [each]),
      ...(info.factors.length > 1 ? [info.factors] : []),
    ]
    const fit = fitLinear(designMatrix(variables, terms, y.length), y)
    const got: Got = new Map()
    for (const prefix of ['anova', 'typeI']) {
      putRows(got, prefix, sequentialAnova(fit))
      putResidual(got, `${prefix}.residual`, fit)
    }
    putResidual(got, 'residual', fit)
    const back = fitLinear(designMatrix(variables, [...terms.slice(0, -1).reverse(), terms.at(-1)!], y.length), y)
    putRows(got, 'typeI_reversed', sequentialAnova(back))
    putResidual(got, 'typeI_reversed.residual', back)
    putRows(got, 'typeII', marginalAnova(fit, y))
    putRows(got, 'typeIII', partialAnova(fit, y))
    putCommon(got, y, fit)
    for (const factor of info.factors) putMeans(got, fit, [factor])
    if (info.factors.length > 1) putMeans(got, fit, info.factors)
    expectAgreement(expected, got)
  })

  it('factorial-plus-control-lentil: a control outside the factorial', () => {
    const { rows, info, expected } = referenceCase('factorial-plus-control-lentil')
    const y = respond(rows, info.response)
    const block = classify(rows, 'block', info.levels['block'])
    const treatment = classify(rows, 'treatment', info.levels['treatment'])
    const whole = fitLinear(designMatrix([block, treatment], [['block'], ['treatment']], y.length), y)
    const got: Got = new Map()
    putRows(got, 'anova_whole', sequentialAnova(whole))
    putResidual(got, 'anova_whole.residual', whole)
    putCommon(got, y, whole)
    putMeans(got, whole, ['treatment'])

    const kind = { ...classify(rows, 'kind'), name: 'control_vs_factorial' }
    const [inoculant, starter] = ['inoculant', 'starter'].map((column) => classify(rows, column))
    const split = fitLinear(
      designMatrix(
        [block, kind, inoculant!, starter!],
        [['block'], ['control_vs_factorial'], ['inoculant'], ['starter'], ['inoculant', 'starter']],
        y.length,
      ),
      y,
    )
    putRows(got, 'anova', sequentialAnova(split))
    putResidual(got, 'anova.residual', split)

    const means = marginalMeans(whole, 'treatment')
    const { residualMs: ms, residualDf: df } = whole
    const isControl = (level: string) => level === 'control'
    const others = means.filter((mean) => !isControl(mean.level)).length
    const against = contrast(
      means,
      means.map((mean) => (isControl(mean.level) ? 1 : -1 / others)),
      ms,
      df,
    )
    const at = 'contrast.control_minus_factorial_mean'
    got
      .set(`${at}.estimate`, against.estimate)
      .set(`${at}.se`, against.se)
      .set(`${at}.df`, df)
      .set(`${at}.t`, against.t)
      .set(`${at}.p`, against.p)
    for (const [factor, place] of [
      ['inoculant', 0],
      ['starter', 1],
    ] as const) {
      const levels = [...new Set(means.filter((mean) => !isControl(mean.level)).map((mean) => mean.level.split('_')[place]!))]
      const share = (level: string) =>
        means.map((mean) => (!isControl(mean.level) && mean.level.split('_')[place] === level ? levels.length / others : 0))
      for (const level of levels) got.set(`mean.${factor}.${level}`, contrast(means, share(level), ms, df).estimate)
      const pair = contrast(
        means,
        share(levels[0]!).map((c, i) => c - share(levels[1]!)[i]!),
        ms,
        df,
      )
      got
        .set(`sed.${factor}.sed`, pair.se)
        .set(`sed.${factor}.df`, df)
        .set(`sed.${factor}.lsd`, tUpperQuantile(0.025, df) * pair.se)
    }
    expectAgreement(expected, got)
  })
})

/** The layouts with several errors: unit factors coarse to fine, and what the case calls each error. */
const STRATA: Record<string, { units: string[][]; errors: string[]; cv: string[] }> = {
  'split-plot-barley': { units: [['block'], ['block', 'variety']], errors: ['block', 'error_main', 'error_sub'], cv: ['', 'main', 'sub'] },
  'strip-plot-carrot': {
    units: [['block'], ['block', 'irrigation'], ['block', 'cultivar']],
    errors: ['block', 'error_irrigation', 'error_cultivar', 'error_cross'],
    cv: ['', 'irrigation', 'cultivar', 'cross'],
  },
  'split-split-plot-onion': {
    units: [['block'], ['block', 'temperature'], ['block', 'temperature', 'curing']],
    errors: ['block', 'error_main', 'error_sub', 'error_subsub'],
    cv: ['', 'main', 'sub', 'subsub'],
  },
}

/** Kinds of difference: the levels of A and B that show it, by factor; what is not named is averaged over. */
const DIFFERENCES: Record<string, Record<string, [Record<string, number>, Record<string, number>]>> = {
  'split-plot-barley': {
    variety: [{ variety: 0 }, { variety: 1 }],
    nitrogen: [{ nitrogen: 0 }, { nitrogen: 1 }],
    nitrogen_within_variety: [
      { variety: 0, nitrogen: 0 },
      { variety: 0, nitrogen: 1 },
    ],
    variety_across_nitrogen: [
      { variety: 0, nitrogen: 0 },
      { variety: 1, nitrogen: 0 },
    ],
  },
  'strip-plot-carrot': {
    irrigation: [{ irrigation: 0 }, { irrigation: 1 }],
    cultivar: [{ cultivar: 0 }, { cultivar: 1 }],
    irrigation_within_cultivar: [
      { irrigation: 0, cultivar: 0 },
      { irrigation: 1, cultivar: 0 },
    ],
    cultivar_within_irrigation: [
      { irrigation: 0, cultivar: 0 },
      { irrigation: 0, cultivar: 1 },
    ],
    both_differ: [
      { irrigation: 0, cultivar: 0 },
      { irrigation: 1, cultivar: 1 },
    ],
  },
  'split-split-plot-onion': {
    temperature: [{ temperature: 0 }, { temperature: 1 }],
    curing: [{ curing: 0 }, { curing: 1 }],
    cultivar: [{ cultivar: 0 }, { cultivar: 1 }],
    curing_within_temperature: [
      { temperature: 0, curing: 0 },
      { temperature: 0, curing: 1 },
    ],
    temperature_across_curing: [
      { temperature: 0, curing: 0 },
      { temperature: 1, curing: 0 },
    ],
    cultivar_within_temperature: [
      { temperature: 0, cultivar: 0 },
      { temperature: 0, cultivar: 1 },
    ],
    cultivar_within_curing: [
      { curing: 0, cultivar: 0 },
      { curing: 0, cultivar: 1 },
    ],
    'cultivar_within_temperature:curing': [
      { temperature: 0, curing: 0, cultivar: 0 },
      { temperature: 0, curing: 0, cultivar: 1 },
    ],
    temperature_across_cultivar: [
      { temperature: 0, cultivar: 0 },
      { temperature: 1, cultivar: 0 },
    ],
    curing_across_cultivar: [
      { curing: 0, cultivar: 0 },
      { curing: 1, cultivar: 0 },
    ],
    curing_across_cultivar_within_temperature: [
      { temperature: 0, curing: 0, cultivar: 0 },
      { temperature: 0, curing: 1, cultivar: 0 },
    ],
    'temperature_across_curing:cultivar': [
      { temperature: 0, curing: 0, cultivar: 0 },
      { temperature: 1, curing: 0, cultivar: 0 },
    ],
  },
}

const subsets = (names: string[]): string[][] =>
  names.reduce<string[][]>((found, name) => [...found, ...found.map((each) => [...each, name])], [[]]).filter((each) => each.length > 0)

describe('layouts with several errors', () => {
  it.each(Object.keys(STRATA))('%s', (name) => {
    const { rows, info, expected } = referenceCase(name)
    const y = respond(rows, info.response)
    const treatments = info.factors.map((factor) => classify(rows, factor, info.levels[factor]))
    const block = classify(rows, 'block', info.levels['block'])
    const find = (column: string) => (column === 'block' ? block : treatments.find((each) => each.name === column)!)
    const units = STRATA[name]!.units.map((parts) => (parts.length === 1 ? block : crossed(parts.join('.'), parts.map(find))))
    const terms = subsets(info.factors).sort((a, b) => a.length - b.length)
    const table = strataAnova(y, units, treatments, terms)
    expect(table.orthogonal).toBe(true)

    const got: Got = new Map()
    table.strata.forEach((stratum, s) => {
      putRows(got, 'anova', stratum.terms)
      const at = `anova.${STRATA[name]!.errors[s]}`
      got.set(`${at}.df`, stratum.error.df).set(`${at}.ss`, stratum.error.ss).set(`${at}.ms`, stratum.error.ms)
      got.set(`cv.${STRATA[name]!.cv[s]}`, (100 * Math.sqrt(stratum.error.ms)) / table.grandMean)
    })
    got.set('grand.mean', table.grandMean)
    for (const term of terms) {
      const cells = crossed(term.join(':'), term.map(find))
      cells.levels.forEach((level, l) => got.set(`mean.${term.join(':')}.${level}`, meanOf(y.filter((_, i) => cells.codes[i] === l))))
    }
    for (const [kind, [a, b]] of Object.entries(DIFFERENCES[name]!)) {
      const within = (levels: Record<string, number>) => (i: number) =>
        Object.entries(levels).every(([factor, level]) => find(factor).codes[i] === level)
      const difference = stratumDifference(y, units, table, within(a), within(b))
      got.set(`sed.${kind}.sed`, difference.sed).set(`sed.${kind}.df`, difference.df).set(`sed.${kind}.lsd`, difference.lsd)
    }
    varianceComponents(table, units).forEach((component, s) =>
      got.set(`varcomp.${STRATA[name]!.units[s]?.join(':') ?? 'residual'}`, component),
    )
    got.set('reml.minus2loglik', restrictedMinus2LogLikelihood(y, units, treatments, terms, table))
    expectAgreement(expected, got)
  })

  it('a lost plot is noticed: the strata no longer hold', () => {
    const { rows: all, info } = referenceCase('split-plot-barley')
    const rows = all.slice(1)
    const treatments = info.factors.map((factor) => classify(rows, factor))
    const block = classify(rows, 'block')
    const units = [block, crossed('main', [block, treatments[0]!])]
    expect(strataAnova(respond(rows, info.response), units, treatments, subsets(info.factors)).orthogonal).toBe(false)
  })
})

describe('several sites, all fixed', () => {
  it('multi-site-barley', () => {
    const { rows, info, expected } = referenceCase('multi-site-barley')
    const got: Got = new Map()
    const perSite: { ms: number; df: number }[] = []
    for (const site of info.levels['site'] ?? [...new Set(rows.map((row) => row['site']!))]) {
      const own = rows.filter((row) => row['site'] === site)
      const y = respond(own, info.response)
      const fit = fitLinear(designMatrix([classify(own, 'block'), classify(own, 'variety')], [['block'], ['variety']], y.length), y)
      perSite.push({ ms: fit.residualMs, df: fit.residualDf })
      putRows(got, `site.${site}.anova`, sequentialAnova(fit))
      putResidual(got, `site.${site}.anova.residual`, fit)
      const means = marginalMeans(fit, 'variety')
      const [pair] = pairs(means, fit.residualMs, fit.residualDf, 'lsd')
      got.set(`site.${site}.mean`, meanOf(y)).set(`site.${site}.cv`, (100 * Math.sqrt(fit.residualMs)) / meanOf(y))
      got.set(`site.${site}.sed`, pair!.sed).set(`site.${site}.lsd`, pair!.threshold)
      for (const mean of means) got.set(`site.${site}.emm.variety.${mean.level}.mean`, mean.estimate)
    }
    const homogeneity = bartlettTest(perSite)
    got.set('bartlett.chisq', homogeneity.statistic).set('bartlett.df', homogeneity.df).set('bartlett.p', homogeneity.p)
    got.set('variance.ratio', Math.max(...perSite.map((each) => each.ms)) / Math.min(...perSite.map((each) => each.ms)))

    const y = respond(rows, info.response)
    const [site, block, variety] = ['site', 'block', 'variety'].map((column) => classify(rows, column))
    const within = crossed('block_within_site', [site!, block!])
    const fit = fitLinear(
      designMatrix([site!, within, variety!], [['site'], ['block_within_site'], ['variety'], ['site', 'variety']], y.length),
      y,
    )
    const table = sequentialAnova(fit)
    putRows(got, 'fixed.anova', table)
    putResidual(got, 'fixed.anova.residual', fit)
    putCommon(got, y, fit)
    const [bySite, byBlock, byVariety, interaction] = table
    const over = (at: string, top: AnovaRow, bottom: AnovaRow) =>
      got.set(`${at}.F`, top.ms / bottom.ms).set(`${at}.p`, fUpper(top.ms / bottom.ms, top.df, bottom.df))
    over('fixed.anova.site_over_blocks', bySite!, byBlock!)
    over('fixed.anova.variety_over_interaction', byVariety!, interaction!)
    const sites = fitLinear(designMatrix([site!, within, variety!], [['block_within_site'], ['variety'], ['site', 'variety']], y.length), y)
    putRows(
      got,
      'fixed.typeIII',
      partialAnova(sites, y).filter((row) => row.term === 'variety'),
    )
    const means = marginalMeans(sites, 'variety')
    const [pair] = pairs(means, fit.residualMs, fit.residualDf, 'lsd')
    for (const mean of means) got.set(`fixed.emm.variety.${mean.level}.mean`, mean.estimate)
    got.set('fixed.emm.variety.se', Math.sqrt(fit.residualMs * varianceFactor(means[0]!)))
    got.set('fixed.sed.variety.sed', pair!.sed).set('fixed.sed.variety.lsd', pair!.threshold)
    const fixed = expected.filter(({ name }) => /^(site|bartlett|variance|fixed|grand|cv)/.test(name))
    expect(fixed.length).toBeGreaterThan(130)
    expectAgreement(fixed, got)
  })

  it('multi-site-factorial-lentil: control against the rest, through all interactions', () => {
    const { rows, info, expected } = referenceCase('multi-site-factorial-lentil')
    const got: Got = new Map()
    const control = info.control!.level
    // The inoculant line splits in two: control against the rest, and which of the rest.
    const split = (own: typeof rows): Classification[] => [
      {
        name: 'control_vs_rest',
        levels: ['control', 'rest'],
        codes: Int32Array.from(own, (row) => (row['inoculant'] === control ? 0 : 1)),
      },
      { ...classify(own, 'inoculant'), name: 'among_rest' },
    ]
    const PARTS = ['control_vs_rest', 'among_rest']
    const put = (at: string, found: ReturnType<typeof contrast>, df: number) =>
      got
        .set(`${at}.estimate`, found.estimate)
        .set(`${at}.se`, found.se)
        .set(`${at}.df`, df)
        .set(`${at}.t`, found.t)
        .set(`${at}.p`, found.p)

    /** Control minus the mean of the rest, among the cells that a test picks. */
    const against = (fit: LinearFit, factors: string[], pick: (levels: string[]) => boolean) => {
      const means = marginalMeans(fit, factors)
      const place = factors.indexOf('inoculant')
      const chosen = means.map((mean) => pick(mean.level.split(':')))
      const isControl = means.map((mean) => mean.level.split(':')[place] === control)
      const count = (wanted: boolean) => means.filter((_, i) => chosen[i] && isControl[i] === wanted).length
      const weights = means.map((_, i) => (!chosen[i] ? 0 : isControl[i] ? 1 / count(true) : -1 / count(false)))
      return contrast(means, weights, fit.residualMs, fit.residualDf)
    }
    const sites = info.levels['site'] ?? [...new Set(rows.map((row) => row['site']!))]
    const varieties = [...new Set(rows.map((row) => row['variety']!))]
    const perSite: { ms: number; df: number }[] = []
    for (const site of sites) {
      const own = rows.filter((row) => row['site'] === site)
      const y = respond(own, info.response)
      const variables = [classify(own, 'block'), classify(own, 'variety'), classify(own, 'inoculant'), ...split(own)]
      const fit = fitLinear(designMatrix(variables, [['block'], ['variety'], ['inoculant'], ['variety', 'inoculant']], y.length), y)
      putRows(got, `site.${site}.anova`, sequentialAnova(fit))
      putResidual(got, `site.${site}.anova.residual`, fit)
      const parts = fitLinear(
        designMatrix(
          variables,
          [['block'], ['variety'], ...PARTS.map((part) => [part]), ...PARTS.map((part) => ['variety', part])],
          y.length,
        ),
        y,
      )
      putRows(
        got,
        `site.${site}.anova`,
        sequentialAnova(parts).filter((row) => PARTS.some((part) => row.term.includes(part))),
      )
      perSite.push({ ms: fit.residualMs, df: fit.residualDf })
      got.set(`site.${site}.mean`, meanOf(y)).set(`site.${site}.cv`, (100 * Math.sqrt(fit.residualMs)) / meanOf(y))
      put(
        `site.${site}.contrast.control_vs_rest`,
        against(fit, ['variety', 'inoculant'], () => true),
        fit.residualDf,
      )
      for (const variety of varieties)
        put(
          `site.${site}.contrast.control_vs_rest.${variety}`,
          against(fit, ['variety', 'inoculant'], ([v]) => v === variety),
          fit.residualDf,
        )
      for (const factor of ['variety', 'inoculant'])
        for (const mean of marginalMeans(fit, factor)) got.set(`site.${site}.mean.${factor}.${mean.level}`, mean.estimate)
    }
    const homogeneity = bartlettTest(perSite)
    got.set('bartlett.chisq', homogeneity.statistic).set('bartlett.df', homogeneity.df).set('bartlett.p', homogeneity.p)

    const y = respond(rows, info.response)
    const [site, block, variety, inoculant] = ['site', 'block', 'variety', 'inoculant'].map((column) => classify(rows, column))
    const within = crossed('block_within_site', [site!, block!])
    const variables = [site!, within, variety!, inoculant!, ...split(rows)]
    const start = [['site'], ['block_within_site']]
    const main = [
      ['variety'],
      ['inoculant'],
      ['variety', 'inoculant'],
      ['site', 'variety'],
      ['site', 'inoculant'],
      ['site', 'variety', 'inoculant'],
    ]
    const fit = fitLinear(designMatrix(variables, [...start, ...main], y.length), y)
    putRows(got, 'combined.anova', sequentialAnova(fit))
    putResidual(got, 'combined.anova.residual', fit)
    putCommon(got, y, fit)
    const partTerms = [
      ['variety'],
      ...PARTS.map((part) => [part]),
      ...PARTS.map((part) => ['variety', part]),
      ['site', 'variety'],
      ...PARTS.map((part) => ['site', part]),
      ...PARTS.map((part) => ['site', 'variety', part]),
    ]
    const parts = fitLinear(designMatrix(variables, [...start, ...partTerms], y.length), y)
    putRows(
      got,
      'combined.anova',
      sequentialAnova(parts).filter((row) => PARTS.some((part) => row.term.includes(part))),
    )
    // Means of the cells are the same without the blocks, which every site has complete; blocks within sites are estimable only together.
    const cells = fitLinear(designMatrix(variables, [['block_within_site'], ...main], y.length), y)
    const put3 = (name: string, pick: (levels: string[]) => boolean) =>
      put(`combined.contrast.control_vs_rest${name}`, against(cells, ['site', 'variety', 'inoculant'], pick), fit.residualDf)
    put3('', () => true)
    for (const each of sites) put3(`.${each}`, ([s]) => s === each)
    for (const each of varieties) put3(`.${each}`, ([, v]) => v === each)
    for (const a of sites) for (const b of varieties) put3(`.${a}:${b}`, ([s, v]) => s === a && v === b)
    for (const factors of [['variety'], ['inoculant']])
      for (const mean of marginalMeans(cells, factors)) got.set(`combined.mean.${factors[0]}.${mean.level}`, mean.estimate)
    for (const mean of marginalMeans(cells, ['variety', 'inoculant']))
      got.set(`combined.mean.variety:inoculant.${mean.level}`, mean.estimate)
    const firstPair = (factors: string[]) => pairs(marginalMeans(cells, factors), fit.residualMs, fit.residualDf, 'lsd')[0]!.sed
    for (const factors of [['variety'], ['inoculant'], ['variety', 'inoculant']])
      got.set(`combined.sed.${factors.join(':')}`, firstPair(factors))
    got.set('combined.sed.inoculant_within_site', firstPair(['inoculant', 'site']))
    const [bySite, byBlock] = sequentialAnova(fit)
    const ratio = bySite!.ms / byBlock!.ms
    got.set('combined.anova.site_over_blocks.F', ratio).set('combined.anova.site_over_blocks.p', fUpper(ratio, bySite!.df, byBlock!.df))
    expectAgreement(expected, got)
  })
})
