/**
 * Householder QR of an n × p matrix held by columns, with columns that depend on earlier
 * ones moved to the end, so that the order of terms is kept and sequential sums of squares
 * can be read from Qᵀy (Golub & Van Loan, Matrix Computations, §5.2).
 */
export interface QR {
  readonly rows: number
  readonly columns: number
  readonly rank: number
  /** Original index of each column in factored order; the first `rank` are independent. */
  readonly order: Int32Array
  /** Columns in factored order: R on and above the diagonal, Householder vectors below. */
  readonly packed: readonly Float64Array[]
  readonly tau: Float64Array
}

/** `tolerance`: a column whose norm falls below this share of its own first norm counts as dependent. */
export function factorQR(columns: readonly Float64Array[], rows: number, tolerance = 1e-9): QR {
  const p = columns.length
  const packed = columns.map((column) => Float64Array.from(column))
  const order = Int32Array.from(packed, (_, i) => i)
  const norms = packed.map((column) => norm(column, 0))
  const tau = new Float64Array(p)
  let last = p
  let k = 0
  while (k < last && k < rows) {
    const column = packed[k]!
    const size = norm(column, k)
    const first = norms[order[k]!]!
    if (first === 0 || size <= tolerance * first) {
      packed.push(packed.splice(k, 1)[0]!)
      const moved = order[k]!
      order.copyWithin(k, k + 1)
      order[p - 1] = moved
      last--
      continue
    }
    reflect(column, k, size, tau)
    for (let j = k + 1; j < p; j++) apply(column, tau[k]!, k, packed[j]!)
    k++
  }
  return { rows, columns: p, rank: k, order, packed, tau }
}

function norm(column: Float64Array, from: number): number {
  let scale = 0
  for (let i = from; i < column.length; i++) scale = Math.max(scale, Math.abs(column[i]!))
  if (scale === 0) return 0
  let sum = 0
  for (let i = from; i < column.length; i++) sum += (column[i]! / scale) ** 2
  return scale * Math.sqrt(sum)
}

function reflect(column: Float64Array, k: number, size: number, tau: Float64Array): void {
  const alpha = column[k]!
  const beta = alpha > 0 ? -size : size
  tau[k] = (beta - alpha) / beta
  const scale = 1 / (alpha - beta)
  for (let i = k + 1; i < column.length; i++) column[i]! *= scale
  column[k] = beta
}

function apply(vector: Float64Array, tau: number, k: number, target: Float64Array): void {
  let sum = target[k]!
  for (let i = k + 1; i < target.length; i++) sum += vector[i]! * target[i]!
  sum *= tau
  if (sum === 0) return
  target[k]! -= sum
  for (let i = k + 1; i < target.length; i++) target[i]! -= sum * vector[i]!
}

/** Qᵀ y, as a new array. */
export function transposeTimes(qr: QR, y: Float64Array): Float64Array {
  const result = Float64Array.from(y)
  for (let k = 0; k < qr.rank; k++) apply(qr.packed[k]!, qr.tau[k]!, k, result)
  return result
}

/** Q v, as a new array. */
export function timesQ(qr: QR, v: Float64Array): Float64Array {
  const result = Float64Array.from(v)
  for (let k = qr.rank - 1; k >= 0; k--) apply(qr.packed[k]!, qr.tau[k]!, k, result)
  return result
}

/** Solves R x = b for the leading rank × rank triangle. */
export function solveR(qr: QR, b: Float64Array): Float64Array {
  const x = Float64Array.from(b.subarray(0, qr.rank))
  for (let j = qr.rank - 1; j >= 0; j--) {
    x[j]! /= qr.packed[j]![j]!
    const xj = x[j]!
    const column = qr.packed[j]!
    for (let i = 0; i < j; i++) x[i]! -= column[i]! * xj
  }
  return x
}

/** Solves Rᵀ x = b for the leading rank × rank triangle. */
export function solveRTranspose(qr: QR, b: Float64Array): Float64Array {
  const x = new Float64Array(qr.rank)
  for (let j = 0; j < qr.rank; j++) {
    const column = qr.packed[j]!
    let sum = b[j]!
    for (let i = 0; i < j; i++) sum -= column[i]! * x[i]!
    x[j] = sum / column[j]!
  }
  return x
}

/** Rows of R⁻¹ of the leading rank × rank triangle. */
export function inverseR(qr: QR): Float64Array[] {
  const rows = Array.from({ length: qr.rank }, () => new Float64Array(qr.rank))
  for (let j = 0; j < qr.rank; j++) {
    const column = qr.packed[j]!
    const pivot = 1 / column[j]!
    for (let i = 0; i < j; i++) {
      const row = rows[i]!
      let sum = 0
      for (let k = i; k < j; k++) sum += row[k]! * column[k]!
      row[j] = -sum * pivot
    }
    rows[j]![j] = pivot
  }
  return rows
}
