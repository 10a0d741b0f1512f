import { over, times, workedBy, workedProduct, type Worked } from '../../quantity/index.ts'
import { coefficientOfVariation, mean, type Calculation } from './calculation.ts'

export const stand: Calculation = {
  key: 'stand',
  name: 'Stand from counts',
  group: 'seed',
  about: 'Plants on the square metre from counts along rows, against the stand wanted and the seed that was sown.',
  inputs: [
    { key: 'counts', name: 'Plants in each count', unit: '', kind: 'several', example: '14 17 12 19 15' },
    { key: 'row-length', name: 'Length of row counted each time', unit: 'm', aboveNought: true, example: '0.5' },
    { key: 'row-spacing', from: 'row spacing', name: 'Row spacing', unit: 'cm', aboveNought: true, example: '25' },
    { key: 'target', name: 'Stand wanted', unit: '/m²', aboveNought: true, optional: true, example: '120' },
    { key: 'seeds', name: 'Seeds sown', unit: '/m²', aboveNought: true, optional: true, example: '150' },
    { key: 'germination', name: 'Germination', unit: '%', high: 100, aboveNought: true, usual: 100, example: '93' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const counts = from.several('counts')
    const each = workedBy('Mean count', mean(counts), '', `mean of ${counts.length}`)
    const plants = workedProduct('Plants', '/m²', [times(each), over(from.of('row-length')), over(from.of('row-spacing'))])
    const found: Record<string, Worked> = { 'mean-count': each, plants }
    if (from.has('target')) found['of-target'] = workedProduct('Of the stand wanted', '%', [times(plants), over(from.of('target'))])
    if (from.has('seeds')) found['emergence'] = workedProduct('Of the live seed, what came up', '%', [times(plants), over(from.of('seeds')), over(from.of('germination'))]) // prettier-ignore
    if (counts.length > 1 && each.value > 0) found['variation'] = workedBy('Variation between counts', coefficientOfVariation(counts), '%', 'standard deviation over mean') // prettier-ignore
    return found
  },
  doubts: (_, { emergence }) =>
    emergence && emergence.value > 100 ? ['More plants than live seeds sown: look at the counts, the row spacing or volunteers.'] : [],
}
