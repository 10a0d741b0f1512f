import { given, over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const inoculant: Calculation = {
  key: 'inoculant',
  name: 'Inoculant with seed',
  group: 'seed',
  about: 'Inoculant for seed by its dose, the packs of a site, what each seed gets, and how long an opened pack still has.',
  inputs: [
    { key: 'seed', name: 'Seed for a plot', unit: 'g', aboveNought: true, example: '180' },
    { key: 'plots', from: 'units', name: 'Plots that get it', unit: '', aboveNought: true, example: '12' },
    { key: 'dose', name: 'Inoculant for the seed', unit: 'g/kg', aboveNought: true, example: '4' },
    { key: 'pack', name: 'A pack holds', unit: 'g', aboveNought: true, example: '100' },
    { key: 'spare', name: 'Made ready beyond what is needed', unit: '%', usual: 10, high: 200, example: '10' },
    { key: 'count', name: 'Living cells in a gram', unit: '', aboveNought: true, optional: true, example: '1000000000' },
    { key: 'kernel-weight', name: 'Weight of a thousand seeds', unit: 'g', aboveNought: true, optional: true, example: '180' },
    { key: 'wanted', name: 'Cells wanted on a seed', unit: '', aboveNought: true, optional: true, example: '500000' },
    { key: 'opened', name: 'Hours since a pack was opened', unit: 'h', optional: true, example: '3' },
    { key: 'good-for', name: 'Good for so long once opened', unit: 'h', aboveNought: true, optional: true, example: '24' },
  ],
  cautions: [
    'It is alive: kept cool and out of the sun, in the shade while sowing, and sown into moist ground the same day.',
    'Untreated plots are sown first; seed, hands, cone and drill are cleaned before anything untreated comes near them again.',
    'Not on seed treated against fungi or bacteria, unless both labels say so.',
  ],
  applies: true,
  work: (from) => {
    const spare = given('With what is spare', 100 + from.number('spare'), '%')
    const perPlot = workedProduct('Inoculant for a plot', 'g', [times(from.of('seed')), times(from.of('dose'))])
    const all = workedProduct('Inoculant for the site', 'g', [times(perPlot), times(from.of('plots')), times(spare)])
    const opened = workedProduct('Packs', '', [times(all), over(from.of('pack'))])
    const found: Record<string, Worked> = {
      'per-plot': perPlot,
      all,
      packs: given('Packs to take to the site', Math.ceil(opened.value - 1e-9), ''),
    }
    if (from.has('count') && from.has('kernel-weight')) {
      const kernel = workedProduct('Weight of a seed', 'g', [times(from.of('kernel-weight')), over(given('Seeds weighed', 1000, ''))])
      found['per-seed'] = workedProduct('Cells on a seed', '', [times(kernel), times(from.of('dose')), times(given('Cells in a gram', from.number('count'), '/kg')), times(given('Grams in a kilogram', 1000, ''))]) // prettier-ignore
    }
    if (from.has('opened') && from.has('good-for')) found['hours-left'] = given('Hours an opened pack still has', Math.max(0, from.number('good-for') - from.number('opened')), 'h') // prettier-ignore
    return found
  },
  doubts: (from, figures) => {
    const perSeed = figures['per-seed']?.value
    const short = perSeed !== undefined && from.has('wanted') && perSeed < from.number('wanted')
    return [
      ...(short ? [`${perSeed.toExponential(1)} cells on a seed are fewer than the ${from.number('wanted').toExponential(1)} wanted: more inoculant, or a fresher pack.`] : []), // prettier-ignore
      ...(figures['hours-left']?.value === 0
        ? ['The opened pack is past its time: take a fresh one, and write down which plots had which.']
        : []),
    ]
  },
}
