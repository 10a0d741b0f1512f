import { studentizedRangeQuantile, studentizedRangeUpper } from '../distribution/studentized-range.ts'
import { comparePairs, type ComparisonMethod } from './comparison.ts'
import { smoothTail } from './smooth-tail.ts'

/** Above this count of ordered pairs the tail is tabulated once instead of integrated for each. */
const MANY = 100

/** Tukey's range over all pairs; with unequal replication the Tukey–Kramer form. */
export const tukey: ComparisonMethod = {
  key: 'tukey',
  name: 'All pairs, guarded',
  school: 'Tukey',
  controls: 'Every treatment against every other. The chance of even one false difference among all pairs is held at the level set.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates, { level }) => {
    const k = estimates.values.length
    return comparePairs(
      estimates,
      (df) => studentizedRangeQuantile(level, k, df) / Math.SQRT2,
      (df) => {
        const exact = (t: number): number => studentizedRangeUpper(Math.SQRT2 * t, k, df)
        const tail = k * (k - 1) > MANY ? smoothTail(exact, 0.05, 12) : exact
        return (t) => tail(Math.abs(t))
      },
      true,
    )
  },
}
