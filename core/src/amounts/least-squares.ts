/**
 * Least squares with nothing below zero: x ≥ 0 that makes |A x − b| least, by the active set method of
 * Lawson and Hanson (Solving Least Squares Problems, 1974, chapter 23). `columns`: those of A, each as long
 * as b. For the handful of products and nutrients of a trial; columns that say the same as another get 0.
 */
export function nonNegativeLeastSquares(columns: readonly (readonly number[])[], b: readonly number[]): number[] {
  const n = columns.length
  const x = new Array<number>(n).fill(0)
  const free = new Set<number>()
  const scale = Math.max(1e-300, ...columns.flat().map(Math.abs)) * Math.max(1e-300, ...b.map(Math.abs))
  // Each turn frees one column, and the residual falls each time: no set of free columns comes twice.
  for (let turn = 0; turn < 3 * n + 10; turn++) {
    const residual = b.map((value, i) => value - columns.reduce((sum, column, j) => sum + column[i]! * x[j]!, 0))
    const gain = columns.map((column, j) => (free.has(j) ? -Infinity : dot(column, residual)))
    const best = gain.indexOf(Math.max(...gain))
    if (n === 0 || !(gain[best]! > 1e-10 * scale)) break
    free.add(best)
    for (;;) {
      const solved = solveOn([...free], columns, b)
      if (!solved) {
        free.delete(best)
        return x
      }
      const negative = [...free].filter((j) => solved.get(j)! <= 0)
      if (negative.length === 0) {
        for (let j = 0; j < n; j++) x[j] = solved.get(j) ?? 0
        break
      }
      const step = Math.min(...negative.map((j) => x[j]! / (x[j]! - solved.get(j)!)))
      for (const j of free) x[j] = x[j]! + step * (solved.get(j)! - x[j]!)
      const least = 1e-13 * Math.max(...x)
      for (const j of [...free].filter((each) => x[each]! <= least)) {
        x[j] = 0
        free.delete(j)
      }
      if (free.size === 0) break
    }
  }
  return x
}

function dot(a: readonly number[], b: readonly number[]): number {
  return a.reduce((sum, value, i) => sum + value * b[i]!, 0)
}

/** Unbounded least squares on some columns, by Gram–Schmidt; null where they say the same. */
function solveOn(free: readonly number[], columns: readonly (readonly number[])[], b: readonly number[]): Map<number, number> | null {
  const basis: number[][] = []
  const upper: number[][] = []
  for (const j of free) {
    let rest = [...columns[j]!]
    const above: number[] = []
    // Twice is enough: what rounding leaves of earlier directions goes at the second time.
    for (let again = 0; again < 2; again++)
      basis.forEach((direction, k) => {
        const part = dot(direction, rest)
        above[k] = (above[k] ?? 0) + part
        rest = rest.map((value, i) => value - part * direction[i]!)
      })
    const length = Math.sqrt(dot(rest, rest))
    if (length <= 1e-10 * Math.sqrt(dot(columns[j]!, columns[j]!))) return null
    basis.push(rest.map((value) => value / length))
    upper.push([...above, length])
  }
  const found = new Map<number, number>()
  for (let k = free.length - 1; k >= 0; k--) {
    let value = dot(basis[k]!, b)
    for (let later = k + 1; later < free.length; later++) value -= upper[later]![k]! * found.get(free[later]!)!
    found.set(free[k]!, value / upper[k]![k]!)
  }
  return found
}
