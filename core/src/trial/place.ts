import type { Point } from './ground.ts'
import type { Unit } from './structure.ts'

type Place = NonNullable<Unit['place']>

/** A point turned about the origin, degrees anticlockwise. */
export function turned([x, y]: Point, degrees: number): Point {
  if (degrees === 0) return [x, y]
  const angle = (degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  return [x * cos - y * sin, x * sin + y * cos]
}

/** A place in the axes of the group it is turned with: there its rows are rows and its columns columns. */
export function inOwnAxes(place: Place): Place {
  const { x, y, width, length, turn = 0 } = place
  if (turn === 0) return place
  const [cx, cy] = turned([x + width / 2, y + length / 2], -turn)
  return { x: cx - width / 2, y: cy - length / 2, width, length }
}
