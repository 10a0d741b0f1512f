import { destination } from '@turf/destination'
import { edgesOf, cornersOf } from '../ground/index.ts'
import { holdersOf, treatmentOn, type Ground, type Layout, type Point, type Trial } from '../trial/index.ts'

/** Eight decimals of a degree are a millimetre. */
const DECIMALS = 1e8

/**
 * Plots, guards, avoided ground and the edge of the ground of all sites as GeoJSON (RFC 7946): in
 * degrees where a site is anchored and its bearing is known; else in metres from its own front left
 * corner, which each feature and the collection then say, since such coordinates are no places on the globe.
 */
export function planGeoJson(trial: Trial, layouts: readonly Layout[]): string {
  const features = layouts.flatMap((layout) => {
    const site = trial.sites.find((each) => each.key === layout.siteKey)!
    const { ground } = site
    const anchored = isAnchored(ground)
    const polygon = (corners: readonly Point[], properties: object): object => ({
      type: 'Feature',
      geometry: { type: 'Polygon', coordinates: [ringOf(corners, ground)] },
      properties: { site: site.name, ...properties, ...(anchored ? {} : { coordinates: 'metres' }) },
    })
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const plots = layout.units.flatMap((unit) => {
      if (unit.walk === null || !unit.place) return []
      const got = treatmentOn(unit, index, trial.treatments)
      const planned = treatmentOn(unit, index, trial.treatments, 'planned')
      return [
        {
          ...polygon(cornersOf(unit.place), {
            what: unit.kind,
            number: unit.code,
            walk: unit.walk,
            treatment: got?.code ?? null,
            treatment_name: got?.name ?? null,
            treatment_planned: planned?.code ?? null,
            lies_in: holdersOf(unit, index)
              .map((each) => `${each.kind} ${each.code}`)
              .join('; '),
          }),
          id: unit.id,
        },
      ]
    })
    return [
      ...plots,
      ...edgesOf(layout.units, ground).map((edge) => polygon(cornersOf(edge), { what: edge.kind })),
      ...ground.avoid.map(({ name, corners }) => polygon(corners, { what: 'avoided', name })),
      ...(ground.outline ? [polygon(ground.outline, { what: 'edge of the ground' })] : []),
    ]
  })
  const loose = layouts
    .map(({ siteKey }) => trial.sites.find((each) => each.key === siteKey)!)
    .filter((site) => !isAnchored(site.ground))
    .map((site) => site.name)
  return `${JSON.stringify(
    {
      type: 'FeatureCollection',
      name: trial.question.title,
      ...(loose.length > 0
        ? {
            note: `${loose.join(', ')}: coordinates are metres from the front left corner of the site, not degrees, since it is not said where the site lies. Say so under Ground, How it lies.`,
          }
        : {}),
      features,
    },
    null,
    1,
  )}\n`
}

function isAnchored({ anchor, bearing }: Ground): boolean {
  return anchor !== null && bearing !== null
}

/** Closed, and anticlockwise, whichever way the corners were drawn. */
function ringOf(corners: readonly Point[], ground: Ground): number[][] {
  const area = corners.reduce((sum, [x, y], i) => {
    const [nx, ny] = corners[(i + 1) % corners.length]!
    return sum + x * ny - nx * y
  }, 0)
  const around = area < 0 ? corners.toReversed() : corners
  return [...around, around[0]!].map((corner) => placeOf(corner, ground))
}

/** From the anchor along the bearing on the great circle: on a trial's ground the globe is as good as flat. */
function placeOf([x, y]: Point, { anchor, bearing }: Ground): number[] {
  if (!anchor || bearing === null) return [x, y].map((each) => Math.round(each * 1e4) / 1e4)
  const way = bearing + (Math.atan2(x, y) * 180) / Math.PI
  const there = destination([anchor.longitude, anchor.latitude], Math.hypot(x, y), way, { units: 'meters' })
  const [longitude, latitude] = there.geometry.coordinates as [number, number]
  // East of 180° it goes on from −180°.
  return [longitude - 360 * Math.floor((longitude + 180) / 360), latitude].map((each) => Math.round(each * DECIMALS) / DECIMALS)
}
