import { given, over, times, workedProduct, workedSum } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { byVolume, strength } from './strength-inputs.ts'

export const benchSpray: Calculation = {
  key: 'bench-spray',
  name: 'Spray over benches',
  group: 'solutions',
  about: 'Spray for benches at a volume on the square metre, product in it, and what comes on each pot.',
  inputs: [
    { key: 'benches', name: 'Benches', unit: '', aboveNought: true, usual: 1, example: '3' },
    { key: 'length', name: 'Length of a bench', unit: 'm', aboveNought: true, example: '6' },
    { key: 'width', name: 'Width of a bench', unit: 'm', aboveNought: true, example: '1.5' },
    { key: 'rate', name: 'Spray on a square metre', unit: 'L/m²', aboveNought: true, example: '0.2' },
    { key: 'extra', name: 'More, for what is left in hose and tank', unit: '%', usual: 10, example: '15' },
    strength,
    byVolume,
    { key: 'pots', from: 'units', name: 'Pots on them', unit: '', aboveNought: true, optional: true, example: '1350' },
  ],
  cautions: ['What runs off the leaves into the pot acts as a drench: stop before it drips.'],
  applies: true,
  work: (from) => {
    const area = workedProduct('Area', 'm²', [times(from.of('benches')), times(from.of('length')), times(from.of('width'))])
    const on = workedProduct('Spray on the benches', 'L', [times(area), times(from.of('rate'))])
    const more = workedSum('With what is left over', '%', [given('All of it', 100, '%'), from.of('extra')])
    const spray = workedProduct('Spray to make', 'L', [times(on), times(more)])
    const active = workedProduct('Active ingredient on a square metre', 'mg/m²', [times(from.of('strength')), times(from.of('rate'))])
    return {
      area,
      spray,
      product: workedProduct('Product', 'mL', [times(spray), times(from.of('strength')), over(from.of('label'))]),
      'active-per-square-metre': active,
      ...(from.has('pots') ? { 'active-per-pot': workedProduct('Active ingredient on a pot', 'mg', [times(from.of('strength')), times(on), over(from.of('pots'))]) } : {}), // prettier-ignore
    }
  },
}
