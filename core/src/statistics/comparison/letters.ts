const ALPHABET = 26
/** On the way there can be more sets than are left in the end. */
const MOST_SETS = 400

/**
 * Compact letters by insert-and-absorb (H.-P. Piepho, JCGS 13, 2004), without a later sweep:
 * two means share a letter exactly when `differ` says they do not differ, and every largest
 * set of means that do not differ keeps its letter. `order` lists indices from the largest
 * mean to the smallest; the letter `a` goes to the set with the largest means. Null where the alphabet
 * does not do: where pairs differ by unlike errors the sets can be more than anybody could read, and
 * double with every mean.
 */
export function compactLetters(order: readonly number[], differ: (a: number, b: number) => boolean): string[] | null {
  const k = order.length
  let sets: boolean[][] = [new Array<boolean>(k).fill(true)]
  for (let i = 0; i < k - 1; i++) {
    for (let j = i + 1; j < k; j++) {
      if (!differ(order[i]!, order[j]!)) continue
      const split = sets.filter((set) => set[i] && set[j])
      if (split.length === 0) continue
      const rest = sets.filter((set) => !(set[i] && set[j]))
      sets = absorb([...rest, ...split.map((set) => without(set, j)), ...split.map((set) => without(set, i))])
      if (sets.length > MOST_SETS) return null
    }
  }
  if (sets.length > ALPHABET) return null
  const rank = (set: boolean[]): string => set.map((member) => (member ? 0 : 1)).join('')
  sets.sort((a, b) => (rank(a) < rank(b) ? -1 : 1))
  const letters = new Array<string>(k).fill('')
  sets.forEach((set, s) => set.forEach((member, i) => member && (letters[order[i]!]! += letterName(s))))
  return letters
}

function without(set: readonly boolean[], i: number): boolean[] {
  const copy = [...set]
  copy[i] = false
  return copy
}

function absorb(sets: boolean[][]): boolean[][] {
  const dropped = new Set<number>()
  sets.forEach((a, i) => {
    if (sets.some((b, j) => i !== j && !dropped.has(j) && a.every((member, m) => !member || b[m]))) dropped.add(i)
  })
  return sets.filter((_, i) => !dropped.has(i))
}

function letterName(index: number): string {
  return String.fromCharCode(97 + index)
}
