import type { DerivationTerm, DerivedTrait } from '../trial/index.ts'

const trait = (key: string, power: 1 | -1 = 1, complement = false): DerivationTerm => ({
  of: { kind: 'trait', trait: key },
  power,
  complement,
})
const perHarvestedArea: DerivationTerm = { of: { kind: 'harvested area' }, power: -1, complement: false }

/** Clean root yield: gross weight less dirt tare, over the harvested area. */
export function cleanRootYield(weight = 'gross-weight', tare = 'dirt-tare'): DerivedTrait {
  return {
    key: 'clean-yield',
    code: 'CRY',
    name: 'Clean root yield',
    unit: 't/ha',
    better: 'more',
    terms: [trait(weight), trait(tare, 1, true), perHarvestedArea],
  }
}

/** Sugar yield: clean root yield times the sugar content. */
export function sugarYield(content = 'sugar-content'): DerivedTrait {
  return {
    key: 'sugar-yield',
    code: 'SY',
    name: 'Sugar yield',
    unit: 't/ha',
    better: 'more',
    terms: [trait('clean-yield'), trait(content)],
  }
}

/** Marketable yield: weight over the harvested area. */
export function rootYield(weight = 'marketable-weight'): DerivedTrait {
  return {
    key: 'marketable-yield',
    code: 'MY',
    name: 'Marketable yield',
    unit: 't/ha',
    better: 'more',
    terms: [trait(weight), perHarvestedArea],
  }
}

/** Grain yield at a standard moisture: dry matter kept, water set to the standard. */
export function grainYield(standardMoisture: number, weight = 'grain-weight', moisture = 'grain-moisture'): DerivedTrait {
  return {
    key: 'grain-yield',
    code: 'GY',
    name: `Grain yield at ${standardMoisture} % moisture`,
    unit: 't/ha',
    better: 'more',
    terms: [
      trait(weight),
      trait(moisture, 1, true),
      perHarvestedArea,
      { of: { kind: 'constant', label: 'Standard moisture', value: standardMoisture, unit: '%' }, power: -1, complement: true },
    ],
  }
}
