import { dot } from './dense.ts'

/**
 * The places of a symmetric matrix that may differ from zero, from the sets of indices that meet each
 * other; every diagonal place is among them. Values are put in by `at`.
 */
export class SparsePattern {
  readonly size: number
  readonly starts: Int32Array
  readonly rows: Int32Array

  constructor(size: number, pairs: (meet: (i: number, j: number) => void) => void) {
    this.size = size
    const found = Array.from({ length: size }, () => new Set<number>())
    pairs((i, j) => void (i > j ? found[j]!.add(i) : j > i && found[i]!.add(j)))
    this.starts = new Int32Array(size + 1)
    for (let j = 0; j < size; j++) this.starts[j + 1] = this.starts[j]! + found[j]!.size + 1
    this.rows = new Int32Array(this.starts[size]!)
    for (let j = 0; j < size; j++) this.rows.set([j, ...[...found[j]!].sort((a, b) => a - b)], this.starts[j])
  }

  /** Where the value of (i, j) stands, whichever way round. */
  at(i: number, j: number): number {
    const [row, column] = i > j ? [i, j] : [j, i]
    let [low, high] = [this.starts[column]!, this.starts[column + 1]! - 1]
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.rows[middle]! < row) low = middle + 1
      else high = middle
    }
    if (this.rows[low] !== row) throw new RangeError(`The pattern holds no place ${i}, ${j}`)
    return low
  }
}

/**
 * Factor P A Pᵀ = L Lᵀ of symmetric positive definite matrices of one pattern: the order of elimination
 * (least degree first) and the places of L are found once, values put in as often as they change
 * (George & Liu 1981; Davis 2006, ch. 4–7). Throws RangeError where a matrix is not positive definite.
 */
export class SparseCholesky {
  readonly #size: number
  /** Position of each index in the order of elimination. */
  readonly #position: Int32Array
  /** L by columns, diagonal first, rows rising. */
  readonly #starts: Int32Array
  readonly #rows: Int32Array
  readonly #values: Float64Array
  /** Where each value of the matrix goes in L. */
  readonly #into: Int32Array
  /** From this column on every column meets all that follow: that corner is held as a full matrix while it is worked on. */
  readonly #full: number
  logDeterminant = NaN

  constructor(pattern: SparsePattern) {
    const n = pattern.size
    this.#size = n
    const { order, columns } = eliminated(pattern)
    this.#position = new Int32Array(n)
    order.forEach((index, place) => (this.#position[index] = place))
    this.#starts = new Int32Array(n + 1)
    columns.forEach((column, j) => (this.#starts[j + 1] = this.#starts[j]! + column.length + 1))
    this.#rows = new Int32Array(this.#starts[n]!)
    columns.forEach((column, j) =>
      this.#rows.set([j, ...column.map((index) => this.#position[index]!).sort((a, b) => a - b)], this.#starts[j]),
    )
    this.#values = new Float64Array(this.#rows.length)
    let full = n
    while (full > 0 && this.#starts[full]! - this.#starts[full - 1]! === n - full + 1) full--
    this.#full = full
    this.#into = new Int32Array(pattern.rows.length)
    for (let j = 0; j < n; j++) {
      for (let at = pattern.starts[j]!; at < pattern.starts[j + 1]!; at++) {
        const [a, b] = [this.#position[pattern.rows[at]!]!, this.#position[j]!]
        this.#into[at] = placeIn(this.#starts, this.#rows, Math.max(a, b), Math.min(a, b))
      }
    }
  }

  /** Right-looking: each column, once done, is taken from those its rows name. */
  factor(values: Float64Array): void {
    const [n, starts, rows, l] = [this.#size, this.#starts, this.#rows, this.#values]
    l.fill(0)
    for (let at = 0; at < values.length; at++) l[this.#into[at]!]! += values[at]!
    const place = new Int32Array(n)
    let logDeterminant = 0
    for (let j = 0; j < this.#full; j++) {
      const [from, to] = [starts[j]!, starts[j + 1]!]
      const pivot = l[from]!
      if (!(pivot > 0)) throw new RangeError('The matrix is not positive definite')
      logDeterminant += Math.log(pivot)
      const root = Math.sqrt(pivot)
      l[from] = root
      for (let at = from + 1; at < to; at++) l[at]! /= root
      for (let at = from + 1; at < to; at++) {
        const factor = l[at]!
        if (factor === 0) continue
        const column = rows[at]!
        const own = starts[column]!
        // Rows of this column that lie below are among those of that column: where rows are the same in
        // number, they are the same, and nothing needs to be looked up.
        if (starts[column + 1]! - own === to - at) {
          for (let k = at, into = own; k < to; k++, into++) l[into]! -= factor * l[k]!
          continue
        }
        for (let into = own; into < starts[column + 1]!; into++) place[rows[into]!] = into
        for (let k = at; k < to; k++) l[place[rows[k]!]!]! -= factor * l[k]!
      }
    }
    this.logDeterminant = logDeterminant + this.#factorCorner()
  }

  /** The corner by rows, so that what is multiplied lies side by side; log of its determinant. */
  #factorCorner(): number {
    const [starts, l, from] = [this.#starts, this.#values, this.#full]
    const m = this.#size - from
    const a = new Float64Array(m * m)
    for (let j = 0; j < m; j++) for (let i = j, at = starts[from + j]!; i < m; i++, at++) a[i * m + j] = l[at]!
    let logDeterminant = 0
    for (let i = 0; i < m; i++) {
      for (let j = 0; j <= i; j++) {
        const sum = a[i * m + j]! - dot(a, i * m, a, j * m, j)
        if (i !== j) {
          a[i * m + j] = sum / a[j * m + j]!
          continue
        }
        if (!(sum > 0)) throw new RangeError('The matrix is not positive definite')
        logDeterminant += Math.log(sum)
        a[i * m + i] = Math.sqrt(sum)
      }
    }
    for (let j = 0; j < m; j++) for (let i = j, at = starts[from + j]!; i < m; i++, at++) l[at] = a[i * m + j]!
    return logDeterminant
  }

  /** The inverse of the corner, put into `z` at its places. */
  #invertCorner(z: Float64Array): void {
    const [starts, l, from] = [this.#starts, this.#values, this.#full]
    const m = this.#size - from
    // Columns of L⁻¹, each as a row, then the products of those.
    const w = new Float64Array(m * m)
    const row = new Float64Array(m)
    for (let i = 0; i < m; i++) {
      for (let k = 0; k < i; k++) row[k] = l[starts[from + k]! + i - k]!
      const pivot = 1 / l[starts[from + i]!]!
      for (let j = 0; j < i; j++) {
        w[j * m + i] = -dot(row, j, w, j * m + j, i - j) * pivot
      }
      w[i * m + i] = pivot
    }
    for (let j = 0; j < m; j++)
      for (let i = j, at = starts[from + j]!; i < m; i++, at++) {
        z[at] = dot(w, i * m + i, w, j * m + i, m - i)
      }
  }

  /** A⁻¹ b, in the order of the matrix. */
  solve(b: Float64Array): Float64Array {
    const [n, starts, rows, l] = [this.#size, this.#starts, this.#rows, this.#values]
    const x = new Float64Array(n)
    for (let i = 0; i < n; i++) x[this.#position[i]!] = b[i]!
    for (let j = 0; j < n; j++) {
      const own = (x[j]! /= l[starts[j]!]!)
      if (own !== 0) for (let at = starts[j]! + 1; at < starts[j + 1]!; at++) x[rows[at]!]! -= l[at]! * own
    }
    for (let j = n - 1; j >= 0; j--) {
      let sum = x[j]!
      for (let at = starts[j]! + 1; at < starts[j + 1]!; at++) sum -= l[at]! * x[rows[at]!]!
      x[j] = sum / l[starts[j]!]!
    }
    const found = new Float64Array(n)
    for (let i = 0; i < n; i++) found[i] = x[this.#position[i]!]!
    return found
  }

  /** Columns of A⁻¹. */
  inverseColumns(indices: readonly number[]): Float64Array[] {
    const [n, starts, rows, l] = [this.#size, this.#starts, this.#rows, this.#values]
    const from = this.#full
    if (indices.some((index) => this.#position[index]! < from)) {
      return indices.map((index) => {
        const unit = new Float64Array(n)
        unit[index] = 1
        return this.solve(unit)
      })
    }
    // Of the corner they are known from its inverse; the rest follows backwards.
    const z = new Float64Array(l.length)
    this.#invertCorner(z)
    const x = new Float64Array(n)
    return indices.map((index) => {
      const own = this.#position[index]!
      for (let i = from; i < n; i++) x[i] = i < own ? z[starts[i]! + own - i]! : z[starts[own]! + i - own]!
      for (let j = from - 1; j >= 0; j--) {
        let sum = 0
        for (let at = starts[j]! + 1; at < starts[j + 1]!; at++) sum -= l[at]! * x[rows[at]!]!
        x[j] = sum / l[starts[j]!]!
      }
      const found = new Float64Array(n)
      for (let i = 0; i < n; i++) found[i] = x[this.#position[i]!]!
      return found
    })
  }

  /** A⁻¹ at the places of L, which hold those of the matrix (Takahashi, Fagan & Chin 1973). */
  inverse(): (i: number, j: number) => number {
    const [n, starts, rows, l] = [this.#size, this.#starts, this.#rows, this.#values]
    const z = new Float64Array(l.length)
    const held = new Float64Array(n)
    const sums = new Float64Array(n)
    this.#invertCorner(z)
    for (let j = this.#full - 1; j >= 0; j--) {
      const [from, to] = [starts[j]!, starts[j + 1]!]
      const diagonal = l[from]!
      for (let at = from + 1; at < to; at++) {
        held[rows[at]!] = l[at]!
        sums[rows[at]!] = 0
      }
      // Σ_k Z_ik L_kj over the rows k of this column, from the columns of Z that hold them.
      for (let at = from + 1; at < to; at++) {
        const k = rows[at]!
        const factor = held[k]!
        sums[k]! += z[starts[k]!]! * factor
        if (starts[k + 1]! - starts[k]! === to - at) {
          for (let below = at + 1, own = starts[k]! + 1; below < to; below++, own++) {
            const i = rows[below]!
            sums[i]! += z[own]! * factor
            sums[k]! += z[own]! * held[i]!
          }
          continue
        }
        let own = starts[k]! + 1
        for (let below = at + 1; below < to; below++) {
          const i = rows[below]!
          while (rows[own]! < i) own++
          sums[i]! += z[own]! * factor
          sums[k]! += z[own]! * held[i]!
        }
      }
      let sum = 1 / diagonal
      for (let at = from + 1; at < to; at++) {
        z[at] = -sums[rows[at]!]! / diagonal
        sum -= l[at]! * z[at]!
      }
      z[from] = sum / diagonal
    }
    return (i, j) => {
      const [a, b] = [this.#position[i]!, this.#position[j]!]
      return a === b ? z[starts[a]!]! : z[placeIn(starts, rows, Math.max(a, b), Math.min(a, b))]!
    }
  }
}

function placeIn(starts: Int32Array, rows: Int32Array, row: number, column: number): number {
  let [low, high] = [starts[column]!, starts[column + 1]! - 1]
  while (low < high) {
    const middle = (low + high) >> 1
    if (rows[middle]! < row) low = middle + 1
    else high = middle
  }
  return low
}

/** The order of elimination by least degree, and for each what it still meets when its turn comes. */
function eliminated({ size, starts, rows }: SparsePattern): { order: Int32Array; columns: number[][] } {
  const near = Array.from({ length: size }, () => new Set<number>())
  for (let j = 0; j < size; j++)
    for (let at = starts[j]! + 1; at < starts[j + 1]!; at++) {
      near[j]!.add(rows[at]!)
      near[rows[at]!]!.add(j)
    }
  const order = new Int32Array(size)
  const columns: number[][] = []
  const waiting = new Waiting(near.map((each) => each.size))
  for (let turn = 0; turn < size; turn++) {
    const next = waiting.least()
    order[turn] = next
    const own = [...near[next]!]
    columns.push(own)
    // All that is left meets all: the order no longer matters.
    if (own.length === size - turn - 1) {
      own.forEach((index, i) => {
        order[turn + 1 + i] = index
        columns.push(own.slice(i + 1))
      })
      break
    }
    for (const index of own) {
      const met = near[index]!
      met.delete(next)
      for (const other of own) if (other !== index) met.add(other)
      waiting.move(index, met.size)
    }
    near[next]!.clear()
  }
  return { order, columns }
}

/** Indices by their degree, each taken out once. */
class Waiting {
  readonly #by: Set<number>[]
  readonly #degree: number[]
  #from = 0

  constructor(degrees: readonly number[]) {
    this.#degree = [...degrees]
    this.#by = Array.from({ length: degrees.length + 1 }, () => new Set<number>())
    degrees.forEach((degree, index) => this.#by[degree]!.add(index))
  }

  least(): number {
    while (this.#by[this.#from]!.size === 0) this.#from++
    const [index] = this.#by[this.#from]!
    this.#by[this.#from]!.delete(index!)
    return index!
  }

  move(index: number, degree: number): void {
    this.#by[this.#degree[index]!]!.delete(index)
    this.#degree[index] = degree
    this.#by[degree]!.add(index)
    this.#from = Math.min(this.#from, degree)
  }
}
