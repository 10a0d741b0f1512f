import { tTwoSided, tUpperQuantile } from '../distribution/t.ts'
import { comparePairs, type ComparisonMethod } from './comparison.ts'

/** Least significant difference: each pair by its own t. */
export const lsd: ComparisonMethod = {
  key: 'lsd',
  name: 'Each pair alone',
  school: 'LSD',
  controls:
    'Each pair is tested as if it were the only one. Among many pairs some false differences must be expected; sound for a few pairs named beforehand.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates, { level }) =>
    comparePairs(
      estimates,
      (df) => tUpperQuantile(level / 2, df),
      (df) => (t) => tTwoSided(t, df),
    ),
}
