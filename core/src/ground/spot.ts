import type { Ground, Point, Unit } from '../trial/index.ts'
import { edgesOf } from './placement.ts'
import { cornersOf, type Rectangle } from './rectangle.ts'

/** What a point of the ground belongs to. */
export type Spot =
  | { readonly kind: 'unit'; readonly unit: Unit }
  /** Grown on, and of no treatment. */
  | { readonly kind: 'guard' | 'filler' }
  | { readonly kind: 'avoided'; readonly name: string }
  /** Beyond the edge of the ground, where one is drawn. */
  | { readonly kind: 'outside' }
  /** Between what is grown. */
  | { readonly kind: 'path' }

/** What lies at a point, metres from the front left corner of the site: the finest unit that is walked to, else what lies around. */
export function spotAt(units: readonly Unit[], ground: Ground, point: Point): Spot {
  const holds = (place: Rectangle): boolean => inside(cornersOf(place), point)
  const found = units.filter((unit) => unit.walk !== null && unit.place && holds(unit.place))
  const finest = found.sort((a, b) => a.place!.width * a.place!.length - b.place!.width * b.place!.length)[0]
  if (finest) return { kind: 'unit', unit: finest }
  const edge = edgesOf(units, ground).find((each) => holds(each))
  if (edge) return { kind: edge.kind }
  const avoided = ground.avoid.find((each) => inside(each.corners, point))
  if (avoided) return { kind: 'avoided', name: avoided.name }
  return ground.outline && !inside(ground.outline, point) ? { kind: 'outside' } : { kind: 'path' }
}

/** Whether a point lies in a polygon: how often a line from it to the right crosses a side (M. Shimrat, 1962). */
function inside(corners: readonly Point[], [x, y]: Point): boolean {
  let within = false
  corners.forEach(([ax, ay], i) => {
    const [bx, by] = corners[(i + 1) % corners.length]!
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) within = !within
  })
  return within
}
