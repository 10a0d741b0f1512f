import { given, over, times, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const soil: Calculation = {
  key: 'soil',
  name: 'Soil: a test in kg/ha, and water in a layer',
  group: 'nutrients',
  about: 'What a test in mg/kg is on the hectare to a depth, and the water in that layer from a wet and a dried sample.',
  inputs: [
    { key: 'bulk-density', name: 'Bulk density', unit: 'kg/L', aboveNought: true, high: 2.65, example: '1.32' },
    { key: 'depth', name: 'Depth of the layer', unit: 'cm', aboveNought: true, example: '30' },
    { key: 'test', name: 'Soil test', unit: 'mg/kg', optional: true, example: '12.5' },
    { key: 'wet', name: 'Sample, wet', unit: 'g', aboveNought: true, optional: true, example: '182.4' },
    { key: 'dry', name: 'Sample, dried', unit: 'g', aboveNought: true, optional: true, example: '151.9' },
  ],
  cautions: ['Know where cables and pipes run before a probe goes in.'],
  applies: false,
  work: (from) => {
    const found: Record<string, Worked> = {}
    if (from.has('test')) found['amount'] = workedProduct('In the layer', 'kg/ha', [times(from.of('test')), times(from.of('bulk-density')), times(from.of('depth'))]) // prettier-ignore
    if (from.has('wet') && from.has('dry')) {
      if (from.number('dry') > from.number('wet'))
        throw new RangeError('The dried sample is heavier than the wet one: were the two taken for each other?')
      const water = workedSum('Water in the sample', 'g', [from.of('wet')], [from.of('dry')])
      found['by-weight'] = workedProduct('Water by weight of dry soil', '', [times(water), over(from.of('dry'))])
      found['by-volume'] = workedProduct('Water by volume', '', [times(found['by-weight']), times(from.of('bulk-density')), over(given('Density of water', 1, 'kg/L'))]) // prettier-ignore
      found['water'] = workedProduct('Water in the layer', 'mm', [times(found['by-volume']), times(from.of('depth'))])
    }
    if (Object.keys(found).length === 0) throw new RangeError('Give a soil test, or the wet and the dried sample.')
    return found
  },
}
