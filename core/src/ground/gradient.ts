import { unitAround, type Ground, type Unit, type UnitKind } from '../trial/index.ts'
import { fitOf, fits, waysAcross } from './fit.ts'
import { placesOf } from './placement.ts'
import { boundsOf, cornersOf, middleOf } from './rectangle.ts'

type Gradient = NonNullable<Ground['gradient']>

/** How blocks lie to an arrow along which the ground changes. */
export interface AlongGradient {
  /** What holds the treatments together: block, replicate. */
  readonly kind: UnitKind
  /** Between the middles of the units of one block, along the arrow: the largest over blocks, metres. */
  readonly within: number
  /** The same over the whole site. */
  readonly whole: number
}

/** Kinds that are to be alike within, the finest first. */
const BLOCKING: readonly UnitKind[] = ['block', 'replicate']

export function alongGradient(units: readonly Unit[], { from, to }: Pick<Gradient, 'from' | 'to'>): AlongGradient | null {
  const kind = BLOCKING.find((each) => units.some((unit) => unit.kind === each))
  if (!kind) return null
  const way = Math.hypot(to[0] - from[0], to[1] - from[1])
  const [dx, dy] = [(to[0] - from[0]) / way, (to[1] - from[1]) / way]
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const blocks = new Map<string, { low: number; high: number }>()
  let [low, high] = [Infinity, -Infinity]
  for (const unit of units) {
    if (unit.walk === null || !unit.place) continue
    const [x, y] = middleOf(unit.place)
    const at = x * dx + y * dy
    low = Math.min(low, at)
    high = Math.max(high, at)
    const block = unitAround(unit, kind, index)?.id ?? null
    if (block === null) continue
    const known = blocks.get(block)
    if (known) {
      known.low = Math.min(known.low, at)
      known.high = Math.max(known.high, at)
    } else blocks.set(block, { low: at, high: at })
  }
  if (blocks.size < 2) return null
  return { kind, within: Math.max(...[...blocks.values()].map((block) => block.high - block.low)), whole: high - low }
}

/** Most ways that are tried. */
const MOST = 240

/**
 * The way to break the runs by which the units of one block differ least along the arrow; of two alike
 * the more square one, and what fits the ground before what does not. Null without blocks or an arrow.
 */
export function acrossGradient(units: readonly Unit[], ground: Ground): { across: Ground['across']; lies: AlongGradient } | null {
  const { gradient } = ground
  if (!gradient) return null
  const groups = units.filter((unit) => unit.walk === null)
  let best: { across: Ground['across']; lies: AlongGradient; cost: readonly [number, number, number] } | null = null
  for (const { across } of waysAcross(units).slice(0, MOST)) {
    const own = { ...ground, across: { ...ground.across, ...across } }
    const placed = placesOf(units, own)
    const lies = alongGradient([...placed, ...groups], gradient)
    if (!lies) return null
    const { x, y, right, back } = boundsOf(placed.flatMap((unit) => cornersOf(unit.place!)))
    const cost = [fits(fitOf(placed, ground)) ? 0 : 1, Math.round(lies.within * 1000), Math.max(right - x, back - y)] as const
    if (!best || before(cost, best.cost)) best = { across: own.across, lies, cost }
  }
  return best && { across: best.across, lies: best.lies }
}

function before(a: readonly number[], b: readonly number[]): boolean {
  const at = a.findIndex((each, i) => each !== b[i])
  return at !== -1 && a[at]! < b[at]!
}
