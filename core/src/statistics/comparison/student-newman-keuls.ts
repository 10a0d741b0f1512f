import { studentizedRangeUpper } from '../distribution/studentized-range.ts'
import { comparePairs, type ComparisonMethod } from './comparison.ts'

/**
 * Student–Newman–Keuls: a pair that spans r ordered means is held against the range of r, and
 * never called different inside a set that is not: its p is the largest over the spans that
 * enclose it.
 */
export const studentNewmanKeuls: ComparisonMethod = {
  key: 'student-newman-keuls',
  name: 'All pairs, step by step in order of the means',
  school: 'Student–Newman–Keuls',
  controls:
    'The widest span of means first, then those inside it. The chance of a false difference is held when all treatments are alike, and not when they fall into several groups. It gives no intervals.',
  pairs: 'all',
  needsOneError: true,
  compare: (estimates) => {
    const { values } = estimates
    const k = values.length
    const pairs = comparePairs(
      estimates,
      () => NaN,
      () => () => NaN,
    )
    const order = values.map((_, i) => i).sort((a, b) => values[b]! - values[a]!)
    const place = new Int32Array(k)
    order.forEach((index, i) => (place[index] = i))
    const own = new Map<number, number>()
    const spanOf = ({ a, b }: { a: number; b: number }): [number, number] => [
      Math.min(place[a]!, place[b]!),
      Math.max(place[a]!, place[b]!),
    ]
    for (const pair of pairs) {
      const [i, j] = spanOf(pair)
      own.set(i * k + j, studentizedRangeUpper(Math.SQRT2 * Math.abs(pair.t), j - i + 1, pair.df))
    }
    // From the widest span inwards, each takes the larger of its own p and those around it.
    for (let span = k - 2; span >= 1; span--) {
      for (let i = 0; i + span < k; i++) {
        const j = i + span
        const around = [i > 0 ? own.get((i - 1) * k + j)! : 0, j < k - 1 ? own.get(i * k + j + 1)! : 0]
        own.set(i * k + j, Math.max(own.get(i * k + j)!, ...around))
      }
    }
    return pairs.map((pair) => {
      const [i, j] = spanOf(pair)
      return { ...pair, p: own.get(i * k + j)! }
    })
  },
}
