import { given, type Worked } from '../quantity/index.ts'
import { traitKind, type Reading, type Reduced, type Trait } from '../trial/index.ts'

/** The value of one trait of one unit at one visit, or why there is none. */
export type Resolved =
  | {
      readonly kind: 'value'
      readonly reduced: Reduced
      /** The number with what made it; null where it is words. */
      readonly worked: Worked | null
      readonly readings: readonly Reading[]
      /** Whose readings were averaged, because somebody asked for it; one for all else. */
      readonly observers: number
      readonly outOfRange: boolean
      readonly confirmed: boolean
    }
  /** Two people read the same, and nobody has asked to average them. */
  | {
      readonly kind: 'observers'
      readonly by: readonly { readonly observer: string; readonly value: Resolved }[]
      readonly readings: readonly Reading[]
    }
  | { readonly kind: 'missing'; readonly reason: string; readonly readings: readonly Reading[] }
  | { readonly kind: 'conflict'; readonly readings: readonly Reading[] }
  | { readonly kind: 'none' }

export const NONE: Resolved = { kind: 'none' }

export function isOutside(trait: { low: number | null; high: number | null }, value: number): boolean {
  return (trait.low !== null && value < trait.low) || (trait.high !== null && value > trait.high)
}

/**
 * What stands, of the readings under each key of the cells that make a value (one unit, or the
 * plants in it). Declared, and nothing else: samples by the trait's kind; observers averaged only
 * where the trait says so, shown apart until then; visits never come here together.
 */
export function resolve(trait: Trait, cells: readonly ReadonlyMap<string, readonly Reading[]>[]): Resolved {
  const clashing = cells.flatMap((cell) => [...cell.values()].filter((rows) => rows.length > 1).flat())
  if (clashing.length > 0) return { kind: 'conflict', readings: clashing }
  const readings = cells.flatMap((cell) => [...cell.values()].map((rows) => rows[0]!))
  if (readings.length === 0) return NONE
  const observers = sharedObservers(cells)
  if (observers.length === 0) return oneValue(trait, readings)
  const by = observers.map((observer) => ({
    observer,
    value: oneValue(
      trait,
      readings.filter((reading) => reading.observer === observer),
    ),
  }))
  if (trait.observers === 'apart') return { kind: 'observers', by, readings }
  return averaged(
    trait,
    by.map((each) => each.value),
    readings,
  )
}

/** Observers who read the same sample as another; none when each thing was read by one. */
function sharedObservers(cells: readonly ReadonlyMap<string, readonly Reading[]>[]): string[] {
  const all = new Set<string>()
  let shared = false
  for (const cell of cells) {
    const bySample = new Map<number, string>()
    for (const [reading] of cell.values()) {
      all.add(reading!.observer)
      const other = bySample.get(reading!.sample)
      if (other !== undefined && other !== reading!.observer) shared = true
      bySample.set(reading!.sample, reading!.observer)
    }
  }
  return shared ? [...all].sort() : []
}

function oneValue(trait: Trait, readings: readonly Reading[]): Resolved {
  const kind = traitKind(trait.kind)
  const held = readings.filter((reading) => reading.value.kind !== 'missing')
  if (held.length === 0) {
    const missing = readings.find((reading) => reading.value.kind === 'missing')
    return missing?.value.kind === 'missing' ? { kind: 'missing', reason: missing.value.reason, readings } : NONE
  }
  const reduced = kind.reduce(
    held.map((reading) => reading.value),
    trait,
  )
  const outside = held.filter((reading) => {
    const figure = kind.figure(reading.value, trait)
    return figure !== null && isOutside(trait, figure)
  })
  return {
    kind: 'value',
    reduced,
    worked: reduced.value === null || reduced.bound !== null ? null : given(trait.name, reduced.value, measureOf(trait)),
    readings: held,
    observers: 1,
    outOfRange: outside.length > 0,
    confirmed: outside.every((reading) => reading.confirmed),
  }
}

/** The measure of the number a trait comes to. */
export function measureOf(trait: Pick<Trait, 'kind' | 'unit'>): string {
  return traitKind(trait.kind).comesTo(trait)
}

/** Observers alike: the mean of what each came to. Words, and values known only to a bound, cannot be averaged and stay apart. */
function averaged(trait: Trait, values: readonly Resolved[], readings: readonly Reading[]): Resolved {
  const found = values.flatMap((each) => (each.kind === 'value' ? [each] : []))
  if (found.length === 0) return values[0] ?? NONE
  if (found.some((each) => each.reduced.value === null || each.reduced.bound !== null)) {
    return {
      kind: 'observers',
      by: found.map((value) => ({ observer: value.readings[0]!.observer, value })),
      readings,
    }
  }
  const mean = (pick: (reduced: Reduced) => number | null): number | null => {
    const all = found.map((each) => pick(each.reduced))
    return all.some((each) => each === null) ? null : all.reduce<number>((sum, each) => sum + each!, 0) / all.length
  }
  const value = mean((reduced) => reduced.value)!
  return {
    kind: 'value',
    reduced: { value, text: null, bound: null, part: mean((reduced) => reduced.part), exposure: mean((reduced) => reduced.exposure) },
    worked: given(trait.name, value, measureOf(trait)),
    readings,
    observers: found.length,
    outOfRange: found.some((each) => each.outOfRange),
    confirmed: found.every((each) => each.confirmed),
  }
}
