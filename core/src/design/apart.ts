import { defaultAcross, slotOf, type Ground, type UnitKind } from '../trial/index.ts'
import { shuffled, type Chance } from './random.ts'

/** What stands on the ground between the site and the runs that are put in order, outermost first: a kind, and how many of it one of the kind around it holds. */
export type Holders = readonly (readonly [kind: UnitKind, count: number])[]

/** What in an order must not be, counted by the place it is seen at. */
export interface Clashes<T> {
  /** How much is wrong at place i with what stands before it in the order, or stood before; 0 beyond the end. */
  readonly at: (order: readonly T[], i: number) => number
  /** Other places at which a change of place i may be seen. */
  readonly seenAt: (i: number) => readonly number[]
}

/** Draws before a plan without clashes is made by mending the last one: of three entries about one in four fits. */
const DRAWS = 2000
/** Swaps by which a plan is mended, and then stirred, for each of its places. */
const SWAPS = 400
const STIRRED = 20

/**
 * The items in an order drawn evenly among those without a clash. Where hardly an order is such, one is
 * mended by swaps and stirred by swaps that keep it so; where none is, what is left of clashes weighs least.
 */
export function withoutClashes<T>(items: readonly T[], { at, seenAt }: Clashes<T>, chance: Chance): T[] {
  const clashes = (order: readonly T[]): number => order.reduce((sum, _, i) => sum + at(order, i), 0)
  let order = shuffled(items, chance)
  for (let draw = 1; draw < DRAWS && clashes(order) > 0; draw++) order = shuffled(items, chance)
  if (clashes(order) === 0 || items.length < 2) return order
  let left = clashes(order)
  let stirred = 0
  for (let swap = 0; swap < SWAPS * items.length && stirred < STIRRED * items.length; swap++) {
    const [i, j] = [chance.below(items.length), chance.below(items.length)]
    const touched = [...new Set([i, ...seenAt(i), j, ...seenAt(j)])]
    const here = (): number => touched.reduce((sum, each) => sum + at(order, each), 0)
    const was = here()
    ;[order[i], order[j]] = [order[j]!, order[i]!]
    const is = here()
    if (is > was) [order[i], order[j]] = [order[j], order[i]]
    else left += is - was
    if (left === 0) stirred++
  }
  return order
}

/** Weights: what touches on the ground, then the same place of two runs in turn, then what is met in turn when walking. */
const [TOUCHING, SAME_PLACE, IN_TURN] = [1000, 30, 1]

/** Where the places of each run lie on the ground, counted in places, and what stands there by now. */
export class Standing<T> {
  readonly #known = new Map<string, { item: T; around: string }>()
  readonly #holders: { across: number; width: number; length: number; count: number }[] = []
  readonly #perRow: number | undefined
  readonly #toAndFro: boolean
  #before: readonly T[] = []
  #runs = 0
  /** How often likes have come to touch. */
  touching = 0

  /** `largest`: items of the longest run. Strips of rows lie behind each other, all else side by side until the ground breaks it into rows. */
  constructor(
    { across, serpentine }: Pick<Ground, 'across' | 'serpentine'>,
    holders: Holders,
    kind: UnitKind,
    finest: boolean,
    largest: number,
  ) {
    this.#perRow = kind === 'row' ? 1 : kind === 'column' ? undefined : across[kind]
    this.#toAndFro = serpentine && finest
    let [width, length] = [Math.min(largest, this.#perRow ?? largest), 1]
    length = Math.ceil(largest / width)
    for (let level = holders.length - 1; level >= 0; level--) {
      const [holder, count] = holders[level]!
      const sideBySide = Math.min(count, across[holder] ?? defaultAcross(holder, holders[level - 1]?.[0] ?? 'site', count))
      this.#holders.unshift({ across: sideBySide, width, length, count })
      width *= sideBySide
      length *= Math.ceil(count / sideBySide)
    }
  }

  /** So many items in the order of the next run, by `ordered`, which is told what clashes there. `around`: what is put on the units around it. */
  next(count: number, around: string, ordered: (clashes: Clashes<T>) => T[]): T[] {
    const places = this.#placesOf(this.#runs, count)
    const clashes = this.#clashesAt(places, around)
    const order = ordered(clashes)
    for (const i of order.keys()) this.touching += Math.floor(clashes.at(order, i) / TOUCHING)
    order.forEach((item, i) => this.#known.set(places[i]!.join(), { item, around }))
    this.#before = order
    this.#runs++
    return order
  }

  #placesOf(run: number, count: number): [x: number, y: number][] {
    let [x, y, rest] = [0, 0, run]
    for (const { across, width, length, count: of } of this.#holders.toReversed()) {
      const { row, column } = slotOf(rest % of, across, false)
      ;[x, y, rest] = [x + column * width, y + row * length, Math.floor(rest / of)]
    }
    const perRow = Math.min(count, this.#perRow ?? count)
    return Array.from({ length: count }, (_, i) => {
      const { row, column } = slotOf(i, perRow, this.#toAndFro)
      return [x + column, y + row]
    })
  }

  #clashesAt(places: readonly (readonly [number, number])[], within: string): Clashes<T> {
    const [index, before, known] = [new Map(places.map((place, i) => [place.join(), i])), this.#before, this.#known]
    const around = places.map(([x, y]) => [[x - 1, y], [x + 1, y], [x, y - 1], [x, y + 1]].map((place) => place.join())) // prettier-ignore
    const beside = around.map((each) => each.flatMap((place) => index.get(place) ?? []))
    // Alike is only what is alike as a whole: the same plot inside another main plot is another treatment.
    const outside = around.map((each) =>
      each.flatMap((place) => {
        const there = known.get(place)
        return there?.around === within ? [there.item] : []
      }),
    )
    const earlier = beside.map((each, i) => each.filter((j) => j < i))
    return {
      at: (order, i) => {
        if (i >= order.length) return 0
        const own = order[i]!
        const touching = earlier[i]!.filter((j) => order[j] === own).length + outside[i]!.filter((each) => each === own).length
        const inTurn = i > 0 ? order[i - 1] === own : order.length > 2 && before.at(-1) === own
        return TOUCHING * touching + SAME_PLACE * Number(before[i] === own) + IN_TURN * Number(inTurn)
      },
      seenAt: (i) => [i + 1, ...beside[i]!],
    }
  }
}
