import { expect, it } from 'vitest'
import { decide, decisionSentences, priceOnScale } from '../src/decision/index.ts'
import { layOut } from '../src/ground/index.ts'
import { plotTable } from '../src/numbers/index.ts'
import type { Economics, FieldRecord, Trial } from '../src/trial/index.ts'
import { countingIds, trialWith } from './build.ts'

const economics: Economics = {
  currency: '€',
  pricePerTonne: 40,
  baseQuality: 16,
  percentPerPoint: 10,
  productPrice: 0.3,
  applicationCost: 12,
  reference: null,
}

/** Two rates in two blocks, weighed without dirt: 10.8 kg on 10.8 m² is 10 t/ha. */
function measured(yields: readonly [number, number, number, number], sugar: readonly [number, number]) {
  const draft = trialWith(2, 2)
  const trial: Trial = {
    ...draft,
    id: '00000000-0000-7000-8000-00000000ffff',
    version: 1,
    createdAt: '2026-01-01T00:00:00Z',
    deletedAt: null,
    economics,
    supply: {
      product: 'Lime nitrate',
      analysis: { N: 20 },
      applications: 2,
      labelMaximumPerApplication: null,
      labelMaximumPerSeason: null,
      reentryHours: null,
      preHarvestDays: null,
      protection: '',
      overMaximumReason: '',
    },
  }
  const newId = countingIds()
  const layout = layOut(trial, 2, newId)
  const records: FieldRecord[] = []
  const blocks = layout.units.filter((unit) => unit.kind === 'block')
  for (const plot of layout.units.filter((unit) => unit.walk !== null)) {
    const level = plot.received['factor-1'] === 'l1' ? 1 : 0
    const block = blocks.findIndex((each) => each.id === plot.in[0])
    const give = { 'gross-weight': (yields[block * 2 + level]! * 10.8) / 10, 'dirt-tare': 0, 'sugar-content': sugar[level] }
    for (const [trait, value] of Object.entries(give)) {
      records.push({
        type: 'reading',
        id: newId(),
        at: '2026-10-01T08:00:00Z',
        person: plot.id,
        device: 'd',
        unit: plot.id,
        trait,
        occasion: 'harvest',
        replicate: 1,
        observer: plot.id,
        value: { kind: 'number', value, typed: '' },
        supersedes: [],
        confirmed: true,
      })
    }
  }
  return { trial, layout, table: plotTable(trial, layout, records) }
}

it('works the money out as by hand', () => {
  const { trial, layout, table } = measured([60, 69, 62, 73], [16, 15])
  const outcome = decide(trial, layout, table, economics)
  if (!outcome.ok) throw new Error(outcome.problem)
  const [none, some] = outcome.decision.levels
  // Without: 61 t at 40; with 40 kg N: 71 t at 36, less 200 kg at 0.30 and two passes at 12.
  expect(none!.net).toBeCloseTo(61 * 40, 8)
  expect(some!.gross).toBeCloseTo(71 * 36, 8)
  expect(some!.cost.value).toBeCloseTo(200 * 0.3 + 24, 8)
  expect(some!.gain.difference).toBeCloseTo(71 * 36 - 84 - 61 * 40, 8)
  expect(some!.breakEven!.value).toBeCloseTo(84 / 40, 8)
  expect(some!.extraYield).toBeCloseTo(10, 8)
  expect(outcome.decision.priceAtReference.value).toBeCloseTo(40, 8)
  expect(some!.gain.odds).toBeGreaterThan(0.4)
  expect(some!.gain.odds).toBeLessThan(0.95)
  expect(some!.gain.lower).toBeLessThan(some!.gain.difference)
})

it('another reference turns the gain round, and words follow', () => {
  const { trial, layout, table } = measured([60, 69, 62, 73], [16, 16])
  const outcome = decide(trial, layout, table, { ...economics, reference: 'l1' })
  if (!outcome.ok) throw new Error(outcome.problem)
  expect(outcome.decision.levels[0]!.gain.difference).toBeCloseTo(61 * 40 - (71 * 40 - 84), 8)
  expect(decisionSentences(outcome.decision, trial.factors[0]!, '€', 'metric')[0]).toMatch(/nothing returned more than 40 kg N\/ha/)
})

it('a scale price never turns negative, and missing parts are said', () => {
  expect(priceOnScale(economics, 17)).toBeCloseTo(44)
  expect(priceOnScale(economics, 1)).toBe(0)
  const { trial, layout, table } = measured([60, 69, 62, 73], [16, 16])
  expect(decide({ ...trial, yieldTrait: null }, layout, table, economics)).toMatchObject({ ok: false })
  expect(decide(trial, layout, plotTable(trial, layout, []), economics)).toMatchObject({ ok: false })
})
