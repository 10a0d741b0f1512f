import { over, times, workedBy, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

/** Figures of it that say how long it runs, whichever way it is given. */
export const RUN_TIMES = ['run-time', 'drip-time', 'nozzle-time'] as const

export const irrigation: Calculation = {
  key: 'irrigation',
  name: 'Water: depth, litres and run time',
  group: 'water',
  about:
    'Litres and minutes for a depth of water on an area, by a flow, drip lines or a nozzle chart; and the depth that litres given were.',
  inputs: [
    { key: 'depth', from: 'depth', name: 'Depth that is to reach the plants', unit: 'mm', example: '18' },
    { key: 'area', from: 'plot area', name: 'Area', unit: 'm²', aboveNought: true, example: '360' },
    { key: 'efficiency', name: 'Of what is given, what reaches them', unit: '%', high: 100, aboveNought: true, usual: 100, example: '85' },
    { key: 'flow', name: 'Flow', unit: 'L/min', aboveNought: true, optional: true, example: '95' },
    { key: 'emitter', name: 'Flow of an emitter', unit: 'L/h', aboveNought: true, optional: true, example: '1.6' },
    { key: 'emitter-spacing', name: 'Emitters apart', unit: 'm', aboveNought: true, optional: true, example: '0.3' },
    { key: 'line-spacing', name: 'Lines apart', unit: 'm', aboveNought: true, optional: true, example: '0.9' },
    { key: 'nozzle', name: 'Flow of a nozzle, by its chart', unit: 'L/min', aboveNought: true, optional: true, example: '0.8' },
    { key: 'chart-pressure', name: 'at the pressure of the chart', unit: 'kPa', aboveNought: true, optional: true, example: '300' },
    { key: 'pressure', name: 'Pressure it runs at', unit: 'kPa', aboveNought: true, optional: true, example: '250' },
    { key: 'nozzle-spacing', name: 'Nozzles apart on the line', unit: 'm', aboveNought: true, optional: true, example: '3' },
    { key: 'nozzle-lines', name: 'Lines of nozzles apart', unit: 'm', aboveNought: true, optional: true, example: '3' },
    { key: 'given', name: 'Litres that were given', unit: 'L', optional: true, example: '5200' },
  ],
  cautions: ['Know where lines and cables run before a pipe or a probe goes in; power and water apart.'],
  applies: false,
  suits: ({ product }) => product.form === 'water',
  work: (from) => {
    const water = workedProduct('Water to give', 'L', [times(from.of('depth')), times(from.of('area')), over(from.of('efficiency'))])
    const found: Record<string, Worked> = { water }
    if (from.has('flow')) found['run-time'] = workedProduct('Run time', 'min', [times(water), over(from.of('flow'))])
    if (['emitter', 'emitter-spacing', 'line-spacing'].every((key) => from.has(key))) {
      found['drip-rate'] = workedProduct('Drip lines give', 'mm/h', [times(from.of('emitter')), over(from.of('emitter-spacing')), over(from.of('line-spacing'))]) // prettier-ignore
      found['drip-time'] = workedProduct('Run time of drip lines', 'h', [times(from.of('depth')), over(found['drip-rate']), over(from.of('efficiency'))]) // prettier-ignore
    }
    if (['nozzle', 'chart-pressure', 'pressure', 'nozzle-spacing', 'nozzle-lines'].every((key) => from.has(key))) {
      // Flow goes with the root of the pressure.
      const flow = workedBy('Flow of a nozzle at this pressure', from.number('nozzle') * Math.sqrt(from.number('pressure') / from.number('chart-pressure')), 'L/min', 'chart flow × √(pressure ÷ pressure of the chart)') // prettier-ignore
      found['nozzle-flow'] = flow
      found['nozzle-rate'] = workedProduct('Nozzles give', 'mm/h', [
        times(flow),
        over(from.of('nozzle-spacing')),
        over(from.of('nozzle-lines')),
      ])
      found['nozzle-time'] = workedProduct('Run time of nozzles', 'min', [times(from.of('depth')), over(found['nozzle-rate']), over(from.of('efficiency'))]) // prettier-ignore
    }
    if (from.has('given'))
      found['depth-given'] = workedProduct('Depth that was given', 'mm', [times(from.of('given')), over(from.of('area'))])
    return found
  },
}
