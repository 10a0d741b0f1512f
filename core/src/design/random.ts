import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'

/** A source of chance that a plan can be made again from. */
export interface Chance {
  /** A whole number from 0 to n − 1, each equally likely. */
  below(n: number): number
}

/**
 * The pinned generator of all plans: xoroshiro128+ seeded with the number shown on the plan.
 * Changing it would change every plan ever published, so golden plans in the tests hold it.
 */
export function chanceFrom(seed: number): Chance {
  const generator = xoroshiro128plus(seed)
  return { below: (n) => uniformInt(generator, 0, n - 1) }
}

/** The items in random order (Durstenfeld's form of the Fisher–Yates shuffle); the argument is left alone. */
export function shuffled<T>(items: readonly T[], chance: Chance): T[] {
  const result = [...items]
  for (let i = result.length - 1; i > 0; i--) {
    const j = chance.below(i + 1)
    ;[result[i], result[j]] = [result[j]!, result[i]!]
  }
  return result
}

/** No chance at all: everything stays in the order it was listed, as in an outline before anything is dealt out. */
export const asListed: Chance = { below: (n) => n - 1 }
