import type { UnitKind } from '../trial/index.ts'
import type { DesignRequest, DesignSetting } from './design.ts'
import { shuffled, type Chance } from './random.ts'
import { settingOf } from './units.ts'

/** Blocks laid end on end: the same treatment twice over would be one long plot. */
export const APART: DesignSetting = {
  key: 'apart',
  name: 'The same treatment never touching itself, nor in the same place of two blocks in turn',
  kind: 'yes',
  about:
    'Nor where one block meets the next. Chance then draws among such plans only, which the plan says; of two treatments little is left to chance.',
  usual: () => false,
}

/** For visitors, who look for the list they hold. */
export const FIRST_IN_ORDER: DesignSetting = {
  key: 'firstInOrder',
  name: 'The first block in the order of the list, for visitors',
  kind: 'yes',
  about: 'That block is not random, and the evidence says so.',
  usual: () => false,
}

/** Draws before a plan without equal neighbours is made by mending the last one: of three entries about one in four fits. */
const DRAWS = 2000
/** Swaps by which a plan is mended, and then stirred, for each of its places. */
const SWAPS = 400
const STIRRED = 20

/** Orders of what is dealt to one run of units after another, as a design was told to constrain them. */
export interface Orders<T> {
  readonly how: 'randomised' | 'constrained'
  /** The order in the next run; `first` where the run belongs to the first block. */
  readonly next: (items: readonly T[], first: boolean) => T[]
}

/** Orders under APART and FIRST_IN_ORDER, where a design asks for them; by chance alone where it does not. `kind` is what is put in order. */
export function ordersFor<T>(request: DesignRequest, kind: UnitKind = request.choice.unit): Orders<T> {
  const [apart, inOrder] = [settingOf(request, APART) === true, settingOf(request, FIRST_IN_ORDER) === true]
  const rows = { length: request.across[kind] ?? Infinity, toAndFro: request.toAndFro && kind === request.choice.unit }
  let before: readonly T[] = []
  return {
    how: apart || inOrder ? 'constrained' : 'randomised',
    next: (items, first) => {
      const order =
        first && inOrder ? [...items] : apart ? shuffledApart(items, before, rows, request.chance) : shuffled(items, request.chance)
      before = order
      return order
    },
  }
}

/** How a run is broken into rows on the ground. */
interface Rows {
  readonly length: number
  /** Every other row runs back. */
  readonly toAndFro: boolean
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

/**
 * The items in an order drawn evenly among those in which nothing touches its like in the rows that the
 * run is broken into, stands in its place of `before`, or begins after what that ended with. Where hardly
 * an order is such, one is mended by swaps and stirred by swaps that keep it so. Two items leave one order
 * at most, in which their last and first meet all the same.
 */
function shuffledApart<T>(items: readonly T[], before: readonly T[], rows: Rows, chance: Chance): T[] {
  const clash = (order: readonly T[], i: number): number => {
    if (i >= order.length) return 0
    const over = above(i, rows)
    const touching = over >= 0 ? order[over] : i < rows.length ? before[aboveBefore(i, before.length, rows)] : undefined
    return (
      (i > 0 && order[i] === order[i - 1] ? 1 : 0) +
      ((over < 0 || over !== i - 1) && order[i] === touching ? 1 : 0) +
      (order[i] === before[i] ? 1 : 0) +
      (i === 0 && items.length > 2 && order[0] === before.at(-1) ? 1 : 0)
    )
  }
  const clashes = (order: readonly T[]): number => order.reduce((sum, _, i) => sum + clash(order, i), 0)
  let order = shuffled(items, chance)
  for (let draw = 1; draw < DRAWS && clashes(order) > 0; draw++) order = shuffled(items, chance)
  if (clashes(order) === 0 || items.length < 2) return order
  const below = new Map(items.map((_, i) => [above(i, rows), i]))
  let left = clashes(order)
  let stirred = 0
  for (let swap = 0; swap < SWAPS * items.length && stirred < STIRRED * items.length; swap++) {
    const [i, j] = [chance.below(items.length), chance.below(items.length)]
    const touched = [...new Set([i, i + 1, below.get(i) ?? i, j, j + 1, below.get(j) ?? j])]
    const at = (): number => touched.reduce((sum, each) => sum + clash(order, each), 0)
    const was = at()
    ;[order[i], order[j]] = [order[j]!, order[i]!]
    const is = at()
    if (is > was) [order[i], order[j]] = [order[j], order[i]]
    else left += is - was
    if (left === 0) stirred++
  }
  return order
}
