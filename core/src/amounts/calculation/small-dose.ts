import { given, over, times, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import { tooSmallDry } from '../stops.ts'
import type { Calculation } from './calculation.ts'

/** An error of one division of the balance above this share of the dose is too much, %. */
const MOST_ERROR = 2
/** So many times in a row a solution is weakened at most: each adds its error. */
const MOST_STEPS = 4

export const smallDose: Calculation = {
  key: 'small-dose',
  name: 'A dose too small to spread dry',
  group: 'solutions',
  about:
    'Product for a small area put on in solution: the carrier, a stock solution that the balance can weigh, and how far one division is off.',
  inputs: [
    { key: 'rate', from: 'product rate', name: 'Rate of the element or product', unit: 'kg/ha', aboveNought: true, example: '2' },
    { key: 'share', name: 'Of it in the product', unit: '%', high: 100, aboveNought: true, usual: 100, example: '17.5' },
    { key: 'area', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, example: '9' },
    { key: 'plots', from: 'units', name: 'Plots', unit: '', aboveNought: true, usual: 1, example: '4' },
    { key: 'carrier', name: 'Carrier on the ground', unit: 'L/ha', aboveNought: true, usual: 1000, example: '1000' },
    { key: 'division', name: 'One division of the balance', unit: 'g', aboveNought: true, example: '0.1' },
    { key: 'pipette', name: 'One division of pipette or cylinder', unit: 'mL', aboveNought: true, usual: 1, example: '1' },
    {
      key: 'threshold',
      from: 'spread dry from',
      name: 'Least product that can be spread evenly dry',
      unit: 'g/m²',
      usual: 5,
      example: '5',
    },
  ],
  cautions: [
    'Of a trace element little lies between enough and too much: one plot twice is poisoning, and the next crop stands on it too.',
    'The carrier alone goes on the plots that get none of it, in the same volume.',
  ],
  applies: true,
  suits: (row, spreadable) => tooSmallDry(row, spreadable) !== null,
  work: (from) => {
    const product = workedProduct('Product', 'g/m²', [times(from.of('rate')), over(from.of('share'))])
    const perPlot = workedProduct('Product for a plot', 'g', [times(product), times(from.of('area'))])
    const carrier = workedProduct('Solution for a plot', 'mL', [times(from.of('carrier')), times(from.of('area'))])
    const all = workedProduct('Product for all plots', 'g', [times(perPlot), times(from.of('plots'))])
    const found: Record<string, Worked> = {
      'per-square-metre': product,
      'per-plot': perPlot,
      'for-all': all,
      'solution-per-plot': carrier,
      'solution-for-all': workedProduct('Solution for all plots', 'L', [times(carrier), times(from.of('plots'))]),
      concentration: workedProduct('Product in the solution', 'g/L', [times(perPlot), over(carrier)]),
      'error-dry': workedProduct('Weighed plot by plot, one division is off by', '%', [times(from.of('division')), over(perPlot)]),
    }
    // A stock that takes at least so much that one division does not matter; weakened ten times as often as that needs.
    const least = (100 / MOST_ERROR) * from.number('division')
    const weighed = Math.max(all.value, least)
    const stock = given(
      'Product weighed into the stock',
      Math.ceil(weighed / from.number('division') - 1e-9) * from.number('division'),
      'g',
    )
    const times_ = stock.value / all.value
    const volume = given('Volume of the stock', 1000, 'mL')
    const taken = workedProduct('Of the stock, for all plots', 'mL', [times(volume), times(all), over(stock)])
    found['stock-product'] = stock
    found['stock-strength'] = workedProduct('Strength of the stock', 'g/L', [times(stock), over(volume)])
    found['error-stock'] = workedProduct('One division of the balance is then', '%', [times(from.of('division')), over(stock)])
    if (times_ > 1) {
      let [step, part] = [0, taken]
      // A pipette that would be off by too much is spared by weakening the stock tenfold, once or more often.
      while ((100 * from.number('pipette')) / part.value > MOST_ERROR && step < MOST_STEPS) {
        step++
        part = workedProduct(`Of it weakened tenfold ${step === 1 ? 'once' : `${step} times`}, for all plots`, 'mL', [
          times(part),
          times(given('Weakened', 10, '')),
        ])
      }
      found['stock-taken'] = part
      found['tenfold'] = given('Times it is weakened tenfold (100 mL of it with water to 1000 mL)', step, '')
      found['error-volume'] = workedProduct('One division of the pipette is', '%', [times(from.of('pipette')), over(part)])
      found['water'] = workedSum('Water with it', 'mL', [found['solution-for-all']!], [part])
    }
    return found
  },
  doubts: (from, figures) => {
    const dry = figures['per-square-metre']!.value
    const small = dry < from.number('threshold')
    return [
      small
        ? `${dry.toPrecision(2)} g/m² is below the ${from.number('threshold')} g/m² that can be spread evenly dry: put it on in solution, or mix it into dry sand or sawdust of at least ten times its weight and spread that twice, crosswise.`
        : `${dry.toPrecision(3)} g/m² can be spread dry; in solution it would be these amounts.`,
      ...(figures['error-dry']!.value > MOST_ERROR ? [`Weighed plot by plot, one division of the balance changes the rate by ${figures['error-dry']!.value.toPrecision(2)} %.`] : []), // prettier-ignore
      ...((figures['water']?.value ?? 1) < 0
        ? ['The carrier is less than what the dilution needs: take more carrier, or a finer balance or pipette.']
        : []),
    ]
  },
}
