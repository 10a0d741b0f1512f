import { over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { NARROW, strength, volume } from './strength-inputs.ts'

export const ppmByWeight: Calculation = {
  key: 'ppm-by-weight',
  name: 'Solution of so many ppm, from a label in weight by weight',
  group: 'solutions',
  about: 'The same from a label that gives % by weight: in grams, and with the density in mL.',
  inputs: [
    strength,
    volume,
    { key: 'label', name: 'Active ingredient by weight', unit: '%', high: 100, aboveNought: true, example: '11.8' },
    { key: 'density', name: 'Density of the product', unit: 'kg/L', aboveNought: true, optional: true, example: '1.06' },
  ],
  cautions: [NARROW],
  applies: true,
  work: (from): Record<string, Worked> => {
    const product = workedProduct('Product by weight', 'g', [times(from.of('strength')), times(from.of('volume')), over(from.of('label'))])
    if (!from.has('density')) return { product }
    return {
      product,
      'by-volume': workedProduct('Product by volume', 'mL', [times(product), over(from.of('density'))]),
      'active-in-product': workedProduct('Active ingredient in the product', 'g/L', [times(from.of('label')), times(from.of('density'))]),
    }
  },
}
