import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import * as s from '../src/statistics/index.ts'
import { expectAgreement, referenceCase } from './fixture.ts'

type Functions = Partial<Record<'lower' | 'upper' | 'quantile' | 'pmf', (x: number, ...par: number[]) => number>>

/** The public functions behind each distribution of the reference table, by its parameters. */
const FUNCTIONS: Record<string, Functions> = {
  normal: { lower: s.normalLower, upper: s.normalUpper, quantile: s.normalQuantile },
  t: { lower: s.tLower, upper: s.tUpper, quantile: (p, df) => -s.tUpperQuantile(p, df) },
  chisq: { lower: s.chiSquaredLower, upper: s.chiSquaredUpper, quantile: s.chiSquaredQuantile },
  f: { lower: s.fLower, upper: s.fUpper, quantile: s.fQuantile },
  beta: { lower: s.betaLower, upper: s.betaUpper, quantile: s.betaQuantile },
  noncentral_t: { lower: s.noncentralTLower, upper: s.noncentralTUpper, quantile: s.noncentralTQuantile },
  noncentral_f: { lower: s.noncentralFLower, upper: s.noncentralFUpper, quantile: s.noncentralFQuantile },
  noncentral_chisq: { lower: s.noncentralChiSquaredLower, upper: s.noncentralChiSquaredUpper, quantile: s.noncentralChiSquaredQuantile },
  studentized_range: {
    lower: s.studentizedRangeLower,
    upper: s.studentizedRangeUpper,
    quantile: (p, k, df) => s.studentizedRangeQuantile(1 - p, k, df),
  },
  poisson: { lower: s.poissonLower, upper: s.poissonUpper, quantile: s.poissonQuantile, pmf: s.poissonMass },
  binomial: { lower: s.binomialLower, upper: s.binomialUpper, quantile: s.binomialQuantile, pmf: s.binomialMass },
  negative_binomial: {
    lower: s.negativeBinomialLower,
    upper: s.negativeBinomialUpper,
    quantile: s.negativeBinomialQuantile,
    pmf: s.negativeBinomialMass,
  },
}

const { rows, expected } = referenceCase('m-distributions')
const number = (text: string) => (text === 'Inf' ? Infinity : text === '-Inf' ? -Infinity : Number(text))

function valueOf(row: Record<string, string>): number {
  const x = number(row['x']!)
  if (row['dist']!.startsWith('dunnett')) {
    const control = number(row['par1']!)
    const df = number(row['par2']!)
    const lambda = row['sizes']!.split(' ').map((size) => Math.sqrt(Number(size) / (Number(size) + control)))
    const two = row['dist'] === 'dunnett_two_sided'
    if (row['fn'] === 'quantile') return (two ? s.dunnettQuantile : s.dunnettQuantileOneSided)(1 - x, lambda, df)
    return (two ? s.dunnettUpper : s.dunnettUpperOneSided)(x, lambda, df)
  }
  const parameters = ['par1', 'par2', 'par3'].flatMap((key) => (row[key] === '' ? [] : [number(row[key]!)]))
  return FUNCTIONS[row['dist']!]![row['fn'] as 'lower']!(x, ...parameters)
}

describe.each([...new Set(rows.map((row) => row['dist']!))])('reference values of %s', (dist) => {
  it('agree in both tails, at quantiles and masses', () => {
    const mine = rows.filter((row) => row['dist'] === dist)
    const got = new Map(mine.map((row) => [`${row['id']}.${dist}.${row['fn']}`, valueOf(row)]))
    const asked = expected.filter((each) => got.has(each.name))
    expect(asked.length).toBeGreaterThanOrEqual(mine.length * 0.9)
    expectAgreement(asked, got)
  })
})

it('hard tails, and logs of tails and masses where the tail itself underflows', () => {
  const table = JSON.parse(readFileSync(new URL('../fixtures/hard-tails.json', import.meta.url), 'utf8')) as {
    rows: [keyof typeof s, (number | 'Infinity')[], number, number][]
  }
  const wrong = table.rows.filter(([name, given, value, rel]) => {
    const got = (s[name] as (...given: number[]) => number)(...given.map(Number))
    return !(Math.abs(got - value) <= rel * Math.abs(value))
  })
  expect(wrong).toEqual([])
})

it('tails and their logs make one whole, either way round', () => {
  const parameter = fc.double({ min: 0.05, max: 2000, noNaN: true })
  fc.assert(
    fc.property(parameter, parameter, fc.double({ min: -30, max: 30, noNaN: true }), (a, b, at) => {
      const x = Math.exp(at)
      const pairs = [
        [s.tLowerLog(at, a), s.tUpperLog(at, a)],
        [s.fLowerLog(x, a, b), s.fUpperLog(x, a, b)],
        [s.gammaLowerLog(x, a, b), s.gammaUpperLog(x, a, b)],
        [s.betaLowerLog(x / (1 + x), a, b), s.betaUpperLog(x / (1 + x), a, b)],
      ] as const
      for (const [lower, upper] of pairs) expect(Math.exp(lower) + Math.exp(upper)).toBeCloseTo(1, 12)
      expect(s.tUpperLog(at, a)).toBeCloseTo(s.tLowerLog(-at, a), 12)
    }),
  )
})

it('what cannot be judged is not a number, never a probability', () => {
  const lambda = [0.7, 0.7]
  const found = [NaN, 2].flatMap((at) => {
    const df = Number.isNaN(at) ? 12 : 0
    return [
      s.tUpper(at, df),
      s.tTwoSided(at, df),
      s.fUpper(at, 2, df),
      s.chiSquaredUpper(at, df),
      s.studentizedRangeUpper(at, 4, df),
      s.studentizedRangeLower(at, 4, df),
      s.dunnettUpper(at, lambda, df),
      s.dunnettUpperOneSided(at, lambda, df),
      s.noncentralTUpper(at, df, 1),
      s.noncentralFUpper(at, 2, df, 1),
    ]
  })
  expect(found).toEqual(found.map(() => NaN))
  expect([s.tUpperQuantile(0.05, 0), s.studentizedRangeQuantile(0.05, 3, 0), s.dunnettQuantile(0.05, lambda, 0)]).toEqual([NaN, NaN, NaN])
})
