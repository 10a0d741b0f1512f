import { dayNumber } from '../trial/index.ts'

/** From a day on (`dayNumber`), the share of a unit that remains; nought of what is gone. */
export interface Left {
  readonly from: number
  readonly share: number
}

/** Of units that are not whole any more what remains, and from when on. */
export type Remaining = ReadonlyMap<string, readonly Left[]>

/** The share of a unit that remains on a day; by now where no day is said. */
export function leftOf(left: Remaining, unit: string, day: string | null = null): number {
  const at = day === null ? Infinity : dayNumber(day)
  return (left.get(unit) ?? []).reduce((least, each) => (each.from <= at ? Math.min(least, each.share) : least), 1)
}
