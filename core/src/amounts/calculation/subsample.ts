import { over, times, workedBy, workedProduct } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const subsample: Calculation = {
  key: 'subsample',
  name: 'From a subsample to the whole',
  group: 'samples and yield',
  about: 'What was found where only a part was kept, once or several times, as the whole plot and on the square metre.',
  inputs: [
    { key: 'found', name: 'Found in what was kept', unit: '', example: '37' },
    { key: 'keep', name: 'Part kept each time', unit: '', aboveNought: true, high: 1, example: '0.04' },
    { key: 'passes', name: 'Times it was divided', unit: '', low: 1, usual: 1, example: '2' },
    { key: 'area', from: 'plot area', name: 'Area it came from', unit: 'm²', aboveNought: true, optional: true, example: '9' },
    { key: 'weight', name: 'Weight of what was kept', unit: 'kg', aboveNought: true, optional: true, example: '0.0068' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const fraction = workedBy(
      'Part of the whole',
      from.number('keep') ** from.number('passes'),
      '',
      'part kept, as often as it was divided',
    )
    const total = workedProduct('In the whole', '', [times(from.of('found')), over(fraction)])
    return {
      fraction,
      total,
      ...(from.has('area')
        ? { 'per-square-metre': workedProduct('On the square metre', '/m²', [times(total), over(from.of('area'))]) }
        : {}),
      ...(from.has('weight')
        ? {
            'per-kilogram': workedProduct('In a kilogram', '/kg', [times(from.of('found')), over(from.of('weight'))]),
            whole: workedProduct('Weight of the whole', 'kg', [times(from.of('weight')), over(fraction)]),
          }
        : {}),
    }
  },
}
