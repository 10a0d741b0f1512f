import { describe, expect, it } from 'vitest'
import type { Analysis } from '../src/analysis/index.ts'
import { chiSquaredUpper, fUpper } from '../src/statistics/index.ts'
import { putPair, type Got } from './classify.ts'
import { expectAgreement, referenceCase } from './fixture.ts'
import { analysed, type PlanCase } from './plan-case.ts'

type Options = NonNullable<PlanCase['options']>

/** What a result tells, under the names of the cases: `key` is `kr.` or `sat.`, or nothing where a case gives one only. */
function valuesOf(found: Analysis, prefix: string, key: string, named: Readonly<Record<string, string>> = {}): Got {
  const got: Got = new Map()
  const mixed = found.mixed!
  const at = (name: string): string => `${prefix}${name}`
  for (const { name, value, of } of mixed.parameters) {
    got.set(at(`varcomp.${named[name] ?? name}`), value)
    if (of === 'errors') got.set(at(`variance.${name}`), value)
  }
  got.set(at('reml.minus2loglik'), mixed.minusTwoLogLikelihood).set(at('reml.loglik'), -mixed.minusTwoLogLikelihood / 2)
  got.set(at('aic'), mixed.aic).set(at('aic.covonly'), mixed.minusTwoLogLikelihood + 2 * mixed.parameters.length)
  got.set(at('mean'), mixed.mean.estimate).set(at('mean.se.kr'), mixed.mean.se).set(at('mean.df.kr'), mixed.mean.df)
  for (const { term, level, effect, se } of mixed.predictions)
    got
      .set(at(`${named[term] ?? term}.${level.replace(/^.* /, '')}.blup`), effect)
      .set(at(`${named[term] ?? term}.${level.replace(/^.* /, '')}.se`), se)
  const residualDf = found.observations - (mixed.aic - mixed.minusTwoLogLikelihood) / 2 + mixed.parameters.length
  for (const { term, f, df, errorDf, p } of found.tests) {
    const own = named[`test ${term}`] ?? term
    for (const name of [`anova.${key}${own}`, `anova.${own}.${key}`.replace(/\.$/, '')])
      got
        .set(at(`${name}.F`), f)
        .set(at(`${name}.numdf`), df)
        .set(at(`${name}.dendf`), errorDf)
        .set(at(`${name}.p`), p)
    // Wald's F is the same whatever the degrees of freedom, but for Kenward and Roger's.
    if (mixed.df === 'satterthwaite') {
      got.set(at(`anova.${term}.F`), f).set(at(`anova.${term}.numdf`), df)
      got.set(at(`anova.${term}.p.resid`), fUpper(f, df, residualDf)).set(at(`anova.${term}.p.chisq`), chiSquaredUpper(f * df, df))
    }
  }
  for (const [term, { means, comparisons, sed }] of Object.entries(found.terms)) {
    for (const name of [`emm.${key}${term}`, `emm.${term}`, `emm.${key}`.replace(/\.$/, '')])
      for (const { level, mean, se, df, lower, upper } of means) {
        const own = at(`${name}.${named[level] ?? level}`)
        got.set(`${own}.mean`, mean).set(`${own}.se`, se).set(`${own}.df`, df).set(`${own}.lower`, lower).set(`${own}.upper`, upper)
      }
    const rows = comparisons['lsd'] ?? []
    for (const name of [`pair.${key}${term}`, `pair.${term}`])
      for (const row of rows) putPair(got, at(name), [row.a, row.b], { ...row, t: row.difference / row.sed })
    const mean = (values: number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
    const own = at(`sed.${key}${term}`)
    got.set(`${own}.mean`, sed.mean).set(`${own}.min`, sed.min).set(`${own}.max`, sed.max)
    got.set(`${own}.rms`, Math.sqrt(mean(rows.map((row) => row.sed ** 2))))
    got.set(`${own}.mean_lsd`, mean(rows.map((row) => row.threshold)))
  }
  return got
}

/** Holds a result against every value of a case whose name fits, and tells how many there were. */
function held(
  name: string,
  options: Options,
  of: { prefix?: string; key?: string; named?: Record<string, string>; asked: RegExp },
): { asked: number; found: Analysis } {
  const { prefix = '', key = '', named = {}, asked } = of
  const found = analysed(name, { options: { method: 'lsd', ...options } })
  expect(found.mixed, found.cautions.map((each) => each.text).join(' ')).not.toBeNull()
  const expected = referenceCase(name).expected.filter((each) => asked.test(each.name))
  expectAgreement(expected, valuesOf(found, prefix, key, named))
  return { asked: expected.length, found }
}

const BOTH = [
  ['kr.', 'kenward-roger'],
  ['sat.', 'satterthwaite'],
] as const

describe('mixed models from a plan and its options agree with the reference cases', () => {
  it.each(BOTH)('an alpha-lattice, blocks random by themselves since they hold a part of the entries (%s)', (key, df) => {
    const asked = new RegExp(`^(varcomp|reml|(anova|emm|sed|pair)\\.${key})`)
    const { found } = held('alpha-lattice-oat', { df }, { key, named: { block: 'rep:block', 'test replicate': 'rep' }, asked })
    expect(found.mixed!.df).toBe(df)
    expect(
      held(
        'alpha-lattice-oat',
        {},
        { key: 'kr.', named: { block: 'rep:block', 'test replicate': 'rep' }, asked: /^(varcomp|reml|(anova|emm|sed|pair)\.kr\.)/ },
      ).asked,
    ).toBeGreaterThan(130)
  })

  it('blocks of an alpha-lattice taken out instead, and what they gained over complete blocks', () => {
    const within = analysed('alpha-lattice-oat', { options: { fixed: ['block'], method: 'lsd' } })
    const without = analysed('alpha-lattice-oat', { options: { fixed: ['replicate', 'block'] }, plan: (plan) => void (plan.structure.kinds = [{ kind: 'replicate', in: [] }, { kind: 'plot', in: ['replicate'] }]) }) // prettier-ignore
    const got: Got = new Map([['rcbd.residual', without.errors[0]!.ms]])
    for (const { term, df, ss, ms, f, p } of within.tests) {
      const name = `intrablock.anova.${{ replicate: 'rep', block: 'block_within_rep' }[term] ?? term}`
      got.set(`${name}.df`, df).set(`${name}.ss`, ss).set(`${name}.ms`, ms).set(`${name}.F`, f).set(`${name}.p`, p)
    }
    const [error] = within.errors
    got
      .set('intrablock.anova.residual.df', error!.df)
      .set('intrablock.anova.residual.ss', error!.ss)
      .set('intrablock.anova.residual.ms', error!.ms)
    expectAgreement(
      referenceCase('alpha-lattice-oat').expected.filter((each) => got.has(each.name)),
      got,
    )
    expect(within.mixed).toBeNull()
  })

  it.each(BOTH)('rows and columns (%s)', (key, df) => {
    const asked = new RegExp(`^(varcomp|reml|(anova|emm|sed|pair)\\.${key})`)
    expect(
      held('row-column-oat', { df }, { key, named: { row: 'rep:row', column: 'rep:col', 'test replicate': 'rep' }, asked }).asked,
    ).toBeGreaterThan(100)
  })

  it('unreplicated entries as a sample, all of them or the new ones beside the checks', () => {
    const all = held('augmented-oat', { random: ['block', 'entry'] }, { prefix: 'random_all.', asked: /^random_all\./ })
    expect(all.asked).toBeGreaterThan(80)
    const checks = { entry: ['check1', 'check2', 'check3', 'check4'] }
    const beside = held(
      'augmented-oat',
      { random: ['block', 'entry'], checks },
      { prefix: 'random_new.', key: 'kr.', named: { others: 'new' }, asked: /^random_new\./ },
    )
    expect(beside.asked).toBeGreaterThan(75)
  })

  it.each(BOTH)('sites as a sample of many (%s)', (key, df) => {
    const asked = new RegExp(`^random\\.(varcomp|reml|(anova|emm|pair)\\.${key})`)
    const { found } = held(
      'multi-site-barley',
      { random: ['site', 'block'], df },
      { prefix: 'random.', key, named: { block: 'site:block' }, asked },
    )
    const { chiSquared, p } = found.mixed!.parameters.find(({ name }) => name === 'site:variety')!.test!
    const got: Got = new Map([['random.lrt.interaction.chisq', chiSquared], ['random.lrt.interaction.p.half', p]]) // prettier-ignore
    expectAgreement(
      referenceCase('multi-site-barley').expected.filter((each) => each.name.startsWith('random.lrt')),
      got,
    )
  })

  it('an error variance for each site, sites fixed or a sample', () => {
    const common = analysed('multi-site-barley', { options: { df: 'satterthwaite' } }).mixed!
    const own = held(
      'multi-site-barley',
      { errorBy: 'site', df: 'satterthwaite' },
      { prefix: 'het_fixed.', asked: /^het_fixed\.(variance|anova)/ },
    ).found
    const [pair] = own.terms['variety']!.comparisons['lsd']!
    const got: Got = new Map([
      ['het_fixed.sed.variety.sed', pair!.sed],
      ['het_fixed.sed.variety.df', pair!.df],
      ['het_fixed.sed.variety.lsd', pair!.threshold],
      ['het_fixed.lrt.chisq', common.minusTwoLogLikelihood - own.mixed!.minusTwoLogLikelihood],
      ['het_fixed.lrt.p', own.mixed!.errorTest!.p],
      ['het_fixed.lrt.df', own.mixed!.errorTest!.df],
    ])
    expectAgreement(
      referenceCase('multi-site-barley').expected.filter((each) => /^het_fixed\.(lrt|sed)/.test(each.name)),
      got,
    )
    for (const [key, df] of BOTH) {
      const asked = key === 'sat.' ? /^het_random\.(?!anova.variety.kr|lrt)/ : /^het_random\.(varcomp|variance|anova.variety.kr)/
      const { found } = held(
        'multi-site-barley',
        { random: ['site', 'block'], errorBy: 'site', df },
        { prefix: 'het_random.', key, named: { block: 'site:block' }, asked },
      )
      const { chiSquared, df: more, p } = found.mixed!.errorTest!
      const test: Got = new Map([['het_random.lrt.chisq', chiSquared], ['het_random.lrt.df', more], ['het_random.lrt.p', p]]) // prettier-ignore
      expectAgreement(
        referenceCase('multi-site-barley').expected.filter((each) => each.name.startsWith('het_random.lrt')),
        test,
      )
    }
  })

  it.each(['repeated-measures-onion', 'repeated-measures-missing-onion'])('%s: every way in which dates go together', (name) => {
    const { expected } = referenceCase(name)
    for (const [prefix, covariance] of [
      ['cs.', 'compound symmetry'],
      ['ar1.', 'autoregression'],
      ['un.', 'unstructured'],
    ] as const) {
      const dates = { occasion: 'date', subject: 'plot', covariance } as const
      const { found } = held(
        name,
        { dates, df: 'satterthwaite' },
        { prefix, asked: new RegExp(`^${prefix}(reml|aic|anova\\.(?!.*\\.(kr|sat)\\.)|emm)`) },
      )
      const got = valuesOf(found, prefix, 'sat.')
      const values = new Map(found.mixed!.parameters.map((each) => [each.name, each.value]))
      if (prefix === 'cs.') {
        const [between, residual] = [values.get('between dates')!, values.get('residual')!]
        got.set('cs.variance', between + residual).set('cs.correlation', between / (between + residual))
        got.set('cs.varcomp.unit', between).set('cs.varcomp.residual', residual)
      } else if (prefix === 'ar1.') got.set('ar1.variance', values.get('total')!).set('ar1.rho', values.get('neighbouring dates')!)
      else
        for (let i = 1; i <= 6; i++)
          for (let j = 1; j <= i; j++) {
            const of = (a: number, b: number): number => values.get(a === b ? String(a) : `${a} and ${b}`)!
            got.set(`un.cov.${i}.${j}`, of(i, j)).set(`un.cor.${i}.${j}`, of(i, j) / Math.sqrt(of(i, i) * of(j, j)))
          }
      expectAgreement(
        expected.filter((each) => new RegExp(`^${prefix}(variance|correlation|rho|varcomp|cov|cor|anova\\..*\\.sat\\.)`).test(each.name)),
        got,
      )
      if (prefix !== 'ar1.') held(name, { dates, df: 'kenward-roger' }, { prefix, key: 'kr.', asked: new RegExp(`^${prefix}anova\\..*\\.kr\\.`) }) // prettier-ignore
    }
    // The likeliest of the three for what it costs.
    const best = analysed(name, { options: { dates: { occasion: 'date', subject: 'plot' } } }).mixed!.models
    const least = [...expected.filter((each) => /^(cs|ar1|un)\.aic$/.test(each.name))].sort((a, b) => Number(a.value) - Number(b.value))[0]!
    expect({ 'cs.aic': 'compound symmetry', 'ar1.aic': 'autoregression', 'un.aic': 'unstructured' }[least.name]).toBe(best[0]!.key)
  })

  it.each([
    ['rows and columns', 'ar1_ar1', ['total', 'sigma2'], ['from row to row', 'rho_row'], ['from column to column', 'rho_col']],
    ['rows and columns with nugget', 'ar1_ar1_nugget', ['ground', 'sigma2_spatial'], ['from row to row', 'rho_row'], ['from column to column', 'rho_col'], ['nugget', 'sigma2_nugget']], // prettier-ignore
    ['exponential', 'exponential_nugget', ['total', 'sigma2'], ['range', 'range'], ['nugget', 'nugget']],
    ['gaussian', 'gaussian_nugget', ['total', 'sigma2'], ['range', 'range'], ['nugget', 'nugget']],
    ['rational', 'rational_nugget', ['total', 'sigma2'], ['range', 'range'], ['nugget', 'nugget']],
  ] as const)('the ground between plots: %s', (ground, name, ...named) => {
    const found = analysed('m-spatial', { options: { ground, method: 'lsd' } })
    const { parameters, minusTwoLogLikelihood, aic, models } = found.mixed!
    const got: Got = new Map(named.map(([own, theirs]) => [`${name}.${theirs}`, parameters.find((each) => each.name === own)!.value]))
    const [test] = found.tests
    const put = (at: string, m2ll: number, criterion: number): void =>
      void got
        .set(`${at}.loglik_reml`, -m2ll / 2)
        .set(`${at}.loglik_reml_coding_free`, -m2ll / 2 + (40 * Math.log(6)) / 2)
        .set(`${at}.aic_reml`, criterion)
    put(name, minusTwoLogLikelihood, aic)
    const apart = models.find((each) => each.key === 'independent')!
    put('no_trend', apart.minusTwoLogLikelihood, apart.aic)
    got
      .set(`${name}.variety.f`, test!.f)
      .set(`${name}.variety.df2`, 200)
      .set(`${name}.variety.p`, fUpper(test!.f, 39, 200))
    const { sed, means } = found.terms['variety']!
    got.set(`${name}.mean_sed`, sed.mean).set(`${name}.min_sed`, sed.min).set(`${name}.max_sed`, sed.max)
    for (const { level, mean, se } of means) got.set(`${name}.emm.${level}`, mean).set(`${name}.emm.${level}.se`, se)
    const asked = referenceCase('m-spatial').expected.filter(
      (each) => each.name.startsWith(`${name}.`) || /^no_trend\.(log|aic)/.test(each.name),
    )
    expectAgreement(asked, got)
    expect(asked.length).toBeGreaterThan(85)
    // Blocks say less of this ground, for what they cost.
    expect(models.find((each) => each.key === 'blocks')!.aic).toBeGreaterThan(aic)
  })
})
