import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { currentRecords, progressOf, type FieldRecord, type Reading } from '../src/trial/index.ts'
import { layOut } from '../src/ground/index.ts'
import { countingIds, trialWith } from './build.ts'

const PERSON = '00000000-0000-7000-8000-0000000000aa'
const uuid = (n: number): string => `00000000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`
const who = (n: number) => ({ id: uuid(n), at: '2026-10-01T08:00:00Z', person: PERSON, device: 'tablet' })

function reading(n: number, value: number, supersedes: number[] = [], unit = 1): Reading {
  return {
    type: 'reading',
    ...who(n),
    unit: uuid(9000 + unit),
    trait: 'gross-weight',
    occasion: 'harvest',
    replicate: 1,
    observer: PERSON,
    value: { kind: 'number', value, typed: String(value) },
    supersedes: supersedes.map(uuid),
    confirmed: false,
  }
}
const retraction = (n: number, of: number): FieldRecord => ({ type: 'retraction', ...who(n), retracts: uuid(of), reason: '' })
const standing = (records: FieldRecord[]) => [...currentRecords(records).readings.values()].map((each) => each.id)

describe('what stands of append-only records', () => {
  it('a correction stands, and taking it back brings the old value back', () => {
    expect(standing([reading(1, 6), reading(2, 62, [1])])).toEqual([uuid(2)])
    expect(standing([reading(1, 6), reading(2, 62, [1]), retraction(3, 2)])).toEqual([uuid(1)])
    expect(standing([reading(1, 6), reading(2, 62, [1]), retraction(3, 2), retraction(4, 3)])).toEqual([uuid(2)])
  })

  it('two values for one key are a conflict, shown and not settled by the clock', () => {
    const current = currentRecords([reading(1, 6), { ...reading(2, 7), at: '2026-10-02T08:00:00Z' }])
    expect(current.readings.size).toBe(0)
    expect([...current.conflicts.values()][0]).toHaveLength(2)
    expect(standing([reading(1, 6), reading(2, 7), reading(3, 7, [1, 2])])).toEqual([uuid(3)])
  })

  it('does not depend on the order in which devices heard of the records, nor on hearing twice', () => {
    const step = fc.record({
      kind: fc.constantFrom('new', 'correct', 'retract'),
      unit: fc.integer({ min: 1, max: 3 }),
      of: fc.nat({ max: 20 }),
    })
    fc.assert(
      fc.property(fc.array(step, { maxLength: 20 }), fc.infiniteStream(fc.nat()), (steps, chance) => {
        const records = steps.map((each, i): FieldRecord => {
          const of = i === 0 ? 0 : (each.of % i) + 1
          if (each.kind === 'retract' && i > 0) return retraction(i + 1, of)
          return reading(i + 1, i, each.kind === 'correct' && i > 0 ? [of] : [], each.unit)
        })
        const shuffled = records
          .map((record) => [chance.next().value!, record] as const)
          .sort((a, b) => a[0] - b[0])
          .map(([, record]) => record)
        const one = currentRecords(records)
        const two = currentRecords([...shuffled, ...records])
        expect([...two.readings].sort()).toEqual([...one.readings].sort())
        expect([...two.conflicts].sort()).toEqual([...one.conflicts].sort())
      }),
    )
  })
})

it('progress counts plots × traits, missing with a reason as done', () => {
  const trial = trialWith(2, 2)
  const layout = layOut(trial, 1, countingIds())
  const plots = layout.units.filter((unit) => unit.walk !== null)
  const records = plots.flatMap((plot, p) =>
    trial.traits.map((trait, t): Reading => ({
      ...reading(100 + p * 10 + t, 50),
      unit: plot.id,
      trait: trait.key,
      ...(p === 0 ? { value: { kind: 'missing', reason: 'lost' } } : {}),
    })),
  )
  expect(progressOf(trial, null, [])).toMatchObject({ stage: 'question' })
  expect(progressOf(trial, layout, [])).toMatchObject({ stage: 'laid out', readings: 0, expected: 16 })
  expect(progressOf(trial, layout, records.slice(0, 5))).toMatchObject({
    stage: 'measuring',
    readings: 5,
    next: '11 readings still to take',
  })
  expect(progressOf(trial, layout, records)).toMatchObject({ stage: 'measured', readings: 16 })
})
