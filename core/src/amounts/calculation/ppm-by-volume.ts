import { over, times, workedProduct, workedSum } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { byVolume, NARROW, strength, volume } from './strength-inputs.ts'

export const ppmByVolume: Calculation = {
  key: 'ppm-by-volume',
  name: 'Solution of so many ppm, from a label in weight by volume',
  group: 'solutions',
  about: 'How much of a liquid product gives a strength in mg of active ingredient a litre, and how much water with it.',
  inputs: [strength, volume, byVolume],
  cautions: [NARROW],
  applies: true,
  work: (from) => {
    const active = workedProduct('Active ingredient', 'mg', [times(from.of('strength')), times(from.of('volume'))])
    const product = workedProduct('Product', 'mL', [times(active), over(from.of('label'))])
    return {
      active,
      product,
      water: workedSum('Water with it', 'mL', [from.of('volume')], [product]),
      'per-litre': workedProduct('Product in a litre', 'mL/L', [times(product), over(from.of('volume'))]),
    }
  },
}
