import type { UnitKind } from '../trial/index.ts'
import type { DesignRequest, DesignSetting } from './design.ts'
import { Standing, withoutClashes, type Holders } from './apart.ts'
import { firstClashes } from './first-apart.ts'
import { shuffled } from './random.ts'
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

/** Orders of what is dealt to one run of units after another, as a design was told to constrain them. */
export interface Orders<T> {
  readonly how: 'randomised' | 'constrained'
  /** The order in the next run; `first` where the run belongs to the first block. `around`: what is put on the larger units that it lies in. */
  readonly next: (items: readonly T[], first: boolean, around?: string) => T[]
  /** How often likes touch that were to stand apart. */
  readonly touching: () => number
}

/**
 * Orders under APART and FIRST_IN_ORDER, where a design asks for them; by chance alone where it does not.
 * `kind` is what is put in order, in runs of at most `largest` that lie in `holders`.
 */
export function ordersFor<T>(request: DesignRequest, holders: Holders, largest: number, kind: UnitKind = request.choice.unit): Orders<T> {
  const [apart, inOrder] = [settingOf(request, APART) === true, settingOf(request, FIRST_IN_ORDER) === true]
  const { chance, across, toAndFro } = request
  const standing = new Standing<T>({ across, serpentine: toAndFro }, holders, kind, kind === request.choice.unit, largest)
  const rows = { length: across[kind] ?? Infinity, toAndFro: toAndFro && kind === request.choice.unit }
  let before: readonly T[] = []
  return {
    how: apart || inOrder ? 'constrained' : 'randomised',
    next: (items, first, around = '') => {
      before = standing.next(items.length, around, (clashes) => {
        if (first && inOrder) return [...items]
        if (!apart) return shuffled(items, chance)
        return withoutClashes(items, request.draw === 1 ? firstClashes(items.length, before, rows) : clashes, chance)
      })
      return [...before]
    },
    // The first draw made the best of each run in its turn, and no more.
    touching: () => (apart && request.draw > 1 ? standing.touching : 0),
  }
}

/** Times all runs are put in order again where a run was left with no order that fits what came before it. */
const TRIES = 60

/** All runs of small blocks in order, of which the last may find its few entries on both sides: then all are drawn again. */
export function runsInOrder<T>(
  ordersAnew: () => Orders<T>,
  runsAnew: () => readonly (readonly T[])[],
): { runs: T[][]; how: Orders<T>['how'] } {
  let best: { runs: T[][]; how: Orders<T>['how']; touching: number } | null = null
  for (let n = 0; n < TRIES && best?.touching !== 0; n++) {
    const orders = ordersAnew()
    const runs = runsAnew().map((items, i) => orders.next(items, i === 0))
    if (!best || orders.touching() < best.touching) best = { runs, how: orders.how, touching: orders.touching() }
  }
  return best!
}
