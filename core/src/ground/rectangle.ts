import { turned, type Point } from '../trial/index.ts'

/** Metres; turned about its middle, degrees anticlockwise. */
export interface Rectangle {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly length: number
  readonly turn?: number | undefined
}

/** A place and a direction on the site that other places are counted from. */
export interface Frame {
  readonly x: number
  readonly y: number
  readonly turn: number
}

export const SITE: Frame = { x: 0, y: 0, turn: 0 }

const EPSILON = 1e-6

/** A place of the frame in the axes of the site. */
export function onSite(frame: Frame, [x, y]: Point): Point {
  const [dx, dy] = turned([x, y], frame.turn)
  return [frame.x + dx, frame.y + dy]
}

/** A rectangle along the axes of the frame; a quarter turn is no turn, with width and length the other way round. */
export function rectangleIn(frame: Frame, { x, y, width, length }: Rectangle): Rectangle {
  if (frame.turn === 0) return { x: frame.x + x, y: frame.y + y, width, length }
  const [cx, cy] = onSite(frame, [x + width / 2, y + length / 2])
  const turn = ((((frame.turn + 45) % 90) + 90) % 90) - 45
  const quarters = Math.round((frame.turn - turn) / 90)
  const [wide, deep] = Math.abs(quarters) % 2 === 1 ? [length, width] : [width, length]
  const own = { x: cx - wide / 2, y: cy - deep / 2, width: wide, length: deep }
  return Math.abs(turn) < 1e-9 ? own : { ...own, turn }
}

export function middleOf({ x, y, width, length }: Rectangle): Point {
  return [x + width / 2, y + length / 2]
}

/** Front left, front right, back right, back left. */
export function cornersOf(place: Rectangle): [Point, Point, Point, Point] {
  const { x, y, width, length, turn = 0 } = place
  if (turn === 0)
    return [
      [x, y],
      [x + width, y],
      [x + width, y + length],
      [x, y + length],
    ]
  const [cx, cy] = middleOf(place)
  const corner = (right: number, back: number): Point => {
    const [dx, dy] = turned([(right * width) / 2, (back * length) / 2], turn)
    return [cx + dx, cy + dy]
  }
  return [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)]
}

export interface Bounds {
  readonly x: number
  readonly y: number
  readonly right: number
  readonly back: number
}

export function boundsOf(corners: Iterable<Point>): Bounds {
  let [x, y, right, back] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const [px, py] of corners) {
    x = Math.min(x, px)
    y = Math.min(y, py)
    right = Math.max(right, px)
    back = Math.max(back, py)
  }
  return { x, y, right, back }
}

/** The least rectangle around others: turned as they are where they are turned alike, else along the axes. */
export function around(places: readonly Rectangle[]): Rectangle {
  const turn = places[0]!.turn ?? 0
  const alike = turn !== 0 && places.every((place) => Math.abs((place.turn ?? 0) - turn) < 1e-9)
  const { x, y, right, back } = boundsOf(
    places.flatMap((place) => (alike ? cornersOf(place).map((corner) => turned(corner, -turn)) : cornersOf(place))),
  )
  const own = { x, y, width: right - x, length: back - y }
  return alike ? rectangleIn({ x: 0, y: 0, turn }, own) : own
}

/** Whether two rectangles share ground: no line along a side of either lies between them (separating axes). */
export function overlap(a: Rectangle, b: Rectangle): boolean {
  if (!a.turn && !b.turn)
    return (
      a.x < b.x + b.width - EPSILON && b.x < a.x + a.width - EPSILON && a.y < b.y + b.length - EPSILON && b.y < a.y + a.length - EPSILON
    )
  const [of, other] = [cornersOf(a), cornersOf(b)]
  return [a.turn ?? 0, b.turn ?? 0].every((turn) =>
    [turn, turn + 90].every((direction) => {
      const along = (corners: readonly Point[]): number[] => corners.map((corner) => turned(corner, -direction)[0])
      const [own, others] = [along(of), along(other)]
      return Math.max(...own) > Math.min(...others) + EPSILON && Math.max(...others) > Math.min(...own) + EPSILON
    }),
  )
}
