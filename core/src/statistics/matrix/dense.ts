/** A matrix held by rows. */
export interface Dense {
  readonly rows: number
  readonly columns: number
  readonly values: Float64Array
}

export function dense(rows: number, columns: number, at?: (i: number, j: number) => number): Dense {
  const values = new Float64Array(rows * columns)
  if (at) for (let i = 0; i < rows; i++) for (let j = 0; j < columns; j++) values[i * columns + j] = at(i, j)
  return { rows, columns, values }
}

function identity(n: number): Dense {
  return dense(n, n, (i, j) => (i === j ? 1 : 0))
}

export function transpose({ rows, columns, values }: Dense): Dense {
  const turned = new Float64Array(values.length)
  for (let i = 0; i < rows; i++) for (let j = 0; j < columns; j++) turned[j * rows + i] = values[i * columns + j]!
  return { rows: columns, columns: rows, values: turned }
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

/** Σ a[p + k] b[q + k] over n of them; four sums side by side, since one would wait for each addition. */
export function dot(a: Float64Array, p: number, b: Float64Array, q: number, n: number): number {
  let s0 = 0
  let s1 = 0
  let s2 = 0
  let s3 = 0
  let k = 0
  for (; k + 3 < n; k += 4) {
    s0 += a[p + k]! * b[q + k]!
    s1 += a[p + k + 1]! * b[q + k + 1]!
    s2 += a[p + k + 2]! * b[q + k + 2]!
    s3 += a[p + k + 3]! * b[q + k + 3]!
  }
  for (; k < n; k++) s0 += a[p + k]! * b[q + k]!
  return s0 + s1 + (s2 + s3)
}

/** A Bᵀ. */
export function timesTransposed(a: Dense, b: Dense): Dense {
  const product = dense(a.rows, b.rows)
  const [x, y, n] = [a.values, b.values, a.columns]
  for (let i = 0; i < a.rows; i++) {
    for (let j = 0; j < b.rows; j++) product.values[i * b.rows + j] = dot(x, i * n, y, j * n, n)
  }
  return product
}

/** A Aᵀ, half of which is the other half. */
export function gram(a: Dense): Dense {
  const [m, n, x] = [a.rows, a.columns, a.values]
  const product = dense(m, m)
  for (let i = 0; i < m; i++)
    for (let j = 0; j <= i; j++) product.values[i * m + j] = product.values[j * m + i] = dot(x, i * n, x, j * n, n)
  return product
}

/** a A + b B. */
export function combine(a: number, first: Dense, b: number, second: Dense): Dense {
  const [x, y] = [first.values, second.values]
  const values = new Float64Array(x.length)
  for (let i = 0; i < x.length; i++) values[i] = a * x[i]! + b * y[i]!
  return { rows: first.rows, columns: first.columns, values }
}

/** Some of the rows and columns, from and up to. */
export function part(of: Dense, [top, bottom]: readonly [number, number], [left, right]: readonly [number, number]): Dense {
  const columns = right - left
  const values = new Float64Array((bottom - top) * columns)
  for (let i = top; i < bottom; i++) values.set(of.values.subarray(i * of.columns + left, i * of.columns + right), (i - top) * columns)
  return { rows: bottom - top, columns, values }
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
      const sum = values[i * n + j]! - dot(l, i * n, l, j * n, j)
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

/** L⁻¹ B, of A = L Lᵀ. */
export function forward({ lower: { rows: n, values: l } }: Cholesky, b: Dense): Dense {
  const x = Float64Array.from(b.values)
  const m = b.columns
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) {
      const factor = l[i * n + k]!
      if (factor !== 0) for (let j = 0; j < m; j++) x[i * m + j]! -= factor * x[k * m + j]!
    }
    const pivot = l[i * n + i]!
    for (let j = 0; j < m; j++) x[i * m + j]! /= pivot
  }
  return { rows: n, columns: m, values: x }
}

/** A⁻¹ from A = L Lᵀ: the inverse of L, which is lower too, and its product with itself. */
export function inverseFrom({ lower: { rows: n, values: l } }: Cholesky): Dense {
  const w = new Float64Array(n * n)
  // Row i of L⁻¹ from the rows above it.
  for (let i = 0; i < n; i++) {
    const pivot = 1 / l[i * n + i]!
    for (let k = 0; k < i; k++) {
      const factor = -l[i * n + k]! * pivot
      if (factor !== 0) for (let j = 0; j <= k; j++) w[i * n + j]! += factor * w[k * n + j]!
    }
    w[i * n + i] = pivot
  }
  const values = new Float64Array(n * n)
  for (let k = 0; k < n; k++) {
    for (let i = 0; i <= k; i++) {
      const factor = w[k * n + i]!
      if (factor !== 0) for (let j = 0; j <= i; j++) values[i * n + j]! += factor * w[k * n + j]!
    }
  }
  for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) values[j * n + i] = values[i * n + j]!
  return { rows: n, columns: n, values }
}

export function inverse(of: Dense): Dense {
  return inverseFrom(cholesky(of))
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
