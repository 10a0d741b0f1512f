/** Nodes and weights of the n-point Gauss–Legendre rule on [−1, 1]. */
export interface Rule {
  readonly nodes: Float64Array
  readonly weights: Float64Array
}

const rules = new Map<number, Rule>()

/** By Newton's method on the Legendre recurrence (Abramowitz & Stegun 25.4.29). */
export function gaussLegendre(n: number): Rule {
  const known = rules.get(n)
  if (known) return known
  const nodes = new Float64Array(n)
  const weights = new Float64Array(n)
  for (let i = 0; i < (n + 1) / 2; i++) {
    let x = Math.cos((Math.PI * (i + 0.75)) / (n + 0.5))
    let slope = 0
    for (let step = 0; step < 100; step++) {
      let p1 = 1
      let p2 = 0
      for (let j = 1; j <= n; j++) {
        const p3 = p2
        p2 = p1
        p1 = ((2 * j - 1) * x * p2 - (j - 1) * p3) / j
      }
      slope = (n * (x * p1 - p2)) / (x * x - 1)
      const move = p1 / slope
      x -= move
      if (Math.abs(move) < 1e-16) break
    }
    nodes[i] = -x
    nodes[n - 1 - i] = x
    weights[i] = weights[n - 1 - i] = 2 / ((1 - x * x) * slope * slope)
  }
  const rule = { nodes, weights }
  rules.set(n, rule)
  return rule
}

/** Composite rule: the integral of f over [low, high] cut into `pieces` of `points` nodes each. */
export function integrate(f: (x: number) => number, low: number, high: number, pieces: number, points = 16): number {
  const { nodes, weights } = gaussLegendre(points)
  const half = (high - low) / pieces / 2
  let sum = 0
  for (let piece = 0; piece < pieces; piece++) {
    const middle = low + half * (2 * piece + 1)
    for (let i = 0; i < points; i++) sum += weights[i]! * f(middle + half * nodes[i]!)
  }
  return sum * half
}
