/**
 * Root of a continuous function with a change of sign on [low, high], by Brent's method
 * (R. P. Brent, Algorithms for Minimization without Derivatives, 1973, ch. 4).
 * Throws RangeError when the ends have the same sign.
 */
export function findRoot(f: (x: number) => number, low: number, high: number, tolerance = 1e-12): number {
  let a = low
  let b = high
  let fa = f(a)
  let fb = f(b)
  if (fa === 0) return a
  if (fb === 0) return b
  if (fa * fb > 0) throw new RangeError('No change of sign between the ends')
  let c = a
  let fc = fa
  let d = b - a
  let e = d
  for (let i = 0; i < 200; i++) {
    if (fb * fc > 0) {
      c = a
      fc = fa
      d = b - a
      e = d
    }
    if (Math.abs(fc) < Math.abs(fb)) {
      a = b
      b = c
      c = a
      fa = fb
      fb = fc
      fc = fa
    }
    const tol = 2 * Number.EPSILON * Math.abs(b) + tolerance / 2
    const m = (c - b) / 2
    if (Math.abs(m) <= tol || fb === 0) return b
    if (Math.abs(e) < tol || Math.abs(fa) <= Math.abs(fb)) {
      d = m
      e = m
    } else {
      const s = fb / fa
      let p: number
      let q: number
      if (a === c) {
        p = 2 * m * s
        q = 1 - s
      } else {
        const r = fa / fc
        const t = fb / fc
        p = s * (2 * m * r * (r - t) - (b - a) * (t - 1))
        q = (r - 1) * (t - 1) * (s - 1)
      }
      if (p > 0) q = -q
      else p = -p
      if (2 * p < Math.min(3 * m * q - Math.abs(tol * q), Math.abs(e * q))) {
        e = d
        d = p / q
      } else {
        d = m
        e = m
      }
    }
    a = b
    fa = fb
    b += Math.abs(d) > tol ? d : m > 0 ? tol : -tol
    fb = f(b)
  }
  return b
}
