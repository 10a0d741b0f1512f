import { given, over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const seeding: Calculation = {
  key: 'seeding',
  name: 'Seed for a stand',
  group: 'seed',
  about: 'Seed by number and weight for a stand: on the hectare, in a plot, in a row, and how far apart.',
  inputs: [
    { key: 'stand', name: 'Stand wanted', unit: '/m²', aboveNought: true, example: '280' },
    { key: 'germination', name: 'Germination', unit: '%', high: 100, aboveNought: true, example: '96' },
    {
      key: 'establishment',
      name: 'Of those that germinate, what comes up',
      unit: '%',
      high: 100,
      aboveNought: true,
      usual: 100,
      example: '88',
    },
    { key: 'kernel-weight', name: 'Weight of a thousand seeds', unit: 'g', aboveNought: true, example: '46.2' },
    { key: 'purity', name: 'Purity of the lot', unit: '%', high: 100, aboveNought: true, usual: 100, example: '99' },
    { key: 'rows', from: 'rows', name: 'Rows in a plot', unit: '', aboveNought: true, example: '8' },
    { key: 'row-spacing', from: 'row spacing', name: 'Row spacing', unit: 'cm', aboveNought: true, example: '17.5' },
    { key: 'length', from: 'plot length', name: 'Length of a plot', unit: 'm', aboveNought: true, example: '7.5' },
    { key: 'thinned-from', name: 'Seeds sown for each plant kept, to be thinned', unit: '', low: 1, optional: true, example: '2' },
  ],
  cautions: [
    'Treated seed: gloves and dust mask, as its label says; never fed to anything, and live inoculant not mixed with it unless its label allows.',
  ],
  applies: true,
  work: (from) => {
    const thinned = from.has('thinned-from') ? [times(from.of('thinned-from'))] : []
    const seeds = workedProduct('Seeds to sow', '/m²', [times(from.of('stand')), over(from.of('germination')), over(from.of('establishment')), ...thinned]) // prettier-ignore
    const seed = workedProduct('Weight of a seed', 'g', [times(from.of('kernel-weight')), over(given('Seeds weighed', 1000, ''))])
    const area = workedProduct('Area of a plot', 'm²', [times(from.of('rows')), times(from.of('row-spacing')), times(from.of('length'))])
    const rate = workedProduct('Seed', 'kg/ha', [times(seeds), times(seed)])
    const perPlot = workedProduct('Seed for a plot', 'g', [times(seeds), times(area), times(seed)])
    const perMetre = workedProduct('Seeds in a metre of row', '/m', [times(seeds), times(from.of('row-spacing'))])
    const apart: Worked = workedProduct('Seeds apart in the row', 'cm', [over(perMetre)])
    return {
      seeds,
      rate,
      'rate-of-lot': workedProduct('Of the lot as it is', 'kg/ha', [times(rate), over(from.of('purity'))]),
      'per-plot': perPlot,
      'number-per-plot': workedProduct('Seeds in a plot', '', [times(seeds), times(area)]),
      'per-row': workedProduct('Seed for a row', 'g', [times(perPlot), over(from.of('rows'))]),
      'per-metre': perMetre,
      apart,
    }
  },
}
