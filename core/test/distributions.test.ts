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

it('the log of a tail goes on where the tail itself underflows', () => {
  expect(s.normalUpperLog(10)).toBeCloseTo(Math.log(s.normalUpper(10)), 12)
  // The series and the direct value meet where one takes over from the other.
  expect(s.normalUpperLog(37.000001) - s.normalUpperLog(36.999999)).toBeCloseTo(-37 * 2e-6 - 2e-6 / 37, 8)
  expect(s.normalUpperLog(100)).toBeCloseTo(-5000 - Math.log(100 * Math.sqrt(2 * Math.PI)) - 1e-4, 6)
})
