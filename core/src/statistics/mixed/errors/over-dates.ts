import type { Classification } from '../../linear/design-matrix.ts'
import { dense, type Dense } from '../../matrix/dense.ts'
import { overPairs, type ErrorModel } from './error-model.ts'

/** The same subjects read at several dates. */
export interface Dates {
  readonly subjects: Classification
  readonly dates: Classification
  /** When each date was, in any unit of time. */
  readonly times: readonly number[]
}

/** Any two dates of a subject alike: one covariance between them, one variance beside it. */
function compoundSymmetry({ subjects }: Dates): ErrorModel {
  return {
    key: 'compound symmetry',
    name: 'any two dates alike (compound symmetry)',
    parameters: [
      { name: 'between dates', kind: 'covariance', lower: -Infinity, upper: Infinity },
      { name: 'residual', kind: 'variance', lower: 0, upper: Infinity },
    ],
    linear: true,
    groups: subjects.codes,
    starts: (variance) => [[0.4 * variance, 0.6 * variance]],
    at: ([between, residual], rows) => ({
      covariance: overPairs(rows, (a, b) => between! + (a === b ? residual! : 0)),
      changes: [overPairs(rows, () => 1), overPairs(rows, (a, b) => (a === b ? 1 : 0))],
    }),
  }
}

/**
 * First-order autoregression: the correlation of two dates is ρ to the power of the time between them,
 * in the smallest time between two of them where all are multiples of it, so that ρ is of neighbours.
 */
function autoregression({ subjects, dates, times }: Dates): ErrorModel {
  const { steps, whole } = inSteps(times)
  const apart = (a: number, b: number): number => Math.abs(steps[dates.codes[a]!]! - steps[dates.codes[b]!]!)
  return {
    key: 'autoregression',
    name: 'dates the less alike the further apart (first-order autoregression)',
    parameters: [
      { name: 'total', kind: 'variance', lower: 0, upper: Infinity },
      // Between whole steps neighbours may also go against each other.
      { name: 'neighbouring dates', kind: 'correlation', lower: whole ? -0.9999 : 0, upper: 0.9999 },
    ],
    linear: false,
    groups: subjects.codes,
    starts: (variance) => [0.1, 0.5, 0.8].map((rho) => [variance, rho]),
    at: ([variance, rho], rows) => ({
      covariance: overPairs(rows, (a, b) => variance! * rho! ** apart(a, b)),
      changes: [
        overPairs(rows, (a, b) => rho! ** apart(a, b)),
        overPairs(rows, (a, b) => (a === b ? 0 : variance! * apart(a, b) * rho! ** (apart(a, b) - 1))),
      ],
    }),
  }
}

/** A variance of each date and a covariance of every two. */
function unstructured({ subjects, dates }: Dates): ErrorModel {
  const m = dates.levels.length
  const pairs = Array.from({ length: m }, (_, i) => Array.from({ length: i + 1 }, (__, j) => [i, j] as const)).flat()
  const place = (i: number, j: number): number => (Math.max(i, j) * (Math.max(i, j) + 1)) / 2 + Math.min(i, j)
  return {
    key: 'unstructured',
    name: 'a variance of each date, a covariance of every two (unstructured)',
    parameters: pairs.map(([i, j]) =>
      i === j
        ? { name: dates.levels[i]!, kind: 'variance', lower: 0, upper: Infinity }
        : { name: `${dates.levels[i]!} and ${dates.levels[j]!}`, kind: 'covariance', lower: -Infinity, upper: Infinity },
    ),
    linear: true,
    groups: subjects.codes,
    starts: (variance, residuals) => {
      const seen = momentsOf(residuals, subjects.codes, dates.codes, m)
      // Drawn towards independence, so that it is a covariance whatever was lost.
      const drawn = (share: number): number[] =>
        pairs.map(([i, j]) => (i === j ? Math.max(seen.values[i * m + i]!, variance / 20) : share * seen.values[i * m + j]!))
      return [drawn(0.9), drawn(0.5), drawn(0)]
    },
    at: (values, rows) => ({
      covariance: overPairs(rows, (a, b) => values[place(dates.codes[a]!, dates.codes[b]!)]!),
      changes: values.map((_, k) => {
        const [i, j] = pairs[k]!
        const own = rows.map((a) => dates.codes[a]!)
        if (!own.includes(i) || !own.includes(j)) return null
        return overPairs(rows, (a, b) => (place(dates.codes[a]!, dates.codes[b]!) === k ? 1 : 0))
      }),
    }),
  }
}

function momentsOf(residuals: Float64Array, subjects: Int32Array, dates: Int32Array, m: number): Dense {
  const by = new Map<number, Map<number, number>>()
  residuals.forEach((each, i) => {
    const own = by.get(subjects[i]!) ?? new Map<number, number>()
    by.set(subjects[i]!, own.set(dates[i]!, each))
  })
  return dense(m, m, (i, j) => {
    const products = [...by.values()].flatMap((own) => (own.has(i) && own.has(j) ? [own.get(i)! * own.get(j)!] : []))
    return products.length > 0 ? products.reduce((sum, each) => sum + each, 0) / products.length : 0
  })
}

/** Positions in steps of the smallest gap between two of them, and whether all are whole steps. */
export function inSteps(positions: readonly number[]): { steps: number[]; whole: boolean } {
  const sorted = [...new Set(positions)].sort((a, b) => a - b)
  const gaps = sorted.slice(1).map((each, i) => each - sorted[i]!)
  const gap = gaps.length > 0 ? Math.min(...gaps) : 1
  const steps = positions.map((each) => (each - sorted[0]!) / gap)
  const whole = steps.every((each) => Math.abs(each - Math.round(each)) < 1e-6)
  return { steps: whole ? steps.map(Math.round) : steps, whole }
}

/** How the dates of a subject may go together, by what they are asked for. */
export const dateModels: readonly { readonly key: string; readonly model: (dates: Dates) => ErrorModel }[] = [
  { key: 'compound symmetry', model: compoundSymmetry },
  { key: 'autoregression', model: autoregression },
  { key: 'unstructured', model: unstructured },
]
