import { given, over, OXIDES, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

const PAIRS = Object.entries(OXIDES)

export const oxide: Calculation = {
  key: 'oxide',
  name: 'Oxide and element',
  group: 'nutrients',
  about: 'What a weight of phosphate, potash or another oxide is as the element, and the other way.',
  inputs: PAIRS.flatMap(([key, { element }]) => [
    { key, name: `As ${key}`, unit: 'kg', optional: true, example: '60' },
    { key: element, name: `As ${element}`, unit: 'kg', optional: true, example: '20' },
  ]),
  cautions: [],
  applies: false,
  work: (from) => {
    const found: Record<string, Worked> = {}
    for (const [key, { element, share }] of PAIRS) {
      const part = given(`${element} in ${key}`, 100 * share, '%')
      if (from.has(key))
        found[`${element}-from-${key}`] = workedProduct(`${element} in it`, 'kg', [times(from.of(key)), times(part)], element)
      if (from.has(element)) found[`${key}-from-${element}`] = workedProduct(`As ${key}`, 'kg', [times(from.of(element)), over(part)], key)
    }
    if (Object.keys(found).length === 0) throw new RangeError('Give a weight of one of them.')
    return found
  },
}
