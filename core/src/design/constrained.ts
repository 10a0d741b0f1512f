import type { DesignRequest, DesignSetting } from './design.ts'
import { shuffled, type Chance } from './random.ts'
import { settingOf } from './units.ts'

/** Blocks laid end on end: the same treatment twice over would be one long plot. */
export const APART: DesignSetting = {
  key: 'apart',
  name: 'The same treatment never beside itself, nor in the same place of two blocks in turn',
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

/** Orders under APART and FIRST_IN_ORDER, where a design asks for them; by chance alone where it does not. */
export function ordersFor<T>(request: DesignRequest): Orders<T> {
  const [apart, inOrder] = [settingOf(request, APART) === true, settingOf(request, FIRST_IN_ORDER) === true]
  let before: readonly T[] = []
  return {
    how: apart || inOrder ? 'constrained' : 'randomised',
    next: (items, first) => {
      const order = first && inOrder ? [...items] : apart ? shuffledApart(items, before, request.chance) : shuffled(items, request.chance)
      before = order
      return order
    },
  }
}

/**
 * The items in an order drawn evenly among those in which nothing stands beside its like, in its place
 * of `before`, or at the beginning after what that ended with. Where hardly an order is such, one is
 * mended by swaps and stirred by swaps that keep it so. Two items leave one order at most, in which
 * their last and first meet all the same.
 */
function shuffledApart<T>(items: readonly T[], before: readonly T[], chance: Chance): T[] {
  const clash = (order: readonly T[], i: number): number =>
    (i > 0 && order[i] === order[i - 1] ? 1 : 0) +
    (i < order.length && order[i] === before[i] ? 1 : 0) +
    (i === 0 && items.length > 2 && order[0] === before.at(-1) ? 1 : 0)
  const clashes = (order: readonly T[]): number => order.reduce((sum, _, i) => sum + clash(order, i), 0)
  let order = shuffled(items, chance)
  for (let draw = 1; draw < DRAWS && clashes(order) > 0; draw++) order = shuffled(items, chance)
  if (clashes(order) === 0 || items.length < 2) return order
  let left = clashes(order)
  let stirred = 0
  for (let swap = 0; swap < SWAPS * items.length && stirred < STIRRED * items.length; swap++) {
    const [i, j] = [chance.below(items.length), chance.below(items.length)]
    const touched = [...new Set([i, i + 1, j, j + 1])].filter((at) => at < items.length)
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
