import { given, over, times, timesRest, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { moistureOf, standard } from './moisture-inputs.ts'

export const testWeight: Calculation = {
  key: 'test-weight',
  name: 'Test weight and kernel weight',
  group: 'samples and yield',
  about: 'Weight of a measured cup of grain as kg a hectolitre, and the weight of a thousand kernels.',
  inputs: [
    { key: 'weight', name: 'Grain in the cup', unit: 'g', example: '312.4' },
    { key: 'cup', name: 'Cup', unit: 'mL', aboveNought: true, example: '500' },
    { key: 'kernel-sample', name: 'Weight of the kernels counted', unit: 'g', optional: true, example: '10.92' },
    { key: 'kernels', name: 'Kernels counted', unit: '', aboveNought: true, optional: true, example: '250' },
    { ...moistureOf, optional: true },
    { ...standard, optional: true },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const found: Record<string, Worked> = {
      'test-weight': workedProduct('Test weight', 'kg/hL', [times(from.of('weight')), over(from.of('cup'))]),
    }
    if (from.has('kernel-sample') && from.has('kernels')) {
      const thousand = workedProduct('Thousand kernels', 'g', [times(from.of('kernel-sample')), over(from.of('kernels')), times(given('A thousand', 1000, ''))]) // prettier-ignore
      found['kernel-weight'] = thousand
      if (from.has('moisture') && from.has('standard'))
        found['kernel-weight-at-standard'] = workedProduct('Thousand kernels at standard moisture', 'g', [times(thousand), timesRest(from.of('moisture')), over(workedProduct('Dry matter at standard', '', [timesRest(from.of('standard'))]))]) // prettier-ignore
    }
    return found
  },
}
