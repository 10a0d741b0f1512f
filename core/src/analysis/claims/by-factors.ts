import type { At, Side } from './claim.ts'
import type { Vocabulary } from './vocabulary.ts'

/** Level by factor of one treatment. */
type Levels = Readonly<Record<string, string>>

/**
 * Two sides of treatments told by the factors in which they differ: what all have in common is where the
 * comparison holds, and a factor over which both sides run alike needs no word. Where the sides are no whole
 * crossings of levels they are told treatment by treatment.
 */
export function byFactors(
  { factors }: Vocabulary,
  term: string,
  plus: readonly string[],
  minus: readonly string[],
): { readonly what: Side; readonly against: Side; readonly at: readonly At[] } {
  const plain = { what: { term, levels: plus }, against: { term, levels: minus }, at: [] }
  const sides = [plus, minus].map((side) => side.map((level) => levelsOf(factors, term, level)))
  if (sides.some((side) => side.some((each) => each === null))) return plain
  const [first, second] = sides as Levels[][]
  const keys = Object.keys(first![0]!)
  const own = (side: readonly Levels[], key: string): string[] => [...new Set(side.map((each) => each[key]!))]
  const whole = (side: readonly Levels[]): boolean => keys.reduce((product, key) => product * own(side, key).length, 1) === side.length
  if (keys.length < 2 || !whole(first!) || !whole(second!)) return plain
  const alike = keys.filter((key) => [...own(first!, key)].sort().join('|') === [...own(second!, key)].sort().join('|'))
  const differing = keys.filter((key) => !alike.includes(key))
  if (differing.length === 0) return plain
  const joined = (side: readonly Levels[]): string[] => [...new Set(side.map((each) => differing.map((key) => each[key]).join(':')))]
  const common = alike.filter((key) => own(first!, key).length === 1).map((factor): At => ({ factor, level: own(first!, factor)[0]! }))
  return {
    what: { term: differing.join(':'), levels: joined(first!) },
    against: { term: differing.join(':'), levels: joined(second!) },
    at: common,
  }
}

/** Factors in which two treatments differ; empty where they are no combinations. */
export function differingIn({ factors }: Vocabulary, term: string, a: string, b: string): string[] {
  const [first, second] = [levelsOf(factors, term, a), levelsOf(factors, term, b)]
  return first && second ? Object.keys(first).filter((key) => first[key] !== second[key]) : []
}

function levelsOf(factors: Vocabulary['factors'], term: string, level: string): Levels | null {
  const keys = term.split(':')
  if (keys.length > 1) {
    const levels = level.split(':')
    return Object.fromEntries(keys.map((key, k) => [key, levels[k]!]))
  }
  const parts = Object.entries(factors[term]?.parts ?? {})
  if (parts.length === 0 || parts.some(([, of]) => of[level] === undefined)) return null
  return Object.fromEntries(parts.map(([key, of]) => [key, of[level]!]))
}
