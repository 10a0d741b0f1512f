import { over, times, workedBy, workedProduct } from '../../quantity/index.ts'
import { mean, type Calculation } from './calculation.ts'

export const catchCans: Calculation = {
  key: 'catch-cans',
  name: 'Evenness of watering by catch cans',
  group: 'water',
  about:
    'How evenly water falls: the mean of the lowest quarter of the cans over the mean of all, and how much more to give for the driest.',
  inputs: [
    { key: 'cans', name: 'Depth in each can', unit: 'mm', kind: 'several', example: '12 14 11 15 13 12 10 14' },
    { key: 'minutes', name: 'Time it ran', unit: 'min', aboveNought: true, optional: true, example: '20' },
  ],
  cautions: ['Not in wind: what is measured then is the wind.'],
  applies: false,
  work: (from) => {
    const cans = [...from.several('cans')].sort((a, b) => a - b)
    if (cans.length < 4) throw new RangeError('At least four cans: the lowest quarter is to be one.')
    const all = workedBy('Mean of all', mean(cans), 'mm', `mean of ${cans.length} cans`)
    if (all.value === 0) throw new RangeError('All cans are dry.')
    const quarter = cans.slice(0, Math.max(1, Math.round(cans.length / 4)))
    const lowest = workedBy('Mean of the lowest quarter', mean(quarter), 'mm', `mean of the lowest ${quarter.length}`)
    const evenness = workedProduct('Distribution uniformity of the lowest quarter', '%', [times(lowest), over(all)])
    return {
      mean: all,
      evenness,
      ...(lowest.value > 0
        ? { more: workedProduct('To give, times, so that the lowest quarter gets enough', '', [times(all), over(lowest)]) }
        : {}),
      ...(from.has('minutes') ? { rate: workedProduct('It gives', 'mm/h', [times(all), over(from.of('minutes'))]) } : {}),
    }
  },
  doubts: (_, { evenness }) =>
    evenness!.value < 70
      ? [`Uneven (${evenness!.value.toFixed(0)} %, below 70 %): water would differ between plots by more than most treatments.`]
      : [],
}
