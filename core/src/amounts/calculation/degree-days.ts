import { workedBy, workedSum, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

/** Mean over a day of what a sine between two temperatures has above a threshold, °C (G. L. Baskerville and P. Emin, 1969). */
function sineAbove(highest: number, lowest: number, threshold: number): number {
  if (highest <= threshold) return 0
  const middle = (highest + lowest) / 2
  if (lowest >= threshold) return middle - threshold
  const swing = (highest - lowest) / 2
  const from = Math.asin((threshold - middle) / swing)
  return ((middle - threshold) * (Math.PI / 2 - from) + swing * Math.cos(from)) / Math.PI
}

export const degreeDays: Calculation = {
  key: 'degree-days',
  name: 'Growing degree-days',
  group: 'weather',
  about: 'Warmth above a base over some days, by five ways of counting it that are in use.',
  inputs: [
    { key: 'highest', name: 'Highest of each day', unit: '°C', kind: 'several', low: -90, high: 60, example: '24.1 31.5 18.2' },
    { key: 'lowest', name: 'Lowest of each day', unit: '°C', kind: 'several', low: -90, high: 60, example: '11.3 17.8 7.1' },
    { key: 'base', name: 'Base', unit: '°C', low: -20, high: 40, example: '5' },
    { key: 'upper', name: 'Upper threshold', unit: '°C', low: -20, high: 60, example: '30' },
  ],
  cautions: ['Sums by different ways are not compared with each other: say which with the figure.'],
  applies: false,
  work: (from) => {
    const [highest, lowest] = [from.several('highest'), from.several('lowest')]
    if (highest.length !== lowest.length)
      throw new RangeError(`There are ${highest.length} highest and ${lowest.length} lowest temperatures: give both of each day.`)
    const odd = highest.findIndex((each, i) => each < lowest[i]!)
    if (odd !== -1) throw new RangeError(`On day ${odd + 1} the highest is below the lowest: were they taken for each other?`)
    const [base, upper] = [from.number('base'), from.number('upper')]
    if (upper <= base) throw new RangeError('The upper threshold is above the base.')
    const within = (value: number): number => Math.min(upper, Math.max(base, value))
    const ways: Readonly<Record<string, readonly [how: string, of: (high: number, low: number) => number]>> = {
      average: ['mean of highest and lowest, less the base, where above it', (high, low) => Math.max(0, (high + low) / 2 - base)],
      'average-upper': [
        'the mean no higher than the upper threshold',
        (high, low) => Math.max(0, Math.min(upper, (high + low) / 2) - base),
      ],
      clipped: ['highest and lowest put between the thresholds first', (high, low) => (within(high) + within(low)) / 2 - base],
      sine: ['area of a sine above the base', (high, low) => sineAbove(high, low, base)],
      'sine-upper': ['the same, less the area above the upper threshold', (high, low) => sineAbove(high, low, base) - sineAbove(high, low, upper)], // prettier-ignore
    }
    const found: Record<string, Worked> = {}
    for (const [key, [how, of]] of Object.entries(ways)) {
      const days = highest.map((high, i) => workedBy(`Day ${i + 1}, ${how}`, of(high, lowest[i]!), '°C d', how))
      if (key.startsWith('sine')) days.forEach((each, i) => (found[`day${i + 1}-${key}`] = each))
      found[key] = { ...workedSum(`Degree-days: ${how}`, '°C d', days) }
    }
    return found
  },
}
