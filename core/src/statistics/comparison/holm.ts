import { adjustedPairs } from './adjusted.ts'
import type { ComparisonMethod } from './comparison.ts'

export const holm: ComparisonMethod = {
  key: 'holm',
  name: 'All pairs, step by step from the surest',
  school: 'Holm',
  controls:
    'The surest pair must pass the strictest level, the next an easier one. The chance of even one false difference is at most the level set. It gives no intervals.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates) => adjustedPairs(estimates, 'holm', () => NaN),
}
