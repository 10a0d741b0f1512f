import { over, times, workedBy, workedProduct, type Worked } from '../../quantity/index.ts'
import { isSprayed } from '../dose-amounts.ts'
import { coefficientOfVariation, mean, type Calculation } from './calculation.ts'

/** A nozzle this far from the mean is cleaned or changed before anything goes out, %. */
const WORN = 10

export const sprayer: Calculation = {
  key: 'sprayer',
  name: 'Sprayer calibration',
  group: 'calibration',
  about: 'From timed runs and what each nozzle gives to the volume that goes out, the tank loads, and what would reach a target.',
  inputs: [
    { key: 'distance', name: 'Distance of a run', unit: 'm', aboveNought: true, example: '30' },
    { key: 'times', name: 'Time of each run', unit: 's', kind: 'several', aboveNought: true, example: '21.4 20.9 21.2' },
    { key: 'catches', name: 'Catch of each nozzle', unit: 'mL/min', kind: 'several', example: '742 755 738 749' },
    { key: 'spacing', name: 'Nozzle spacing', unit: 'cm', aboveNought: true, example: '50' },
    { key: 'tank', from: 'tank', name: 'Tank', unit: 'L', aboveNought: true, optional: true, example: '12' },
    { key: 'area', from: 'pass area', name: 'Area to spray', unit: 'ha', optional: true, example: '0.18' },
    { key: 'product', from: 'product volume rate', name: 'Product', unit: 'L/ha', optional: true, example: '1.5' },
    { key: 'plot', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, optional: true, example: '15' },
    { key: 'plot-length', from: 'plot length', name: 'Length of a plot', unit: 'm', aboveNought: true, optional: true, example: '7.5' },
    { key: 'target', from: 'volume rate', name: 'Volume wanted', unit: 'L/ha', aboveNought: true, optional: true, example: '200' },
  ],
  cautions: [
    'Calibrate with clean water, with the nozzles, pressure and gear that will be used, on ground like that of the trial.',
    'A nozzle more than 10 % from the mean is cleaned or changed, and all are caught again.',
  ],
  applies: true,
  work: (from) => {
    const [times_, catches] = [from.several('times'), from.several('catches')]
    const time = workedBy('Mean time of a run', mean(times_), 's', `mean of ${times_.length}`)
    const flow = workedBy('Mean flow of a nozzle', mean(catches) / 1000, 'L/min', `mean of ${catches.length} nozzles`)
    if (flow.value === 0) throw new RangeError('No nozzle gave anything.')
    const speed = workedProduct('Speed', 'km/h', [times(from.of('distance')), over(time)])
    const out = workedProduct('Volume that goes out', 'L/ha', [times(flow), over(speed), over(from.of('spacing'))])
    const found: Record<string, Worked> = { speed, flow, volume: out }
    if (catches.length > 1)
      found['flow-variation'] = workedBy('Variation between nozzles', coefficientOfVariation(catches), '%', 'standard deviation over mean')
    if (from.has('tank')) {
      found['area-per-tank'] = workedProduct('Area of a tank', 'ha', [times(from.of('tank')), over(out)])
      if (from.has('area')) found['tank-loads'] = workedProduct('Tank loads', '', [times(from.of('area')), over(found['area-per-tank'])])
      if (from.has('product')) found['product-per-tank'] = workedProduct('Product in a full tank', 'L', [times(from.of('product')), times(found['area-per-tank'])]) // prettier-ignore
    }
    if (from.has('product') && from.has('area')) found['product-total'] = workedProduct('Product in all', 'L', [times(from.of('product')), times(from.of('area'))]) // prettier-ignore
    if (from.has('plot')) found['mix-per-plot'] = workedProduct('Spray on a plot', 'mL', [times(out), times(from.of('plot'))])
    if (from.has('plot-length'))
      found['time-per-plot'] = workedProduct('Time over a plot', 's', [times(from.of('plot-length')), over(speed)])
    if (from.has('target')) {
      found['flow-for-target'] = workedProduct('Flow of a nozzle for the target, at this speed', 'L/min', [times(from.of('target')), times(speed), times(from.of('spacing'))]) // prettier-ignore
      found['speed-for-target'] = workedProduct('Speed for the target, at this flow', 'km/h', [times(flow), over(from.of('target')), over(from.of('spacing'))]) // prettier-ignore
      // Flow goes with the root of the pressure.
      const ratio = workedProduct('Flow wanted over flow now', '', [times(found['flow-for-target']), over(flow)])
      found['pressure-for-target'] = workedProduct('Times the pressure for the target, at this speed', '', [times(ratio), times(ratio)])
      found['deviation'] = workedProduct('Of the target goes out', '%', [times(out), over(from.of('target'))])
    }
    return found
  },
  suits: (row) => isSprayed(row),
  share: ({ deviation }) => deviation?.value ?? null,
  doubts: (from, figures) => {
    const catches = from.several('catches')
    const middle = mean(catches)
    const worn = catches.flatMap((each, i) => (Math.abs(each - middle) > (WORN / 100) * middle ? [`nozzle ${i + 1} (${each} mL/min)`] : []))
    const pressure = figures['pressure-for-target']?.value
    return [
      ...(worn.length > 0 ? [`More than ${WORN} % from the mean: ${worn.join(', ')}. Clean or change, and catch all again.`] : []),
      ...(from.several('times').length < 2 ? ['One run timed: a second and a third tell whether the speed is kept.'] : []),
      ...(pressure !== undefined && (pressure > 2 || pressure < 0.5)
        ? ['Pressure would have to change more than twofold: take other nozzles or another speed, since the drops would be others too.']
        : []),
    ]
  },
}
