import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseOverDates, analyseTrait, countEnds } from '../src/analysis/index.ts'
import { chanceFrom, designs } from '../src/design/index.ts'
import { checkTrial, layOnHalves, undoEvent, type Document } from '../src/document/index.ts'
import { layOut, placedAnew } from '../src/ground/index.ts'
import { fieldsAt, TrialBook } from '../src/numbers/index.ts'
import {
  asOf,
  asVisited,
  HALF,
  halvesOf,
  recordKind,
  treatmentOn,
  treatmentsOf,
  type RecordFrame,
  type TrialEvent,
  type Unit,
} from '../src/trial/index.ts'
import { asTrial, countingIds, kindsOf, ladder, PERSON, readingOf, trialFor } from './build.ts'

const asked = (over: object = {}) => ({
  seed: 5,
  name: 'Feeding',
  levels: [
    { code: 'AS', name: 'as before' },
    { code: 'FED', name: 'fed' },
  ],
  on: '2026-07-03',
  treatments: [],
  sites: ['site-1'],
  halves: 'by chance' as const,
  ...over,
})
const NOTHING_READ = { visits: new Set<string>(), measured: false }

function standing(design = 'randomised-block', replicates = 4): Document {
  const trial = asTrial(trialFor(design, replicates))
  return { trial, layouts: [layOut(trial, 'site-1', 11, countingIds())] }
}

const onHalves = (document: Document, over: object = {}, read: object = {}) =>
  layOnHalves(document, asked(over), { ...NOTHING_READ, ...read, newId: countingIdsFrom(50_000) })

function countingIdsFrom(from: number): () => string {
  const ids = countingIds()
  for (let i = 0; i < from; i++) ids()
  return ids
}

/** The same trial with its only visit on a day. */
const dated = <Of extends Document>(of: Of, on: string | null): Of => ({
  ...of,
  trial: { ...of.trial, traits: { ...of.trial.traits, visits: of.trial.traits.visits.map((each) => ({ ...each, on })) } },
})
const plotsOf = ({ layouts }: Document): Unit[] => layouts[0]!.units.filter((unit) => unit.kind === 'plot')
const fed = (half: Unit): boolean => half.received['drawn'] === 'way-1'
const read = (of: Document, values: ReadonlyMap<string, number>) => {
  const book = new TrialBook(
    of.trial,
    of.layouts,
    [...values].map(([id, value]) => readingOf(id, 'gross-weight', value)),
  )
  return { book, analysed: () => analyseTrait(of.trial, of.layouts, book.observations('gross-weight', 'harvest'), 'gross-weight').without }
}

describe('a practice on half of each plot', () => {
  const laid = designs.filter((design) => {
    const { trial } = { trial: asTrial(trialFor(design.key, 3)) }
    return trial.sites[0]!.design.unit === 'plot'
  })

  it('has two halves in every plot of any design, which share its ground; one is fed, and the same seed feeds the same', () => {
    expect(laid.length).toBeGreaterThan(12)
    for (const design of laid) {
      const document = standing(design.key, 3)
      const change = onHalves(document)
      expect(checkTrial(change.trial, change.layouts), design.key).toEqual([])
      expect(onHalves(document).layouts).toEqual(change.layouts)
      const halved = halvesOf(change.layouts[0]!.units)
      const compared = plotsOf(document)
      expect(halved.size, design.key).toBe(compared.length)
      for (const plot of plotsOf(change)) {
        const pair = halved.get(plot.id)!
        expect(pair.map(fed).sort(), plot.code).toEqual([false, true])
        expect(pair.map((half) => half.code)).toEqual([`${plot.code}a`, `${plot.code}b`])
        const [a, b] = pair.map((half) => half.place!)
        const whole = plot.place!
        expect(a!.width * a!.length).toBeCloseTo((whole.width * whole.length) / 2, 9)
        expect(Math.abs(a!.x - b!.x) + Math.abs(a!.y - b!.y)).toBeCloseTo(Math.max(whole.width, whole.length) / 2, 9)
        expect((a!.x + a!.width / 2 + b!.x + b!.width / 2) / 2).toBeCloseTo(whole.x + whole.width / 2, 9)
      }
      // Plots stay where they are, and so does what they got.
      const before = new Map(document.layouts[0]!.units.map((unit) => [unit.id, unit]))
      const index = new Map(change.layouts[0]!.units.map((unit) => [unit.id, unit]))
      for (const unit of change.layouts[0]!.units)
        if (unit.kind !== HALF) expect({ ...unit, in: before.get(unit.id)!.in }).toEqual(before.get(unit.id))
      for (const plot of plotsOf(change)) {
        const was = treatmentOn(before.get(plot.id)!, before, document.trial.treatments)!
        expect(treatmentOn(plot, index, change.trial.treatments)!.key).toBe(was.key)
        for (const half of halved.get(plot.id)!) {
          const now = treatmentOn(half, index, change.trial.treatments)!
          expect(fed(half) ? change.trial.treatments.factors.at(-1)!.drawn!.from[now.key] : now.key).toBe(was.key)
        }
      }
    }
  })

  it('is drawn in each plot by itself, either half as likely', () => {
    const document = standing('randomised-block', 4)
    const first = new Map<string, number>()
    const draws = 120
    for (let seed = 0; seed < draws; seed++)
      for (const [plot, [a]] of halvesOf(onHalves(document, { seed }).layouts[0]!.units))
        first.set(plot, (first.get(plot) ?? 0) + Number(fed(a!)))
    // Five standard errors of a fair draw.
    for (const count of first.values()) expect(Math.abs(count - draws / 2)).toBeLessThan(5 * Math.sqrt(draws / 4))
  })

  it('is no part of what was read before, and goes whole when turned back', () => {
    for (const design of laid.filter((_, i) => i % 3 === 0)) {
      const document = standing(design.key, 3)
      const change = onHalves(document)
      const chance = chanceFrom(3)
      const values = new Map(plotsOf(document).map((plot) => [plot.id, 50 + chance.below(1000) / 500]))
      const before = read(dated(change, '2026-07-02'), values).analysed()
      const never = read(dated(document, '2026-07-02'), values).analysed()
      expect({ ...before, cautions: before.cautions.filter((each) => each.kind !== 'drawn later') }, design.key).toEqual(never)
      const event = { ...change, id: PERSON, at: '', person: PERSON, kind: 'drawn', reason: '', undoes: null } as unknown as TrialEvent
      const back = undoEvent(change, event)
      expect(back.layouts).toEqual(document.layouts)
      expect(back.trial.treatments).toEqual(document.trial.treatments)
      expect(asOf({ treatments: change.trial.treatments, layouts: change.layouts }, '2026-07-02').layouts).toEqual(document.layouts)
      expect(() => undoEvent(back, { ...event, before: back.before, after: back.after })).toThrow(/draw anew/)
    }
  })

  it('is tested within plots, and the treatments as before on the plots: as worked out by hand', () => {
    const document = dated(standing('randomised-block', 4), '2026-08-01')
    const change = onHalves(document)
    const chance = chanceFrom(8)
    const noise = (): number => chance.below(1000) / 300
    const index = new Map(change.layouts[0]!.units.map((unit) => [unit.id, unit]))
    const values = new Map<string, number>()
    const plots = [...halvesOf(change.layouts[0]!.units)].map(([id, pair]) => {
      const level = noise() + 60
      for (const half of pair) values.set(half.id, level + noise() + (fed(half) ? 4 : 0))
      const [yes, no] = [pair.find(fed)!, pair.find((half) => !fed(half))!].map((half) => values.get(half.id)!) as [number, number]
      return { id, rate: index.get(id)!.received['factor-1']!, gain: yes - no, mean: (yes + no) / 2 }
    })
    const { analysed, book } = read(change, values)
    const answer = analysed()
    if (answer.kind !== 'tested') throw new Error('not tested')
    // Gains of each plot by treatment: their pooled variance is the error of what was fed.
    const rates = [...new Set(plots.map((plot) => plot.rate))]
    const mean = (of: readonly number[]): number => of.reduce((sum, each) => sum + each, 0) / of.length
    const gains = rates.map((rate) => plots.filter((plot) => plot.rate === rate).map((plot) => plot.gain))
    const ss = gains.flatMap((own) => own.map((gain) => (gain - mean(own)) ** 2)).reduce((sum, each) => sum + each, 0)
    const df = plots.length - rates.length
    const [row] = answer.contrasts
    expect(row!.estimate).toBeCloseTo(mean(plots.map((plot) => plot.gain)), 9)
    expect(row!.se).toBeCloseTo(Math.sqrt(ss / df / plots.length), 9)
    expect(row!.df).toBeCloseTo(df, 6)
    expect(row!.evidence.kind).toBe('trial')
    // Rates are judged as they are on the means of plots.
    const onPlots = read(document, new Map(plots.map((plot) => [plot.id, plot.mean]))).analysed()
    if (onPlots.kind !== 'tested') throw new Error('not tested')
    const f = (of: typeof answer) => of.tests.find((each) => each.term === 'factor-1')!
    expect(f(answer).f).toBeCloseTo(f(onPlots).f, 8)
    expect(f(answer).errorDf).toBeCloseTo(f(onPlots).errorDf, 8)
    expect(book.progress().expected).toBe(2 * plots.length * change.trial.traits.observed.length)
  })

  it('is analysed in every design that can bear it, and found where it was put', () => {
    for (const design of laid) {
      const change = dated(onHalves(standing(design.key, 3)), '2026-08-01')
      const chance = chanceFrom(21)
      const values = new Map(
        change.layouts[0]!.units.filter((unit) => unit.kind === HALF).map((half) => [
          half.id,
          50 + chance.below(1000) / 2000 + (fed(half) ? 5 : 0),
        ]),
      )
      const answer = read(change, values).analysed()
      expect(answer.kind, `${design.key}: ${answer.kind === 'tested' ? '' : JSON.stringify(answer)}`).toBe('tested')
      if (answer.kind !== 'tested') continue
      const [row] = answer.contrasts
      expect(row!.name, design.key).toBe('Feeding: fed against as before, from 3 July 2026')
      expect(Math.abs(row!.estimate - 5), design.key).toBeLessThan(0.5)
      expect(row!.p, design.key).toBeLessThan(0.001)
    }
  })

  it('of treatments outside the combinations the whole treatments are judged on plots, and what is fed on halves', () => {
    const base = trialFor('randomised-block', 4)
    const shapes = [kindsOf('inoculant', 'inoculant', ['none', 'one', 'mix']), ...ladder(2).factors]
    const outside = { key: 'usual', code: 'USUAL', name: 'usual feed', colour: null, role: 'standard' as const, levels: {} }
    const crossing = treatmentsOf(shapes)
    const trial = asTrial({ ...base, treatments: { ...crossing, list: [...crossing.list, outside] } })
    const document = dated({ trial, layouts: [layOut(trial, 'site-1', 3, countingIds())] }, '2026-08-01')
    const change = onHalves(document)
    const chance = chanceFrom(4)
    const values = new Map<string, number>()
    const means = new Map<string, number>()
    const gains: number[] = []
    for (const [plot, pair] of halvesOf(change.layouts[0]!.units)) {
      const level = chance.below(1000) / 100
      for (const half of pair) values.set(half.id, level + chance.below(1000) / 1000 + (fed(half) ? 3 : 0))
      const [yes, no] = [pair.find(fed)!, pair.find((half) => !fed(half))!].map((half) => values.get(half.id)!) as [number, number]
      means.set(plot, (yes + no) / 2)
      gains.push(yes - no)
    }
    const answer = read(change, values).analysed()
    const onPlots = read(document, means).analysed()
    if (answer.kind !== 'tested' || onPlots.kind !== 'tested') throw new Error('not tested')
    const f = (of: typeof answer) => of.tests.find((each) => each.term === 'treatment')!
    expect(f(answer).f).toBeCloseTo(f(onPlots).f, 7)
    expect(f(answer).errorDf).toBeCloseTo(f(onPlots).errorDf, 7)
    expect(answer.terms['drawn']!.means.map((each) => each.level)).toEqual(['as-before', 'way-1'])
    expect(answer.contrasts[0]!.estimate).toBeCloseTo(gains.reduce((sum, each) => sum + each, 0) / gains.length, 9)
  })

  it('is walked half by half from its day on, each with its own part of the harvested area', () => {
    const document = standing()
    const change = onHalves(document)
    const [plot] = plotsOf(change)
    const [a, b] = halvesOf(change.layouts[0]!.units).get(plot!.id)!
    const early = { ...change.trial.traits.visits[0]!, key: 'stand', name: 'Stand', on: '2026-06-01' }
    const late = { ...change.trial.traits.visits[0]!, on: '2026-09-20' }
    const trial = { ...change.trial, traits: { ...change.trial.traits, visits: [early, late] } }
    const records = [
      readingOf(plot!.id, 'gross-weight', 90, { visit: 'stand' }),
      readingOf(a!.id, 'gross-weight', 40),
      readingOf(a!.id, 'dirt-tare', 10),
      readingOf(b!.id, 'gross-weight', 50),
    ]
    const book = new TrialBook(trial, change.layouts, records)
    const number = (unit: string, trait: string, visit: string): number | null => {
      const value = book.value(unit, trait, visit)
      return value.kind === 'value' ? value.reduced.value : null
    }
    expect(book.walked('site-1', 'stand').map((unit) => unit.kind)).toEqual(Array.from({ length: 16 }, () => 'plot'))
    const walked = book.walked('site-1', 'harvest')
    expect(walked.map((unit) => unit.walk)).toEqual(Array.from({ length: 32 }, (_, i) => i + 1))
    expect(walked.filter((unit) => unit.in.includes(plot!.id)).map((unit) => unit.code)).toEqual([a!.code, b!.code])
    expect(fieldsAt(book, [trial.traits.observed[0]!], a!, 'harvest').map((field) => field.unit)).toEqual([a!.id])
    // What was read of the whole plot is that of each half then; what is read of halves is none of the plot's.
    expect([number(plot!.id, 'gross-weight', 'stand'), number(a!.id, 'gross-weight', 'stand')]).toEqual([90, 90])
    expect([number(plot!.id, 'gross-weight', 'harvest'), number(b!.id, 'gross-weight', 'harvest')]).toEqual([null, 50])
    const { ground } = trial.sites[0]!
    const area = (ground.harvestWidth * ground.harvestLength) / 2
    const net = trial.traits.derived.find((each) => each.terms.some((term) => term.of.kind === 'harvested area'))!
    expect(number(a!.id, net.key, 'harvest')).toBeCloseTo(((40 * 0.9) / area) * 10, 9)
    expect(asVisited(change.layouts[0]!, early).units.some((unit) => unit.kind === HALF)).toBe(false)
    expect(book.observations('gross-weight', 'stand').observations).toHaveLength(1)
    expect(book.observations('gross-weight', 'harvest').day).toBe('2026-09-20')
    // Read some days before the day it was to be halved on, it is read of halves all the same.
    const early2 = new TrialBook(trial, change.layouts, [readingOf(a!.id, 'gross-weight', 40, { at: '2026-07-01T08:00:00Z' })])
    expect(early2.observations('gross-weight', 'harvest').day).toBe('2026-07-03')
  })

  it('over several visits is read at those when there were halves, and says which are left out', () => {
    const change = onHalves(standing())
    const visits = ['2026-06-01', '2026-08-01', '2026-09-01'].map((on, i) => ({ key: `v${i}`, name: `Visit ${i + 1}`, on }))
    const trial = { ...change.trial, traits: { ...change.trial.traits, visits } }
    const chance = chanceFrom(6)
    const own = (visit: string, kind: string) =>
      change.layouts[0]!.units.filter((unit) => unit.kind === kind).map((unit) =>
        readingOf(unit.id, 'gross-weight', 40 + chance.below(900) / 100, { visit }),
      )
    const book = new TrialBook(trial, change.layouts, [...own('v0', 'plot'), ...own('v1', HALF), ...own('v2', HALF).slice(1)])
    const readings = visits.map(({ key: visit }) => ({ visit, observations: book.observations('gross-weight', visit) }))
    const { over, dates, ends } = analyseOverDates(trial, change.layouts, readings, 'gross-weight')
    // One half was not read at the last visit: so many of each date's means stand on.
    expect(countEnds(ends, { date: 'Visit 2' })).toMatchObject({ started: 32, measured: 32 })
    expect(countEnds(ends, { date: 'Visit 3' })).toMatchObject({ started: 32, measured: 31, missing: 1 })
    expect(ends).toHaveLength(64)
    expect(dates.map((each) => each.name)).toEqual(['Visit 2', 'Visit 3'])
    expect(over.cautions.map((each) => each.text)).toContain(
      'Visit 1 was read on whole plots, before their halves were handled otherwise: it is no part of this. Read it by itself.',
    )
    expect(() => analyseOverDates(trial, change.layouts, readings.slice(0, 2), 'gross-weight')).toThrow(/Visit 1 was read on whole plots/)
  })

  it('takes no reading of a whole plot once there are halves, nor of a half before', () => {
    const { layouts } = onHalves(standing())
    const [half] = layouts[0]!.units.filter((unit) => unit.kind === HALF)
    const since = '2026-07-03'
    const frame: RecordFrame = {
      units: new Map(layouts[0]!.units.map((unit) => [unit.id, unit.kind])),
      traits: new Map(standing().trial.traits.observed.map((trait) => [trait.key, trait])),
      visits: new Map([
        ['harvest', '2026-09-20'],
        ['stand', '2026-06-01'],
      ]),
      halved: new Map([half!.id, half!.in[0]!].map((id) => [id, since])),
      sites: new Set(['site-1']),
      people: new Set([PERSON]),
      factors: new Set(),
    }
    const misfit = (unit: string, visit: string): string | null =>
      recordKind('reading').misfit(readingOf(unit, 'gross-weight', 4, { visit }), frame)
    expect([misfit(half!.id, 'harvest'), misfit(half!.in[0]!, 'stand')]).toEqual([null, null])
    expect(misfit(half!.in[0]!, 'harvest')).toMatch(/halves of this plot are read one by one/)
    expect(misfit(half!.id, 'stand')).toMatch(/part of one plot/)
  })

  it('laid on the same half of all plots it is a comparison, and is refused where plots cannot be halved or were read whole', () => {
    const document = standing()
    const change = onHalves(document, { halves: 'b' })
    for (const pair of halvesOf(change.layouts[0]!.units).values()) expect(pair.map(fed)).toEqual([false, true])
    const values = new Map(change.layouts[0]!.units.filter((unit) => unit.kind === HALF).map((half, i) => [half.id, 50 + ((i * 7) % 5)]))
    const answer = read(dated(change, '2026-08-01'), values).analysed()
    expect(answer.kind === 'tested' && answer.contrasts[0]!.evidence.kind).toBe('compare')
    const said = (over: object, of: Document = document, visits: string[] = []): string => {
      try {
        onHalves(of, over, { visits: new Set(visits) })
      } catch (error) {
        return (error as Error).message
      }
      return 'laid'
    }
    expect(said({}, change)).toMatch(/varied already/)
    expect(said({ name: 'Lamps' }, change)).toMatch(/in halves already/)
    expect(said({ levels: [...asked().levels, { code: 'X', name: 'fed twice' }] })).toMatch(/two halves/)
    expect(said({}, dated(document, '2026-08-01'), ['harvest'])).toMatch(/read as a whole at Harvest, on 1 August 2026/)
    expect(said({}, dated(document, '2026-07-02'), ['harvest'])).toBe('laid')
    expect(said({}, dated(document, null), ['harvest'])).toMatch(/no day/)
    const withPlants = asTrial(trialFor('randomised-block', 4, { plants: 3 }))
    expect(said({}, { trial: withPlants, layouts: [layOut(withPlants, 'site-1', 1, countingIds())] })).toMatch(/read one by one/)
    const pots = asTrial(trialFor('randomised-block', 4, { unit: 'pot' }))
    expect(said({}, { trial: pots, layouts: [layOut(pots, 'site-1', 1, countingIds())] })).toMatch(/has pots/)
  })

  it('keeps its halves under other numbers and on other ground', () => {
    const change = onHalves(standing())
    const [site] = change.trial.sites
    fc.assert(
      fc.property(
        fc.constantFrom('running' as const, 'row and column' as const, 'block hundreds' as const),
        fc.integer({ min: 2, max: 9 }),
        (scheme, width) => {
          const ground = { ...site!.ground, plotWidth: width, harvestWidth: 1, numbering: { ...site!.ground.numbering, scheme } }
          const again = placedAnew(change.layouts[0]!, { ...site!, ground }, [{ ...site!, ground }])
          const index = new Map(again.units.map((unit) => [unit.id, unit]))
          for (const [plot, pair] of halvesOf(again.units)) {
            expect(pair.map((half) => half.code)).toEqual([`${index.get(plot)!.code}a`, `${index.get(plot)!.code}b`])
            for (const half of pair) expect(half.place!.width * half.place!.length).toBeCloseTo((width * ground.plotLength) / 2, 9)
          }
          expect(placedAnew(again, site!, [site!])).toEqual(change.layouts[0])
        },
      ),
    )
  })
})
