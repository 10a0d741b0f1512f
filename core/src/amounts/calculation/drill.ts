import { over, times, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

/** From the rate wanted by more than this the drill is set anew and turned again, %. */
const OFF = 5

export const drill: Calculation = {
  key: 'drill',
  name: 'Drill: turn test and setting',
  group: 'calibration',
  about:
    'What a drill or cone seeder lets out over so many turns of its wheel, the rate that is, and the setting that would reach a target.',
  inputs: [
    { key: 'collected', name: 'Seed collected', unit: 'g', example: '412' },
    { key: 'turns', name: 'Turns of the wheel', unit: '', aboveNought: true, example: '20' },
    { key: 'circumference', name: 'Way of the wheel in one turn', unit: 'm', aboveNought: true, example: '1.85' },
    { key: 'slip', name: 'Slip of the wheel on this ground', unit: '%', high: 50, usual: 0, example: '4' },
    { key: 'width', name: 'Width that is sown', unit: 'm', aboveNought: true, example: '1.5' },
    { key: 'target', from: 'product rate', name: 'Rate wanted', unit: 'kg/ha', aboveNought: true, example: '80' },
    { key: 'setting', name: 'Setting it was turned at', unit: '', aboveNought: true, optional: true, example: '34' },
    { key: 'plot', from: 'plot area', name: 'Area of a plot', unit: 'm²', aboveNought: true, optional: true, example: '11.25' },
  ],
  cautions: [
    'Turn it with the seed itself, treated as it will be sown, the hopper as full as it will be; three times, not once.',
    'Hands away from shafts and chains while it is turned, the tractor stopped and its key out; treated seed with gloves.',
  ],
  applies: true,
  work: (from) => {
    // A wheel that slips turns less often over the same way, and so lets out less on it.
    const way = workedProduct('Way', 'm', [times(from.of('turns')), times(from.of('circumference'))])
    const slipped = workedProduct('Way with slip', 'm', [
      times(way),
      over({ ...from.of('slip'), label: 'Without slip', value: 100 - from.number('slip') }),
    ])
    const sown = workedProduct('Area sown', 'm²', [times(slipped), times(from.of('width'))])
    const rate = workedProduct('Seed that goes out', 'kg/ha', [times(from.of('collected')), over(sown)])
    const found: Record<string, Worked> = {
      area: sown,
      rate,
      deviation: workedProduct('Of the rate wanted', '%', [times(rate), over(from.of('target'))]),
    }
    if (from.has('setting') && rate.value > 0)
      found['new-setting'] = workedProduct('Setting to try next', '', [times(from.of('setting')), times(from.of('target')), over(rate)])
    if (from.has('plot')) found['per-plot'] = workedProduct('Seed on a plot', 'g', [times(rate), times(from.of('plot'))])
    return found
  },
  suits: ({ product, dose }) => product.form === 'seed' || dose.of === 'seeds',
  share: ({ deviation }) => deviation?.value ?? null,
  doubts: (_, { deviation }) =>
    Math.abs(deviation!.value - 100) > OFF
      ? [
          `${(deviation!.value - 100).toFixed(0)} % off the rate wanted: set it anew and turn again, since settings are not quite in proportion.`,
        ]
      : [],
}
