import { over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const irrigation: Calculation = {
  key: 'irrigation',
  name: 'Water: depth, litres and run time',
  group: 'water',
  about: 'Litres and minutes for a depth of water on an area, by a flow or by drip lines; and the depth that litres given were.',
  inputs: [
    { key: 'depth', name: 'Depth that is to reach the plants', unit: 'mm', example: '18' },
    { key: 'area', from: 'plot area', name: 'Area', unit: 'm²', aboveNought: true, example: '360' },
    { key: 'efficiency', name: 'Of what is given, what reaches them', unit: '%', high: 100, aboveNought: true, usual: 100, example: '85' },
    { key: 'flow', name: 'Flow', unit: 'L/min', aboveNought: true, optional: true, example: '95' },
    { key: 'emitter', name: 'Flow of an emitter', unit: 'L/h', aboveNought: true, optional: true, example: '1.6' },
    { key: 'emitter-spacing', name: 'Emitters apart', unit: 'm', aboveNought: true, optional: true, example: '0.3' },
    { key: 'line-spacing', name: 'Lines apart', unit: 'm', aboveNought: true, optional: true, example: '0.9' },
    { key: 'given', name: 'Litres that were given', unit: 'L', optional: true, example: '5200' },
  ],
  cautions: ['Know where lines and cables run before a pipe or a probe goes in; power and water apart.'],
  applies: false,
  work: (from) => {
    const water = workedProduct('Water to give', 'L', [times(from.of('depth')), times(from.of('area')), over(from.of('efficiency'))])
    const found: Record<string, Worked> = { water }
    if (from.has('flow')) found['run-time'] = workedProduct('Run time', 'min', [times(water), over(from.of('flow'))])
    if (['emitter', 'emitter-spacing', 'line-spacing'].every((key) => from.has(key))) {
      found['drip-rate'] = workedProduct('Drip lines give', 'mm/h', [times(from.of('emitter')), over(from.of('emitter-spacing')), over(from.of('line-spacing'))]) // prettier-ignore
      found['drip-time'] = workedProduct('Run time of drip lines', 'h', [times(from.of('depth')), over(found['drip-rate']), over(from.of('efficiency'))]) // prettier-ignore
    }
    if (from.has('given'))
      found['depth-given'] = workedProduct('Depth that was given', 'mm', [times(from.of('given')), over(from.of('area'))])
    return found
  },
}
