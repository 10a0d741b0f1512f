import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait, countEnds, endsInWords } from '../src/analysis/index.ts'
import { packTrial, unpackTrial } from '../src/exchange/index.ts'
import { layOut } from '../src/ground/index.ts'
import { fieldsAt, TrialBook } from '../src/numbers/index.ts'
import {
  agesInWords,
  dayAfter,
  dayNumber,
  daysBetween,
  fateInWords,
  fateKinds,
  levelOfAmount,
  readSpan,
  recordKind,
  spanInWords,
  type Fate,
  type FieldRecord,
  type Unit,
} from '../src/trial/index.ts'
import { asTrial, countingIds, ladder, PERSON, readingOf, trialWith, trialFor, twoFactors } from './build.ts'

let made = 0
function fateOf(unit: string, kind: Fate['kind'], more: Partial<Fate> = {}): Fate {
  return {
    type: 'fate',
    id: `00000000-0000-7000-a000-${String(++made).padStart(12, '0')}`,
    at: '2026-06-04T08:00:00.000Z',
    person: PERSON,
    device: 'tablet',
    unit,
    kind,
    on: { from: '2026-06-03', to: '2026-06-03', typed: '3 June' },
    share: null,
    factor: null,
    amount: null,
    to: null,
    place: '',
    parts: null,
    reason: 'washed out',
    ...more,
  }
}

/** Four rates in four blocks with a yield that follows the rate, read in October. */
function measured() {
  const trial = asTrial({ ...trialWith(4, 4), treatments: ladder(4) })
  const layout = layOut(trial, 'site-1', 7, countingIds())
  const plots = layout.units.filter((unit) => unit.kind === 'plot')
  const worth = (plot: Unit, i: number): number => 60 + 4 * Number(plot.received['factor-1']!.slice(1)) + ((i * 7) % 5)
  const readings: FieldRecord[] = plots.flatMap((plot, i) => [
    readingOf(plot.id, 'gross-weight', worth(plot, i)),
    readingOf(plot.id, 'dirt-tare', 8),
    readingOf(plot.id, 'sugar-content', 17),
  ])
  return { trial, layout, plots, readings }
}

const { trial, layout, plots, readings } = measured()
const bookWith = (...records: FieldRecord[]): TrialBook => new TrialBook(trial, [layout], [...readings, ...records])
const answered = (book: TrialBook, trait = 'clean-yield') => analyseTrait(trial, [layout], book.observations(trait, 'harvest'), trait)
const said = (answer: ReturnType<typeof answered>): string =>
  answer.without.cautions
    .filter((each) => each.kind === 'what happened')
    .map((each) => each.text)
    .join(' ')

describe('what really happened', () => {
  it('partly lost: the yield is that of the area that remains, with its working, and the answer stands both ways', () => {
    const [plot] = plots
    const book = bookWith(fateOf(plot!.id, 'partly lost', { share: 0.6 }))
    const [whole, part] = [bookWith().value(plot!.id, 'clean-yield', 'harvest'), book.value(plot!.id, 'clean-yield', 'harvest')]
    const value = (of: typeof whole): number => (of.kind === 'value' ? of.reduced.value! : NaN)
    expect(value(part) / value(whole)).toBeCloseTo(1 / 0.6, 12)
    const answer = answered(book)
    expect(said(answer)).toContain(`Plot ${plot!.code} was partly lost: 60 % of the harvested area remains on 3 June 2026 (washed out).`)
    expect(said(answer)).toContain('that of the area that remains')
    expect(answer.others).toHaveLength(1)
    expect(answer.others[0]!.about).toContain(`Without plot ${plot!.code}`)
    expect(answer.others[0]!.analysis!.terms['factor-1']!.means.reduce((sum, mean) => sum + mean.n, 0)).toBe(15)
  })

  it('lost or discarded: values of before stand, nothing is expected after, and each is counted under its treatment', () => {
    const [a, b, c] = plots
    const before = bookWith().progress().expected
    const book = bookWith()
    const later = { from: '2026-10-20', to: '2026-10-20', typed: '' }
    book.add([fateOf(a!.id, 'lost', { on: later }), fateOf(b!.id, 'discarded')])
    // What was read in early October on the plot lost later in the month stands; of the other it was read after its end.
    const answer = answered(book)
    expect(answer.without.missing).toBe(1)
    expect(said(answer)).toContain('1 value was taken after the plot was lost or discarded')
    const counts = countEnds(answer.ends)
    expect(counts).toMatchObject({ started: 16, measured: 15, discarded: 1, lost: 0 })
    expect(endsInWords(counts, 'plot')).toBe('16 plots started: 15 measured, 1 discarded')
    expect(countEnds(answer.ends, { 'factor-1': b!.received['factor-1']! })).toMatchObject({ started: 4, measured: 3, discarded: 1 })
    expect(endsInWords(countEnds(answer.ends, { 'factor-1': c!.received['factor-1'] === b!.received['factor-1'] ? '' : c!.received['factor-1']! }), 'plot')).toBeNull() // prettier-ignore
    const bare = new TrialBook(trial, [layout], [fateOf(a!.id, 'lost')])
    expect(before - bare.progress().expected).toBe(trial.traits.observed.length)
    expect(fieldsAt(bare, trial.traits.observed, a!, 'harvest')).toEqual([])
  })

  it('a fate of a main plot is one of all that lies in it', () => {
    const split = asTrial(trialFor('split-plot', 3))
    const laid = layOut(split, 'site-1', 3, countingIds())
    const main = laid.units.find((unit) => unit.kind === 'main plot')!
    const inside = laid.units.filter((unit) => unit.in.includes(main.id))
    const book = new TrialBook(split, [laid], [fateOf(main.id, 'lost')])
    expect(inside.length).toBeGreaterThan(0)
    for (const unit of laid.units.filter((each) => each.walk !== null)) expect(book.gone(unit.id, 'harvest')).toBe(inside.includes(unit))
  })

  it('another amount, or twice, is no treatment: left out, with the answer as planned beside; unless a level is just that', () => {
    const own = plots.find((plot) => plot.received['factor-1'] === 'l2')!
    const answer = answered(bookWith(fateOf(own.id, 'other amount', { factor: 'factor-1', amount: 95, reason: 'spreader stuck' })))
    expect(answer.without.leftOut).toBe(1)
    expect(said(answer)).toContain(`Plot ${own.code} got 95 kg/ha of nitrogen on 3 June 2026 (spreader stuck). It stands for none of the treatments and is left out.`) // prettier-ignore
    const planned = answer.others.find((each) => each.about.startsWith('As planned'))!
    expect(planned.analysis!.leftOut).toBe(0)
    expect(planned.analysis!.terms['factor-1']).toEqual(answered(bookWith()).without.terms['factor-1'])
    // No note leaves anything out, so there is no third answer.
    expect(answer.all).toBe(answer.without)
    const [factor] = trial.treatments.factors
    expect(levelOfAmount(factor!, 'given twice', 'l1', null)?.key).toBe('l2')
    expect(levelOfAmount(factor!, 'given twice', 'l3', null)).toBeUndefined()
    expect(levelOfAmount(factor!, 'other amount', 'l1', 120)?.key).toBe('l3')
  })

  it('moved: the unit keeps its number and readings, and is judged beside those it stands with now', () => {
    const [plot] = plots
    const blocks = layout.units.filter((unit) => unit.kind === 'block')
    const to = blocks.find((block) => !plot!.in.includes(block.id))!
    const fate = fateOf(plot!.id, 'moved', { to: to.id, place: 'end of the bed' })
    const answer = answered(bookWith(fate))
    expect(said(answer)).toContain(`Plot ${plot!.code} was moved to block ${to.code}, end of the bed on 3 June 2026`)
    expect(answer.without.terms['factor-1']!.means).not.toEqual(answered(bookWith()).without.terms['factor-1']!.means)
    // The plan, as it was dealt out, is what it was.
    expect(layout.units.find((unit) => unit.id === plot!.id)!.in).toEqual(plot!.in)
    // Moved after the harvest it changes nothing of it.
    const after = fateOf(plot!.id, 'moved', { to: to.id, on: { from: '2026-11-05', to: '2026-11-06', typed: '' } })
    expect(answered(bookWith(after)).without.terms).toEqual(answered(bookWith()).without.terms)
  })

  it('divided: each part is read, and all of them are one replicate', () => {
    const [plot] = plots
    const fate = fateOf(plot!.id, 'divided', { parts: 3 })
    const book = new TrialBook(trial, [layout], [fate])
    const fields = fieldsAt(book, trial.traits.observed.slice(0, 1), plot!, 'harvest')
    expect(fields.map((field) => field.sample)).toEqual([1, 2, 3])
    const parts = [58, 66, 71].map((value, i) => readingOf(plot!.id, 'gross-weight', value, { sample: i + 1 }))
    const others = readings.filter((each) => each.type === 'reading' && each.unit !== plot!.id)
    const answer = answered(new TrialBook(trial, [layout], [...others, ...parts, fate]), 'gross-weight')
    expect(answer.without.terms['factor-1']!.means.reduce((sum, mean) => sum + mean.n, 0)).toBe(16)
    expect(answer.without.cautions.some((each) => each.text.includes('they are one replicate'))).toBe(true)
  })

  it('taking a fate back gives everything as it was; the same records in any order come to the same', () => {
    const fates = [fateOf(plots[0]!.id, 'lost'), fateOf(plots[3]!.id, 'partly lost', { share: 0.5 }), fateOf(plots[5]!.id, 'replanted')]
    const retracted = fates.map((fate, i): FieldRecord => ({ type: 'retraction', id: `00000000-0000-7000-b000-${String(i).padStart(12, '0')}`, at: '2026-06-05T08:00:00.000Z', person: PERSON, device: 'tablet', retracts: fate.id, reason: 'Undo' })) // prettier-ignore
    const book = bookWith(...fates)
    expect(answered(book)).not.toEqual(answered(bookWith()))
    book.add(retracted)
    expect(answered(book)).toEqual(answered(bookWith()))
    expect(book.progress()).toEqual(bookWith().progress())
    fc.assert(
      fc.property(fc.shuffledSubarray([...readings, ...fates, ...retracted.slice(1)], { minLength: readings.length + 5 }), (records) => {
        const shuffled = new TrialBook(trial, [layout])
        for (const record of records) shuffled.add([record])
        expect(answered(shuffled)).toEqual(answered(bookWith(...fates, ...retracted.slice(1))))
        expect(shuffled.progress()).toEqual(bookWith(...fates, ...retracted.slice(1)).progress())
      }),
      { numRuns: 12 },
    )
  })

  it('every kind has words, is refused without what it asks for, and goes through a package unchanged', () => {
    const frame = {
      units: new Map(layout.units.map((unit) => [unit.id, unit.kind])),
      traits: new Map(trial.traits.observed.map((trait) => [trait.key, trait])),
      visits: new Map([['harvest', null]]),
      halved: new Map<string, string>(),
      sites: new Set(['site-1']),
      people: new Set([PERSON]),
      factors: new Set(['factor-1']),
    }
    const whole = { share: 0.4, factor: 'factor-1', amount: 95, to: layout.units.find((unit) => unit.kind === 'block')!.id, place: 'north half', parts: 3 } as const // prettier-ignore
    const records: Fate[] = []
    const names = { factors: trial.treatments.factors, unit: (id: string) => layout.units.find((unit) => unit.id === id) }
    for (const { key, asks } of fateKinds) {
      const fate = fateOf(plots[1]!.id, key, whole)
      expect(recordKind('fate').misfit(fate, frame)).toBeNull()
      expect(fateInWords(fate, names)).toMatch(/^Plot \S+ \S.* on 3 June 2026 \(washed out\)$/)
      for (const field of asks) expect(recordKind('fate').misfit({ ...fate, [field]: field === 'place' ? '' : null }, frame)).not.toBeNull()
      records.push(fate)
    }
    expect(recordKind('fate').misfit(fateOf(plots[1]!.id, 'moved'), frame)).toContain('where it stands now')
    const contents = {
      trial,
      layouts: [layout],
      records: [...readings, ...records],
      events: [],
      people: [{ id: PERSON, name: 'Somebody' }],
    }
    const packed = packTrial(contents)
    expect(unpackTrial(packed).records).toEqual(contents.records)
    expect(packTrial(unpackTrial(packed))).toEqual(packed)
  })

  it('two factors: counts of fates are of each combination', () => {
    const two = asTrial({ ...trialWith(4, 3), treatments: twoFactors() })
    const laid = layOut(two, 'site-1', 5, countingIds())
    const own = laid.units.filter((unit) => unit.kind === 'plot')
    const book = new TrialBook(
      two,
      [laid],
      [...own.slice(1).map((plot, i) => readingOf(plot.id, 'gross-weight', 50 + i)), fateOf(own[0]!.id, 'lost')],
    )
    const { ends } = analyseTrait(two, [laid], book.observations('gross-weight', 'harvest'), 'gross-weight')
    const { water, cultivar } = own[0]!.received
    expect(countEnds(ends, { water: water!, cultivar: cultivar! })).toMatchObject({ started: 3, lost: 1, measured: 2 })
    expect(countEnds(ends, { water: water! })).toMatchObject({ started: 6, lost: 1 })
  })
})

describe('when it happened', () => {
  const known = [{ what: 'planting', span: { from: '2026-03-01', to: '2026-03-07' } }]
  const read = (text: string) => readSpan(text, { year: 2026, known })
  it.each([
    ['2026-06-03', '2026-06-03', '2026-06-03'],
    ['3 June', '2026-06-03', '2026-06-03'],
    ['June 3rd, 2025', '2025-06-03', '2025-06-03'],
    ['3.6.2026', '2026-06-03', '2026-06-03'],
    ['25/3/2026', '2026-03-25', '2026-03-25'],
    ['3/25/2026', '2026-03-25', '2026-03-25'],
    ['3–7 March 2026', '2026-03-03', '2026-03-07'],
    ['between 28 February and 3 March', '2026-02-28', '2026-03-03'],
    ['first week of March', '2026-03-01', '2026-03-07'],
    ['the last week of February 2028', '2028-02-23', '2028-02-29'],
    ['late May', '2026-05-21', '2026-05-31'],
    ['mid-April', '2026-04-11', '2026-04-20'],
    ['June', '2026-06-01', '2026-06-30'],
    ['about 10 June', '2026-06-07', '2026-06-13'],
  ])('“%s” is %s to %s', (text, from, to) => {
    expect(read(text)).toEqual({ ok: true, span: { from, to, typed: text } })
  })

  it.each([
    ['3/4/2026', ['3 April 2026', '4 March 2026']],
    ['five days later', ['between 6 and 12 March 2026, counted from planting']],
    ['two weeks after planting', ['between 15 and 21 March 2026, counted from planting']],
    ['the next day', ['between 2 and 8 March 2026, counted from planting']],
  ])('“%s” is asked about', (text, labels) => {
    const found = read(text)
    expect(found.ok ? [] : found.choices.map((each) => each.label)).toEqual(labels)
  })

  it.each(['', 'soon', '31 June', '2026-02-30', '7 to 3 March', 'week of March', '13/13/2026'])(
    '“%s” is refused with what to write',
    (text) => {
      const found = read(text)
      expect(found).toMatchObject({ ok: false, choices: [] })
      expect(found.ok ? '' : found.problem).toMatch(/\.$/)
    },
  )

  it('ages follow as ranges, and days count forth and back', () => {
    const age = daysBetween({ from: '2026-03-01', to: '2026-03-07' }, { from: '2026-04-10', to: '2026-04-10' })
    expect(agesInWords(age)).toBe('34 to 40 days')
    expect(spanInWords({ from: '2026-02-28', to: '2026-03-03' })).toBe('between 28 February and 3 March 2026')
    expect(spanInWords({ from: '2025-12-28', to: '2026-01-03' })).toBe('between 28 December 2025 and 3 January 2026')
    fc.assert(
      fc.property(fc.integer({ min: -60000, max: 60000 }), (days) => {
        const day = dayAfter('2026-01-01', days)
        expect(day).toBe(new Date(Date.UTC(2026, 0, 1 + days)).toISOString().slice(0, 10))
        expect(dayNumber(day) - dayNumber('2026-01-01')).toBe(days)
      }),
    )
  })
})
