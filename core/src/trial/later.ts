import { asIdentified } from './identity.ts'
import { HALF } from './halves.ts'
import type { Layout, Unit } from './structure.ts'
import { OUTSIDE, withList, type Treatments } from './treatment.ts'

interface Dealt {
  readonly treatments: Treatments
  readonly layouts: readonly Layout[]
}

/**
 * Treatments and layouts as they stood on a day: what was drawn later was not varied yet, and every
 * unit was what it had been till then. A day that is not known is after everything. Levels that turned out
 * to be one are one, whenever that was found; `taken`: each is still taken for its own.
 */
export function asOf<Of extends Dealt>(dealt: Of, day: string | null, { taken = false } = {}): Dealt {
  const later = dealt.treatments.factors.filter((factor) => day !== null && factor.drawn && factor.drawn.on > day)
  const then = later.reduceRight<Dealt>(
    (found, factor) => ({
      treatments: withoutDraw(found.treatments, factor.key),
      layouts: found.layouts.map((layout) => layoutWithoutDraw(layout, factor.key, factor.drawn!.from)),
    }),
    dealt,
  )
  return taken ? then : asIdentified(then)
}

/** The treatments as if a factor had never been drawn. */
export function withoutDraw(treatments: Treatments, key: string): Treatments {
  const drawn = treatments.factors.find((factor) => factor.key === key)?.drawn
  if (!drawn) return treatments
  const list = treatments.list
    .filter((each) => drawn.from[each.key] === undefined)
    .map((each) => ({ ...each, levels: without(each.levels, key) }))
  return withList({ ...treatments, factors: treatments.factors.filter((factor) => factor.key !== key) }, list)
}

/** A layout as if a factor had never been drawn; `from` says which treatment each drawn one was made of. */
export function layoutWithoutDraw(layout: Layout, key: string, from: Readonly<Record<string, string>>): Layout {
  const marks = (of: Readonly<Record<string, string>>): Record<string, string> => {
    const left = without(of, key)
    const outside = left[OUTSIDE]
    const was = outside === undefined ? undefined : from[outside]
    return was === undefined ? left : { ...left, [OUTSIDE]: was }
  }
  const factors = layout.structure.factors.filter((each) => each.factor !== key)
  // Halves are there for what is varied on them, and go with the last of it.
  const whole = !factors.some((each) => each.appliedTo === HALF)
  const structure = {
    ...layout.structure,
    kinds: layout.structure.kinds.filter(({ kind }) => !whole || kind !== HALF),
    factors,
    controls: layout.structure.controls.filter((each) => each.factor !== key),
  }
  const left = layout.units.filter(({ kind }) => !whole || kind !== HALF)
  const units = left.map((unit): Unit =>
    key in unit.planned || key in unit.received
      ? { ...unit, planned: marks(unit.planned), received: marks(unit.received), changes: without(unit.changes, key) }
      : unit,
  )
  return { ...layout, structure, units }
}

function without<Value>(of: Readonly<Record<string, Value>>, key: string): Record<string, Value> {
  const { [key]: _, ...rest } = of
  return rest
}
