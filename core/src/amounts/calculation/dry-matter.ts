import { over, times, timesRest, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const dryMatter: Calculation = {
  key: 'dry-matter',
  name: 'Dry matter and harvest index',
  group: 'samples and yield',
  about: 'From the fresh weight of a plot and a dried subsample to dry matter on the hectare, and the share that is grain.',
  inputs: [
    { key: 'fresh', name: 'Fresh weight of the plot, grain too', unit: 'kg', aboveNought: true, example: '21.6' },
    { key: 'sample-fresh', name: 'Subsample, fresh', unit: 'g', aboveNought: true, example: '642' },
    { key: 'sample-dry', name: 'Subsample, dried', unit: 'g', aboveNought: true, example: '431.5' },
    { key: 'area', from: 'plot area', name: 'Area', unit: 'm²', aboveNought: true, example: '9.8' },
    { key: 'grain', name: 'Grain of the plot', unit: 'kg', optional: true, example: '6.9' },
    { key: 'grain-moisture', name: 'Moisture of the grain', unit: '%', high: 99.9, optional: true, example: '14.1' },
  ],
  cautions: [],
  applies: false,
  work: (from): Record<string, Worked> => {
    const share = workedProduct('Dry matter', '%', [times(from.of('sample-dry')), over(from.of('sample-fresh'))])
    const dry = workedProduct('Dry matter on the hectare', 't/ha', [times(from.of('fresh')), times(share), over(from.of('area'))])
    if (!from.has('grain') || !from.has('grain-moisture')) return { share, dry }
    const grain = workedProduct('Dry grain on the hectare', 't/ha', [times(from.of('grain')), timesRest(from.of('grain-moisture')), over(from.of('area'))]) // prettier-ignore
    return { share, dry, grain, 'harvest-index': workedProduct('Harvest index', '', [times(grain), over(dry)]) }
  },
  doubts: (from, figures) => [
    ...(from.number('sample-dry') > from.number('sample-fresh') ? ['The dried subsample is heavier than the fresh one: were the two taken for each other?'] : []), // prettier-ignore
    ...((figures['harvest-index']?.value ?? 0) > 1 ? ['More grain than whole plants: one of the weights is wrong.'] : []),
  ],
}
