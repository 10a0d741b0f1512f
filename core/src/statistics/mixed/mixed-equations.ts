import type { Classification } from '../linear/design-matrix.ts'
import { SparsePattern } from '../matrix/sparse.ts'

/**
 * Henderson's mixed-model equations by the places that are not zero: products of the columns of X and Z,
 * fixed effects first. Work and memory grow with what meets, not with observations × effects.
 */
export interface MixedEquations {
  readonly n: number
  readonly p: number
  /** Where the effects of each random term begin, after the fixed ones; the last entry is the number of all. */
  readonly starts: readonly number[]
  readonly pattern: SparsePattern
  /** (X Z)ᵀ(X Z) at the places of the pattern. */
  readonly products: Float64Array
  /** (X Z)ᵀ v. */
  against(v: Float64Array): Float64Array
  /** (X Z) b. */
  times(b: Float64Array): Float64Array
}

/** `further`: pairs of effects that meet in the covariance of the random ones, by their place among all. */
export function mixedEquations(
  n: number,
  fixed: readonly Float64Array[],
  random: readonly Pick<Classification, 'levels' | 'codes'>[],
  further: (meet: (i: number, j: number) => void) => void = () => undefined,
): MixedEquations {
  const p = fixed.length
  const starts = random.reduce<number[]>((found, each) => [...found, found.at(-1)! + each.levels.length], [p])
  // What stands in each row: places and values, by rows.
  const [rowStarts, places, values] = [new Int32Array(n + 1), [] as number[], [] as number[]]
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < p; j++) {
      if (fixed[j]![i] === 0) continue
      places.push(j)
      values.push(fixed[j]![i]!)
    }
    random.forEach(({ codes }, r) => {
      if (codes[i]! < 0) return
      places.push(starts[r]! + codes[i]!)
      values.push(1)
    })
    rowStarts[i + 1] = places.length
  }
  const [at, of] = [Int32Array.from(places), Float64Array.from(values)]
  const pattern = new SparsePattern(starts.at(-1)!, (meet) => {
    for (let i = 0; i < n; i++)
      for (let a = rowStarts[i]!; a < rowStarts[i + 1]!; a++) for (let b = rowStarts[i]!; b < a; b++) meet(at[a]!, at[b]!)
    further(meet)
  })
  const products = new Float64Array(pattern.rows.length)
  for (let i = 0; i < n; i++)
    for (let a = rowStarts[i]!; a < rowStarts[i + 1]!; a++)
      for (let b = rowStarts[i]!; b <= a; b++) products[pattern.at(at[a]!, at[b]!)]! += of[a]! * of[b]!
  return {
    n,
    p,
    starts,
    pattern,
    products,
    against: (v) => {
      const found = new Float64Array(starts.at(-1)!)
      for (let i = 0; i < n; i++) for (let a = rowStarts[i]!; a < rowStarts[i + 1]!; a++) found[at[a]!]! += of[a]! * v[i]!
      return found
    },
    times: (b) => {
      const found = new Float64Array(n)
      for (let i = 0; i < n; i++) {
        let sum = 0
        for (let a = rowStarts[i]!; a < rowStarts[i + 1]!; a++) sum += of[a]! * b[at[a]!]!
        found[i] = sum
      }
      return found
    },
  }
}
