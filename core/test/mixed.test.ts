import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import {
  codedValue,
  crossed,
  designMatrix,
  fUpper,
  kenwardRoger,
  reml,
  satterthwaite,
  tTwoSided,
  tUpperQuantile,
  type Classification,
  type MixedEstimate,
  type MixedFit,
} from '../src/statistics/index.ts'
import { asTrial, countingIds, readingOf, trialFor } from './build.ts'
import { classify, putPair, respond, type Got } from './classify.ts'
import { analysed } from './plan-case.ts'
import { expectAgreement, referenceCase, type ReferenceCase } from './fixture.ts'

const FACTORIAL = [['variety'], ['nitrogen'], ['variety', 'nitrogen']]

interface Fitted {
  readonly fit: MixedFit
  readonly factors: readonly Classification[]
  readonly terms: readonly string[][]
  readonly design: ReturnType<typeof designMatrix>
}

function fitted(
  y: Float64Array,
  factors: readonly Classification[],
  terms: readonly string[][],
  random: readonly Classification[],
): Fitted {
  const design = designMatrix(factors, terms, y.length, 'sum')
  return { fit: reml({ y, fixed: design.columns, random }), factors, terms, design }
}

/** The mean of some levels, equal weights for all others: sum coding leaves nothing of what is averaged over. */
function meanRow({ factors, terms, design }: Fitted, levels: Readonly<Record<string, number>>): Float64Array {
  const row: number[] = [1]
  for (const term of terms) {
    const own = term.map((name) => factors.find((each) => each.name === name)!)
    const columns = own.reduce((count, each) => count * (each.levels.length - 1), 1)
    for (let c = 0; c < columns; c++) {
      let [rest, product] = [c, 1]
      for (const each of own) {
        const width = each.levels.length - 1
        const at = levels[each.name]
        product *= at === undefined ? 0 : codedValue('sum', each.levels.length, rest % width, at)
        rest = Math.floor(rest / width)
      }
      row.push(product)
    }
  }
  expect(row).toHaveLength(design.columns.length)
  return Float64Array.from(row)
}

function testRows({ terms, design }: Fitted, term: readonly string[]): Float64Array[] {
  const at = 1 + terms.findIndex((each) => each.join() === term.join())
  return [...design.termOf.keys()].flatMap((c) =>
    design.termOf[c] === at ? [Float64Array.from(design.columns, (_, j) => (j === c ? 1 : 0))] : [],
  )
}

function put(got: Got, at: string, { estimate, se, df }: MixedEstimate): void {
  const half = tUpperQuantile(0.025, df) * se
  got
    .set(`${at}.mean`, estimate)
    .set(`${at}.se`, se)
    .set(`${at}.df`, df)
    .set(`${at}.lower`, estimate - half)
    .set(`${at}.upper`, estimate + half)
}

/** Everything the cases tell of a mixed model, under their names. */
function valuesOf(of: Fitted, random: readonly string[], prefix = ''): Got {
  const got: Got = new Map()
  const { fit, factors, terms } = of
  random.forEach((name, i) => got.set(`${prefix}varcomp.${name}`, fit.values[i]!))
  got.set(`${prefix}varcomp.residual`, fit.values.at(-1)!)
  for (const [key, method] of [
    ['sat', satterthwaite(fit)],
    ['kr', kenwardRoger(fit)],
  ] as const) {
    for (const term of terms) {
      const name = term.join(':')
      const { f, numeratorDf, denominatorDf } = method.test(testRows(of, term))
      const at = `${prefix}anova.${key}.${name}`
      got
        .set(`${at}.F`, f)
        .set(`${at}.numdf`, numeratorDf)
        .set(`${at}.dendf`, denominatorDf)
        .set(`${at}.p`, fUpper(f, numeratorDf, denominatorDf))
      const own = term.map((each) => factors.find((one) => one.name === each)!)
      const cells = own.reduce<{ name: string[]; at: Record<string, number> }[]>(
        (found, each) =>
          found.flatMap((cell) => each.levels.map((level, l) => ({ name: [...cell.name, level], at: { ...cell.at, [each.name]: l } }))),
        [{ name: [], at: {} }],
      )
      const rows = cells.map((cell) => meanRow(of, cell.at))
      cells.forEach((cell, i) => put(got, `${prefix}emm.${key}.${name}.${cell.name.join(':')}`, method.estimate(rows[i]!)))
      if (cells.length > 60) continue
      const seds: number[] = []
      const lsds: number[] = []
      cells.forEach((a, i) =>
        cells.slice(i + 1).forEach((b, j) => {
          const { estimate, se, df } = method.estimate(rows[i]!.map((each, c) => each - rows[i + 1 + j]![c]!))
          const t = estimate / se
          const threshold = tUpperQuantile(0.025, df) * se
          putPair(got, `${prefix}pair.${key}.${name}`, [a.name.join(':'), b.name.join(':')], {
            difference: estimate,
            sed: se,
            df,
            t,
            p: tTwoSided(t, df),
            threshold,
          })
          seds.push(se)
          lsds.push(threshold)
        }),
      )
      const mean = (values: number[]) => values.reduce((sum, each) => sum + each, 0) / values.length
      got
        .set(`${prefix}sed.${key}.${name}.mean`, mean(seds))
        .set(`${prefix}sed.${key}.${name}.rms`, Math.sqrt(mean(seds.map((each) => each ** 2))))
        .set(`${prefix}sed.${key}.${name}.min`, Math.min(...seds))
        .set(`${prefix}sed.${key}.${name}.max`, Math.max(...seds))
        .set(`${prefix}sed.${key}.${name}.mean_lsd`, mean(lsds))
    }
  }
  return got
}

/** The convention of the cases: the likelihood in reference-level coding. */
const likelihood = (y: Float64Array, factors: readonly Classification[], terms: readonly string[][], random: readonly Classification[]) =>
  reml({ y, fixed: designMatrix(factors, terms, y.length, 'reference').columns, random }).minusTwoLogLikelihood

const grown = (name: string) => {
  const { rows, info, expected } = referenceCase(name)
  const kept = rows.filter((row) => row[info.response] !== '')
  return { expected, y: respond(kept, info.response), column: (each: string) => classify(kept, each, info.levels[each]) }
}
const told = (expected: ReferenceCase['expected'], got: Got, prefixes: RegExp) => {
  const asked = expected.filter((each) => prefixes.test(each.name))
  expectAgreement(asked, got)
  return asked.length
}

describe('variance components by REML agree with the reference cases', () => {
  it('split plots with lost subplots, blocks random or fixed', () => {
    const { expected, y, column } = grown('split-plot-missing-barley')
    const [block, variety, nitrogen] = [column('block'), column('variety'), column('nitrogen')]
    const main = crossed('block:variety', [block, variety])
    const terms = FACTORIAL
    const got = valuesOf(fitted(y, [variety, nitrogen], terms, [block, main]), ['block', 'block:variety'])
    got.set('reml.minus2loglik', likelihood(y, [variety, nitrogen], terms, [block, main]))
    const fixed = [['block'], ...terms]
    for (const [name, value] of valuesOf(fitted(y, [block, variety, nitrogen], fixed, [main]), ['block:variety'], 'blocksfixed.'))
      got.set(name, value)
    got.set('blocksfixed.reml.minus2loglik', likelihood(y, [block, variety, nitrogen], fixed, [main]))
    expect(told(expected, got, /./)).toBeGreaterThan(600)
  })

  it('a variance at zero is at zero, and no parameter', () => {
    const { expected, y, column } = grown('split-plot-singular')
    const [block, variety, nitrogen] = [column('block'), column('variety'), column('nitrogen')]
    const main = crossed('block:variety', [block, variety])
    const terms = FACTORIAL
    const of = fitted(y, [variety, nitrogen], terms, [block, main])
    expect(of.fit.bounded).toEqual([false, true, false])
    const got = valuesOf(of, ['block', 'block:variety'])
    for (const [name, value] of [...got]) if (name.includes('.kr.')) got.set(`zerodropped.${name}`, value)
    got.set('reml.minus2loglik', likelihood(y, [variety, nitrogen], terms, [block, main]))
    expect(told(expected, got, /^(varcomp\.(?!anova)|reml|anova\.sat|emm|pair|zerodropped)/)).toBeGreaterThan(60)
  })

  it('small blocks of an alpha-lattice, with what is known between blocks', () => {
    const { expected, y, column } = grown('alpha-lattice-oat')
    const [rep, entry] = [column('rep'), column('entry')]
    const block = crossed('rep:block', [rep, column('block')])
    const terms = [['rep'], ['entry']]
    const got = valuesOf(fitted(y, [rep, entry], terms, [block]), ['rep:block'])
    got.set('reml.minus2loglik', likelihood(y, [rep, entry], terms, [block]))
    expect(told(expected, got, /^(varcomp|reml|anova|emm|sed|pair)/)).toBeGreaterThan(100)
  })
})

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

  it('what cannot be fitted is described, with the reason', () => {
    const emptied = analysed('split-plot-missing-barley', {
      data: (text) => text.split('\n').filter((line) => !/gamma,N120/.test(line)).join('\n'), // prettier-ignore
    })
    expect([emptied.kind, emptied.notTested?.reason]).toEqual(['described', 'unbalanced errors'])
    expect(emptied.notTested?.text).toMatch(/combinations were not grown/)
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
