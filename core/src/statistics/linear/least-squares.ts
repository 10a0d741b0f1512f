import { factorQR, inverseR, solveR, solveRTranspose, timesQ, transposeTimes, type QR } from '../matrix/qr.ts'
import type { DesignMatrix } from './design-matrix.ts'

export interface LinearFit {
  readonly design: DesignMatrix
  readonly qr: QR
  /** Coefficients by column; zero for columns that depend on earlier ones. */
  readonly coefficients: Float64Array
  readonly fitted: Float64Array
  readonly residuals: Float64Array
  /** Qᵀy: its first `rank` entries, squared, are sequential sums of squares. */
  readonly effects: Float64Array
  readonly residualDf: number
  readonly residualSs: number
  /** Residual mean square; NaN without residual degrees of freedom. */
  readonly residualMs: number
  /** Of the observations, when they count unequally. */
  readonly weights: Float64Array | null
}

/**
 * Least squares by QR. The response is centred on its mean first, so that an offset many
 * orders above the effects costs no more digits than the data themselves have lost. With
 * `weights` (inverse to the variances) rows count by them; residuals are on the first scale.
 */
export function fitLinear(design: DesignMatrix, response: Float64Array, weights: Float64Array | null = null): LinearFit {
  const n = design.rows
  let centre = 0
  for (let i = 0; i < n; i++) centre += (response[i]! - response[0]!) / n
  centre += response[0] ?? 0
  const root = weights?.map(Math.sqrt)
  const weigh = (column: Float64Array): Float64Array => (root ? column.map((value, i) => value * root[i]!) : column)
  const y = weigh(Float64Array.from(response, (value) => value - centre))

  const qr = factorQR(root ? design.columns.map(weigh) : design.columns, n)
  const effects = transposeTimes(qr, y)
  const solution = solveR(qr, effects)
  const coefficients = new Float64Array(design.columns.length)
  for (let k = 0; k < qr.rank; k++) coefficients[qr.order[k]!] = solution[k]!
  coefficients[0]! += centre

  const tail = Float64Array.from(effects)
  tail.fill(0, 0, qr.rank)
  const weighed = timesQ(qr, tail)
  const residuals = root ? weighed.map((value, i) => value / root[i]!) : weighed
  let residualSs = 0
  for (let i = qr.rank; i < n; i++) residualSs += effects[i]! ** 2
  const residualDf = n - qr.rank
  return {
    design,
    qr,
    coefficients,
    fitted: Float64Array.from(response, (value, i) => value - residuals[i]!),
    residuals,
    effects,
    residualDf,
    residualSs,
    residualMs: residualDf > 0 ? residualSs / residualDf : NaN,
    weights,
  }
}

/**
 * A linear function of the coefficients in the form the fit can carry: its estimate and the
 * vector R⁻ᵀ l, whose inner products times the error variance are (co)variances.
 * Not estimable when it asks for something the data cannot separate.
 */
export interface LinearFunction {
  readonly estimate: number
  readonly root: Float64Array
  readonly estimable: boolean
}

export function linearFunction(fit: LinearFit, l: Float64Array): LinearFunction {
  const { qr } = fit
  const leading = new Float64Array(qr.rank)
  let estimate = 0
  for (let k = 0; k < qr.rank; k++) {
    const index = qr.order[k]!
    leading[k] = l[index]!
    estimate += l[index]! * fit.coefficients[index]!
  }
  let estimable = true
  // A dependent column is X₁c with R c = its leading part; l must weigh it as l₁·c.
  for (let k = qr.rank; k < qr.columns; k++) {
    const c = solveR(qr, qr.packed[k]!)
    let implied = 0
    for (let i = 0; i < qr.rank; i++) implied += leading[i]! * c[i]!
    if (Math.abs(implied - l[qr.order[k]!]!) > 1e-7) estimable = false
  }
  return { estimate, root: solveRTranspose(qr, leading), estimable }
}

/**
 * Leverages h_ii: the share each observation has in its own fitted value, ‖R⁻ᵀ x_i‖². Rows
 * of a design matrix are mostly zeros, so only their nonzero entries are visited.
 */
export function leverages(fit: LinearFit): Float64Array {
  const { qr, design } = fit
  const inverse = inverseR(qr)
  const result = new Float64Array(qr.rows)
  const v = new Float64Array(qr.rank)
  for (let i = 0; i < qr.rows; i++) {
    v.fill(0)
    for (let k = 0; k < qr.rank; k++) {
      const x = design.columns[qr.order[k]!]![i]!
      if (x === 0) continue
      const row = inverse[k]!
      for (let j = k; j < qr.rank; j++) v[j]! += x * row[j]!
    }
    for (let j = 0; j < qr.rank; j++) result[i]! += v[j]! ** 2
    if (fit.weights) result[i]! *= fit.weights[i]!
  }
  return result
}

/** Which columns of a design are independent of those before them, and what the others are of these. */
export interface Independent {
  readonly keep: readonly number[]
  /** A dependent column is the kept ones, each times its weight. */
  readonly dependent: readonly { readonly at: number; readonly weights: Float64Array }[]
}

export function independentColumns({ columns, rows }: DesignMatrix): Independent {
  const qr = factorQR(columns, rows)
  return {
    keep: Array.from(qr.order.subarray(0, qr.rank)),
    dependent: Array.from(qr.order.subarray(qr.rank), (at, k) => ({ at, weights: solveR(qr, qr.packed[qr.rank + k]!) })),
  }
}
