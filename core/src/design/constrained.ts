import type { DesignSetting } from './design.ts'
import { shuffled, type Chance } from './random.ts'

/** Blocks laid end on end: the same treatment twice over would be one long plot. */
export const APART: DesignSetting = {
  key: 'apart',
  name: 'The same treatment never in the same place of two blocks in turn',
  kind: 'yes',
  about: 'Nor where one block meets the next. Chance then draws among such plans only, which the plan says.',
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

/** Draws before a plan without equal neighbours is made by turning the last one: of three entries about one in four fits. */
const DRAWS = 2000

/**
 * The items in an order drawn evenly among those with nothing in its place of `before`, and not
 * beginning with what that ended with. Two items leave one such order, in which their last and
 * first meet all the same.
 */
export function shuffledApart<T>(items: readonly T[], before: readonly T[], chance: Chance): T[] {
  const clear = (order: readonly T[]): boolean =>
    order.every((each, i) => each !== before[i]) && (items.length < 3 || order[0] !== before.at(-1))
  for (let draw = 0; draw < DRAWS; draw++) {
    const order = shuffled(items, chance)
    if (clear(order)) return order
  }
  return [...before.slice(1), before[0]!]
}
