import { uniformInt } from 'pure-rand/distribution/uniformInt'
import { xoroshiro128plus, xoroshiro128plusFromState } from 'pure-rand/generator/xoroshiro128plus'
import { DRAW } from '../trial/index.ts'

/** A source of chance that a plan can be made again from. */
export interface Chance {
  /** A whole number from 0 to n − 1, each equally likely. */
  below(n: number): number
}

/**
 * Chance from a seed, a whole number from 0, by the newest draw or the one a plan was made by. The plan keeps
 * its draw: changing one would change every plan ever made by it, so golden plans in the tests hold each.
 *
 * 1: xoroshiro128+ begun at the seed itself. Its first numbers hardly depend on the seed, so that two
 *    things were put in the same order in blocks 1 and 2 whatever the seed: kept only to make old plans again.
 * 2: xoroshiro128+ (D. Blackman and S. Vigna, ACM Trans. Math. Softw. 47, 2021) with all of its state
 *    filled from the seed by a mixing function, as its authors ask.
 *
 * Throws RangeError for a draw that is not known.
 */
export function chanceFrom(seed: number, draw: number = DRAW): Chance {
  if (draw !== 1 && draw !== 2) throw new RangeError(`There is no draw ${draw}: this version knows 1 to ${DRAW}.`)
  const generator = draw === 1 ? xoroshiro128plus(seed) : xoroshiro128plusFromState(mixedState(seed))
  return { below: (n) => uniformInt(generator, 0, n - 1) }
}

const WORD = (1n << 64n) - 1n

/** Two words of splitmix64 (G. Steele, D. Lea and C. Flood, OOPSLA 2014) as four halves, high before low: never all zero. */
function mixedState(seed: number): number[] {
  let at = BigInt(seed)
  const halves = (): number[] => {
    at = (at + 0x9e3779b97f4a7c15n) & WORD
    let z = at
    z = ((z ^ (z >> 30n)) * 0xbf58476d1ce4e5b9n) & WORD
    z = ((z ^ (z >> 27n)) * 0x94d049bb133111ebn) & WORD
    z ^= z >> 31n
    return [Number(z >> 32n) | 0, Number(z & 0xffffffffn) | 0]
  }
  return [...halves(), ...halves()]
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
