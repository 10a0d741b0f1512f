import { over, times, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const dilution: Calculation = {
  key: 'dilution',
  name: 'Dilution and stock solution',
  group: 'solutions',
  about: 'How much of a strong solution makes a weaker one; and the stock for an injector that takes one part in so many.',
  inputs: [
    { key: 'from', name: 'Strength of what there is', unit: 'mg/L', aboveNought: true, optional: true, example: '20000' },
    { key: 'to', name: 'Strength wanted', unit: 'mg/L', optional: true, example: '150' },
    { key: 'volume', name: 'To make', unit: 'mL', aboveNought: true, optional: true, example: '2000' },
    { key: 'fed', name: 'Nutrient in the water at the plants', unit: 'mg/L', optional: true, example: '200' },
    { key: 'ratio', name: 'Injector: one part in', unit: '', aboveNought: true, optional: true, example: '100' },
    { key: 'share', name: 'Nutrient in the fertilizer', unit: '%', high: 100, aboveNought: true, optional: true, example: '20' },
  ],
  cautions: ['Pour the strong solution into the water and not the other way; label the stock with what, how strong, when and who.'],
  applies: true,
  work: (from) => {
    const found: Record<string, Worked> = {}
    if (['from', 'to', 'volume'].every((key) => from.has(key))) {
      if (from.number('to') > from.number('from'))
        throw new RangeError('A dilution is weaker than what it is made from: the strength wanted is above it.')
      found['stock'] = workedProduct('Of the strong solution', 'mL', [
        times(from.of('volume')),
        times(from.of('to')),
        over(from.of('from')),
      ])
      found['diluent'] = workedSum('Water with it', 'mL', [from.of('volume')], [found['stock']])
    }
    if (from.has('fed') && from.has('share')) {
      found['fertiliser'] = workedProduct('Fertilizer in a litre at the plants', 'g/L', [times(from.of('fed')), over(from.of('share'))])
      if (from.has('ratio')) found['stock-fertiliser'] = workedProduct('Fertilizer in a litre of stock', 'g/L', [times(found['fertiliser']), times(from.of('ratio'))]) // prettier-ignore
    }
    if (from.has('fed') && from.has('ratio')) found['stock-strength'] = workedProduct('Strength of the stock', 'mg/L', [times(from.of('fed')), times(from.of('ratio'))]) // prettier-ignore
    if (Object.keys(found).length === 0)
      throw new RangeError('Give strengths and volume of a dilution, or what is fed with the injector or the share of the nutrient.')
    return found
  },
}
