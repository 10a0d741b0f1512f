import type { UnitKind } from './structure.ts'

/** The place of a turn in a run. */
export function slotOf(n: number, perRow: number, toAndFro: boolean): { row: number; column: number } {
  const row = Math.floor(n / perRow)
  const along = n % perRow
  return { row, column: toAndFro && row % 2 === 1 ? perRow - 1 - along : along }
}

/** Without a word from the ground, replicates and blocks stand behind each other, the small blocks of a replicate in about a square, and all else side by side. */
export function defaultAcross(kind: UnitKind, within: UnitKind, count: number): number {
  if (kind === 'block' && within === 'replicate') return aboutSquare(count)
  return kind === 'block' || kind === 'replicate' ? 1 : count
}

/** How many go side by side to make about a square, without a hole where that can be. */
function aboutSquare(count: number): number {
  const root = Math.ceil(Math.sqrt(count))
  for (let across = root; across <= 2 * root; across++) if (count % across === 0) return across
  return root
}
