import { describe, expect, it } from 'vitest'
import { applicationCautions, nutrientAmounts, sheetRefusal } from '../src/amounts/index.ts'
import { layOut } from '../src/ground/index.ts'
import { cleanRootYield, derivationProblem, derive, grainYield, plotTable, sugarYield, traitSets } from '../src/numbers/index.ts'
import { given, workingLine, type Worked } from '../src/quantity/index.ts'
import type { FieldRecord, Supply } from '../src/trial/index.ts'
import { countingIds, trialWith } from './build.ts'

const SUPPLY: Supply = {
  product: 'Ammonium nitrate with lime',
  analysis: { N: 27 },
  applications: 2,
  labelMaximumPerApplication: 250,
  labelMaximumPerSeason: null,
  reentryHours: null,
  preHarvestDays: 60,
  protection: 'gloves',
  overMaximumReason: '',
}

describe('amounts', () => {
  // By hand: 120 kg N/ha ÷ 0.27 = 444.44 kg/ha; half of it on 27 m² is 600 g.
  const trial = { ...trialWith(4, 3), supply: SUPPLY }
  const layout = layOut(trial, 5, countingIds())

  it('go from nutrient to product to plot, block and site', () => {
    const outcome = nutrientAmounts(trial, layout)
    if (!outcome.ok) throw new Error(outcome.problem)
    const top = outcome.amounts.levels[3]!
    expect(top.productRate.value).toBeCloseTo(444.4444, 3)
    expect(top.perPlot.value).toBeCloseTo(600, 9)
    expect(top.perSite.value).toBeCloseTo(1.8, 9)
    expect(top.plots).toHaveLength(3)
    expect(outcome.amounts.siteTotal.value).toBeCloseTo(3 * (0.2 + 0.4 + 0.6), 9)
    expect(workingLine(top.productRate)).toBe('120 kg N/ha ÷ 27 % = 444.4 kg/ha')
    expect(workingLine(top.perPlot)).toBe('222.2 kg/ha × 27.00 m² = 600.0 g')
  })

  it('are the same without a layout, and refused over a stated maximum until there is a reason', () => {
    const planned = nutrientAmounts({ ...trial, supply: { ...SUPPLY, applications: 1 } }, null)
    if (!planned.ok) throw new Error(planned.problem)
    expect(planned.amounts.overMaximum).toHaveLength(2)
    expect(sheetRefusal({ supply: SUPPLY }, planned.amounts.overMaximum)).toMatch(/not printed over a stated label maximum/)
    expect(sheetRefusal({ supply: { ...SUPPLY, overMaximumReason: 'trial licence 7' } }, planned.amounts.overMaximum)).toBeNull()
  })

  it('say what is missing instead of guessing', () => {
    expect(nutrientAmounts({ ...trial, supply: null }, null)).toMatchObject({ ok: false })
    expect(nutrientAmounts({ ...trial, supply: { ...SUPPLY, analysis: {} } }, null)).toMatchObject({ ok: false })
    expect(applicationCautions(trial).join(' ')).toMatch(/label.*come first[\s\S]*Look up the label maximum per season/)
  })
})

describe('derived values', () => {
  const ground = trialWith(2, 1).sites[0]!.ground
  const values = (of: Record<string, [number, string]>) =>
    new Map<string, Worked>(Object.entries(of).map(([key, [value, unit]]) => [key, given(key, value, unit)]))

  it('clean root and sugar yield, worked by hand', () => {
    const observed = values({ 'gross-weight': [81, 'kg'], 'dirt-tare': [8, '%'], 'sugar-content': [17.5, '%'] })
    const clean = derive(cleanRootYield(), observed, ground)
    if (!clean.ok) throw new Error()
    // 81 kg × 0.92 ÷ 10.8 m² = 6.9 kg/m² = 69 t/ha
    expect(clean.worked.value).toBeCloseTo(69, 9)
    const sugar = derive(sugarYield(), new Map([...observed, ['clean-yield', clean.worked]]), ground)
    expect(sugar.ok && sugar.worked.value).toBeCloseTo(12.075, 9)
  })

  it('grain at a standard moisture by the same mechanism', () => {
    const grain = derive(grainYield(14), values({ 'grain-weight': [8.6, 'kg'], 'grain-moisture': [18, '%'] }), ground)
    // 8.6 × 0.82 ÷ 0.86 ÷ 10.8 m² × 10
    expect(grain.ok && grain.worked.value).toBeCloseTo(((8.6 * 0.82) / 0.86 / 10.8) * 10, 9)
  })

  it('name what is missing, and every set offered makes its units', () => {
    expect(derive(cleanRootYield(), values({ 'gross-weight': [81, 'kg'] }), ground)).toEqual({ ok: false, missing: ['dirt-tare'] })
    for (const set of traitSets)
      for (const derived of set.derived) expect(derivationProblem(derived, [...set.traits, ...set.derived], ground)).toBeNull()
  })
})

it('the table of plots averages samples, keeps reasons for missing, and finds who is left out', () => {
  const trial = trialWith(2, 1)
  const layout = layOut(trial, 1, countingIds())
  const [a, b] = layout.units.filter((unit) => unit.walk !== null)
  const base = {
    at: '2026-10-01T08:00:00Z',
    person: a!.id,
    device: 'd',
    occasion: 'harvest',
    observer: a!.id,
    supersedes: [],
    confirmed: false,
  }
  const newId = countingIds()
  const take = (unit: string, trait: string, value: number, replicate = 1): FieldRecord => ({
    type: 'reading',
    ...base,
    id: `1${newId().slice(1)}`,
    unit,
    trait,
    replicate,
    value: { kind: 'number', value, typed: '' },
  })
  const records: FieldRecord[] = [
    take(a!.id, 'gross-weight', 80),
    take(a!.id, 'dirt-tare', 6, 1),
    take(a!.id, 'dirt-tare', 10, 2),
    take(a!.id, 'sugar-content', 40),
    {
      type: 'reading',
      ...base,
      id: newId(),
      unit: b!.id,
      trait: 'gross-weight',
      replicate: 1,
      value: { kind: 'missing', reason: 'Plot lost' },
    },
    {
      type: 'note',
      id: newId(),
      at: base.at,
      person: a!.id,
      device: 'd',
      unit: a!.id,
      trait: null,
      kind: 'left out',
      flag: null,
      text: 'run-on',
    },
  ]
  const { rows } = plotTable(trial, layout, records)
  const row = rows.find((each) => each.unit.id === a!.id)!
  const tare = row.values.get('dirt-tare')
  expect(tare?.kind === 'value' && tare.worked.value).toBe(8)
  const sugar = row.values.get('sugar-content')
  expect(sugar?.kind === 'value' && sugar.outOfRange && !sugar.confirmed).toBe(true)
  expect(row.leftOut('clean-yield')?.text).toBe('run-on')
  expect(rows.find((each) => each.unit.id === b!.id)!.values.get('clean-yield')).toEqual({ kind: 'missing', reason: 'Plot lost' })
})
