import { tUpperQuantile } from '../distribution/t.ts'
import { adjustedPairs } from './adjusted.ts'
import { pairCount, type ComparisonMethod } from './comparison.ts'

export const sidak: ComparisonMethod = {
  key: 'sidak',
  name: 'All pairs, the level shared out as for independent tests',
  school: 'Šidák',
  controls: 'A shade sharper than sharing the level evenly; the chance of even one false difference is at most the level set.',
  pairs: 'all',
  needsOneError: false,
  compare: (estimates, { level }) =>
    adjustedPairs(estimates, 'sidak', (df) => tUpperQuantile(-Math.expm1(Math.log1p(-level) / pairCount(estimates.values.length)) / 2, df)),
}
