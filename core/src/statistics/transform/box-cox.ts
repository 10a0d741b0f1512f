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
export function boxCoxLogLikelihood(design: DesignMatrix, y: Float64Array, lambda: number): number {
  return profile(factorQR(design.columns, design.rows), y, lambda)
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

/** The power that maximises the likelihood of a positive response, with its interval at the level. */
export function boxCox(design: DesignMatrix, y: Float64Array, level = 0.05): BoxCox {
  const qr = factorQR(design.columns, design.rows)
  const at = (lambda: number): number => profile(qr, y, lambda)
  const lambda = maximise(at, -5, 5)
  const logLikelihood = at(lambda)
  const drop = (l: number): number => at(l) - logLikelihood + chiSquaredQuantile(1 - level, 1) / 2
  const edge = (step: number): number => {
    let far = lambda + step
    while (drop(far) > 0 && Math.abs(far) < 50) far += step
    return drop(far) > 0 ? far : findRoot(drop, far - step, far, 1e-10)
  }
  const test = (l: number) => {
    const statistic = 2 * (logLikelihood - at(l))
    return { statistic, p: chiSquaredUpper(statistic, 1) }
  }
  return { lambda, logLikelihood, lower: edge(-0.5), upper: edge(0.5), log: test(0), none: test(1) }
}

/** Golden section on a function with one summit, polished by a parabola through close points. */
function maximise(f: (x: number) => number, low: number, high: number): number {
  const ratio = (Math.sqrt(5) - 1) / 2
  let [a, b] = [low, high]
  while (b - a > 1e-5) {
    const c = b - ratio * (b - a)
    const d = a + ratio * (b - a)
    if (f(c) > f(d)) b = d
    else a = c
  }
  let x = (a + b) / 2
  // Close to the summit the function is flat to rounding; a wider parabola finds it more exactly.
  for (let step = 0; step < 4; step++) {
    const h = 2e-3
    const [left, middle, right] = [f(x - h), f(x), f(x + h)]
    x += (h * (right - left)) / (2 * (2 * middle - left - right))
  }
  return x
}
