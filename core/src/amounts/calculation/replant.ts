import { given, over, times, timesRest, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const replant: Calculation = {
  key: 'replant',
  name: 'Replant: a supplement, or all anew',
  group: 'seed',
  about: 'What a thin stand lacks, seed for a supplement beside the standing rows, and seed for a full replant beside it.',
  inputs: [
    { key: 'stand', name: 'Stand there is', unit: '/m²', example: '60' },
    { key: 'target', name: 'Stand wanted', unit: '/m²', aboveNought: true, example: '110' },
    { key: 'gaps', name: 'Of the row, what is gaps', unit: '%', high: 100, optional: true, example: '35' },
    { key: 'germination', name: 'Germination', unit: '%', high: 100, aboveNought: true, example: '90' },
    {
      key: 'establishment',
      name: 'Of those that germinate, what comes up',
      unit: '%',
      high: 100,
      aboveNought: true,
      usual: 80,
      example: '80',
    },
    { key: 'kernel-weight', name: 'Weight of a thousand seeds', unit: 'g', aboveNought: true, example: '40' },
    { key: 'area', from: 'plot area', name: 'Area', unit: 'm²', aboveNought: true, example: '20' },
  ],
  cautions: ['Plants of two ages stand side by side after a supplement: they are counted and, where it matters, harvested apart.'],
  applies: true,
  work: (from) => {
    const seed = workedProduct('Weight of a seed', 'g', [times(from.of('kernel-weight')), over(given('Seeds weighed', 1000, ''))])
    const lacking = from.number('stand') < from.number('target') ? workedSum('Lacking', '/m²', [from.of('target')], [from.of('stand')]) : given('Lacking', 0, '/m²') // prettier-ignore
    const sown = (label: string, of: Worked): Worked => workedProduct(label, '/m²', [times(of), over(from.of('germination')), over(from.of('establishment'))]) // prettier-ignore
    const supplement = sown('Seeds for the supplement', lacking)
    const full = sown('Seeds for a full replant', from.of('target'))
    const weight = (label: string, of: Worked): Worked => workedProduct(label, 'g', [times(of), times(from.of('area')), times(seed)])
    return {
      'of-target': workedProduct('Of the stand wanted there is', '%', [times(from.of('stand')), over(from.of('target'))]),
      lacking,
      supplement,
      'supplement-weight': weight('Seed for the supplement', supplement),
      'supplement-share': workedProduct('Of the full rate', '%', [times(supplement), over(full)]),
      full,
      'full-weight': weight('Seed for a full replant', full),
      ...(from.has('gaps') ? { 'row-standing': workedProduct('Row that stands', '%', [timesRest(from.of('gaps'))]) } : {}),
    }
  },
  doubts: (from) =>
    from.has('gaps') && from.number('gaps') < 20 && from.number('stand') / from.number('target') > 0.7
      ? ['Less than a fifth is gaps and more than two thirds stand: neighbours may make up for it. A part left as it is would tell.']
      : [],
}
