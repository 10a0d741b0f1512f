import { describe, expect, it } from 'vitest'
import { cleanRootYield, derivationProblems, derive, grainYield, sugarYield, traitSets } from '../src/numbers/index.ts'
import { given, type Worked } from '../src/quantity/index.ts'
import { trialWith } from './build.ts'

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
