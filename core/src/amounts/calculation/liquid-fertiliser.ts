import { over, times, workedProduct } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const liquidFertiliser: Calculation = {
  key: 'liquid-fertiliser',
  name: 'Liquid fertilizer from a rate of a nutrient',
  group: 'nutrients',
  about:
    'The volume of a liquid that carries a rate, by its analysis in weight and its density; and of a weaker one that is to carry the same.',
  inputs: [
    { key: 'target', name: 'Rate of the nutrient', unit: 'kg/ha', example: '80' },
    { key: 'share', name: 'Nutrient by weight', unit: '%', high: 100, aboveNought: true, example: '28' },
    { key: 'density', name: 'Density', unit: 'kg/L', aboveNought: true, example: '1.28' },
    { key: 'area', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, example: '18' },
    {
      key: 'weaker-share',
      name: 'Nutrient by weight, of a weaker one',
      unit: '%',
      high: 100,
      aboveNought: true,
      optional: true,
      example: '14',
    },
    { key: 'weaker-density', name: 'Density of the weaker one', unit: 'kg/L', aboveNought: true, optional: true, example: '1.14' },
  ],
  cautions: ['Liquid fertilizer scorches leaves: nozzles that make streams, and not in heat.'],
  applies: true,
  work: (from) => {
    const rate = workedProduct('Liquid', 'L/ha', [times(from.of('target')), over(from.of('share')), over(from.of('density'))])
    const plain = { rate, 'per-plot': workedProduct('Liquid for a plot', 'mL', [times(rate), times(from.of('area'))]) }
    if (!from.has('weaker-share') || !from.has('weaker-density')) return plain
    const weaker = workedProduct('Of the weaker one', 'L/ha', [times(from.of('target')), over(from.of('weaker-share')), over(from.of('weaker-density'))]) // prettier-ignore
    return {
      ...plain,
      'weaker-rate': weaker,
      'weaker-per-plot': workedProduct('Of the weaker one, for a plot', 'mL', [times(weaker), times(from.of('area'))]),
      'times-the-volume': workedProduct('Times the volume', '', [times(weaker), over(rate)]),
    }
  },
  doubts: (from) =>
    from.has('weaker-share') !== from.has('weaker-density')
      ? ['Of the weaker one both are needed, its share and its density: half the strength by weight is not half by volume.']
      : [],
}
