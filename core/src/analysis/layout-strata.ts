import type { Classification } from '../statistics/index.ts'
import type { Structure, Unit, UnitKind } from '../trial/index.ts'
import { kindsAbove, LayoutError } from './model.ts'

/** A row of the analysis: one unit of the finest kind any factor was applied to, with its response. */
export interface LayoutObservation {
  readonly unit: Unit
  readonly value: number
  /** Values brought up to it. */
  readonly samples: number
}

export interface LayoutStrata {
  readonly observations: readonly LayoutObservation[]
  readonly finest: UnitKind
  /** Unit factors coarse to fine, the finest kind left out. */
  readonly units: readonly Classification[]
  /** Which of them carry a factor: they are errors of their own. */
  readonly experimental: ReadonlySet<string>
  readonly sites: Classification | null
  /** Values beyond the first that were brought up to the unit that was treated. */
  readonly averaged: number
  readonly unevenSamples: boolean
}

/**
 * From structure and units to the strata of the analysis. The observations are the coarsest units
 * that are each of one treatment; what was observed on units inside them is brought up
 * by their mean (counts by their total), since several samples of one plot are one replicate.
 */
export function layoutStrata(
  structure: Structure,
  units: readonly Unit[],
  values: ReadonlyMap<string, number>,
  kind: 'continuous' | 'count' | 'score' = 'continuous',
): LayoutStrata {
  if (structure.factors.length === 0) throw new LayoutError('The layout names no factor: say what was applied to which kind of unit.')
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const applied = new Set(structure.factors.map((factor) => factor.appliedTo))
  const holding = structure.kinds
    .map(({ kind }) => ({ kind, above: kindsAbove(structure, kind) }))
    .filter(({ kind, above }) => [...applied].every((each) => each === kind || above.includes(each)))
    .sort((a, b) => a.above.length - b.above.length)
  // Strips that cross: no treated kind lies in the other, and the observations are their crossings.
  if (!holding[0]) throw new LayoutError('No kind of unit lies in every kind that was treated: say in the structure where they meet.')
  const finest = holding[0].kind
  const { observations, averaged, unevenSamples } = bringUp(finest, units, values, index, kind)
  if (observations.length === 0) throw new LayoutError('No unit that was treated has a value.')
  const above = kindsAbove(structure, finest)
  const classes = above.flatMap((kind): Classification[] => {
    const holders = observations.map((each) => holderOf(each.unit, kind, index))
    const names = [...new Set(holders)]
    // A kind with one member, or with one observation in each, has no differences of its own.
    if (names.includes(undefined) || names.length < 2 || names.length === observations.length) return []
    return [{ name: kind, levels: names as string[], codes: Int32Array.from(holders, (each) => names.indexOf(each)) }]
  })
  return {
    observations,
    finest,
    units: classes,
    experimental: new Set([...applied].filter((kind) => kind !== finest)),
    sites: classes.find((each) => each.name === 'site') ?? null,
    averaged,
    unevenSamples,
  }
}

function bringUp(
  finest: UnitKind,
  units: readonly Unit[],
  values: ReadonlyMap<string, number>,
  index: ReadonlyMap<string, Unit>,
  kind: string,
) {
  const sums = new Map<string, { sum: number; n: number }>()
  let averaged = 0
  for (const [id, value] of values) {
    const unit = index.get(id)
    if (!unit || !Number.isFinite(value)) continue
    const holder = unit.kind === finest ? id : holderOf(unit, finest, index)
    if (holder === undefined) continue
    const known = sums.get(holder) ?? { sum: 0, n: 0 }
    sums.set(holder, { sum: known.sum + value, n: known.n + 1 })
    if (known.n > 0) averaged++
  }
  const observations = units.flatMap((unit): LayoutObservation[] => {
    const found = sums.get(unit.id)
    return unit.kind === finest && found ? [{ unit, value: kind === 'count' ? found.sum : found.sum / found.n, samples: found.n }] : []
  })
  const counts = [...sums.values()].map((each) => each.n)
  return { observations, averaged, unevenSamples: counts.some((n) => n !== counts[0]) }
}

function holderOf(unit: Unit, kind: UnitKind, index: ReadonlyMap<string, Unit>): string | undefined {
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

/** Every combination of the names, main effects first: the full factorial. */
export function factorialTerms(names: readonly string[]): string[][] {
  return names
    .reduce<string[][]>((found, name) => [...found, ...found.map((each) => [...each, name])], [[]])
    .filter((each) => each.length > 0)
    .sort((a, b) => a.length - b.length)
}
