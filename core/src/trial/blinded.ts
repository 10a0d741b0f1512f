import type { Factor, Level } from './factor.ts'
import { crossFactors, isInside, type Treatment, type Treatments } from './treatment.ts'

/**
 * The treatments as somebody sees them who is not to know what is what: codes for names, in an order
 * that tells nothing, without amounts, roles, classes, colours or what is to be compared. Keys stay, so
 * that all that was dealt out and measured keeps its place. The same `salt` gives the same codes.
 */
export function codesOnly(treatments: Treatments, salt: string): Treatments {
  const factors = treatments.factors.map((factor, f): Factor => {
    const letter = String.fromCharCode(65 + f)
    return {
      key: factor.key,
      name: treatments.factors.length === 1 ? 'Treatment' : `${['First', 'Second', 'Third', 'Fourth'][f]} factor`,
      kind: 'kind',
      measure: '',
      of: null,
      levels: inNoOrder(factor.levels, `${salt} ${factor.key}`).map((level, i): Level => ({
        key: level.key,
        code: `${letter}${i + 1}`,
        name: `${letter}${i + 1}`,
        amount: null,
      })),
      ...(factor.drawn ? { drawn: factor.drawn } : {}),
    }
  })
  const kept = new Set(treatments.list.map((each) => each.key))
  const inside = crossFactors(
    factors,
    treatments.list.map((each) => ({ ...each, colour: null, role: roleOf(each) })),
  ).filter((each) => kept.has(each.key))
  const outside = inNoOrder(
    treatments.list.filter((each) => !isInside(each, treatments.factors)),
    salt,
  ).map((each, i) => ({ key: each.key, code: `X${i + 1}`, name: `X${i + 1}`, colour: null, role: roleOf(each), levels: each.levels }))
  const { coloured } = treatments
  return { factors, list: [...inside, ...outside], comparisons: [], blinded: true, ...(coloured ? { coloured } : {}) }
}

/** That it stands beside the trial is seen by everybody. */
function roleOf({ role }: Treatment): Treatment['role'] {
  return role === 'shown' ? role : 'none'
}

/** Sorted by what their keys and the salt fold to: the same for everybody, and nothing can be read from it. */
function inNoOrder<Item extends { readonly key: string }>(items: readonly Item[], salt: string): Item[] {
  const folded = (text: string): number => {
    let hash = 2166136261
    for (const letter of text) hash = Math.imul(hash ^ letter.codePointAt(0)!, 16777619) >>> 0
    return Math.imul(hash ^ (hash >>> 15), 2246822507) >>> 0
  }
  return [...items].sort((a, b) => folded(`${salt} ${a.key}`) - folded(`${salt} ${b.key}`) || (a.key < b.key ? -1 : 1))
}
