import { fUpper } from '../distribution/f.ts'
import { factorQR, solveRTranspose } from '../matrix/qr.ts'
import type { LinearFit, LinearFunction } from './least-squares.ts'
import { marginalMeans } from './marginal-means.ts'

export interface JointTest {
  readonly df: number
  readonly errorDf: number
  readonly ss: number
  readonly f: number
  readonly p: number
}

/** F test that several linear functions are all zero: d'(RR')⁻¹d over their number, against the error. */
export function jointTest(functions: readonly LinearFunction[], ms: number, errorDf: number): JointTest {
  const rows = functions[0]!.root.length
  const qr = factorQR(
    functions.map((each) => each.root),
    rows,
  )
  // Functions that follow from others add nothing; they stand last in the factored order.
  const d = Float64Array.from({ length: qr.rank }, (_, k) => functions[qr.order[k]!]!.estimate)
  const ss = solveRTranspose(qr, d).reduce((sum, each) => sum + each * each, 0)
  const f = ss / qr.rank / ms
  return { df: qr.rank, errorDf, ss, f, p: fUpper(f, qr.rank, errorDf) }
}

/** Simple effects: whether a factor makes a difference at each level of another, within their interaction. */
export function simpleEffects(fit: LinearFit, factor: string, within: string): (JointTest & { readonly level: string })[] {
  return simpleEffectsOf(marginalMeans(fit, [factor, within]), fit.residualMs, fit.residualDf)
}

/** The same from means of the combinations, whose levels are `factor:within`. */
export function simpleEffectsOf(
  cells: readonly (LinearFunction & { readonly level: string })[],
  ms: number,
  df: number,
): (JointTest & { readonly level: string })[] {
  const levels = [...new Set(cells.map((cell) => cell.level.slice(cell.level.indexOf(':') + 1)))]
  return levels.map((level) => {
    const own = cells.filter((cell) => cell.level.slice(cell.level.indexOf(':') + 1) === level)
    const [first, ...others] = own
    const differences = others.map((each): LinearFunction => ({
      estimate: each.estimate - first!.estimate,
      root: each.root.map((value, k) => value - first!.root[k]!),
      estimable: each.estimable && first!.estimable,
    }))
    return { level, ...jointTest(differences, ms, df) }
  })
}
