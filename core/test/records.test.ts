import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { cellKey, RecordSet, type FieldRecord, type Reading, type Trait, type Trial } from '../src/trial/index.ts'
import { asTrial, countingIds, designed, PERSON, readingOf, trialWith } from './build.ts'

const uuid = (n: number): string => `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`
const OTHER = uuid(0xbb)

function reading(n: number, value: number, supersedes: number[] = [], unit = 1): Reading {
  return readingOf(uuid(9000 + unit), 'gross-weight', value, { id: uuid(n), supersedes: supersedes.map(uuid) })
}
const retraction = (n: number, of: number): FieldRecord => ({
  type: 'retraction',
  id: uuid(n),
  at: '2026-10-01T08:00:00Z',
  person: PERSON,
  device: 'tablet',
  retracts: uuid(of),
  reason: '',
})
const standing = (records: FieldRecord[], unit = 1): string[] => {
  const set = new RecordSet(records)
  return [...set.readings(cellKey(uuid(9000 + unit), 'gross-weight', 'harvest')).values()].flat().map((each) => each.id)
}

describe('what stands of append-only records', () => {
  it('a correction stands, and taking it back brings the old value back', () => {
    expect(standing([reading(1, 6), reading(2, 62, [1])])).toEqual([uuid(2)])
    expect(standing([reading(1, 6), reading(2, 62, [1]), retraction(3, 2)])).toEqual([uuid(1)])
    expect(standing([reading(1, 6), reading(2, 62, [1]), retraction(3, 2), retraction(4, 3)])).toEqual([uuid(2)])
  })

  it('two values for one key are a conflict, shown and not settled by the clock', () => {
    expect(standing([reading(1, 6), { ...reading(2, 7), at: '2026-10-02T08:00:00Z' }])).toEqual([uuid(1), uuid(2)])
    expect(standing([reading(1, 6), reading(2, 7), reading(3, 7, [1, 2])])).toEqual([uuid(3)])
  })

  it('a chain of thousands of retractions, and a ring of them, are walked through', () => {
    const chain = Array.from({ length: 8000 }, (_, i) => retraction(i + 2, i + 1))
    expect(standing([reading(1, 6), ...chain])).toEqual([uuid(1)])
    expect(standing([reading(1, 6), ...chain.slice(0, -1)])).toEqual([])
    expect(standing([reading(1, 6), retraction(2, 1), retraction(3, 2), retraction(2, 3)])).toHaveLength(1)
  })

  const step = fc.record({
    kind: fc.constantFrom('new', 'correct', 'retract'),
    unit: fc.integer({ min: 1, max: 3 }),
    of: fc.nat({ max: 20 }),
  })
  const made = fc.array(step, { maxLength: 20 }).map((steps) =>
    steps.map((each, i): FieldRecord => {
      const of = i === 0 ? 0 : (each.of % i) + 1
      if (each.kind === 'retract' && i > 0) return retraction(i + 1, of)
      return reading(i + 1, i, each.kind === 'correct' && i > 0 ? [of] : [], each.unit)
    }),
  )

  it('does not depend on the order in which devices heard of the records, nor on hearing twice, nor on hearing one by one', () => {
    fc.assert(
      fc.property(made, fc.infiniteStream(fc.nat()), (records, chance) => {
        const shuffled = records
          .map((record) => [chance.next().value!, record] as const)
          .sort((a, b) => a[0] - b[0])
          .map(([, record]) => record)
        for (const unit of [1, 2, 3]) expect(standing([...shuffled, ...records], unit).sort()).toEqual(standing(records, unit).sort())
      }),
    )
  })

  it('rows that are taken out leave everything as if they had never come', () => {
    fc.assert(
      fc.property(made, fc.nat({ max: 19 }), (records, at) => {
        fc.pre(records.length > at)
        const set = new RecordSet(records)
        set.remove([records[at]!.id])
        for (const unit of [1, 2, 3]) {
          const cell = cellKey(uuid(9000 + unit), 'gross-weight', 'harvest')
          const ids = (of: RecordSet): string[] =>
            [...of.readings(cell).values()]
              .flat()
              .map((each) => each.id)
              .sort()
          expect(ids(set)).toEqual(ids(new RecordSet(records.filter((_, i) => i !== at))))
        }
      }),
    )
  })
})

/** A trial of one trait of a kind, read on plots (or plants in pots) at two visits. */
function trialOf(
  trait: Partial<Trait>,
  plants = 0,
): { trial: Trial; book: (records: FieldRecord[]) => TrialBook; units: string[]; layouts: ReturnType<typeof layOut>[] } {
  const base = designed(trialWith(2, 3), { unit: plants > 0 ? 'pot' : 'plot', plants })
  const observed: Trait = { ...base.traits.observed[0]!, key: 'y', name: 'Y', code: 'Y', unit: '', low: null, high: null, ...trait }
  const trial = asTrial({
    ...base,
    traits: {
      ...base.traits,
      observed: [observed],
      derived: [],
      visits: [
        { key: 'spring', name: 'Spring', on: null },
        { key: 'autumn', name: 'Autumn', on: null },
      ],
      response: 'y',
      yieldTrait: null,
      qualityTrait: null,
    },
  })
  const layouts = [layOut(trial, 'site-1', 2, countingIds())]
  const units = layouts[0]!.units.filter((unit) => unit.kind === (plants > 0 ? 'pot' : 'plot')).map((unit) => unit.id)
  return { trial, layouts, units, book: (records) => new TrialBook(trial, layouts, records) }
}

const at = (unit: string, value: number | Reading['value'], more: Partial<Reading> = {}): Reading =>
  readingOf(unit, 'y', value, { visit: 'spring', ...more })
const count = (value: number, of: number | null = null): Reading['value'] => ({ kind: 'count', value, of, typed: '' })

describe('one resolver says what a value is', () => {
  it('visits are never merged', () => {
    const { book, units } = trialOf({ kind: 'number', unit: 'kg' })
    const [unit] = units
    const open = book([at(unit!, 10), at(unit!, 30, { visit: 'autumn' })])
    const value = (visit: string) => open.value(unit!, 'y', visit)
    expect([value('spring'), value('autumn')].map((each) => each.kind === 'value' && each.reduced.value)).toEqual([10, 30])
  })

  it('samples are brought together as the kind says: numbers and scores averaged, counts and shares added up with what they are of', () => {
    const sampled = (kind: Trait['kind'], values: Reading['value'][], trait: Partial<Trait> = {}) => {
      const { book, units } = trialOf({ kind, samples: 3, ...trait })
      const found = book(values.map((value, i) => at(units[0]!, value, { sample: i + 1 }))).value(units[0]!, 'y', 'spring')
      return found.kind === 'value' ? found.reduced : found.kind
    }
    const number = (value: number): Reading['value'] => ({ kind: 'number', value, typed: '', typedMeasure: null })
    expect(sampled('number', [number(6), number(10)])).toMatchObject({ value: 8, part: 8 })
    expect(
      sampled(
        'score',
        [
          { kind: 'score', value: 4, typed: '4' },
          { kind: 'score', value: 7, typed: '7' },
        ],
        { low: 1, high: 9 },
      ),
    ).toMatchObject({ value: 5.5 })
    expect(sampled('count', [count(3), count(4)])).toMatchObject({ value: 7, part: 7, exposure: null })
    expect(sampled('count', [count(3, 0.5), count(4, 0.25)])).toMatchObject({ value: 7, exposure: 0.75 })
    expect(sampled('share', [count(1, 2), count(9, 10)])).toMatchObject({ value: (100 * 10) / 12, part: 10, exposure: 12 })
    expect(
      sampled('yes-no', [
        { kind: 'yes/no', value: true },
        { kind: 'yes/no', value: false },
        { kind: 'yes/no', value: true },
      ]),
    ).toMatchObject({ part: 2, exposure: 3, text: '2 of 3 yes' })
    expect(sampled('date', [{ kind: 'date', value: '2026-02-01' }])).toMatchObject({ value: 32, text: '2026-02-01' })
    expect(
      sampled('stage', [{ kind: 'stage', value: 'buds' }], {
        steps: [
          { score: 0, meaning: 'nothing' },
          { score: 1, meaning: 'buds' },
        ],
      }),
    ).toMatchObject({ value: 1, text: 'buds' })
    expect(sampled('text', [{ kind: 'text', value: 'curled' }])).toMatchObject({ value: null, text: 'curled' })
  })

  it('a bound stays a bound, through samples and into the analysis', () => {
    const { book, units, trial, layouts } = trialOf({ kind: 'number', unit: 'mg/kg', samples: 2 })
    const below: Reading['value'] = { kind: 'below limit', limit: 9, typed: '<9', typedMeasure: null }
    const open = book([at(units[0]!, below), ...units.slice(1).map((unit, i) => at(unit, 12 + i))])
    expect(open.value(units[0]!, 'y', 'spring')).toMatchObject({ kind: 'value', reduced: { value: 9, bound: 'below', part: null } })
    const { without } = analyseTrait(trial, layouts, open.observations('y', 'spring'), 'y')
    expect([without.observations, without.missing]).toEqual([5, 0])
    expect(without.cautions.map((each) => each.text).join()).toMatch(
      /1 value of Y is known only to lie below what could be read and is not in the means, which are too high/,
    )
  })

  it('two observers are shown as two, and averaged only because somebody asked', () => {
    const { book, units, trial, layouts } = trialOf({ kind: 'number', unit: 'cm' })
    const records = units.flatMap((unit, i) => [at(unit, 10 + i), at(unit, 14 + i, { observer: OTHER })])
    const apart = book(records)
    expect(apart.value(units[0]!, 'y', 'spring')).toMatchObject({ kind: 'observers', by: [{ observer: PERSON }, { observer: OTHER }] })
    expect(apart.observations('y', 'spring')).toMatchObject({ observations: [], apart: 6, observers: [PERSON, OTHER] })
    expect(() => analyseTrait(trial, layouts, apart.observations('y', 'spring'), 'y')).toThrow(
      /read by two people.*choose one of them, or have them averaged/,
    )
    expect(apart.observations('y', 'spring', OTHER).observations.map((each) => each.value)).toEqual([14, 15, 16, 17, 18, 19])
    const averaged = trialOf({ kind: 'number', unit: 'cm', observers: 'averaged' })
    expect(averaged.book(records).observations('y', 'spring').observations).toMatchObject([{ value: 12 }, {}, {}, {}, {}, {}])
    // Each read by one person is no question at all.
    const shared = book(units.map((unit, i) => at(unit, 10 + i, { observer: i % 2 ? OTHER : PERSON })))
    expect(shared.observations('y', 'spring')).toMatchObject({ apart: 0, observers: [] })
  })

  it('plants are brought up to the pot that was treated, a lost one with its reason left out', () => {
    const { book, units, trial, layouts } = trialOf({ kind: 'count', on: 'plant' }, 3)
    const plants = layouts[0]!.units.filter((unit) => unit.kind === 'plant')
    const records = plants.map((plant, i) => at(plant.id, i === 2 ? { kind: 'missing', reason: 'Plant dead' } : count(4 + (i % 5))))
    const open = book(records)
    const value = open.value(units[0]!, 'y', 'spring')
    expect(value).toMatchObject({ kind: 'value', reduced: { value: 4 + 5 } })
    const { observations } = open.observations('y', 'spring')
    expect(observations[0]).toMatchObject({ value: 4.5, samples: 2 })
    const { without } = analyseTrait(trial, layouts, open.observations('y', 'spring'), 'y')
    expect([without.unit, without.observations]).toEqual(['pot', 6])
    // Counts of unlike numbers of plants are taken per plant.
    expect(without.residuals[0]!.value).toBeCloseTo(4.5, 12)
  })

  it('shares reach the analysis with what was looked at, as they do from a table', () => {
    const { book, units, trial, layouts } = trialOf({ kind: 'share' })
    const open = book(units.map((unit, i) => at(unit, count(2 + i, 10 + 10 * (i % 2)))))
    const { without } = analyseTrait(trial, layouts, open.observations('y', 'spring'), 'y')
    expect(without.residuals.map((row) => row.exposure)).toEqual([10, 20, 10, 20, 10, 20])
    expect(without.residuals[1]!.value).toBeCloseTo(15, 12)
  })
})

describe('the book is kept up to date record by record', () => {
  it('says the same as one made from all records at once', () => {
    const { book, units, layouts } = trialOf({ kind: 'count', on: 'plant' }, 2)
    const plants = layouts[0]!.units.filter((unit) => unit.kind === 'plant').map((unit) => unit.id)
    const act = fc.record({
      plant: fc.nat({ max: plants.length - 1 }),
      visit: fc.constantFrom('spring', 'autumn'),
      value: fc.nat({ max: 40 }),
      how: fc.constantFrom('new', 'correct', 'retract', 'remove'),
      of: fc.nat(),
    })
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        const kept: FieldRecord[] = []
        const open = book([])
        acts.forEach(({ plant, visit, value, how, of }, i) => {
          const other = kept[of % Math.max(1, kept.length)]
          // What is read in between is kept and must not go stale.
          open.value(units[0]!, 'y', 'spring')
          open.value(units[1]!, 'y', 'autumn')
          if (how === 'remove' && other) {
            open.remove([other.id])
            kept.splice(kept.indexOf(other), 1)
            return
          }
          const record: FieldRecord =
            how === 'retract' && other
              ? ({ ...(retraction(1, 1) as object), id: uuid(5000 + i), retracts: other.id } as FieldRecord)
              : readingOf(plants[plant]!, 'y', count(value), {
                  id: uuid(5000 + i),
                  visit,
                  supersedes: how === 'correct' && other?.type === 'reading' ? [other.id] : [],
                })
          kept.push(record)
          open.add([record])
        })
        const anew = book(kept)
        expect(open.progress()).toEqual(anew.progress())
        for (const unit of units)
          for (const visit of ['spring', 'autumn']) expect(open.value(unit, 'y', visit)).toEqual(anew.value(unit, 'y', visit))
      }),
      { numRuns: 150 },
    )
  })

  it('progress counts units × traits × visits × samples, missing with a reason as done', () => {
    const trial = asTrial(trialWith(2, 2))
    const layouts = [layOut(trial, 'site-1', 1, countingIds())]
    const plots = layouts[0]!.units.filter((unit) => unit.walk !== null)
    const records = plots.flatMap((plot, p) =>
      trial.traits.observed.map((trait): Reading => {
        const value: Reading['value'] =
          p === 0
            ? { kind: 'missing', reason: 'lost' }
            : trait.kind === 'score'
              ? { kind: 'score', value: 7, typed: '7' }
              : { kind: 'number', value: 50, typed: '50', typedMeasure: null }
        return readingOf(plot.id, trait.key, value)
      }),
    )
    expect(new TrialBook(trial, [], []).progress()).toMatchObject({ stage: 'question' })
    expect(new TrialBook(trial, layouts, []).progress()).toMatchObject({ stage: 'laid out', readings: 0, expected: 16 })
    expect(new TrialBook(trial, layouts, records.slice(0, 5)).progress()).toMatchObject({
      stage: 'measuring',
      readings: 5,
      next: '11 readings still to take',
    })
    expect(new TrialBook(trial, layouts, records).progress()).toMatchObject({ stage: 'measured', readings: 16 })
  })
})
