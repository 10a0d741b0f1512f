import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { concordance, kendall, principalAxes, spearman, stability, type TwoWay } from '../src/statistics/index.ts'
import { type Got } from './classify.ts'
import { expectAgreement, referenceCase } from './fixture.ts'
import { analysed } from './plan-case.ts'

describe('varieties over sites', () => {
  it('slopes, ecovalence, axes and ranks agree with the reference case', () => {
    const { expected } = referenceCase('m-stability')
    const found = analysed('m-stability')
    const { index, entries, slopes, sites, interactionAxes, entryAxes, ranks, agreement } = found.stability['variety']!
    const got: Got = new Map()
    const taken = analysed('m-stability', { options: { fixed: ['site'] } })
    const [error] = taken.errors
    got.set('pooled_error.ms', error!.ms).set('pooled_error.df', error!.df)
    for (const { term, df, ss, f, p } of taken.tests) {
      const at = `anova.${{ site: 'environment', 'site:variety': 'interaction', block: 'block_in_environment' }[term] ?? term}`
      got.set(`${at}.df`, df).set(`${at}.ss`, ss).set(`${at}.f`, f).set(`${at}.p`, p)
    }
    // Seven sites stand for others like them, unless the options say otherwise.
    got.set('anova.variety.f_over_interaction', found.tests.find((test) => test.term === 'variety')!.f)
    expect(found.terms['site:variety']!.means).toHaveLength(70)
    sites.forEach((site, s) => got.set(`environment_index.${site}`, index[s]!).set(`environment_mean.${site}`, index[s]! + found.grandMean))
    for (const each of entries) {
      const { entry } = each
      got.set(`variety_mean.${entry}`, each.mean).set(`slope.${entry}`, each.slope).set(`slope.${entry}.se`, each.slopeError)
      got.set(`slope.${entry}.t_vs_1`, each.t).set(`slope.${entry}.p_vs_1`, each.p).set(`deviation_ms.${entry}`, each.deviation)
      got.set(`s2_deviation.${entry}`, each.deviationBeyondError).set(`r_squared.${entry}`, each.rSquared)
      got.set(`ecovalence.${entry}`, each.ecovalence).set(`ecovalence_pct.${entry}`, each.ecovalenceShare)
      got
        .set(`stability_variance.${entry}`, each.stabilityVariance)
        .set(`superiority.${entry}`, each.superiority)
        .set(`cv_pct.${entry}`, each.cv)
    }
    got.set('regression.heterogeneity_ss', slopes.ss).set('regression.deviation_ss', slopes.rest)
    got.set('regression.heterogeneity_f', slopes.f).set('regression.heterogeneity_p', slopes.p)
    for (const [name, axes] of [
      ['ammi', interactionAxes],
      ['gge', entryAxes],
    ] as const) {
      got.set(
        `${name}.total_ss`,
        axes.reduce((sum, each) => sum + each.singular ** 2, 0),
      )
      axes.forEach((axis, k) => {
        got.set(`${name}.singular_${k + 1}`, axis.singular).set(`${name}.percent_${k + 1}`, axis.percent)
        entries.forEach(({ entry }, i) => got.set(`${name}.variety_score_${k + 1}.${entry}`, axis.entryScores[i]!))
        sites.forEach((site, s) => got.set(`${name}.environment_score_${k + 1}.${site}`, axis.environmentScores[s]!))
      })
    }
    interactionAxes.forEach(({ ss, df, f, p }, k) => got.set(`ammi.ss_${k + 1}`, ss).set(`ammi.df_${k + 1}`, df).set(`ammi.f_${k + 1}`, f).set(`ammi.p_${k + 1}`, p)) // prettier-ignore
    for (const { a, b, ...each } of ranks) got.set(`spearman.${a}_${b}`, each.spearman).set(`kendall.${a}_${b}`, each.kendall)
    got.set('concordance.w', agreement.w).set('concordance.chisq', agreement.chiSquared).set('concordance.p', agreement.p)
    expectAgreement(expected, got)
    expect(expected.length).toBeGreaterThan(300)
  })

  it('whatever the table: parts make the whole, axes give it back, and order alone decides ranks', () => {
    const table = fc
      .tuple(fc.integer({ min: 3, max: 8 }), fc.integer({ min: 3, max: 7 }))
      .chain(([g, e]) =>
        fc.array(fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: e, maxLength: e }), { minLength: g, maxLength: g }),
      )
      .filter((means) => new Set(means.flat().map((each) => each.toFixed(3))).size > means.length)
      .map((means): TwoWay => ({ entries: means.map((_, i) => `v${i}`), environments: means[0]!.map((_, j) => `s${j}`), means }))
    fc.assert(
      fc.property(table, fc.double({ min: 0.5, max: 9, noNaN: true }), (of, scale) => {
        const grand = of.means.flat().reduce((sum, each) => sum + each, 0) / of.means.flat().length
        const column = of.environments.map((_, j) => of.means.reduce((sum, row) => sum + row[j]!, 0) / of.means.length)
        if (column.every((each) => Math.abs(each - grand) < 1e-3)) return
        const { entries, slopes } = stability(of)
        const whole = entries.reduce((sum, each) => sum + each.ecovalence, 0)
        expect(entries.reduce((sum, each) => sum + each.slope, 0) / entries.length).toBeCloseTo(1, 8)
        expect(slopes.ss + slopes.rest).toBeCloseTo(whole, 8)
        const axes = principalAxes(of, 'interaction')
        expect(axes.reduce((sum, each) => sum + each.singular ** 2, 0)).toBeCloseTo(whole, 8)
        of.means.forEach((row, i) =>
          row.forEach((value, j) => {
            const own = row.reduce((sum, each) => sum + each, 0) / row.length
            const given = axes.reduce((sum, axis) => sum + axis.entryScores[i]! * axis.environmentScores[j]!, 0)
            expect(given).toBeCloseTo(value - own - column[j]! + grand, 6)
          }),
        )
        const [a, b] = [of.means[0]!, of.means[1]!]
        const stretched = a.map((each) => Math.exp(each / scale))
        if (new Set(a).size > 1 && new Set(stretched).size === new Set(a).size && new Set(b).size > 1) {
          expect(spearman(stretched, b)).toBeCloseTo(spearman(a, b), 10)
          expect(kendall(stretched, b)).toBeCloseTo(kendall(a, b), 10)
        }
        expect(concordance([a, a, a]).w).toBeCloseTo(new Set(a).size > 1 ? 1 : NaN, 10)
      }),
      { numRuns: 60 },
    )
  })
})
