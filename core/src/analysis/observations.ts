import type { Unit, UnitKind } from '../trial/index.ts'
import { AnalysisError, type AnalysisRequest, type TraitKind } from './request.ts'

/** A row of the analysis: one unit of the finest kind any factor was applied to, with its response. */
export interface Observation {
  readonly unit: Unit
  readonly value: number
  /** Values brought up to it. */
  readonly samples: number
  /** What was looked at, of counts and shares; NaN when that is not known. */
  readonly exposure: number
  /** By name, in the order asked for. */
  readonly covariates: readonly number[]
}

export interface Observations {
  readonly rows: readonly Observation[]
  /** Units without a value, of all that were treated. */
  readonly missing: number
  readonly leftOut: number
  /** Values beyond the first that were brought up to the unit that was treated. */
  readonly broughtUp: number
  /** Values known only to lie below, or above, what could be read. */
  readonly bounded: { readonly below: number; readonly above: number }
  /** Whether what was looked at is known. */
  readonly exposed: boolean
  /** How much each row counts, one on average; null when all alike. */
  readonly weights: Float64Array | null
}

/** Squares of anything larger would leave the range of numbers. */
const LARGEST = 1e100

interface Sum {
  value: number
  samples: number
  exposure: number
}

/**
 * Values brought up to the unit that was treated: several samples of one plot are one replicate.
 * Throws AnalysisError for a share above its whole.
 */
export function bringUp(request: AnalysisRequest, finest: UnitKind): Observations {
  const { units, trait, leftOut, observations } = request
  const visits = [...new Set(observations.map((each) => each.visit))]
  if (visits.length > 1)
    throw new AnalysisError(`Values of several visits (${visits.join(', ')}) are not one response: ask for one visit at a time.`)
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const sums = sumUp(request, finest, index)
  const bounded = { below: 0, above: 0 }
  const onlyBounded = new Set<string>()
  for (const { unit: id, bound } of observations) {
    const unit = bound && index.get(id)
    if (!unit) continue
    bounded[bound]++
    const holder = unit.kind === finest ? id : holderOf(unit, finest, index)
    if (holder !== undefined && !sums.has(holder)) onlyBounded.add(holder)
  }
  const known = observations.some((each) => each.exposure !== undefined)
  const names = request.options.covariates
  const covariates = names.map((name) => {
    const own = request.covariates?.get(name)
    if (!own) throw new AnalysisError(`The covariate “${name}” is not among the data.`)
    return sumUp({ ...request, observations: [...own].map(([unit, value]) => ({ unit, value })) }, finest, index)
  })
  const rows: Observation[] = []
  let [treated, out, broughtUp] = [0, 0, 0]
  for (const unit of units) {
    if (unit.kind !== finest) continue
    treated++
    const sum = sums.get(unit.id)
    if (!sum) continue
    if (leftOut?.has(unit.id)) {
      out++
      continue
    }
    const own = covariates.map((each) => each.get(unit.id))
    if (own.some((each) => each === undefined)) continue
    broughtUp += sum.samples - 1
    rows.push({
      unit,
      value: sum.value,
      samples: sum.samples,
      exposure: sum.exposure,
      covariates: own.map((each) => each!.value / each!.samples),
    })
  }
  const exposed = trait.kind === 'share' || (trait.kind === 'count' && known)
  const counted = rows.map((row) => (exposed && Number.isFinite(row.exposure) ? row.exposure : row.samples))
  const uneven = counted.some((each) => each !== counted[0])
  return {
    rows: rows.map((row) => ({ ...row, value: valueOf(row, trait.kind, uneven) })),
    missing: treated - rows.length - out - onlyBounded.size,
    leftOut: out,
    broughtUp,
    bounded,
    exposed: known,
    weights: uneven && trait.kind !== 'score' ? weightsOf(counted) : null,
  }
}

/** Totals by treated unit. A mean of several readings counts as often as it was read. */
function sumUp({ observations, trait, leftOut }: AnalysisRequest, finest: UnitKind, index: ReadonlyMap<string, Unit>): Map<string, Sum> {
  const sums = new Map<string, Sum>()
  const exposed = observations.some((each) => each.exposure !== undefined)
  for (const { unit: id, value, samples, exposure: looked, bound } of observations) {
    const unit = index.get(id)
    if (!unit || bound || !Number.isFinite(value)) continue
    const holder = unit.kind === finest ? id : holderOf(unit, finest, index)
    if (holder === undefined || (holder !== id && leftOut?.has(id))) continue
    if (exposed && looked === undefined) continue
    if (looked !== undefined && trait.kind === 'share' && (value > looked || value < 0))
      throw new AnalysisError(`${unit.kind} ${unit.code} has ${value} of ${looked} in ${trait.name}: a part is never more than its whole.`)
    if (looked !== undefined && !(looked > 0))
      throw new AnalysisError(`${unit.kind} ${unit.code} has ${looked} looked at for ${trait.name}: it must be above zero.`)
    if (Math.abs(value) > LARGEST)
      throw new AnalysisError(`${unit.kind} ${unit.code} has ${value} in ${trait.name}: that is too large to be measured. Check the value.`)
    const n = samples ?? 1
    const known = sums.get(holder) ?? { value: 0, samples: 0, exposure: looked === undefined ? NaN : 0 }
    const weighed = looked === undefined ? value * n : value
    sums.set(holder, { value: known.value + weighed, samples: known.samples + n, exposure: known.exposure + (looked ?? NaN) })
  }
  return sums
}

function valueOf({ value, samples, exposure }: Observation, kind: TraitKind, uneven: boolean): number {
  if (Number.isFinite(exposure)) return ((kind === 'share' ? 100 : 1) * value) / exposure
  // Totals of unlike numbers of samples cannot stand beside each other: they are taken per sample.
  return kind === 'count' && !uneven ? value : value / samples
}

function weightsOf(counted: readonly number[]): Float64Array {
  const mean = counted.reduce((sum, each) => sum + each, 0) / counted.length
  return Float64Array.from(counted, (each) => each / mean)
}

/** The unit of a kind that a unit lies in, by any way. */
export function holderOf(unit: Unit, kind: UnitKind, index: ReadonlyMap<string, Unit>): string | undefined {
  for (const id of unit.in) {
    const above = index.get(id)
    if (!above) continue
    if (above.kind === kind) return above.id
    const found = holderOf(above, kind, index)
    if (found !== undefined) return found
  }
  return undefined
}

/** Level of a factor on a unit, its own or that of the unit it lies in which the factor was applied to. */
export function levelOn(unit: Unit, factor: string, index: ReadonlyMap<string, Unit>): string | undefined {
  if (unit.received[factor] !== undefined) return unit.received[factor]
  for (const id of unit.in) {
    const above = index.get(id)
    const found = above && levelOn(above, factor, index)
    if (found !== undefined) return found
  }
  return undefined
}
