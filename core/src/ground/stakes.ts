import {
  INSIDE,
  marksOn,
  ROUNDS,
  treatmentWith,
  type Ground,
  type Layout,
  type Treatment,
  type Treatments,
  type Unit,
} from '../trial/index.ts'
import { ROUND_NAMES, turnsOf } from './rounds.ts'

/** What stands on one stake, or in one row of a list. */
export interface Stake {
  readonly unit: Unit
  readonly treatment: Treatment | undefined
  /** By factor: code and name of the level, where the treatment has one. */
  readonly levels: Readonly<Record<string, { readonly code: string; readonly name: string }>>
  /** The larger units it lies in, widest first: block 2, main plot 2B. */
  readonly within: readonly { readonly kind: string; readonly code: string }[]
}

/** What stakes and lists can be sorted by; a factor by its key. */
export const STAKE_ORDERS = [
  ...ROUNDS.map((key) => ({ key, name: ROUND_NAMES[key] })),
  { key: 'code', name: 'number' },
  { key: 'treatment', name: 'treatment' },
] as const

const LAST = 1e9

/**
 * One stake for each unit of the finest kind that is treated, what it is to get as planned, sorted by
 * an order of `STAKE_ORDERS` or by a factor, ties in walking order.
 */
export function stakesOf(layout: Layout, treatments: Treatments, by: string, orders: Ground['orders']): Stake[] {
  const { structure, units } = layout
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const applied = new Set(structure.factors.map((each) => each.appliedTo))
  const holders = new Set(structure.kinds.flatMap((each) => (INSIDE.has(each.kind) ? [] : each.in)))
  const finest = structure.kinds.map((each) => each.kind).filter((kind) => !holders.has(kind) && !INSIDE.has(kind))
  const kinds = new Set(finest.length > 0 ? finest : applied)
  const stakes = units
    .filter((unit) => kinds.has(unit.kind))
    .map((unit): Stake => {
      const marks = marksOn(unit, index, 'planned')
      const levels = treatments.factors.flatMap((factor) => {
        const level = factor.levels.find((each) => each.key === marks[factor.key])
        return level ? [[factor.key, { code: level.code, name: level.name }] as const] : []
      })
      return { unit, treatment: treatmentWith(marks, treatments), levels: Object.fromEntries(levels), within: withinOf(unit, index) }
    })
  const round = ROUNDS.find((each) => each === by && each !== 'walk')
  const turns = round ? turnsOf(layout, orders[round], treatments) : null
  const turnOf = (unit: Unit): number | null => (turns ? (turns.get(unit.id) ?? null) : unit.walk)
  // Where plants are walked to instead of their plot, it stands where the first of them does.
  const firstInside = new Map<string, number>()
  for (const unit of units) {
    const turn = turnOf(unit)
    if (turn !== null) for (const id of unit.in) firstInside.set(id, Math.min(firstInside.get(id) ?? LAST, turn))
  }
  const walkOf = ({ unit }: Stake): number => turnOf(unit) ?? firstInside.get(unit.id) ?? LAST
  const factor = treatments.factors.find((each) => each.key === by)
  const rank = (stake: Stake): number => {
    if (factor) return placeIn(factor.levels, marksOn(stake.unit, index, 'planned')[factor.key])
    if (by === 'treatment') return placeIn(treatments.list, stake.treatment?.key)
    return by === 'walk' || round ? walkOf(stake) : 0
  }
  const byCode = new Intl.Collator('en', { numeric: true })
  return stakes
    .map((stake) => ({ stake, rank: rank(stake), walk: by === 'code' ? 0 : walkOf(stake) }))
    .sort((a, b) => a.rank - b.rank || a.walk - b.walk || byCode.compare(a.stake.unit.code, b.stake.unit.code))
    .map((each) => each.stake)
}

/** What has none comes last. */
function placeIn(all: readonly { readonly key: string }[], key: string | undefined): number {
  const at = all.findIndex((each) => each.key === key)
  return at === -1 ? all.length : at
}

function withinOf(unit: Unit, index: ReadonlyMap<string, Unit>): Stake['within'] {
  const found: { kind: string; code: string }[] = []
  const visit = (each: Unit): void => {
    for (const id of each.in) {
      const above = index.get(id)
      if (!above || above.kind === 'site') continue
      visit(above)
      if (!found.some((known) => known.kind === above.kind && known.code === above.code)) found.push({ kind: above.kind, code: above.code })
    }
  }
  visit(unit)
  return found
}
