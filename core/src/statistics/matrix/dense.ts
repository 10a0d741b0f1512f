/** A matrix held by rows. */
export interface Dense {
  readonly rows: number
  readonly columns: number
  readonly values: Float64Array
}

export function dense(rows: number, columns: number, at: (i: number, j: number) => number = () => 0): Dense {
  const values = new Float64Array(rows * columns)
  for (let i = 0; i < rows; i++) for (let j = 0; j < columns; j++) values[i * columns + j] = at(i, j)
  return { rows, columns, values }
}

function identity(n: number): Dense {
  return dense(n, n, (i, j) => (i === j ? 1 : 0))
}

export function transpose({ rows, columns, values }: Dense): Dense {
  return dense(columns, rows, (i, j) => values[j * columns + i]!)
}

/** A B. */
export function times(a: Dense, b: Dense): Dense {
  const product = dense(a.rows, b.columns)
  const [x, y, z] = [a.values, b.values, product.values]
  for (let i = 0; i < a.rows; i++) {
    for (let k = 0; k < a.columns; k++) {
      const factor = x[i * a.columns + k]!
      if (factor === 0) continue
      for (let j = 0; j < b.columns; j++) z[i * b.columns + j]! += factor * y[k * b.columns + j]!
    }
  }
  return product
}

/** a A + b B. */
export function combine(a: number, first: Dense, b: number, second: Dense): Dense {
  return { ...first, values: first.values.map((value, i) => a * value + b * second.values[i]!) }
}

/** Some of the rows and columns, from and up to. */
export function part(of: Dense, [top, bottom]: readonly [number, number], [left, right]: readonly [number, number]): Dense {
  return dense(bottom - top, right - left, (i, j) => of.values[(top + i) * of.columns + left + j]!)
}

/** tr(A B), without the product. */
export function traceOfProduct(a: Dense, b: Dense): number {
  let sum = 0
  for (let i = 0; i < a.rows; i++) for (let k = 0; k < a.columns; k++) sum += a.values[i * a.columns + k]! * b.values[k * b.columns + i]!
  return sum
}

export interface Cholesky {
  /** L of A = L Lᵀ, by rows. */
  readonly lower: Dense
  readonly logDeterminant: number
}

/** Cholesky factor of a symmetric positive definite matrix (Golub & Van Loan, §4.2). Throws RangeError when it is not. */
export function cholesky({ rows: n, values }: Dense): Cholesky {
  const l = new Float64Array(n * n)
  let logDeterminant = 0
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = values[i * n + j]!
      for (let k = 0; k < j; k++) sum -= l[i * n + k]! * l[j * n + k]!
      if (i !== j) {
        l[i * n + j] = sum / l[j * n + j]!
        continue
      }
      if (!(sum > 0)) throw new RangeError('The matrix is not positive definite')
      l[i * n + i] = Math.sqrt(sum)
      logDeterminant += Math.log(sum)
    }
  }
  return { lower: { rows: n, columns: n, values: l }, logDeterminant }
}

/** A⁻¹ B from the Cholesky factor of A. */
export function solve({ lower: { rows: n, values: l } }: Cholesky, b: Dense): Dense {
  const x = Float64Array.from(b.values)
  const m = b.columns
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) {
      const factor = l[i * n + k]!
      if (factor !== 0) for (let j = 0; j < m; j++) x[i * m + j]! -= factor * x[k * m + j]!
    }
    for (let j = 0; j < m; j++) x[i * m + j]! /= l[i * n + i]!
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) {
      const factor = l[k * n + i]!
      if (factor !== 0) for (let j = 0; j < m; j++) x[i * m + j]! -= factor * x[k * m + j]!
    }
    for (let j = 0; j < m; j++) x[i * m + j]! /= l[i * n + i]!
  }
  return { rows: n, columns: m, values: x }
}

export function inverse(of: Dense): Dense {
  return solve(cholesky(of), identity(of.rows))
}

/** Eigenvalues and eigenvectors (in columns) of a symmetric matrix, by Jacobi's rotations (Golub & Van Loan, §8.5). */
export function eigen(of: Dense): { values: Float64Array; vectors: Dense } {
  const n = of.rows
  const a = Float64Array.from(of.values)
  const v = identity(n)
  const size = Math.sqrt(a.reduce((sum, each) => sum + each * each, 0))
  for (let sweep = 0; sweep < 60; sweep++) {
    let off = 0
    for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) off += a[i * n + j]! ** 2
    if (Math.sqrt(off) <= 1e-15 * size) break
    for (let p = 0; p < n; p++) {
      for (let q = p + 1; q < n; q++) {
        const apq = a[p * n + q]!
        if (apq === 0) continue
        const theta = (a[q * n + q]! - a[p * n + p]!) / (2 * apq)
        const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1))
        const c = 1 / Math.sqrt(t * t + 1)
        const s = t * c
        for (const rotate of [
          (k: number): [number, number] => [k * n + p, k * n + q],
          (k: number): [number, number] => [p * n + k, q * n + k],
        ]) {
          for (let k = 0; k < n; k++) {
            const [x, y] = rotate(k)
            const [ax, ay] = [a[x]!, a[y]!]
            a[x] = c * ax - s * ay
            a[y] = s * ax + c * ay
          }
        }
        for (let k = 0; k < n; k++) {
          const [x, y] = [v.values[k * n + p]!, v.values[k * n + q]!]
          v.values[k * n + p] = c * x - s * y
          v.values[k * n + q] = s * x + c * y
        }
      }
    }
  }
  return { values: Float64Array.from({ length: n }, (_, i) => a[i * n + i]!), vectors: v }
}
