import { given, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

export const temperature: Calculation = {
  key: 'temperature',
  name: 'Temperature and degree-days in °C',
  group: 'weather',
  about: 'A temperature, or a sum of degree-days, that was taken in °F.',
  inputs: [
    { key: 'temperature', name: 'Temperature', unit: '°C', low: -90, high: 100, optional: true, example: '86 °F' },
    { key: 'degree-days', name: 'Degree-days', unit: '°C d', optional: true, example: '1450 °F d' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const found: Record<string, Worked> = {}
    for (const key of ['temperature', 'degree-days'])
      if (from.has(key)) found[key] = given(from.of(key).label, from.number(key), from.of(key).unit)
    if (Object.keys(found).length === 0) throw new RangeError('Give a temperature or degree-days.')
    return found
  },
}
