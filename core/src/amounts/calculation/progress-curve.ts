import { over, times, workedBy, workedProduct } from '../../quantity/index.ts'
import { mean, type Calculation } from './calculation.ts'

export const progressCurve: Calculation = {
  key: 'progress-curve',
  name: 'Area under a progress curve',
  group: 'comparing',
  about: 'Of a disease or damage seen again and again: the area under its curve, the same by day, and its rate on the logit scale.',
  inputs: [
    { key: 'days', name: 'Days', unit: 'd', kind: 'several', example: '0 7 12 19 28' },
    { key: 'shares', name: 'Percent on each', unit: '%', kind: 'several', high: 100, example: '1 4 11 38 72' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const [days, shares] = [from.several('days'), from.several('shares')]
    if (days.length !== shares.length) throw new RangeError(`There are ${days.length} days and ${shares.length} percentages.`)
    if (days.length < 2) throw new RangeError('A curve needs two days.')
    if (days.some((each, i) => i > 0 && each <= days[i - 1]!)) throw new RangeError('Give the days from the first to the last, each once.')
    const steps = days.slice(1).map((each, i) => ((shares[i]! + shares[i + 1]!) / 2) * (each - days[i]!))
    const area = workedBy(
      'Area under the curve, % × days',
      steps.reduce((sum, each) => sum + each, 0),
      '',
      'trapezoids between the days',
    )
    const span = workedBy('Days from first to last', days.at(-1)! - days[0]!, '', 'last less first')
    const standardised = workedProduct('By day, %', '', [times(area), over(span)])
    const found = { area, standardised, relative: workedProduct('Of the most there could be', '', [times(standardised), over({ label: 'The most', value: 100, unit: '' })]) } // prettier-ignore
    if (shares.some((each) => each <= 0 || each >= 100)) return found
    const logits = shares.map((each) => Math.log(each / (100 - each)))
    const [t, y] = [mean(days), mean(logits)]
    const rate =
      days.reduce((sum, each, i) => sum + (each - t) * (logits[i]! - y), 0) / days.reduce((sum, each) => sum + (each - t) ** 2, 0)
    return { ...found, rate: workedBy('Rate on the logit scale, a day', rate, '', 'least squares') }
  },
}
