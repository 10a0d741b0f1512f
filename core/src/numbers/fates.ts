import { dayNumber, fateKind, type Fate, type FateKind, type Unit } from '../trial/index.ts'

/** What became of the units that were treated, of each treatment or all together. */
export interface FateCounts {
  readonly started: number
  readonly lost: number
  readonly discarded: number
  /** With a value that is compared. */
  readonly measured: number
  /** With a value, and left out with a reason. */
  readonly leftOut: number
}

/** Something that happened to a unit that is analysed, or to one it lies in. */
export interface UnitFate {
  /** The unit that is analysed. */
  readonly unit: string
  readonly compared: FateKind['compared']
  readonly fate: Fate
}

/** The unit and all it lies in, once each: what happens to a main plot happens to what is in it. */
export function lineOf(unit: Unit, unitOf: (id: string) => Unit | undefined): Unit[] {
  const found = new Map<string, Unit>()
  const visit = (each: Unit): void => {
    if (found.has(each.id)) return
    found.set(each.id, each)
    for (const id of each.in) {
      const above = unitOf(id)
      if (above) visit(above)
    }
  }
  visit(unit)
  return [...found.values()]
}

/**
 * Of what happened, what holds on a day: that which had begun before it, or on it. A day that is not
 * known is after everything. What ends a unit holds from the day after: what was read on the day itself
 * was read before.
 */
export function holdingOn(fates: readonly Fate[], day: string | null): Fate[] {
  return fates.filter(({ on, kind }) => day === null || (fateKind(kind).compared === 'gone' ? on.to < day : on.from <= day))
}

/** Of the harvested area, the part that remains after all that was lost of it. */
export function partLeft(fates: readonly Fate[]): number {
  // Each says what remains of the whole, so the last word holds, which is the least.
  return fates.reduce((left, fate) => (fate.kind === 'partly lost' ? Math.min(left, fate.share ?? 1) : left), 1)
}

/**
 * Of units of a site that are not whole any more the share that remains, and from which day on (`dayNumber`); nought of
 * what was lost or discarded, from the day after: what was put on on the day itself was put on before.
 */
export function remaining(
  units: readonly Pick<Unit, 'id'>[],
  fatesOf: (id: string) => readonly Fate[],
): Map<string, { readonly from: number; readonly share: number }[]> {
  return new Map(
    units.flatMap(({ id }) => {
      const left = fatesOf(id).flatMap(({ kind, on, share }) =>
        fateKind(kind).compared === 'gone'
          ? [{ from: dayNumber(on.to) + 1, share: 0 }]
          : kind === 'partly lost'
            ? [{ from: dayNumber(on.from), share: share ?? 1 }]
            : [],
      )
      return left.length > 0 ? [[id, left] as const] : []
    }),
  )
}

/** Into how many parts a unit was divided; 1: it is whole. */
export function partsOfUnit(fates: readonly Fate[]): number {
  return fates.reduce((parts, fate) => (fate.kind === 'divided' ? Math.max(parts, fate.parts ?? 1) : parts), 1)
}
