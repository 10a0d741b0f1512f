/**
 * A tail probability tabulated once for many arguments: log p at Chebyshev points of
 * [low, high], read off by barycentric interpolation (Berrut & Trefethen, SIAM Review 46,
 * 2004). The log of these tails is analytic, so 40 points leave a relative error near 1e-9.
 * Outside the interval, or where the tail has underflowed, the exact function is used.
 */
export function smoothTail(exact: (t: number) => number, low: number, high: number, points = 40): (t: number) => number {
  while (high > low && exact(high) < 1e-13) high *= 0.9
  const nodes = Array.from({ length: points }, (_, j) => (low + high) / 2 + ((high - low) / 2) * Math.cos((Math.PI * j) / (points - 1)))
  const logs = nodes.map((t) => Math.log(exact(t)))
  return (t) => {
    if (t < low || t > high) return exact(t)
    let above = 0
    let below = 0
    for (let j = 0; j < points; j++) {
      const distance = t - nodes[j]!
      if (distance === 0) return Math.exp(logs[j]!)
      const weight = ((j % 2 === 0 ? 1 : -1) * (j === 0 || j === points - 1 ? 0.5 : 1)) / distance
      above += weight * logs[j]!
      below += weight
    }
    return Math.min(1, Math.exp(above / below))
  }
}
