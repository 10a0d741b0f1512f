import gammaln from '@stdlib/math-base-special-gammaln'

/**
 * What Stirling's formula leaves of log Γ(x + 1): log Γ(x+1) − (x+½) log x + x − ½ log 2π, for x > 0.
 * Source: C. Loader, Fast and Accurate Computation of Binomial Probabilities (2000).
 */
export function stirlingRest(x: number): number {
  if (x < 16) return gammaln(x + 1) - (x + 0.5) * Math.log(x) + x - 0.5 * Math.log(2 * Math.PI)
  const s = 1 / (x * x)
  return (1 / 12 - s * (1 / 360 - s * (1 / 1260 - s * (1 / 1680 - s * (1 / 1188 - (s * 691) / 360360))))) / x
}

/** x log(x/m) + m − x without cancellation where x is close to m (Loader's deviance part). */
export function deviancePart(x: number, m: number): number {
  if (Math.abs(x - m) > 0.1 * (x + m)) return x * Math.log(x / m) + m - x
  const v = (x - m) / (x + m)
  let sum = (x - m) * v
  let term = 2 * x * v
  for (let j = 1; j < 1000; j++) {
    term *= v * v
    const next = sum + term / (2 * j + 1)
    if (next === sum) break
    sum = next
  }
  return sum
}

/** log P(X = k) of a Poisson variable. */
export function poissonMassLog(k: number, mean: number): number {
  if (k < 0 || !Number.isInteger(k)) return -Infinity
  if (k === 0) return -mean
  if (mean === 0) return -Infinity
  return -stirlingRest(k) - deviancePart(k, mean) - 0.5 * Math.log(2 * Math.PI * k)
}

/** log of Γ(x+y+1) / (Γ(x+1) Γ(y+1)) p^x q^y with p + q = 1: the binomial mass, for any real x, y > 0. */
export function binomialWeightLog(x: number, y: number, p: number, q: number): number {
  const n = x + y
  const rest = stirlingRest(n) - stirlingRest(x) - stirlingRest(y)
  return rest - deviancePart(x, n * p) - deviancePart(y, n * q) - 0.5 * Math.log(2 * Math.PI * x * (y / n))
}

/** log P(X = k) of a binomial variable. */
export function binomialMassLog(k: number, size: number, probability: number): number {
  if (k < 0 || k > size || !Number.isInteger(k)) return -Infinity
  if (k === 0) return size === 0 ? 0 : size * Math.log1p(-probability)
  if (k === size) return size * Math.log(probability)
  return probability > 0 && probability < 1 ? binomialWeightLog(k, size - k, probability, 1 - probability) : -Infinity
}

/** log P(X = k) of a negative binomial variable by size (dispersion) and mean: variance mean + mean²/size. */
export function negativeBinomialMassLog(k: number, size: number, mean: number): number {
  if (k < 0 || !Number.isInteger(k)) return -Infinity
  if (k === 0) return -size * Math.log1p(mean / size)
  if (mean === 0) return -Infinity
  return binomialWeightLog(k, size, mean / (size + mean), size / (size + mean)) - Math.log1p(k / size)
}

export function poissonMass(k: number, mean: number): number {
  return Math.exp(poissonMassLog(k, mean))
}

export function binomialMass(k: number, size: number, probability: number): number {
  return Math.exp(binomialMassLog(k, size, probability))
}

/** Negative binomial by size (dispersion) and mean: variance mean + mean²/size. */
export function negativeBinomialMass(k: number, size: number, mean: number): number {
  return Math.exp(negativeBinomialMassLog(k, size, mean))
}
