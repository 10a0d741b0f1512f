import { given, over, times, workedBy, workedProduct, workedSum, type Worked } from '../../quantity/index.ts'
import { dayNumber } from '../../trial/index.ts'
import type { Calculation } from './calculation.ts'

export const growth: Calculation = {
  key: 'growth',
  name: 'Growth between two days',
  group: 'comparing',
  about: 'Growth a day, relative growth rate and the time to double.',
  inputs: [
    { key: 'first', name: 'Size on the first day', unit: '', example: '3.2' },
    { key: 'second', name: 'Size on the second day', unit: '', example: '11.9' },
    { key: 'on', name: 'First day', unit: '', kind: 'date', example: '2026-02-20' },
    { key: 'until', name: 'Second day', unit: '', kind: 'date', example: '2026-03-31' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const [on, until] = [dayNumber(from.text('on')), dayNumber(from.text('until'))]
    if (until <= on) throw new RangeError('The second day is after the first.')
    const days = given('Days between', until - on, '')
    const newYear = dayNumber(`${from.text('on').slice(0, 4)}-01-01`)
    const found: Record<string, Worked> = {
      days,
      'per-day': workedProduct('Growth a day', '', [times(workedSum('Growth', '', [from.of('second')], [from.of('first')])), over(days)]),
      'day-of-year': given('Day of the year of the first', on - newYear + 1, ''),
    }
    if (from.number('first') > 0 && from.number('second') > 0) {
      const rate = Math.log(from.number('second') / from.number('first')) / days.value
      found['relative-rate'] = workedBy('Relative growth rate, a day', rate, '', 'ln (second ÷ first) ÷ days')
      if (rate > 0) found['doubling'] = workedBy('Days to double', Math.log(2) / rate, '', 'ln 2 ÷ relative growth rate')
    }
    return found
  },
}
