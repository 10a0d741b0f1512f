import { over, times, timesRest, workedProduct, workedSum } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'
import { moistureOf, standard } from './moisture-inputs.ts'

export const moisture: Calculation = {
  key: 'moisture',
  name: 'Weight at a standard moisture',
  group: 'samples and yield',
  about: 'A weight brought to a standard moisture, and its dry matter. Moistures are of the wet weight.',
  inputs: [{ key: 'weight', name: 'Weight', unit: 'kg', example: '13.4' }, moistureOf, standard],
  cautions: [],
  applies: false,
  work: (from) => {
    const dry = workedProduct('Dry matter', 'kg', [times(from.of('weight')), timesRest(from.of('moisture'))])
    const adjusted = workedProduct('At standard moisture', 'kg', [times(from.of('weight')), timesRest(from.of('moisture')), over(workedProduct('Dry matter at standard', '', [timesRest(from.of('standard'))]))]) // prettier-ignore
    const lost = workedSum('Lost to the standard', 'kg', [from.of('weight')], [adjusted])
    return {
      adjusted,
      dry,
      shrink: workedProduct('Shrink', '%', [times(lost), over(from.of('weight'))]),
      'dry-basis': workedProduct('Moisture of the dry weight', '%', [times(from.of('moisture')), over(workedProduct('Dry matter', '', [timesRest(from.of('moisture'))]))]), // prettier-ignore
    }
  },
}
