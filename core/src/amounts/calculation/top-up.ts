import { over, times, workedProduct, workedSum } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const topUp: Calculation = {
  key: 'top-up',
  name: 'Two products: one matched, the other makes up the rest',
  group: 'nutrients',
  about: 'A first product is matched on one nutrient; a second, which has only the other, brings that up to its target.',
  inputs: [
    { key: 'first-target', name: 'Target the first is matched on', unit: 'kg/ha', example: '50' },
    { key: 'second-target', name: 'Target of the other nutrient', unit: 'kg/ha', example: '90' },
    { key: 'first-share', name: 'Share of the matched nutrient in the first', unit: '%', high: 100, aboveNought: true, example: '46' },
    { key: 'other-share', name: 'Share of the other nutrient in the first', unit: '%', high: 100, example: '18' },
    { key: 'second-share', name: 'Share of the other nutrient in the second', unit: '%', high: 100, aboveNought: true, example: '46' },
    { key: 'area', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, example: '10.5' },
  ],
  cautions: [],
  applies: true,
  work: (from) => {
    const first = workedProduct('First product', 'kg/ha', [times(from.of('first-target')), over(from.of('first-share'))])
    const brought = workedProduct('The other nutrient from the first', 'kg/ha', [times(first), times(from.of('other-share'))])
    const lacking = workedSum('Still lacking of it', 'kg/ha', [from.of('second-target')], [brought])
    const needed =
      lacking.value < 0 ? { ...lacking, label: 'Still lacking of it (nothing: the first brings more)', value: 0, how: 'nothing' } : lacking
    const second = workedProduct('Second product', 'kg/ha', [times(needed), over(from.of('second-share'))])
    const perPlot = (of: typeof first) => workedProduct(`${of.label} for a plot`, 'g', [times(of), times(from.of('area'))])
    return { first, brought, second, 'first-per-plot': perPlot(first), 'second-per-plot': perPlot(second) }
  },
  doubts: (from, { brought }) =>
    brought!.value > from.number('second-target') * (1 + 1e-9)
      ? ['The first product alone brings more of the other nutrient than its target: no second is needed, and the two are not matched.']
      : [],
}
