import { chiSquaredQuantile, chiSquaredUpper } from '../distribution/chi-squared.ts'
import { findRoot } from '../distribution/root.ts'
import type { DesignMatrix } from '../linear/design-matrix.ts'
import { factorQR, transposeTimes, type QR } from '../matrix/qr.ts'

export interface BoxCox {
  readonly lambda: number
  readonly logLikelihood: number
  readonly lower: number
  readonly upper: number
  /** Likelihood-ratio tests of the logarithm (λ = 0) and of no change (λ = 1). */
  readonly log: { readonly statistic: number; readonly p: number }
  readonly none: { readonly statistic: number; readonly p: number }
}

/** Profile log-likelihood of the power λ, additive constants dropped (Box & Cox, JRSS B 26, 1964). */
export function boxCoxLogLikelihood(
  design: DesignMatrix,
  y: Float64Array,
  lambda: number,
  qr: QR = factorQR(design.columns, design.rows),
): number {
  return profile(qr, y, lambda)
}

function profile(qr: QR, y: Float64Array, lambda: number): number {
  const n = y.length
  const logMean = y.reduce((sum, each) => sum + Math.log(each), 0) / n
  const g = Math.exp(logMean)
  const z = y.map((each) => {
    const log = Math.log(each)
    return Math.abs(lambda * log) < 1e-9
      ? g * log * (1 + (lambda * log) / 2) * Math.exp(-lambda * logMean)
      : Math.expm1(lambda * log) / (lambda * g ** (lambda - 1))
  })
  // Every scale is centred on its first value, as the fit is on its mean: the digits stay with the effects.
  const effects = transposeTimes(
    qr,
    z.map((each) => each - z[0]!),
  )
  let residualSs = 0
  for (let i = qr.rank; i < n; i++) residualSs += effects[i]! ** 2
  return (-n / 2) * Math.log(residualSs / n)
}

/**
 * The power that maximises the likelihood of a positive response, with its interval at the level.
 * `qr`: of the unweighted design, where it is known already.
 */
export function boxCox(design: DesignMatrix, y: Float64Array, level = 0.05, qr: QR = factorQR(design.columns, design.rows)): BoxCox {
  const at = (lambda: number): number => profile(qr, y, lambda)
  const lambda = maximise(at, -5, 5)
  const logLikelihood = at(lambda)
  const drop = (l: number): number => at(l) - logLikelihood + chiSquaredQuantile(1 - level, 1) / 2
  const edge = (step: number): number => {
    let far = lambda + step
    while (drop(far) > 0 && Math.abs(far) < 50) far += step
    // So far out that powers leave the range of numbers there is no limit to be found.
    if (!Number.isFinite(drop(far))) return step * Infinity
    if (drop(far) > 0) return far
    // Where a power fits all but exactly the likelihood is a spike, and has no limits worth the name.
    return drop(far - step) > 0 ? findRoot(drop, far - step, far, 1e-10) : NaN
  }
  const test = (l: number) => {
    const statistic = 2 * (logLikelihood - at(l))
    return { statistic, p: chiSquaredUpper(statistic, 1) }
  }
  return { lambda, logLikelihood, lower: edge(-0.5), upper: edge(0.5), log: test(0), none: test(1) }
}

/**
 * The summit of a smooth function with one summit: Brent's method (Algorithms for Minimization
 * without Derivatives, 1973, ch. 5), polished by a parabola through close points, since near the
 * summit the function is flat to rounding.
 */
function maximise(f: (x: number) => number, low: number, high: number): number {
  const golden = (3 - Math.sqrt(5)) / 2
  let [a, b] = [low, high]
  let x = a + golden * (b - a)
  let [w, v] = [x, x]
  let fx = f(x)
  let [fw, fv] = [fx, fx]
  let [step, before] = [0, 0]
  for (let i = 0; i < 100; i++) {
    const middle = (a + b) / 2
    const tolerance = 1e-5
    if (Math.abs(x - middle) <= 2 * tolerance - (b - a) / 2) break
    // A parabola through the three best, unless it leaves the interval or hardly gets smaller.
    const r = (x - w) * (fx - fv)
    const q0 = (x - v) * (fx - fw)
    let p = (x - v) * q0 - (x - w) * r
    let q = 2 * (q0 - r)
    if (q > 0) p = -p
    q = Math.abs(q)
    if (Math.abs(before) > tolerance && Math.abs(p) < Math.abs(0.5 * q * before) && p > q * (a - x) && p < q * (b - x)) {
      before = step
      step = p / q
    } else {
      before = x < middle ? b - x : a - x
      step = golden * before
    }
    const u = x + (Math.abs(step) >= tolerance ? step : step > 0 ? tolerance : -tolerance)
    const fu = f(u)
    if (fu >= fx) {
      if (u < x) b = x
      else a = x
      ;[v, fv, w, fw, x, fx] = [w, fw, x, fx, u, fu]
    } else {
      if (u < x) a = u
      else b = u
      if (fu >= fw || w === x) [v, fv, w, fw] = [w, fw, u, fu]
      else if (fu >= fv || v === x || v === w) [v, fv] = [u, fu]
    }
  }
  for (let polish = 0; polish < 2; polish++) {
    const h = 2e-3
    const [left, here, right] = [f(x - h), f(x), f(x + h)]
    x += (h * (right - left)) / (2 * (2 * here - left - right))
  }
  return x
}
