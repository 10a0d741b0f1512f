import { turned, type Ground, type Point, type Unit } from '../trial/index.ts'
import { UNMOVED } from './groups.ts'
import { groupFrames } from './placement.ts'
import { boundsOf, cornersOf, type Bounds, type Rectangle } from './rectangle.ts'

type Moved = Ground['moved']

/** To the millimetre: what is dragged with a pointer has no more. */
function rounded(value: number): number {
  return Math.round(value * 1000) / 1000 || 0
}

/** Groups set aside by so much more, metres along the axes of the site. */
export function shifted(moved: Moved, refs: readonly string[], [dx, dy]: Point): Moved {
  return changed(moved, refs, (move) => ({ ...move, x: move.x + dx, y: move.y + dy }))
}

/** Groups turned together about a place of the site by so many degrees anticlockwise. */
export function turnedBy(units: readonly Unit[], ground: Ground, refs: readonly string[], about: Point, degrees: number): Moved {
  const frames = groupFrames(units, ground)
  return changed(ground.moved, refs, (move, ref) => {
    const frame = frames.get(ref)
    if (!frame) return move
    const [x, y] = turned([frame.x - about[0], frame.y - about[1]], degrees)
    const turn = (move.turn + degrees) % 360
    return { x: move.x + about[0] + x - frame.x, y: move.y + about[1] + y - frame.y, turn }
  })
}

/** Where a point of a group, seen while the groups lay one way, lies once they lie another: site axes, metres. */
export function carriedWith(units: readonly Unit[], ref: string, seen: Ground, now: Ground, point: Point): Point {
  if (seen.moved === now.moved) return point
  const [from, to] = [seen, now].map((ground) => groupFrames(units, ground).get(ref))
  if (!from || !to) return point
  const [x, y] = turned([point[0] - from.x, point[1] - from.y], to.turn - from.turn)
  return [to.x + x, to.y + y]
}

/** Groups put back where their measures have them. */
export function putBack(moved: Moved, refs: readonly string[]): Moved {
  return Object.fromEntries(Object.entries(moved).filter(([ref]) => !refs.includes(ref)))
}

function changed(moved: Moved, refs: readonly string[], to: (move: Moved[string], ref: string) => Moved[string]): Moved {
  const after = { ...moved }
  for (const ref of refs) {
    const { x, y, turn } = to(moved[ref] ?? UNMOVED, ref)
    const move = { x: rounded(x), y: rounded(y), turn: rounded(turn) }
    if (move.x === 0 && move.y === 0 && move.turn === 0) delete after[ref]
    else after[ref] = move
  }
  return after
}

/** The groups that move as one with this one: those of its part, else itself. */
export function movesWith(ref: string, { parts }: Pick<Ground, 'parts'>): readonly string[] {
  return parts.find((part) => part.groups.includes(ref))?.groups ?? [ref]
}

/**
 * A shift that brings an edge of what is moved in line with an edge of something else, where one is nearer
 * than `reach` metres along that axis; along the other axis it is rounded to a tenth of a metre.
 */
export function snapped(moving: readonly Rectangle[], others: readonly Rectangle[], [dx, dy]: Point, reach: number): Point {
  const own = boundsOf(moving.flatMap(cornersOf))
  const edges = others.map((each) => boundsOf(cornersOf(each)))
  const along = (low: keyof Bounds, high: keyof Bounds, by: number): number => {
    let best = Math.round(by * 10) / 10
    let least = reach
    for (const edge of edges)
      for (const to of [edge[low], edge[high]])
        for (const from of [own[low], own[high]]) {
          const off = Math.abs(to - from - by)
          if (off < least) [best, least] = [to - from, off]
        }
    return best
  }
  return [along('x', 'right', dx), along('y', 'back', dy)]
}
