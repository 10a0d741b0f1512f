import { over, times, workedProduct, workedSum } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { byVolume, strength } from './strength-inputs.ts'

export const drench: Calculation = {
  key: 'drench',
  name: 'Drench for pots',
  group: 'solutions',
  about: 'Solution for pots at so many mL each, product in it, and the dose a pot gets; or the strength for a dose.',
  inputs: [
    { key: 'pots', from: 'units', name: 'Pots', unit: '', aboveNought: true, example: '240' },
    { key: 'each', name: 'Drench on a pot', unit: 'mL', aboveNought: true, example: '60' },
    { key: 'dead', name: 'Left in tank and hose', unit: 'L', usual: 0, example: '1.2' },
    strength,
    byVolume,
    { key: 'dose', name: 'Dose wanted on a pot', unit: 'mg', optional: true, example: '0.25' },
  ],
  cautions: [
    'Pots are moist before a drench, and it is all taken up: what runs through is lost, and the dose with it.',
    'A drench acts longer and stronger than a spray of the same strength: there is no taking it back.',
  ],
  applies: true,
  work: (from) => {
    const on = workedProduct('Drench on the pots', 'L', [times(from.of('pots')), times(from.of('each'))])
    const all = workedSum('Solution to make', 'L', [on, from.of('dead')])
    return {
      solution: all,
      'per-pot': workedProduct('Active ingredient on a pot', 'mg', [times(from.of('strength')), times(from.of('each'))]),
      product: workedProduct('Product', 'mL', [times(from.of('strength')), times(all), over(from.of('label'))]),
      ...(from.has('dose') ? { 'strength-for-dose': workedProduct('Strength for the dose', 'mg/L', [times(from.of('dose')), over(from.of('each'))]) } : {}), // prettier-ignore
    }
  },
}
