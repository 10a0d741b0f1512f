import {
  arcsine,
  logarithm,
  logarithm10,
  logarithmPlusOne,
  logit,
  power,
  squareRoot,
  squareRootPlusHalf,
  type Transformation,
} from '../statistics/index.ts'
import type { Observation } from './observations.ts'
import { AnalysisError, type AnalysisOptions } from './request.ts'
import type { Back } from './result.ts'

/** What a scale can take, in words. */
interface Range {
  readonly holds: (y: number) => boolean
  readonly asks: string
}

const POSITIVE: Range = { holds: (y) => y > 0, asks: 'values above zero' }
const NOT_NEGATIVE: Range = { holds: (y) => y >= 0, asks: 'no value below zero' }
const PERCENTAGE: Range = { holds: (y) => y >= 0 && y <= 100, asks: 'percentages between 0 and 100' }

/** The scale asked for; null when it is that of the response. */
function chosen(scale: AnalysisOptions['scale'], y: Float64Array): { by: Transformation; range: Range } | null {
  if (typeof scale === 'object') return scale.power === 0 ? { by: logarithm, range: POSITIVE } : { by: power(scale.power), range: POSITIVE }
  switch (scale) {
    case 'none':
      return null
    case 'log':
      return { by: logarithm, range: POSITIVE }
    case 'log10':
      return { by: logarithm10, range: POSITIVE }
    case 'log(y + 1)':
      return { by: logarithmPlusOne, range: NOT_NEGATIVE }
    case 'square root':
      return { by: squareRoot, range: NOT_NEGATIVE }
    case 'square root of (y + 1/2)':
      return { by: squareRootPlusHalf, range: NOT_NEGATIVE }
    case 'arcsine':
      return { by: arcsine, range: PERCENTAGE }
    case 'logit':
      return { by: logit(y), range: PERCENTAGE }
  }
}

/** The transformation asked for, once every value lies in its range. Throws AnalysisError naming the first that does not. */
export function scaleFor(options: AnalysisOptions, rows: readonly Observation[], y: Float64Array): Transformation | null {
  const found = chosen(options.scale, y)
  if (!found) return null
  const at = y.findIndex((value) => !found.range.holds(value))
  if (at !== -1)
    throw new AnalysisError(
      `The scale “${found.by.name}” needs ${found.range.asks}; ${rows[at]!.unit.kind} ${rows[at]!.unit.code} has ${y[at]}.`,
    )
  return found.by
}

/** A mean with its limits on the scale of the response. */
export function broughtBack(by: Transformation | null, mean: number, lower: number, upper: number, ms: number): Back | null {
  if (!by) return null
  const limits = [by.back(lower), by.back(upper)].sort((a, b) => a - b)
  return {
    mean: by.back(mean),
    lower: limits[0]!,
    upper: limits[1]!,
    biasCorrected: by.biasCorrected && Number.isFinite(ms) ? by.biasCorrected(mean, ms) : NaN,
  }
}

/** On a log scale a difference is a ratio on the scale of the response. */
export function isLogarithm(by: Transformation | null): by is Transformation {
  return by === logarithm || by === logarithm10
}
