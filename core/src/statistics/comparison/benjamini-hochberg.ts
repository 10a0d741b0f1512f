import { adjustedPairs } from './adjusted.ts'
import type { ComparisonMethod } from './comparison.ts'

export const benjaminiHochberg: ComparisonMethod = {
  key: 'benjamini-hochberg',
  name: 'All pairs, a share of false ones allowed',
  school: 'Benjamini–Hochberg',
  controls:
    'Of the pairs called different, the level set is the share expected to be false. For screening many entries, where some false leads can be borne. It gives no intervals.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates) => adjustedPairs(estimates, 'benjamini-hochberg', () => NaN),
}
