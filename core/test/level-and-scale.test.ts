import { describe, expect, it } from 'vitest'
import type { Analysis, AnalysisOptions } from '../src/analysis/index.ts'
import { analyse, requestOf } from './plan-case.ts'

type Options = Partial<typeof AnalysisOptions._zod.input>

/** One case of every way in which a model is fitted. */
const FITS: readonly (readonly [fitted: string, name: string, options: Options])[] = [
  ['least squares', 'factorial-rcbd-lentil', {}],
  ['least squares with plots lost', 'factorial-rcbd-missing-lentil', {}],
  ['error strata', 'split-plot-barley', {}],
  ['restricted likelihood', 'split-plot-missing-barley', {}],
  ['restricted likelihood, Satterthwaite', 'split-plot-missing-barley', { df: 'satterthwaite' }],
  ['blocks at random', 'alpha-lattice-oat', {}],
  ['an error for each site', 'multi-site-barley', { errorBy: 'site' }],
  ['dates as compound symmetry', 'repeated-measures-missing-onion', { dates: { occasion: 'date', subject: 'plot', covariance: 'compound symmetry' } }], // prettier-ignore
  ['dates as an autoregression', 'repeated-measures-missing-onion', { dates: { occasion: 'date', subject: 'plot', covariance: 'autoregression' } }], // prettier-ignore
  ['ground by rows and columns', 'm-spatial', { ground: 'rows and columns with nugget' }],
  ['a covariate', 'm-ancova', { covariates: ['stand'] }],
]

const close = (a: number, b: number, tolerance: number, what: string): void => {
  if (Number.isFinite(a) || Number.isFinite(b))
    expect(Math.abs(a - b), `${what}: ${a} for ${b}`).toBeLessThanOrEqual(tolerance * Math.max(1e-6, Math.abs(b)))
}

/** Tests, errors, means and what they differ by, of values times `by` plus `plus`. */
function alike(found: Analysis, from: Analysis, by: number, plus: number, tolerance: number): void {
  expect(found.kind).toBe('tested')
  expect(found.tests.map((test) => test.term)).toEqual(from.tests.map((test) => test.term))
  found.tests.forEach((test, i) => {
    const was = from.tests[i]!
    close(test.f, was.f, tolerance, `F of ${test.term}`)
    close(test.errorDf, was.errorDf, tolerance, `df of ${test.term}`)
    if (Number.isFinite(was.p)) expect(Math.abs(test.p - was.p), `p of ${test.term}`).toBeLessThan(Math.max(tolerance, 1e-9))
  })
  found.errors.forEach((error, i) => close(error.ms, from.errors[i]!.ms * by * by, tolerance, `error of ${error.stratum}`))
  const spread = Math.sqrt(from.errors.at(-1)!.ms)
  for (const [term, { means }] of Object.entries(found.terms))
    means.forEach((mean, i) => {
      const was = from.terms[term]!.means[i]!
      expect(Math.abs(mean.mean - (was.mean * by + plus)), `mean of ${term} ${mean.level}`).toBeLessThan(
        tolerance * by * spread + 1e-14 * Math.abs(plus),
      )
      close(mean.se, was.se * by, tolerance, `se of ${term} ${mean.level}`)
    })
}

describe('adding to all values, or multiplying them, changes no test', () => {
  it.each(FITS)('%s', (_, name, options) => {
    const request = requestOf(name, { options })
    const from = analyse(request)
    expect(from.kind).toBe('tested')
    for (const [by, plus, tolerance] of [
      [1e-3, 0, 1e-5],
      [1e4, 0, 1e-5],
      [1, 1e6, 1e-5],
      [1, -1e7, 1e-4],
      [1, 1e9, 3e-3],
    ] as const) {
      const values = new Map([...request.values].map(([unit, value]) => [unit, value * by + plus]))
      alike(analyse({ ...request, values }), from, by, plus, tolerance)
    }
  })
})
