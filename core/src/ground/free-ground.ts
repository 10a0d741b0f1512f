import { polygonArea } from 'd3-polygon'
import clipping, { type MultiPolygon } from 'polygon-clipping'
import type { Ground, Point } from '../trial/index.ts'
import { boundsOf, cornersOf, type Bounds, type Rectangle } from './rectangle.ts'

/** Less than this of a plot on forbidden ground is a matter of drawing, m². */
const NOTHING = 1e-6

/** Area of what has corners and holes, m². */
function areaOf(polygons: MultiPolygon): number {
  let sum = 0
  for (const rings of polygons) rings.forEach((ring, i) => (sum += (i === 0 ? 1 : -1) * Math.abs(polygonArea(ring))))
  return sum
}

function apart(a: Bounds, b: Bounds): boolean {
  return a.right <= b.x || b.right <= a.x || a.back <= b.y || b.back <= a.y
}

/** Corners with the first once more, as rings are written. */
function ring(corners: readonly Point[]): Point[] {
  return [...corners, corners[0]!]
}

/** Area of a rectangle that lies on ground to be avoided, m², and on which. */
export function onAvoided(ground: Pick<Ground, 'avoid'>): (place: Rectangle) => { area: number; name: string } | null {
  const pieces = ground.avoid.map(({ name, corners }) => ({ name, polygon: [ring(corners)], bounds: boundsOf(corners) }))
  return (place) => {
    const corners = cornersOf(place)
    const bounds = boundsOf(corners)
    for (const piece of pieces) {
      if (apart(bounds, piece.bounds)) continue
      const area = areaOf(clipping.intersection([ring(corners)], piece.polygon))
      if (area > NOTHING) return { area, name: piece.name }
    }
    return null
  }
}

/** Area of a rectangle outside the edge of the ground, m². */
export function outside({ outline }: Pick<Ground, 'outline'>): (place: Rectangle) => number {
  if (!outline) return () => 0
  const edge = [ring(outline)]
  return (place) => {
    const area = areaOf(clipping.difference([ring(cornersOf(place))], edge))
    return area > NOTHING ? area : 0
  }
}

/** Area within corners, m². */
export function areaWithin(corners: readonly Point[]): number {
  return areaOf(clipping.union([ring(corners)]))
}

/** Ground there is, less what is to be avoided, m². Null: no edge is drawn. */
export function usableArea({ outline, avoid }: Pick<Ground, 'outline' | 'avoid'>): number | null {
  if (!outline) return null
  return areaOf(clipping.difference([ring(outline)], ...avoid.map(({ corners }) => [ring(corners)])))
}
