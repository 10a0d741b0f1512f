import { chanceFrom, type Chance } from '@canter/core/design'

/** UUIDs of version 7 from a seed and a running time, so that the demonstration is the same on every machine. */
export function seededIds(seed: number, start: string): { next: () => string; chance: Chance } {
  const chance = chanceFrom(seed, FIRST_DRAW)
  let milliseconds = Date.parse(start)
  const hex = (digits: number): string => Array.from({ length: digits }, () => chance.below(16).toString(16)).join('')
  return {
    chance,
    next: () => {
      const time = (milliseconds++).toString(16).padStart(12, '0')
      return `${time.slice(0, 8)}-${time.slice(8)}-7${hex(3)}-${'89ab'[chance.below(4)]}${hex(3)}-${hex(12)}`
    },
  }
}

/** A normal deviate by the polar method (Marsaglia & Bray, 1964). */
export function normal(chance: Chance): number {
  for (;;) {
    const u = chance.below(2 ** 30) / 2 ** 29 - 1
    const v = chance.below(2 ** 30) / 2 ** 29 - 1
    const s = u * u + v * v
    if (s > 0 && s < 1) return u * Math.sqrt((-2 * Math.log(s)) / s)
  }
}

/** The draw the plans of the demonstration were made by: they stand as they were laid out. */
export const FIRST_DRAW = 1
