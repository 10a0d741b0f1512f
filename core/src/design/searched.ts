import { exchangeSearch, type Cell } from './exchange-search.ts'
import type { DesignQuestion, DesignRequest, DesignSetting } from './design.ts'
import { shuffled, type Chance } from './random.ts'
import { countedSetting } from './units.ts'

/** Most entries of a plan that is searched. */
export const MOST_ENTRIES = 500

/** Where the blocking units of a plan lie: cells in the order of their numbers. */
export interface Ground {
  readonly cells: readonly Cell[]
  readonly units: number
  /** The entry of each cell before the search: each cell of a group a different one where it can be. */
  readonly start: readonly number[]
  /** Whether the start is known to be as good as any can be: then nothing is searched. */
  readonly best?: boolean
}

/** Exchanges looked at: by then more of them change the fourth decimal of the efficiency at most; seconds on a small machine. */
function looksFor(entries: number): number {
  return Math.min(3_200_000, 20_000 + 30_000 * entries)
}

/** The entry in each cell of the best plan found from the seed; as it starts where nothing is searched. */
export function searched(
  { chance, searching }: DesignRequest,
  entries: number,
  { cells, units, start, best = false }: Ground,
): readonly number[] {
  if (!searching || best) return start
  return exchangeSearch({ cells, units, start, entries, chance, looks: looksFor(entries) }, searching.watch).entries
}

/** The entries in random order, once over. */
export function once(entries: number, { chance }: DesignRequest): number[] {
  return shuffled([...Array(entries).keys()], chance)
}

/**
 * A square lattice, t = k²: the lines of the affine plane of order k, of up to k + 1 directions, so
 * that no two entries meet twice (F. Yates, J. Agric. Sci. 26, 1936), and in k + 1 replicates every two
 * once. Replicate by replicate, block by block; null where k is not a prime or its square or cube, or
 * there are not so many directions.
 */
export function squareLattice(k: number, replicates: number): number[] | null {
  const field = replicates > k + 1 ? null : fieldOf(k)
  if (!field) return null
  const line = [...Array(k).keys()]
  return [...Array(replicates).keys()].flatMap((direction) =>
    line.flatMap((block) => line.map((x) => (direction === k ? block * k + x : x * k + field.plus(block, field.times(direction, x))))),
  )
}

/** Blocks of k of k² entries, each so many times: whole planes, in which every two meet as often. Null where they do not go into these, or there is no plane. */
export function wholePlanes(t: number, k: number, replicates: number): number[] | null {
  if (k * k !== t) return null
  const times = replicates <= k + 1 ? 1 : replicates / (k + 1)
  if (!Number.isInteger(times)) return null
  const plane = squareLattice(k, Math.min(replicates, k + 1))
  return plane && Array.from({ length: times }, () => plane).flat()
}

/** Sums and products of the numbers below k as elements of the field of k: digits to the base of its prime are coefficients. */
interface Field {
  plus(a: number, b: number): number
  times(a: number, b: number): number
}

function fieldOf(k: number): Field | null {
  const prime = [...Array(k + 1).keys()].find((each) => isPrime(each) && k % each === 0)
  const power = [1, 2, 3].find((each) => prime !== undefined && prime ** each === k)
  if (prime === undefined || power === undefined) return null
  const digits = (a: number): number[] => Array.from({ length: power }, (_, i) => Math.floor(a / prime ** i) % prime)
  const number = (a: readonly number[]): number => a.reduce((sum, each, i) => sum + (each % prime) * prime ** i, 0)
  const valueAt = (x: number, lower: readonly number[]): number => [...lower, 1].reduce((sum, each, i) => sum + each * x ** i, 0) % prime
  // Of degree two or three, what has no root has no divisor: the powers beyond are reduced by it.
  const lower = [...Array(k).keys()].map(digits).find((each) => [...Array(prime).keys()].every((x) => valueAt(x, each) !== 0))!
  return {
    plus: (a, b) => number(digits(a).map((each, i) => each + digits(b)[i]!)),
    times(a, b) {
      if (power === 1) return (a * b) % prime
      const product = Array<number>(2 * power - 1).fill(0)
      digits(a).forEach((x, i) => digits(b).forEach((y, j) => (product[i + j]! += x * y)))
      for (let at = product.length - 1; at >= power; at--)
        lower.forEach((each, i) => (product[at - power + i]! += product[at]! * (prime - each)))
      return number(product.slice(0, power))
    },
  }
}

/**
 * The blocks that come of moving one of k on around t, for a first one in which all differences
 * occur equally often (a difference set: R. C. Bose, Ann. Eugenics 9, 1939); null where none is found.
 */
export function cyclicBalanced(t: number, k: number, chance: Chance): number[] | null {
  if ((k * (k - 1)) % (t - 1) !== 0) return null
  const lambda = (k * (k - 1)) / (t - 1)
  const around = [...Array(t).keys()]
  for (let n = 0; n < DRAWS; n++) {
    const first = grown(shuffled(around, chance), t, k, lambda)
    if (first) return around.flatMap((step) => first.map((entry) => (entry + step) % t))
  }
  return null
}

/** How many orders of the entries a difference set is looked for in. */
const DRAWS = 400

/** Takes entries as they come as long as no difference occurs too often; null where that does not come to k. */
function grown(order: readonly number[], t: number, k: number, lambda: number): number[] | null {
  const times = new Uint8Array(t)
  const taken: number[] = []
  for (const entry of order) {
    const differences = taken.flatMap((each) => [(entry - each + t) % t, (each - entry + t) % t])
    for (const each of differences) times[each]!++
    if (differences.every((each) => times[each]! <= lambda)) taken.push(entry)
    else for (const each of differences) times[each]!--
    if (taken.length === k) return taken
  }
  return null
}

export function isPrime(n: number): boolean {
  for (let each = 2; each * each <= n; each++) if (n % each === 0) return false
  return n > 1
}

/** Sizes that differ by one at most. */
export function evenSizes(of: number, parts: number): number[] {
  return Array.from({ length: parts }, (_, i) => Math.floor(of / parts) + (i < of % parts ? 1 : 0))
}

/** How many units a block takes. */
export const BLOCK_SIZE: DesignSetting = {
  key: 'blockSize',
  name: 'Units in a block',
  kind: 'count',
  about: 'As many as lie on ground that is even: fewer make blocks evener and comparisons across them dearer.',
  usual: ({ treatments: { list } }) => usualSize(list.length),
  range: ({ treatments: { list } }) => [2, Math.max(2, list.length - 1)],
}

/** The largest size that divides the entries and is not above their root; else about the root. */
function usualSize(entries: number): number {
  const root = Math.max(2, Math.floor(Math.sqrt(entries)))
  for (let size = root; size > Math.max(2, root / 2); size--) if (entries % size === 0) return size
  return root
}

export function blockSize(question: DesignQuestion): number {
  return countedSetting(question, BLOCK_SIZE)
}

export function sizeProblems(question: DesignQuestion): string[] {
  const t = question.treatments.list.length
  const k = blockSize(question)
  if (t < 4) return ['With fewer than four treatments take complete blocks.']
  if (t > MOST_ENTRIES) return [`At most ${MOST_ENTRIES} treatments; here are ${t}. Take an augmented design, or fewer.`]
  if (!Number.isInteger(k) || k < 2) return ['A block takes at least two units.']
  if (k >= t) return [`A block of ${k} takes all ${t} treatments: that is complete blocks. Take fewer units in a block.`]
  return []
}
