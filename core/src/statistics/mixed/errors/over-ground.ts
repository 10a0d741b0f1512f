import { dense, type Dense } from '../../matrix/dense.ts'
import { overPairs, type ErrorModel } from './error-model.ts'
import { inSteps } from './over-dates.ts'

/** Where each observation lies: across and along, in any unit of length. */
export interface Places {
  readonly across: readonly number[]
  readonly along: readonly number[]
  /** Observations of different ground are independent; null: all lie on one. */
  readonly apart: Int32Array | null
}

/** Correlation at a distance over the range, and its slope there (Cressie 1993, 2.3). */
interface Decay {
  readonly of: (h: number) => number
  readonly slope: (h: number) => number
}

const DECAYS = {
  exponential: { of: (h) => Math.exp(-h), slope: (h) => -Math.exp(-h) },
  gaussian: { of: (h) => Math.exp(-h * h), slope: (h) => -2 * h * Math.exp(-h * h) },
  rational: { of: (h) => 1 / (1 + h * h), slope: (h) => (-2 * h) / (1 + h * h) ** 2 },
} satisfies Record<string, Decay>

/** σ² [(1 − ν) f(d / range) + ν at no distance], d in a straight line. */
function byDistance(key: keyof typeof DECAYS, { across, along, apart: groups }: Places): ErrorModel {
  const decay: Decay = DECAYS[key]
  const apart = (a: number, b: number): number => Math.hypot(across[a]! - across[b]!, along[a]! - along[b]!)
  const extent = Math.hypot(Math.max(...across) - Math.min(...across), Math.max(...along) - Math.min(...along))
  return {
    key,
    name: `the less alike the further apart, ${key}, with a nugget`,
    parameters: [
      { name: 'total', kind: 'variance', lower: 0, upper: Infinity },
      { name: 'range', kind: 'range', lower: 0, upper: 20 * extent },
      { name: 'nugget', kind: 'nugget', lower: 0, upper: 0.9999, restsAtLower: true },
    ],
    linear: false,
    groups,
    starts: (variance) => [0.05, 0.12, 0.25].flatMap((share) => [0.15, 0.5].map((nugget) => [variance, share * extent, nugget])),
    at: ([variance, range, nugget], rows) => {
      const n = rows.length
      const [covariance, total, ranging, bare] = [dense(n, n), dense(n, n), dense(n, n), dense(n, n)]
      for (let i = 0; i < n; i++) {
        covariance.values[i * n + i] = variance!
        total.values[i * n + i] = 1
        for (let j = 0; j < i; j++) {
          const h = apart(rows[i]!, rows[j]!) / range!
          const f = decay.of(h)
          const set = (of: Dense, value: number): void => void (of.values[i * n + j] = of.values[j * n + i] = value)
          set(covariance, variance! * (1 - nugget!) * f)
          set(total, (1 - nugget!) * f)
          set(ranging, (-variance! * (1 - nugget!) * decay.slope(h) * h) / range!)
          set(bare, -variance! * f)
        }
      }
      return { covariance, changes: [total, ranging, bare] }
    },
  }
}

/** Rows, or columns, as they are counted: whole steps where positions come in them, else (alleys lie between) one after another. */
export function gridSteps(positions: readonly number[]): number[] {
  const { steps, whole } = inSteps(positions)
  if (whole) return steps
  const sorted = [...new Set(positions)].sort((a, b) => a - b)
  // Positions that differ by less than a tenth of the usual step are one row.
  const gaps = sorted.slice(1).map((each, i) => each - sorted[i]!)
  const usual = [...gaps].sort((a, b) => a - b)[Math.floor(gaps.length / 2)] ?? 1
  const counted = new Map<number, number>()
  sorted.forEach((each, i) => counted.set(each, i === 0 ? 0 : counted.get(sorted[i - 1]!)! + (gaps[i - 1]! > 0.1 * usual ? 1 : 0)))
  return positions.map((each) => counted.get(each)!)
}

/** σ² ρ_row^|rows apart| ρ_column^|columns apart|, with or without independent errors beside it. */
function byRowsAndColumns({ across, along, apart: groups }: Places, nugget: boolean): ErrorModel {
  const [columns, rows] = [gridSteps(across), gridSteps(along)]
  const alike = (rho: number, steps: readonly number[], a: number, b: number): [power: number, slope: number] => {
    const d = Math.abs(steps[a]! - steps[b]!)
    return [rho ** d, d === 0 ? 0 : d * rho ** (d - 1)]
  }
  return {
    key: nugget ? 'rows and columns with nugget' : 'rows and columns',
    name: `autoregression along rows and columns${nugget ? ', with a nugget' : ''}`,
    parameters: [
      { name: nugget ? 'ground' : 'total', kind: 'variance', lower: 0, upper: Infinity },
      { name: 'from row to row', kind: 'correlation', lower: -0.999, upper: 0.9999 },
      { name: 'from column to column', kind: 'correlation', lower: -0.999, upper: 0.9999 },
      ...(nugget ? [{ name: 'nugget', kind: 'variance', lower: 0, upper: Infinity, restsAtLower: true } as const] : []),
    ],
    linear: false,
    groups,
    starts: (variance) =>
      [0.3, 0.7].flatMap((row) =>
        [0.3, 0.7].map((column) => (nugget ? [0.7 * variance, row, column, 0.3 * variance] : [variance, row, column])),
      ),
    at: ([ground, row, column, bare], at) => {
      const pairs = (of: (r: [number, number], c: [number, number]) => number): Dense =>
        overPairs(at, (a, b) => of(alike(row!, rows, a, b), alike(column!, columns, a, b)))
      const own = overPairs(at, (a, b) => (a === b ? 1 : 0))
      const covariance = pairs(([r], [c]) => ground! * r * c)
      if (nugget) for (let i = 0; i < at.length; i++) covariance.values[i * (at.length + 1)]! += bare!
      return {
        covariance,
        changes: [
          pairs(([r], [c]) => r * c),
          pairs(([, r], [c]) => ground! * r * c),
          pairs(([r], [, c]) => ground! * r * c),
          ...(nugget ? [own] : []),
        ],
      }
    },
  }
}

/** Kinds of trend in the ground that can be fitted, by what they are asked for. */
export const groundModels: readonly { readonly key: string; readonly model: (places: Places) => ErrorModel }[] = [
  { key: 'rows and columns', model: (places) => byRowsAndColumns(places, false) },
  { key: 'rows and columns with nugget', model: (places) => byRowsAndColumns(places, true) },
  { key: 'exponential', model: (places) => byDistance('exponential', places) },
  { key: 'gaussian', model: (places) => byDistance('gaussian', places) },
  { key: 'rational', model: (places) => byDistance('rational', places) },
]
