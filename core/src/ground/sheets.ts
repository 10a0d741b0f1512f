import type { Rectangle } from './rectangle.ts'

/** A plan on paper: how large, and which part of the ground lies on each sheet. */
export interface SheetPlan {
  /** One to so much. */
  readonly scale: number
  readonly columns: number
  readonly rows: number
  /** Sheet by sheet from the back left, metres. */
  readonly windows: readonly Rectangle[]
}

/** Scales that a ruler can be held to. */
export const SCALES = [5, 10, 20, 25, 50, 75, 100, 125, 150, 200, 250, 300, 400, 500, 750, 1000, 1500, 2000, 2500, 5000] as const

/** The largest scale at which all fits one sheet of so many millimetres. */
export function scaleFor({ width, length }: Rectangle, room: { width: number; height: number }): number {
  return SCALES.find((scale) => (width * 1000) / scale <= room.width && (length * 1000) / scale <= room.height) ?? SCALES.at(-1)!
}

/**
 * The ground cut into sheets that lie over each other by `overlap` (width and length of a plot, metres), so
 * that every plot is whole on one of them.
 */
export function sheetsOf(
  extent: Rectangle,
  room: { width: number; height: number },
  scale: number,
  overlap: { width: number; length: number },
): SheetPlan {
  const across = cut(extent.x, extent.width, (room.width * scale) / 1000, overlap.width)
  const deep = cut(extent.y, extent.length, (room.height * scale) / 1000, overlap.length)
  const windows = deep.toReversed().flatMap((y) => across.map((x) => ({ x: x.from, y: y.from, width: x.size, length: y.size })))
  return { scale, columns: across.length, rows: deep.length, windows }
}

/** Pieces of a length that a sheet takes, evenly spread. */
function cut(from: number, length: number, most: number, overlap: number): { from: number; size: number }[] {
  if (length <= most + 1e-9) return [{ from, size: length }]
  // Plots larger than half a sheet cannot be whole on one without as many sheets as ground.
  const step = Math.max(most / 2, most - overlap)
  const count = 1 + Math.ceil((length - most) / step - 1e-9)
  return Array.from({ length: count }, (_, i) => ({ from: from + (i * (length - most)) / (count - 1), size: most }))
}
