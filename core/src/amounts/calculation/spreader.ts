import { bestSwath } from './best-swath.ts'
import { given, over, times, workedBy, workedProduct } from '../../quantity/index.ts'
import { isDry } from '../dose-amounts.ts'
import { coefficientOfVariation, mean, type Calculation } from './calculation.ts'

/** Above this the pattern is too uneven to compare plots by, %. */
const UNEVEN = 20

export const spreader: Calculation = {
  key: 'spreader',
  name: 'Spreader trays and delivery',
  group: 'calibration',
  about: 'How evenly a spreader throws over trays across its swath, what it delivers over a distance, and by how much to change it.',
  inputs: [
    { key: 'trays', name: 'Caught in each tray, across the swath', unit: 'g', kind: 'several', example: '1.1 2.3 3.2 3.6 3.5' },
    { key: 'tray-spacing', name: 'Trays apart, middle to middle', unit: 'm', aboveNought: true, optional: true, example: '0.5' },
    { key: 'tray-area', name: 'Area of a tray', unit: 'm²', aboveNought: true, example: '0.25' },
    { key: 'collected', name: 'Collected over the distance', unit: 'kg', example: '4.35' },
    { key: 'distance', name: 'Distance', unit: 'm', aboveNought: true, example: '40' },
    { key: 'swath', name: 'Swath', unit: 'm', aboveNought: true, example: '8' },
    { key: 'target', from: 'product rate', name: 'Rate wanted', unit: 'kg/ha', example: '150' },
    { key: 'area', from: 'pass area', name: 'Area to spread', unit: 'ha', optional: true, example: '1.4' },
  ],
  cautions: ['Calibrate with the product itself, of the same bag: grain size and moisture change what comes out.'],
  applies: true,
  work: (from) => {
    const trays = from.several('trays')
    const inTray = given('Mean of the trays', mean(trays), 'g')
    const delivered = workedProduct('Delivered', 'kg/ha', [times(from.of('collected')), over(from.of('distance')), over(from.of('swath'))])
    const best = from.has('tray-spacing') ? bestSwath(trays, UNEVEN) : null
    return {
      ...(best
        ? {
            'best-swath': workedBy(
              'Widest even swath',
              best.trays * from.number('tray-spacing'),
              'm',
              `${best.trays} trays, runs to and fro overlapping`,
            ),
            'best-variation': workedBy('Variation with that swath', best.variation, '%', 'standard deviation over mean of overlapped runs'),
          }
        : {}),
      mean: workedProduct('Mean over the trays', 'kg/ha', [times(inTray), over(from.of('tray-area'))]),
      ...(trays.length > 1 ? { variation: workedBy('Variation across the swath', coefficientOfVariation(trays), '%', 'standard deviation over mean') } : {}), // prettier-ignore
      centre: workedProduct('In the middle of the swath', 'kg/ha', [times(given('Middle tray', trays[Math.floor(trays.length / 2)]!, 'g')), over(from.of('tray-area'))]), // prettier-ignore
      delivered,
      factor: workedProduct('To be opened by', '', [times(from.of('target')), over(delivered)]),
      ...(from.has('area')
        ? { needed: workedProduct('Product for the area', 'kg', [times(from.of('target')), times(from.of('area'))]) }
        : {}),
    }
  },
  suits: (row) => isDry(row),
  share: ({ factor }) => (factor && factor.value > 0 ? 100 / factor.value : null),
  doubts: (from, { variation, 'best-swath': best }) =>
    from.has('tray-spacing') && !best
      ? ['No swath over these trays is even enough, however much runs overlap: set the spreader anew, or weigh by hand.']
      : variation && variation.value > UNEVEN
        ? [`The trays differ by ${variation.value.toFixed(0)} %: with single passes plots would be fed unevenly. Let swaths overlap, or weigh by hand for small plots.`] // prettier-ignore
        : [],
}
