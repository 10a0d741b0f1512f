import type { Classification } from '../../linear/design-matrix.ts'
import { overPairs, type ErrorModel } from './error-model.ts'

/** Independent errors with a variance for each level, as of each site. */
export function byGroup(groups: Classification): ErrorModel {
  return {
    key: 'by group',
    name: `an error variance for each ${groups.name}`,
    parameters: groups.levels.map((level) => ({ name: level, kind: 'variance', lower: 0, upper: Infinity })),
    linear: true,
    groups: Int32Array.from(groups.codes, (_, i) => i),
    starts: (variance, residuals) => [
      groups.levels.map((_, g) => {
        const own = residuals.filter((_each, i) => groups.codes[i] === g)
        return Math.max(own.reduce((sum, each) => sum + each * each, 0) / own.length, variance / 100)
      }),
    ],
    at: (values, rows) => ({
      covariance: overPairs(rows, (a, b) => (a === b ? values[groups.codes[a]!]! : 0)),
      changes: values.map((_, g) =>
        rows.some((a) => groups.codes[a] === g) ? overPairs(rows, (a, b) => (a === b && groups.codes[a] === g ? 1 : 0)) : null,
      ),
    }),
  }
}
