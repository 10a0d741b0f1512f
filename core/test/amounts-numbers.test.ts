import { describe, expect, it } from 'vitest'
import { applicationCautions, differsInWords, nutrientAmounts, sheetRefusal } from '../src/amounts/index.ts'
import { layOut, outline } from '../src/ground/index.ts'
import { cleanRootYield, derivationProblems, derive, grainYield, sugarYield, traitSets } from '../src/numbers/index.ts'
import { given, workingLine, type Worked } from '../src/quantity/index.ts'
import type { Supply } from '../src/trial/index.ts'
import { countingIds, kindsOf, trialWith } from './build.ts'
import { treatmentsOf } from '../src/trial/index.ts'

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
  const trial = trialWith(4, 3)
  const [site] = trial.sites
  const layout = layOut(trial, 'site-1', 5, countingIds())
  const amountsOf = (supply: Supply | null, units = layout.units) => nutrientAmounts(trial.treatments, supply, site!, units)

  it('go from nutrient to product to plot, block and site', () => {
    const outcome = amountsOf(SUPPLY)
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
    const planned = amountsOf({ ...SUPPLY, applications: 1 }, outline(trial, 'site-1'))
    if (!planned.ok) throw new Error(planned.problem)
    expect(planned.amounts.overMaximum).toHaveLength(2)
    expect(planned.amounts.levels.map((each) => each.plots.length)).toEqual([3, 3, 3, 3])
    expect(sheetRefusal(SUPPLY, planned.amounts.overMaximum)).toMatch(/not printed over a stated label maximum/)
    expect(sheetRefusal({ ...SUPPLY, overMaximumReason: 'trial licence 7' }, planned.amounts.overMaximum)).toBeNull()
  })

  it('tell what else comes with a product, by volume where it is a liquid, and that treatments differ in it', () => {
    const outcome = amountsOf({ ...SUPPLY, analysis: { N: 20, S: 6, Ca: 3 }, density: 1.25, applications: 1 })
    if (!outcome.ok) throw new Error(outcome.problem)
    const [none, , , top] = outcome.amounts.levels
    // 120 kg N/ha ÷ 0.2 = 600 kg/ha, with 36 kg S and 18 kg Ca; on 27 m² 1620 g, ÷ 1.25 = 1296 mL.
    expect(top!.others.map((each) => [each.nutrient, each.rate.value])).toEqual([
      ['S', expect.closeTo(36, 9)],
      ['Ca', expect.closeTo(18, 9)],
    ])
    expect(top!.volumePerPlot!.value).toBeCloseTo(1296, 9)
    expect(none!.others.map((each) => each.rate.value)).toEqual([0, 0])
    expect(differsInWords('N', outcome.amounts.differsAlsoIn)).toMatch(
      /differ also in sulphur \(S\) and calcium \(Ca\): what these do cannot be told/,
    )
    const plain = amountsOf(SUPPLY)
    expect(plain.ok && [plain.amounts.differsAlsoIn, plain.amounts.levels[3]!.volumePerPlot]).toEqual([[], null])
  })

  it('say what is missing instead of guessing', () => {
    expect(amountsOf(null)).toMatchObject({ ok: false })
    expect(amountsOf({ ...SUPPLY, analysis: {} })).toMatchObject({ ok: false })
    const varieties = kindsOf('variety', 'Variety', ['A', 'B'])
    const kinds = treatmentsOf([varieties])
    expect(nutrientAmounts(kinds, SUPPLY, site!, layout.units)).toMatchObject({
      ok: false,
      problem: expect.stringContaining('not rates of a nutrient') as string,
    })
    expect(applicationCautions(SUPPLY).join(' ')).toMatch(/label.*come first[\s\S]*Look up the label maximum per season/)
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
    for (const { observed, derived } of traitSets)
      expect(derivationProblems({ observed: [...observed], derived: [...derived] })).toEqual([])
  })
})
