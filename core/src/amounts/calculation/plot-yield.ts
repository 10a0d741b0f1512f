import { over, times, timesRest, workedProduct } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { moistureOf, standard } from './moisture-inputs.ts'

export const plotYield: Calculation = {
  key: 'plot-yield',
  name: 'Yield of a plot',
  group: 'samples and yield',
  about: 'From the weight of a plot, its moisture and its rows to yield at standard moisture.',
  inputs: [
    { key: 'weight', name: 'Weight of the plot', unit: 'kg', example: '6.38' },
    moistureOf,
    standard,
    { key: 'rows', from: 'rows', name: 'Rows', unit: '', aboveNought: true, example: '8' },
    { key: 'row-spacing', from: 'row spacing', name: 'Row spacing', unit: 'cm', aboveNought: true, example: '17.5' },
    { key: 'length', from: 'plot length', name: 'Length', unit: 'm', aboveNought: true, example: '7' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const area = workedProduct('Area', 'm²', [times(from.of('rows')), times(from.of('row-spacing')), times(from.of('length'))])
    const adjusted = workedProduct('Weight at standard moisture', 'kg', [times(from.of('weight')), timesRest(from.of('moisture')), over(workedProduct('Dry matter at standard', '', [timesRest(from.of('standard'))]))]) // prettier-ignore
    return { area, adjusted, yield: workedProduct('Yield', 't/ha', [times(adjusted), over(area)]) }
  },
}
