import { dense, eigen, timesTransposed, type Dense } from '../matrix/dense.ts'
import type { TwoWay } from './two-way.ts'

export interface Axis {
  readonly singular: number
  /** Of the sum of squares of the table, %. */
  readonly percent: number
  /** Singular vector times the root of the singular value; the entry's of largest size is positive. */
  readonly entryScores: readonly number[]
  readonly environmentScores: readonly number[]
}

/**
 * Principal axes of a two-way table of means, largest first: of the interaction alone (additive main
 * effects taken out; Gauch 1992), or of entry and interaction together (only the environments' means taken
 * out; Yan 2001).
 */
export function principalAxes({ entries, environments, means }: TwoWay, of: 'interaction' | 'entry and interaction'): Axis[] {
  const [g, e] = [entries.length, environments.length]
  const mean = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
  const columns = environments.map((_, j) => mean(means.map((row) => row[j]!)))
  const grand = mean(columns)
  const centred = dense(g, e, (i, j) => means[i]![j]! - columns[j]! - (of === 'interaction' ? mean(means[i]!) - grand : 0))
  const total = centred.values.reduce((sum, each) => sum + each ** 2, 0)
  const most = of === 'interaction' ? Math.min(g, e) - 1 : Math.min(g - 1, e)
  return decomposed(centred)
    .slice(0, most)
    .map(({ singular, left, right }) => {
      const largest = left.reduce((best, each) => (Math.abs(each) > Math.abs(best) ? each : best), 0)
      const sign = Math.sign(largest) || 1
      const scores = (vector: readonly number[]): number[] => vector.map((each) => sign * Math.sqrt(singular) * each)
      return {
        singular,
        percent: total > 0 ? (100 * singular ** 2) / total : 0,
        entryScores: scores(left),
        environmentScores: scores(right),
      }
    })
}

/** Singular values and vectors, largest first, from the eigenvectors on the shorter side. */
function decomposed(of: Dense): { singular: number; left: number[]; right: number[] }[] {
  const { rows: g, columns: e } = of
  const turned = dense(e, g, (i, j) => of.values[j * e + i]!)
  const [short, long] = g <= e ? [of, turned] : [turned, of]
  const { values, vectors } = eigen(timesTransposed(short, short))
  const order = [...values.keys()].sort((a, b) => values[b]! - values[a]!)
  return order.map((k) => {
    const own = Array.from({ length: short.rows }, (_, i) => vectors.values[i * short.rows + k]!)
    const singular = Math.sqrt(Math.max(0, values[k]!))
    const other = Array.from({ length: long.rows }, (_, i) => own.reduce((sum, each, j) => sum + long.values[i * long.columns + j]! * each, 0) / (singular || 1)) // prettier-ignore
    return g <= e ? { singular, left: own, right: other } : { singular, left: other, right: own }
  })
}
