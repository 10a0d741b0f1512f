import { coefficientOfVariation } from './calculation.ts'

/** A swath of so many trays, and how uneven its overlap leaves the field, % (mean of the pattern in the middle of many runs). */
export interface Swath {
  readonly trays: number
  readonly variation: number
}

/**
 * How even each swath would be, from one pattern of trays an equal distance apart: runs side by side, to and
 * fro, each turned round, so that what one throws beyond the swath falls on the next (ISO 5690, part 1). From
 * the widest on; a swath is at most as wide as the pattern.
 */
export function swathsOf(pattern: readonly number[]): Swath[] {
  const width = pattern.length
  return Array.from({ length: width }, (_, i) => width - i).map((trays) => {
    const field = new Array<number>(trays).fill(0)
    // A run every `trays`, every second one turned: over one swath everything that any of them throws there.
    for (let run = -width; run <= width; run++) {
      const thrown = run % 2 === 0 ? pattern : [...pattern].reverse()
      const start = run * trays - (run % 2 === 0 ? Math.floor : Math.ceil)((width - trays) / 2)
      thrown.forEach((each, at) => {
        const place = start + at
        if (place >= 0 && place < trays) field[place]! += each
      })
    }
    return { trays, variation: trays === 1 ? 0 : coefficientOfVariation(field) }
  })
}

/** The widest swath that is no more uneven than `most` %; null where none of two trays or more is. */
export function bestSwath(pattern: readonly number[], most: number): Swath | null {
  return swathsOf(pattern).find(({ trays, variation }) => trays > 1 && variation <= most) ?? null
}
