import type { Clashes } from './apart.ts'

/** How a run is broken into rows on the ground. */
interface Rows {
  readonly length: number
  /** Every other row runs back. */
  readonly toAndFro: boolean
}

/**
 * What clashed by the first draw, kept for the plans that were made by it: likes next to each other or in
 * the same place of two runs in turn, as if every run stood behind the one before it.
 */
export function firstClashes<T>(count: number, before: readonly T[], rows: Rows): Clashes<T> {
  const below = new Map(Array.from({ length: count }, (_, i) => [above(i, rows), i]))
  return {
    at: (order, i) => {
      if (i >= order.length) return 0
      const over = above(i, rows)
      const touching = over >= 0 ? order[over] : i < rows.length ? before[aboveBefore(i, before.length, rows)] : undefined
      return (
        (i > 0 && order[i] === order[i - 1] ? 1 : 0) +
        ((over < 0 || over !== i - 1) && order[i] === touching ? 1 : 0) +
        (order[i] === before[i] ? 1 : 0) +
        (i === 0 && count > 2 && order[0] === before.at(-1) ? 1 : 0)
      )
    },
    seenAt: (i) => [i + 1, below.get(i) ?? i],
  }
}

/** The place in the row before that touches place i, or lies behind it where i is in the first; below 0: in the run before. */
function above(i: number, { length, toAndFro }: Rows): number {
  if (length === Infinity) return -1 - i
  const row = Math.floor(i / length)
  // Running back, what touches lies as far behind the turn as this lies before it.
  return toAndFro ? 2 * row * length - 1 - i : i - length
}

/** The same place counted in the run before, of as many items: its last row touches this run's first. */
function aboveBefore(i: number, count: number, { length, toAndFro }: Rows): number {
  if (length >= count) return i
  const last = Math.ceil(count / length) - 1
  return last * length + (toAndFro && last % 2 === 1 ? length - 1 - i : i)
}
