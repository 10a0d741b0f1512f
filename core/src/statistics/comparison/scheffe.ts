import { fUpper, fUpperQuantile } from '../distribution/f.ts'
import { comparePairs, type ComparisonMethod } from './comparison.ts'

/** Scheffé: as if every contrast that could be thought of had been asked. */
export const scheffe: ComparisonMethod = {
  key: 'scheffe',
  name: 'Any comparison, most guarded',
  school: 'Scheffé',
  controls:
    'Holds for every comparison that could be thought of after seeing the data, groups of treatments too. The widest intervals of all; few pairs will be told apart.',
  pairs: 'all',
  needsOneError: true,
  compare: (estimates, { level }) => {
    const m = estimates.values.length - 1
    return comparePairs(
      estimates,
      (df) => Math.sqrt(m * fUpperQuantile(level, m, df)),
      (df) => (t) => fUpper((t * t) / m, m, df),
    )
  },
}
