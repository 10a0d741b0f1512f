import { numberOf } from './roles.ts'

/** A level that stands seldom and is written almost like another. */
export interface Likely {
  readonly column: string
  readonly value: string
  readonly like: string
  readonly count: number
}

/** One thing written in several ways: by what all of them are the same, whatever their case and blanks. */
function folded(cell: string): string {
  const number = numberOf(cell)
  return number === null ? cell.trim().replace(/\s+/g, ' ').toLowerCase() : String(number)
}

/**
 * How each cell of a column is to be read: spellings that differ only in case, blanks or how a number is
 * written are one, under the spelling that most rows have; and what somebody said is the same.
 */
export function spellings(cells: readonly string[], same: Readonly<Record<string, string>> = {}): Map<string, string> {
  const counts = new Map<string, Map<string, number>>()
  for (const cell of cells) {
    const own = counts.get(folded(cell)) ?? new Map<string, number>()
    own.set(cell, (own.get(cell) ?? 0) + 1)
    counts.set(folded(cell), own)
  }
  const usual = new Map(
    [...counts].map(([key, own]) => [
      key,
      [...own]
        .sort((a, b) => b[1] - a[1])[0]![0]
        .replace(/\s+/g, ' ')
        .trim(),
    ]),
  )
  const read = (cell: string): string => {
    const as = Object.entries(same).find(([from]) => folded(from) === folded(cell))?.[1]
    return usual.get(folded(as ?? cell)) ?? as ?? cell
  }
  return new Map([...new Set(cells)].map((cell) => [cell, read(cell)]))
}

/** Of words, those that stand once or twice and differ from a frequent one by one letter, or by marks only. */
export function likelySlips(column: string, cells: readonly string[]): Likely[] {
  const counts = new Map<string, number>()
  for (const cell of cells) counts.set(cell, (counts.get(cell) ?? 0) + 1)
  const all = [...counts]
  return all.flatMap(([value, count]): Likely[] => {
    if (numberOf(value) !== null || count > 2) return []
    const like = all
      .filter(
        ([other, n]) =>
          other !== value && n >= 2 * count + 1 && numberOf(other) === null && close(value.toLowerCase(), other.toLowerCase()),
      )
      .sort((a, b) => b[1] - a[1])[0]
    return like ? [{ column, value, like: like[0], count }] : []
  })
}

function close(a: string, b: string): boolean {
  const bare = (text: string): string => text.replace(/[^\p{L}\d]/gu, '')
  if (bare(a) === bare(b)) return true
  // Codes that differ in their number are different things.
  if (a.replace(/\D/g, '') !== b.replace(/\D/g, '')) return false
  return Math.min(a.length, b.length) >= 4 && distance(a, b) <= 1
}

/** Letters to be changed, added or taken (V. I. Levenshtein, 1966). */
function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, j) => j)
  for (let i = 1; i <= a.length; i++) {
    const next = [i]
    for (let j = 1; j <= b.length; j++) next.push(Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)))
    row = next
  }
  return row[b.length]!
}
