import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyse, analyseOverDates, analyseTrait, AnalysisError, areaRequest } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { dayNumber } from '../src/trial/index.ts'
import { asRequest, requestOf } from './plan-case.ts'
import { asTrial, countingIds, readingOf, trialFor } from './build.ts'

const TRAIT = 'gross-weight'

/** A trial read at some days; each plot keeps what is its own through all of them. */
function readAt(days: readonly (string | null)[], { design = 'randomised-block', own = 1, seed = 5, lost = 0, late = 0 } = {}) {
  const draft = trialFor(design, 4)
  const visits = days.map((on, i) => ({ key: `v${i}`, name: `Visit ${i + 1}`, on }))
  const observed = draft.traits.observed.map((trait) => ({ ...trait, visits: [] }))
  const trial = asTrial({ ...draft, traits: { ...draft.traits, visits, observed, derived: [], response: TRAIT } })
  const chance = chanceFrom(seed)
  const noise = (): number => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
  const layout = layOut(trial, trial.sites[0]!.key, 1, countingIds())
  const plots = layout.units.filter((unit) => unit.kind === 'plot')
  const records = plots.flatMap((plot, p) => {
    const mine = own * noise()
    const first = Object.values(plot.received)[0] === trial.treatments.factors[0]!.levels[0]!.key
    return visits.flatMap(({ key }, v) =>
      (p * visits.length + v) % 100 < lost
        ? []
        : [{ ...readingOf(plot.id, TRAIT, 50 + mine + 2 * v + (first ? late * v : 0) + noise()), visit: key }],
    )
  })
  const book = new TrialBook(trial, [layout], records)
  const readings = visits.map(({ key }) => ({ visit: key, observations: book.observations(TRAIT, key) }))
  return { trial, layout, readings, over: (options = {}) => analyseOverDates(trial, [layout], readings, TRAIT, options) }
}

const testOf = (found: ReturnType<typeof analyseOverDates>, term: string) => found.over.tests.find((test) => test.term === term)!

describe('a trait read at several visits', () => {
  it('days tell how far apart dates are, over months, leap years and centuries', () => {
    expect([
      dayNumber('2024-03-01') - dayNumber('2024-02-28'),
      dayNumber('2100-03-01') - dayNumber('2100-02-28'),
      dayNumber('2026-01-01') - dayNumber('2025-12-31'),
    ]).toEqual([2, 1, 1])
  })

  it('with any two dates alike it is the split plot in time: treatments between plots, dates within', () => {
    const { trial, layout, readings, over } = readAt(['2026-05-01', '2026-05-11', '2026-05-21'], { own: 3 })
    const found = over({ dates: { occasion: 'date', subject: 'plot', covariance: 'compound symmetry' } })
    expect([found.inDays, found.dates.map((each) => each.time)]).toEqual([true, [0, 10, 20]])
    const [treatment] = trial.treatments.factors
    // Means over the dates, plot by plot, analysed as one trait.
    const means = {
      ...readings[0]!.observations,
      observations: readings[0]!.observations.observations.map((each) => ({
        ...each,
        value: readings.reduce((sum, one) => sum + one.observations.observations.find((other) => other.unit === each.unit)!.value, 0) / 3,
      })),
    }
    const plain = analyseTrait(trial, [layout], means, TRAIT).without
    expect(testOf(found, treatment!.key).f).toBeCloseTo(plain.tests.find((test) => test.term === treatment!.key)!.f, 4)
    expect(testOf(found, treatment!.key).errorDf).toBeCloseTo(plain.errors[0]!.df, 3)
    expect(testOf(found, 'date').errorDf).toBeCloseTo(24, 3)
    expect(found.over.terms[`${treatment!.key}:date`]!.simpleEffects.filter((row) => row.factor === treatment!.key)).toHaveLength(3)
    // Trapezia by hand.
    const area = found.area!.residuals[0]!
    const values = readings.map((each) => each.observations.observations.find((one) => one.unit === area.unit)!.value)
    expect(area.value).toBeCloseTo(10 * ((values[0]! + values[1]!) / 2 + (values[1]! + values[2]!) / 2), 8)
    expect(found.area!.trait.unit).toMatch(/× days$/)
  })

  it('the way in which dates go together is chosen by what it costs, and uneven gaps count', () => {
    const { over } = readAt(['2026-05-01', '2026-05-02', '2026-05-30', '2026-06-20'], { own: 0.1 })
    const { mixed } = over().over
    const [best, ...others] = mixed!.models
    expect(best!.used).toBe(true)
    for (const other of others.filter((each) => each.key !== 'independent')) expect(other.aic).toBeGreaterThanOrEqual(best!.aic - 1e-6)
    expect(mixed!.models.map((each) => each.key).sort()).toEqual(['autoregression', 'compound symmetry', 'independent', 'unstructured'])
    const days = over({ dates: { occasion: 'date', subject: 'plot', covariance: 'autoregression' } }).over.mixed!
    const visits = readAt([null, null, null, null], { own: 0.1 }).over({
      dates: { occasion: 'date', subject: 'plot', covariance: 'autoregression' },
    })
    expect(visits.inDays).toBe(false)
    expect(visits.over.mixed!.minusTwoLogLikelihood).not.toBeCloseTo(days.minusTwoLogLikelihood, 3)
  })

  it('what changes from date to date is found, lost readings are no harm, larger units keep their error', () => {
    const found = readAt(['2026-05-01', '2026-05-15', '2026-06-01'], { late: 6, lost: 10 })
    const { over } = found.over()
    expect(over.tests.find((test) => test.term.endsWith(':date'))!.p).toBeLessThan(0.001)
    expect([over.missing, over.observations]).toEqual([10, 38])
    const split = readAt(['2026-05-01', '2026-05-15'], { design: 'split-plot', own: 1 }).over()
    expect(split.over.mixed!.parameters.filter((each) => each.of === 'random').map((each) => each.name)).toEqual(['main plot'])
  })

  it('of a table too: the area under the curve is a trait of the unit, by trapezia, with what a plan says beside dates', () => {
    const dates = { occasion: 'date', subject: 'plot' } as const
    const request = asRequest(requestOf('repeated-measures-onion', { options: { dates, method: 'lsd' } }))
    const under = areaRequest(request)!
    expect([under.structure.factors.map((each) => each.factor), under.options.dates, under.observations.length]).toEqual([
      ['treatment'],
      undefined,
      24,
    ])
    const [first] = under.observations
    const own = request.observations.filter((each) => each.unit.startsWith(first!.unit)).map((each) => each.value)
    const sum = own.reduce((a, b) => a + b, 0)
    expect(first!.value).toBeCloseTo(sum - (own[0]! + own.at(-1)!) / 2, 8)
    expect(analyse(under).tests.map((test) => [test.term, test.df, test.errorDf])).toEqual([['block', 5, 15], ['treatment', 3, 15]]) // prettier-ignore
    expect(areaRequest({ ...request, options: { ...request.options, dates: undefined } })).toBeNull()
  })

  it('one visit with values, or none, is refused with the reason', () => {
    const { trial, layout, readings } = readAt(['2026-05-01', '2026-05-15'])
    const none = readings.map((each) => ({ ...each, observations: { ...each.observations, observations: [] } }))
    expect(() => analyseOverDates(trial, [layout], [readings[0]!, none[1]!], TRAIT)).toThrow(/one visit only/)
    expect(() => analyseOverDates(trial, [layout], none, TRAIT)).toThrow(AnalysisError)
  })

  it('claims as seldom as it says where there is nothing, whatever plots keep through the dates', () => {
    fc.assert(
      fc.property(fc.constantFrom(0, 1, 3), (own) => {
        let claims = 0
        for (let run = 0; run < 40; run++) {
          const { trial, over } = readAt(['2026-05-01', '2026-05-11', '2026-05-21'], { own, seed: 100 * run + 7, lost: 6 })
          const covariance = run % 2 === 0 ? 'compound symmetry' : 'unstructured'
          const found = over({ dates: { occasion: 'date', subject: 'plot', covariance }, method: 'lsd' })
          if (testOf(found, trial.treatments.factors[0]!.key).p < 0.05) claims++
        }
        // Of 40 at 5 %, more than 6 come three times in a thousand.
        expect(claims).toBeLessThanOrEqual(6)
      }),
      { numRuns: 3 },
    )
  }, 120_000)
})
