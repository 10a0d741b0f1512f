import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { designMatrix, kenwardRoger, type Classification } from '../src/statistics/index.ts'
import { asTrial, countingIds, readingOf, trialFor } from './build.ts'
import { putPair, type Got } from './classify.ts'
import { analysed } from './plan-case.ts'
import { expectAgreement, referenceCase } from './fixture.ts'
import { fitted, testRows } from './mixed-case.ts'

describe('a layout with lost plots under several errors', () => {
  it.each([
    ['blocks taken out', [], 'blocksfixed.'],
    ['blocks as a sample', ['block' as const], ''],
  ])('%s: tests, means and differences agree with the reference case', (_, random, prefix) => {
    const { expected } = referenceCase('split-plot-missing-barley')
    const found = analysed('split-plot-missing-barley', { options: { random, method: 'lsd' } })
    const got: Got = new Map()
    for (const { unit, variance } of found.components!)
      got.set(`${prefix}varcomp.${unit === 'main plot' ? 'block:variety' : unit === 'plot' ? 'residual' : unit}`, variance)
    for (const test of found.tests) {
      const at = `${prefix}anova.kr.${test.term}`
      got.set(`${at}.F`, test.f).set(`${at}.numdf`, test.df).set(`${at}.dendf`, test.errorDf).set(`${at}.p`, test.p)
    }
    for (const [term, { means, comparisons }] of Object.entries(found.terms)) {
      for (const { level, mean, se, df, lower, upper } of means) {
        const at = `${prefix}emm.kr.${term}.${level}`
        got.set(`${at}.mean`, mean).set(`${at}.se`, se).set(`${at}.df`, df).set(`${at}.lower`, lower).set(`${at}.upper`, upper)
      }
      for (const row of comparisons['lsd']!)
        putPair(got, `${prefix}pair.kr.${term}`, [row.a, row.b], { ...row, t: row.difference / row.sed })
    }
    const own = new RegExp(`^${prefix.replace('.', '\\.')}(varcomp|(anova|emm|pair)\\.kr\\.(?!block\\.))`)
    const asked = expected.filter((each) => own.test(each.name))
    expectAgreement(asked, got)
    expect(asked.length).toBeGreaterThan(80)
  })

  it.each([
    ['split-plot', 1],
    ['split-plot', 2],
    ['strip-plot', 1],
    ['split-split-plot', 1],
  ] as const)('%s at %i sites with a tenth of the plots lost: claims as seldom as it says where there is nothing', (key, places) => {
    const draft = trialFor(key, 4)
    const sites = Array.from({ length: places }, (_, i) => ({ ...draft.sites[0]!, key: `site-${i}`, name: `Site ${i}` }))
    const trial = asTrial({ ...draft, sites })
    const [first, last] = [draft.treatments.factors[0]!.key, draft.treatments.factors.at(-1)!.key]
    const claims = { [first]: 0, [last]: 0 }
    const RUNS = 60
    for (let run = 0; run < RUNS; run++) {
      const [ids, chance] = [countingIds(), chanceFrom(run + 7)]
      const noise = () => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
      const layouts = trial.sites.map((site) => layOut(trial, site.key, run, ids))
      const records = layouts.flatMap(({ units }) => {
        const index = new Map(units.map((unit) => [unit.id, unit]))
        const ground = new Map(units.map((unit) => [unit.id, noise()]))
        const under = (id: string): number => index.get(id)!.in.reduce((sum, each) => sum + ground.get(each)! + under(each), 0)
        const kept = units.filter((unit) => unit.kind === 'plot').filter((_, i) => (i + run) % 10 !== 0)
        return kept.map((unit) => readingOf(unit.id, 'gross-weight', 50 + noise() + under(unit.id)))
      })
      const values = new TrialBook(trial, layouts, records).observations('gross-weight', 'harvest')
      const { without } = analyseTrait(trial, layouts, values, 'gross-weight', { method: 'lsd' })
      expect(without.components).not.toBeNull()
      for (const factor of [first, last]) if (without.tests.find((test) => test.term === factor)!.p < 0.05) claims[factor]!++
    }
    // Of 60 at 5 %, more than 8 come four times in a thousand.
    for (const count of Object.values(claims)) expect(count).toBeLessThanOrEqual(8)
  })

  it('combinations that were not grown take away what depends on them, and no more', () => {
    const emptied = analysed('split-plot-missing-barley', {
      options: { method: 'lsd' },
      data: (text) => text.split('\n').filter((line) => !/gamma,N120/.test(line)).join('\n'), // prettier-ignore
    })
    expect([emptied.kind, emptied.mixed?.df]).toEqual(['tested', 'kenward-roger'])
    const { variety, nitrogen, 'variety:nitrogen': both } = emptied.terms
    expect(variety!.means.map((mean) => mean.level)).toEqual(['alpha', 'beta'])
    expect(nitrogen!.means.map((mean) => mean.level)).toEqual(['N0', 'N40', 'N80'])
    expect(both!.means).toHaveLength(11)
    expect(emptied.tests.find((test) => test.term === 'variety:nitrogen')!.df).toBe(5)
    expect(emptied.tests.find((test) => test.term === 'nitrogen')!.df).toBe(2)
    expect(emptied.cautions.map((each) => each.text).join(' ')).toMatch(
      /1 of 3 means of variety cannot be estimated.*1 of 12|1 of 4 means of nitrogen cannot be estimated/,
    )
    // Where what is missing does not reach, nothing changes but what the variances are told by.
    const whole = analysed('split-plot-missing-barley', { options: { method: 'lsd' } })
    const difference = (of: typeof whole) =>
      of.terms['variety:nitrogen']!.comparisons['lsd']!.find((row) => row.a === 'alpha:N0' && row.b === 'alpha:N40')!
    expect(difference(emptied).difference).toBeCloseTo(difference(whole).difference, 1)
  })
})

describe('whatever the data', () => {
  it('the likelihood is highest where it stops, and what is balanced comes out as by the error strata', () => {
    fc.assert(
      fc.property(fc.nat(), fc.double({ min: 0, max: 3, noNaN: true }), (seed, spread) => {
        const chance = chanceFrom(seed)
        const noise = Array.from({ length: 24 }, () => (chance.below(100_000) - chance.below(100_000)) / 20_000)
        const codes = (of: (i: number) => number, levels: number, name: string): Classification => ({
          name,
          levels: Array.from({ length: levels }, (_, l) => String(l)),
          codes: Int32Array.from({ length: 24 }, (_, i) => of(i)),
        })
        const [block, treatment] = [codes((i) => Math.floor(i / 4), 6, 'block'), codes((i) => i % 4, 4, 'treatment')]
        const y = Float64Array.from(noise, (each, i) => each + spread * noise[Math.floor(i / 4)]! * 3)
        const { fit } = fitted(y, [treatment], [['treatment']], [block])
        expect(fit.converged).toBe(true)
        const [between, within] = fit.values as [number, number]
        // Balanced, and blocks differ by more than chance: the mean squares give both variances.
        const mean = (rows: number[]) => rows.reduce((sum, i) => sum + y[i]!, 0) / rows.length
        const all = [...y.keys()]
        const grand = mean(all)
        const blockMeans = Array.from({ length: 6 }, (_, b) => mean(all.filter((i) => block.codes[i] === b)))
        const levelMeans = Array.from({ length: 4 }, (_, l) => mean(all.filter((i) => treatment.codes[i] === l)))
        const msBlock = (4 * blockMeans.reduce((sum, each) => sum + (each - grand) ** 2, 0)) / 5
        const msError =
          all.reduce((sum, i) => sum + (y[i]! - blockMeans[block.codes[i]!]! - levelMeans[treatment.codes[i]!]! + grand) ** 2, 0) / 15
        if (msBlock > msError * 1.000001) {
          expect(within / msError).toBeCloseTo(1, 6)
          expect(between).toBeCloseTo((msBlock - msError) / 4, 5)
          const df = kenwardRoger(fit).test(
            testRows({ fit, factors: [treatment], terms: [['treatment']], design: designMatrix([treatment], [['treatment']], 24, 'sum') }, [
              'treatment',
            ]),
          )
          expect(df.denominatorDf).toBeCloseTo(15, 4)
        } else expect(between).toBe(0)
      }),
      { numRuns: 100 },
    )
  })
})
