import { describe, it } from 'vitest'
import * as s from '../src/statistics/index.ts'
import { classify, meanOf, putEstimate, putRows, respond, type Got } from './classify.ts'
import { expectAgreement, referenceCase, type ReferenceCase } from './fixture.ts'

/** The reference cases of single methods: contrasts, covariates, transformations, checks and two samples. */
function blocksAndTreatment(rows: ReferenceCase['rows'], treatment: string, y: Float64Array) {
  const block = classify(rows, 'block')
  const factor = classify(rows, treatment)
  const design = s.designMatrix([block, factor], [['block'], [treatment]], y.length)
  const fit = s.fitLinear(design, y)
  return { block, factor, design, fit, means: s.marginalMeans(fit, treatment), ms: fit.residualMs, df: fit.residualDf }
}

function putAnova(got: Got, prefix: string, fit: s.LinearFit): void {
  const [block, treatment] = s.sequentialAnova(fit)
  putRows(got, prefix, [
    { ...block!, term: 'block' },
    { ...treatment!, term: 'treatment' },
  ])
  got.set(`${prefix}.error.df`, fit.residualDf).set(`${prefix}.error.ss`, fit.residualSs).set(`${prefix}.error.ms`, fit.residualMs)
}

const DEGREES = ['linear', 'quadratic', 'cubic', 'quartic']

describe('contrasts', () => {
  it('m-contrasts: control against the rest, product against product, trends; whole and with lost plots', () => {
    const { rows: all, expected } = referenceCase('m-contrasts')
    const got: Got = new Map()
    const rates = [0, 10, 20, 30, 40]
    const polynomials = s.orthogonalPolynomials(rates)
    polynomials.forEach((c, d) => rates.forEach((rate, i) => got.set(`polycoef.${DEGREES[d]}.rate_${rate}`, c[i]!)))
    for (const [prefix, rows] of [
      ['', all],
      ['missing.', all.filter((row) => !['103', '307', '509'].includes(row['plot']!))],
    ] as const) {
      const { fit, means, ms, df } = blocksAndTreatment(rows, 'treatment', respond(rows, 'height_cm'))
      putAnova(got, `${prefix}anova`, fit)
      for (const mean of means)
        got.set(`${prefix}mean.${mean.level}`, mean.estimate).set(`${prefix}mean.${mean.level}.se`, Math.sqrt(ms * s.varianceFactor(mean)))
      const test = (weights: Record<string, number>) =>
        s.contrast(
          means,
          means.map((mean) => weights[mean.level] ?? 0),
          ms,
          df,
        )
      const put = (name: string, weights: Record<string, number>) => {
        const found = test(weights)
        putEstimate(got, `${prefix}contrast.${name}`, found)
        return found
      }
      put('control_vs_rest', Object.fromEntries(means.map((mean) => [mean.level, mean.level === 'control' ? 1 : -1 / 8])))
      const pairs = rates.slice(1).map((rate) => put(`A_vs_B_at_${rate}`, { [`A${rate}`]: 1, [`B${rate}`]: -1 }).p)
      for (const how of ['holm', 'bonferroni'] as const)
        s.adjustP(pairs, how).forEach((p, i) => got.set(`${prefix}contrast.A_vs_B_at_${rates[i + 1]}.p_${how}`, p))
      put(
        'A_vs_B_all_rates',
        Object.fromEntries(
          rates.slice(1).flatMap((rate) => [
            [`A${rate}`, 0.25],
            [`B${rate}`, -0.25],
          ]),
        ),
      )
      const name = (product: string, rate: number) => (rate === 0 ? 'control' : `${product}${rate}`)
      for (const product of ['A', 'B']) {
        polynomials.forEach((c, d) => {
          const found = put(`poly.${product}.${DEGREES[d]}`, Object.fromEntries(rates.map((rate, i) => [name(product, rate), c[i]!])))
          got
            .set(`${prefix}contrast.poly.${product}.${DEGREES[d]}.ss`, found.ss)
            .set(`${prefix}contrast.poly.${product}.${DEGREES[d]}.f`, found.ss / ms)
        })
        put(`slope_per_unit.${product}`, Object.fromEntries(rates.map((rate) => [name(product, rate), (rate - 20) / 1000])))
      }
      const [slope] = s.orthogonalPolynomials(rates.slice(1))
      put(
        'linear_trend_difference',
        Object.fromEntries(
          rates.slice(1).flatMap((rate, i) => [
            [`A${rate}`, slope![i]!],
            [`B${rate}`, -slope![i]!],
          ]),
        ),
      )
    }
    expectAgreement(expected, got)
  })

  it('m-contrasts-unequal: trends over unequal spacing', () => {
    const { rows, expected } = referenceCase('m-contrasts-unequal')
    const y = respond(rows, 'yield_t_ha')
    const { block, fit, means, ms, df } = blocksAndTreatment(rows, 'n_kg_ha', y)
    const got: Got = new Map()
    putAnova(got, 'anova', fit)
    const rates = means.map((mean) => Number(mean.level))
    for (const mean of means) got.set(`mean.rate_${mean.level}`, mean.estimate)
    let rest = s.sequentialAnova(fit)[1]!.ss
    s.orthogonalPolynomials(rates).forEach((c, d) => {
      const found = s.contrast(means, c, ms, df)
      rates.forEach((rate, i) => got.set(`polycoef.${DEGREES[d]}.rate_${rate}`, c[i]!))
      putEstimate(got, `poly.${DEGREES[d]}`, found)
      got.set(`poly.${DEGREES[d]}.ss`, found.ss).set(`poly.${DEGREES[d]}.f`, found.ss / ms)
      if (d < 2) rest -= found.ss
    })
    const f = rest / 2 / ms
    got
      .set('lack_of_fit_after_quadratic.ss', rest)
      .set('lack_of_fit_after_quadratic.df', 2)
      .set('lack_of_fit_after_quadratic.f', f)
      .set('lack_of_fit_after_quadratic.p', s.fUpper(f, 2, df))
    const x = respond(rows, 'n_kg_ha')
    const curve = s.fitLinear(
      s.designMatrix(
        [block, { name: 'x', values: x }, { name: 'x2', values: x.map((each) => each * each) }],
        [['block'], ['x'], ['x2']],
        y.length,
      ),
      y,
    )
    curve.design.terms.forEach((term, t) => {
      if (!term[0]?.startsWith('x')) return
      const weights = new Float64Array(curve.coefficients.length)
      weights[curve.design.termOf.indexOf(t)] = 1
      const found = s.linearFunction(curve, weights)
      got
        .set(`regression_with_blocks.${term[0]}.coef`, found.estimate)
        .set(`regression_with_blocks.${term[0]}.se`, Math.sqrt(curve.residualMs * s.varianceFactor(found)))
    })
    expectAgreement(expected, got)
  })
})

it('m-ancova: a covariate, equal and separate slopes, means held at a value of it', () => {
  const { rows, expected } = referenceCase('m-ancova')
  const [y, stand] = [respond(rows, 'yield_t_ha'), respond(rows, 'stand')]
  const [block, irrigation] = [classify(rows, 'block'), classify(rows, 'irrigation')]
  const covariate = { name: 'stand', values: stand }
  const model = (terms: string[][], response = y) => s.fitLinear(s.designMatrix([block, irrigation, covariate], terms, y.length), response)
  const got: Got = new Map()
  const plain = model([['block'], ['irrigation']])
  const bare = s.sequentialAnova(plain)[1]!
  got
    .set('no_covariate.error_ms', plain.residualMs)
    .set('no_covariate.error_df', plain.residualDf)
    .set('no_covariate.treatment.f', bare.f)
    .set('no_covariate.treatment.p', bare.p)
  const common = model([['block'], ['irrigation'], ['stand']])
  got.set('error_ms', common.residualMs).set('error_df', common.residualDf)
  for (const [term, name] of [
    ['irrigation', 'treatment'],
    ['stand', 'covariate'],
  ] as const) {
    const row = s.partialAnova(common, y).find((each) => each.term === term)!
    got.set(`${name}.f_adjusted`, row.f).set(`${name}.p_adjusted`, row.p).set(`${name}.ss_adjusted`, row.ss)
  }
  putEstimate(
    got,
    'common_slope',
    s.contrast(s.slopes(common, 'irrigation', 'stand').slice(0, 1), [1], common.residualMs, common.residualDf),
  )
  const separate = model([['block'], ['irrigation'], ['stand'], ['irrigation', 'stand']])
  const slopesDiffer = s.sequentialAnova(separate)[3]!
  got
    .set('equal_slopes.f', slopesDiffer.f)
    .set('equal_slopes.df1', slopesDiffer.df)
    .set('equal_slopes.df2', separate.residualDf)
    .set('equal_slopes.p', slopesDiffer.p)
  const onCovariate = s.sequentialAnova(model([['block'], ['irrigation']], stand))[1]!
  got
    .set('covariate_anova.treatment.f', onCovariate.f)
    .set('covariate_anova.treatment.p', onCovariate.p)
    .set('covariate_mean', meanOf(stand))
  for (const slope of s.slopes(separate, 'irrigation', 'stand'))
    putEstimate(got, `slope.${slope.level}`, s.contrast([slope], [1], separate.residualMs, separate.residualDf))

  for (const level of irrigation.levels) {
    const own = rows.filter((row) => row['irrigation'] === level)
    got.set(`raw_mean.${level}`, meanOf(respond(own, 'yield_t_ha'))).set(`raw_covariate_mean.${level}`, meanOf(respond(own, 'stand')))
  }
  const adjusted = (fit: s.LinearFit, prefix: string, options: { at?: Record<string, number> }) => {
    const means = s.marginalMeans(fit, 'irrigation', options)
    const p: number[] = []
    const names: string[] = []
    means.forEach((mean, i) => {
      const own = s.contrast([mean], [1], fit.residualMs, fit.residualDf)
      const at = `${prefix}adjusted_mean.${mean.level}`
      got.set(at, own.estimate).set(`${at}.se`, own.se).set(`${at}.ci_lo`, own.lower).set(`${at}.ci_hi`, own.upper)
      for (const other of means.slice(i + 1)) {
        const found = s.contrast([mean, other], [1, -1], fit.residualMs, fit.residualDf)
        const name = `${prefix}difference.${mean.level}_minus_${other.level}`
        putEstimate(got, name, found)
        p.push(found.p)
        names.push(name)
      }
    })
    s.adjustP(p, 'holm').forEach((each, i) => got.set(`${names[i]}.p_holm`, each))
  }
  adjusted(common, '', {})
  for (const value of [45, 70]) adjusted(separate, `separate.at_${value}.`, { at: { stand: value } })
  expectAgreement(expected, got)
})

it('m-transform: other scales, the way back with its bias, and the power that fits', () => {
  const { rows, expected } = referenceCase('m-transform')
  const identity = { forward: (v: number) => v, back: (v: number) => v }
  const logit = s.logit(respond(rows, 'cover_pct'))
  const scales: Record<string, { of: string; by: Pick<s.Transformation, 'forward' | 'back' | 'biasCorrected'> }> = {
    none: { of: 'weed_mass_g', by: identity },
    log: { of: 'weed_mass_g', by: s.logarithm },
    log10: { of: 'weed_mass_g', by: s.logarithm10 },
    log1: { of: 'weeds', by: s.logarithmPlusOne },
    sqrt: { of: 'weeds', by: s.squareRoot },
    sqrt_half: { of: 'weeds', by: s.squareRootPlusHalf },
    arcsine: { of: 'cover_pct', by: s.arcsine },
    logit: { of: 'cover_pct', by: logit },
  }
  const got: Got = new Map([['logit.e', logit.added]])
  for (const [scale, { of, by }] of Object.entries(scales)) {
    const { fit, means, ms, df } = blocksAndTreatment(rows, 'weeding', respond(rows, of).map(by.forward))
    const test = s.sequentialAnova(fit)[1]!
    got
      .set(`${scale}.error_ms`, ms)
      .set(`${scale}.treatment.f`, test.f)
      .set(`${scale}.treatment.p`, test.p)
      .set(`${scale}.shapiro_residuals.w`, s.shapiroWilk(fit.residuals).w)
    for (const mean of means) {
      const own = s.contrast([mean], [1], ms, df)
      const at = `${scale}.mean.${mean.level}`
      got.set(at, own.estimate).set(`${at}.se`, own.se).set(`${at}.ci_lo`, own.lower).set(`${at}.ci_hi`, own.upper)
      const back = `${scale}.back.${mean.level}`
      got.set(back, by.back(own.estimate)).set(`${back}.ci_lo`, by.back(own.lower)).set(`${back}.ci_hi`, by.back(own.upper))
      if (by.biasCorrected) got.set(`${scale}.back_bias_corrected.${mean.level}`, by.biasCorrected(own.estimate, ms))
      if (scale === 'log') {
        got.set(`raw_mean.${mean.level}`, meanOf(rows.filter((row) => row['weeding'] === mean.level).map((row) => Number(row[of]))))
        const ratio = s.contrast([mean, means[0]!], [1, -1], ms, df)
        const name = `log.ratio.${mean.level}_over_${means[0]!.level}`
        got.set(name, Math.exp(ratio.estimate)).set(`${name}.ci_lo`, Math.exp(ratio.lower)).set(`${name}.ci_hi`, Math.exp(ratio.upper))
      }
    }
  }
  const y = respond(rows, 'weed_mass_g')
  const { design } = blocksAndTreatment(rows, 'weeding', y)
  const power = s.boxCox(design, y)
  got.set('boxcox.lambda', power.lambda).set('boxcox.ci_lo', power.lower).set('boxcox.ci_hi', power.upper)
  got
    .set('boxcox.lr_log', power.log.statistic)
    .set('boxcox.lr_log_p', power.log.p)
    .set('boxcox.lr_none', power.none.statistic)
    .set('boxcox.lr_none_p', power.none.p)
  for (const lambda of [-1, -0.5, 0, 0.5, 1])
    got.set(`boxcox.profile.lambda_${lambda}`, power.logLikelihood - s.boxCoxLogLikelihood(design, y, lambda))
  expectAgreement(expected, got)
})

describe('checks', () => {
  it('m-diagnostics: residuals, spreads, additivity, outlier, walking order and neighbours', () => {
    const { rows, expected } = referenceCase('m-diagnostics')
    const y = respond(rows, 'yield_t_ha')
    const { block, factor, fit, ms, df } = blocksAndTreatment(rows, 'variety', y)
    const table = s.residualTable(fit)
    const normal = s.shapiroWilk(fit.residuals)
    const form = s.shape(fit.residuals)
    const got: Got = new Map<string, number | string>([
      ['error_ms', ms],
      ['error_df', df],
      ['leverage', table.leverage[0]!],
    ])
    got.set('residuals.shapiro_wilk.w', normal.w).set('residuals.shapiro_wilk.p', normal.p)
    got.set('residuals.skewness_g1', form.skewness).set('residuals.excess_kurtosis_g2', form.excessKurtosis)
    for (const [name, values] of [
      ['raw', y],
      ['residual', fit.residuals],
    ] as const) {
      const groups = factor.levels.map((_, level) => values.filter((_value, i) => factor.codes[i] === level))
      for (const centre of ['mean', 'median'] as const) {
        const test = s.leveneTest(groups, centre)
        got
          .set(`levene.${name}_${centre}.f`, test.statistic)
          .set(`levene.${name}_${centre}.df2`, test.df2)
          .set(`levene.${name}_${centre}.p`, test.p)
      }
      const test = s.bartlettTest(groups.map((group) => ({ ms: s.describeSample(group).sd ** 2, df: group.length - 1 })))
      got.set(`bartlett.${name}.k2`, test.statistic).set(`bartlett.${name}.df`, test.df).set(`bartlett.${name}.p`, test.p)
    }
    const additive = s.nonAdditivity(y, block.codes, factor.codes, { ss: fit.residualSs, df })
    got.set('tukey_1df.ss', additive.ss).set('tukey_1df.f', additive.f).set('tukey_1df.p', additive.p)
    rows.forEach((row, i) => {
      const at = `plot_${row['plot']}`
      got.set(`${at}.fitted`, fit.fitted[i]!).set(`${at}.residual`, fit.residuals[i]!).set(`${at}.internal`, table.internal[i]!)
      got.set(`${at}.external`, table.external[i]!).set(`${at}.cook`, table.cook[i]!)
    })
    const outlier = s.outlierTest(fit)
    got
      .set('outlier.plot', Number(rows[outlier.index]!['plot']))
      .set('outlier.t', outlier.external)
      .set('outlier.p', s.tTwoSided(outlier.external, df - 1))
      .set('outlier.p_bonferroni', outlier.p)
    const walked = rows.map((row, i) => ({ plot: Number(row['plot']), e: fit.residuals[i]! })).sort((a, b) => a.plot - b.plot)
    const serial = s.serialCorrelation(walked.map((each) => each.e))
    got.set('serial.r1', serial.r1).set('serial.durbin_watson', serial.durbinWatson)
    const neighbours = rows.flatMap((a, i) =>
      rows.flatMap((b, j) =>
        j > i && Math.abs(Number(a['row']) - Number(b['row'])) + Math.abs(Number(a['col']) - Number(b['col'])) === 1
          ? [[i, j] as const]
          : [],
      ),
    )
    for (const [name, values] of [
      ['residual', fit.residuals],
      ['raw', y],
    ] as const) {
      const m = s.moran(values, neighbours)
      const at = `moran.${name}`
      got.set('moran.s0', m.s0).set('moran.s1', m.s1).set('moran.s2', m.s2)
      got
        .set(`${at}.i`, m.i)
        .set(`${at}.expectation`, m.expectation)
        .set(`${at}.variance_randomisation`, m.varianceRandomised)
        .set(`${at}.variance_normality`, m.varianceNormal)
      got.set(`${at}.z_randomisation`, m.zRandomised).set(`${at}.p_randomisation`, m.pRandomised).set(`${at}.p_normality`, m.pNormal)
    }
    expectAgreement(expected, got)
  })

  it('m-diagnostics-normality: Shapiro–Wilk, Anderson–Darling and moments for 3 to 2000 values', () => {
    const { rows, expected } = referenceCase('m-diagnostics-normality')
    const got: Got = new Map()
    for (const sample of new Set(rows.map((row) => row['sample']!))) {
      const values = rows.filter((row) => row['sample'] === sample).map((row) => Number(row['value']))
      const [{ n, mean, sd }, { w, p }, form] = [s.describeSample(values), s.shapiroWilk(values), s.shape(values)]
      got.set(`${sample}.n`, n).set(`${sample}.mean`, mean).set(`${sample}.sd`, sd).set(`${sample}.w`, w).set(`${sample}.p`, p)
      got.set(`${sample}.skewness_g1`, form.skewness).set(`${sample}.excess_kurtosis_g2`, form.excessKurtosis)
      const distance = s.andersonDarling(values)
      got.set(`${sample}.anderson_darling.a2`, distance.a2).set(`${sample}.anderson_darling.p`, distance.p)
    }
    expectAgreement(expected, got)
  })
})

it('m-two-sample: Welch, pooled, paired, variance ratio and equivalence', () => {
  const { rows, expected } = referenceCase('m-two-sample')
  const pick = (part: string, group: string) =>
    rows
      .filter((row) => row['part'] === part && row['group'] === group)
      .sort((a, b) => Number(a['pair']) - Number(b['pair']))
      .map((row) => Number(row['value']))
  const [fresh, old] = [pick('independent', 'new'), pick('independent', 'old')].map(s.describeSample)
  const [pairedNew, pairedOld] = [pick('paired', 'new'), pick('paired', 'old')]
  const differences = s.describeSample(pairedNew.map((value, i) => value - pairedOld[i]!))
  const got: Got = new Map()
  for (const [at, sample] of [
    ['independent.new', fresh!],
    ['independent.old', old!],
    ['paired.difference', differences],
  ] as const) {
    const own = s.oneSampleTest(sample)
    got
      .set(`${at}.n`, sample.n)
      .set(`${at}.mean`, sample.mean)
      .set(`${at}.sd`, sample.sd)
      .set(`${at}.se`, own.se)
      .set(`${at}.ci_lo`, own.lower)
      .set(`${at}.ci_hi`, own.upper)
      .set(`${at}.cv_pct`, (100 * sample.sd) / sample.mean)
  }
  const tests = {
    welch: (level?: number) => s.welchTest(fresh!, old!, level),
    pooled: (level?: number) => s.pooledTest(fresh!, old!, level),
    paired: (level?: number) => s.oneSampleTest(differences, level),
  }
  for (const [name, run] of Object.entries(tests)) {
    const test = run()
    putEstimate(got, name, test)
    got.set(`${name}.df`, test.df).set(`${name}.p_less`, test.pLess).set(`${name}.p_greater`, test.pGreater)
    for (const margin of [0.3, 0.6]) {
      const found = s.equivalenceTest(test, margin)
      const at = `${name}.tost_${margin}`
      got
        .set(`${at}.t_lower`, found.tLower)
        .set(`${at}.t_upper`, found.tUpper)
        .set(`${at}.p_lower`, found.pLower)
        .set(`${at}.p_upper`, found.pUpper)
        .set(`${at}.p`, found.p)
    }
    const narrow = run(0.1)
    got.set(`${name}.ci90_lo`, narrow.lower).set(`${name}.ci90_hi`, narrow.upper)
  }
  const pooled = s.pooledTest(fresh!, old!)
  got.set('pooled.sd', pooled.sd).set('cohen_d', pooled.cohenD).set('hedges_g', pooled.hedgesG)
  const ratio = s.varianceRatioTest(fresh!, old!)
  got
    .set('variance_ratio.f', ratio.f)
    .set('variance_ratio.df1', ratio.df1)
    .set('variance_ratio.df2', ratio.df2)
    .set('variance_ratio.p', ratio.p)
    .set('variance_ratio.ci_lo', ratio.lower)
    .set('variance_ratio.ci_hi', ratio.upper)
  const together = s.correlation(pairedNew, pairedOld)
  got
    .set('paired.correlation', together.r)
    .set('paired.correlation_p', together.p)
    .set('paired.correlation_ci_lo', together.lower)
    .set('paired.correlation_ci_hi', together.upper)
  expectAgreement(expected, got)
})
