/** A change of scale for the analysis, with the way back and what the way back means. */
export interface Transformation {
  readonly name: string
  readonly forward: (y: number) => number
  /** Limits that leave the range are cut to it. */
  readonly back: (z: number) => number
  /** Mean on the first scale corrected for the bend of the transformation, from the error mean square; where known. */
  readonly biasCorrected?: (z: number, ms: number) => number
  /** The bias of the plain way back, in words. */
  readonly bias: string
}

const MEDIAN = 'The mean brought back estimates the median, not the arithmetic mean.'

export const logarithm: Transformation = {
  name: 'log',
  forward: Math.log,
  back: Math.exp,
  biasCorrected: (z, ms) => Math.exp(z + ms / 2),
  bias: `${MEDIAN} It is the geometric mean, and differences become ratios.`,
}

export const logarithm10: Transformation = {
  name: 'log10',
  forward: Math.log10,
  back: (z) => 10 ** z,
  biasCorrected: (z, ms) => 10 ** (z + (ms * Math.LN10) / 2),
  bias: logarithm.bias,
}

export const logarithmPlusOne: Transformation = {
  name: 'log(y + 1)',
  forward: Math.log1p,
  back: (z) => Math.max(0, Math.expm1(z)),
  biasCorrected: (z, ms) => Math.expm1(z + ms / 2),
  bias: MEDIAN,
}

export const squareRoot: Transformation = {
  name: 'square root',
  forward: Math.sqrt,
  back: (z) => Math.max(0, z) ** 2,
  biasCorrected: (z, ms) => z * z + ms,
  bias: MEDIAN,
}

export const squareRootPlusHalf: Transformation = {
  name: 'square root of (y + ½)',
  forward: (y) => Math.sqrt(y + 0.5),
  back: (z) => Math.max(0, Math.max(0, z) ** 2 - 0.5),
  biasCorrected: (z, ms) => z * z + ms - 0.5,
  bias: MEDIAN,
}

/** y to the power λ (Box & Cox's form, (y^λ − 1)/λ), for a positive response. */
export function power(lambda: number): Transformation {
  return {
    name: `power ${lambda}`,
    forward: (y) => Math.expm1(lambda * Math.log(y)) / lambda,
    // Beyond the bound no value of y has such a power: the end of the range stands for it.
    back: (z) => {
      const base = 1 + lambda * z
      return base > 0 ? base ** (1 / lambda) : lambda > 0 ? 0 : Infinity
    },
    bias: MEDIAN,
  }
}

/** Of percentages. */
export const arcsine: Transformation = {
  name: 'arcsine of the square root',
  forward: (percent) => Math.asin(Math.sqrt(percent / 100)),
  back: (z) => 100 * Math.sin(Math.min(Math.PI / 2, Math.max(0, z))) ** 2,
  bias: 'The percentage brought back is drawn towards 50 %.',
}

/** Logit of percentages; where some are 0 or 100, half the smallest distance from them is added to both parts. */
export function logit(percentages: ArrayLike<number>): Transformation & { readonly added: number } {
  let added = Infinity
  let touches = false
  for (let i = 0; i < percentages.length; i++) {
    const p = percentages[i]! / 100
    if (p <= 0 || p >= 1) touches = true
    if (p > 0) added = Math.min(added, p / 2)
    if (p < 1) added = Math.min(added, (1 - p) / 2)
  }
  const e = touches ? added : 0
  return {
    name: 'logit',
    added: e,
    forward: (percent) => Math.log((percent / 100 + e) / (1 - percent / 100 + e)),
    back: (z) => {
      const odds = Math.exp(z)
      return 100 * Math.min(1, Math.max(0, ((1 + e) * odds - e) / (1 + odds)))
    },
    bias: 'The percentage brought back is drawn towards 50 %.',
  }
}
