import { tUpperQuantile } from '../distribution/t.ts'
import { adjustedPairs } from './adjusted.ts'
import { pairCount, type ComparisonMethod } from './comparison.ts'

export const bonferroni: ComparisonMethod = {
  key: 'bonferroni',
  name: 'All pairs, the level shared out',
  school: 'Bonferroni',
  controls:
    'The level is divided by the number of pairs. The chance of even one false difference is at most the level set, whatever hangs together.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates, { level }) =>
    adjustedPairs(estimates, 'bonferroni', (df) => tUpperQuantile(level / 2 / pairCount(estimates.values.length), df)),
}
