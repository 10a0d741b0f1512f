import { counted, formatQuantity, type UnitSystem } from '../quantity/index.ts'
import type { Ground, Unit, UnitKind } from '../trial/index.ts'
import { onAvoided, outside } from './free-ground.ts'
import { placesOf, runsOf, type Edge } from './placement.ts'
import { boundsOf, cornersOf, overlap, type Rectangle } from './rectangle.ts'

/** What of a laid-out site does not lie where it may. */
export interface Fit {
  /** Units on ground to be avoided, and of how much, m². */
  readonly avoided: readonly { readonly unit: Unit; readonly area: number; readonly name: string }[]
  /** Units beyond the edge of the ground, and by how much, m². */
  readonly outside: readonly { readonly unit: Unit; readonly area: number }[]
  /** How far they reach beyond the edge on each side, metres. */
  readonly beyond: readonly { readonly side: 'left' | 'right' | 'front' | 'back'; readonly by: number }[]
}

/** Another way to lay the same units that fits: what changes of the ground, in words. */
export interface OtherLie {
  readonly across: Ground['across']
  readonly words: string
}

export function fitOf(units: readonly Unit[], ground: Pick<Ground, 'avoid' | 'outline'>): Fit {
  if (ground.avoid.length === 0 && !ground.outline) return { avoided: [], outside: [], beyond: [] }
  const [on, off] = [onAvoided(ground), outside(ground)]
  const walked = units.filter((unit) => unit.walk !== null && unit.place)
  const avoided = walked.flatMap((unit) => {
    const found = on(unit.place!)
    return found ? [{ unit, ...found }] : []
  })
  const beyondEdge = walked.flatMap((unit) => {
    const area = off(unit.place!)
    return area > 0 ? [{ unit, area }] : []
  })
  return { avoided, outside: beyondEdge, beyond: beyondOf(walked, ground) }
}

function beyondOf(walked: readonly Unit[], { outline }: Pick<Ground, 'outline'>): Fit['beyond'] {
  if (!outline || walked.length === 0) return []
  const edge = boundsOf(outline)
  const own = boundsOf(walked.flatMap((unit) => cornersOf(unit.place!)))
  const sides = [
    { side: 'left', by: edge.x - own.x },
    { side: 'right', by: own.right - edge.right },
    { side: 'front', by: edge.y - own.y },
    { side: 'back', by: own.back - edge.back },
  ] as const
  return sides.filter((each) => each.by > 0.005)
}

/** Nothing lies where it may not. */
export function fits({ avoided, outside: off }: Fit): boolean {
  return avoided.length === 0 && off.length === 0
}

/** What does not fit and by how much, in sentences; empty where all does. */
export function misfitInWords(fit: Fit, unit: UnitKind, system: UnitSystem): string[] {
  const sum = (all: readonly { area: number }[]): string =>
    formatQuantity(
      all.reduce((total, each) => total + each.area, 0),
      'm²',
      system,
    )
  const sentences: string[] = []
  if (fit.outside.length > 0) {
    const reach = fit.beyond.map(({ side, by }) => `${formatQuantity(by, 'm', system)} beyond the ${side}`).join(', ')
    sentences.push(
      `${counted(fit.outside.length, unit)} ${fit.outside.length === 1 ? 'lies' : 'lie'} beyond the edge of the ground by ${sum(fit.outside)} together${reach ? `: the trial reaches ${reach}` : ''}.`,
    )
  }
  for (const name of new Set(fit.avoided.map((each) => each.name))) {
    const own = fit.avoided.filter((each) => each.name === name)
    sentences.push(`${counted(own.length, unit)} ${own.length === 1 ? 'lies' : 'lie'} on ${name} by ${sum(own)} together.`)
  }
  return sentences
}

/** Most ways that are tried. */
const MOST = 240

/**
 * Ways to break the same runs that fit the ground, the most square first; nothing else is changed. Empty
 * where none does.
 */
export function otherLies(units: readonly Unit[], ground: Ground, most = 3): OtherLie[] {
  const [on, off, edge] = [onAvoided(ground), outside(ground), ground.outline && boundsOf(ground.outline)]
  const found = waysAcross(units)
    .slice(0, MOST)
    .flatMap(({ across, words }) => {
      const placed = placesOf(units, { ...ground, across: { ...ground.across, ...across } })
      const { x, y, right, back } = boundsOf(placed.flatMap((unit) => cornersOf(unit.place!)))
      // What is longer than the ground needs no closer look.
      if (edge && (right > edge.right + 1e-6 || back > edge.back + 1e-6 || x < edge.x - 1e-6 || y < edge.y - 1e-6)) return []
      if (placed.some((unit) => on(unit.place!) !== null || off(unit.place!) > 0)) return []
      return [{ across, words, side: Math.max(right - x, back - y) }]
    })
  return found
    .sort((a, b) => a.side - b.side)
    .slice(0, most)
    .map(({ across, words }) => ({ across: { ...ground.across, ...across }, words }))
}

/** Above this many units each way takes long: only those without a hole are tried. */
const MANY_UNITS = 800

/** Every way to break the runs, all runs together: without a hole, or with one in the last row only. */
export function waysAcross(units: readonly Unit[]): { across: Ground['across']; words: string }[] {
  const holes = units.length <= MANY_UNITS
  let ways: { across: Ground['across']; words: string }[] = [{ across: {}, words: '' }]
  for (const { kind, count } of runsOf(units)) {
    const sizes = Array.from({ length: count }, (_, i) => i + 1).filter(
      (size) => count % size === 0 || (holes && size === Math.ceil(count / Math.ceil(count / size))),
    )
    ways = ways.flatMap((way) =>
      sizes.map((size) => ({
        across: { ...way.across, [kind]: size },
        words: [way.words, `${counted(size, kind)} side by side`].filter(Boolean).join(', '),
      })),
    )
  }
  return ways
}

/** Guards and fillers that lie over a unit, or over another of them: groups were set too close. */
export function edgesOver(units: readonly Unit[], edges: readonly Edge[]): Edge[] {
  const bounded = (place: Rectangle, edge: Edge | null) => ({ place, edge, ...boundsOf(cornersOf(place)) })
  const plots = units.flatMap((unit) => (unit.walk !== null && unit.place ? [bounded(unit.place, null)] : []))
  const all = [...plots, ...edges.map((edge) => bounded(edge, edge))].sort((a, b) => a.x - b.x)
  const found = new Set<Edge>()
  let open: typeof all = []
  for (const own of all) {
    open = open.filter((each) => each.right > own.x + 1e-6)
    for (const each of open) {
      const edge = own.edge ?? each.edge
      if (edge && each.y < own.back && own.y < each.back && overlap(each.place, own.place)) found.add(edge)
    }
    open.push(own)
  }
  return [...found]
}
