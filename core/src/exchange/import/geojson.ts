import { z } from 'zod'
import { turned, type Point } from '../../trial/index.ts'
import { FileError } from '../table.ts'
import type { Source } from './source-table.ts'

const Position = z.array(z.number()).min(2)
const Feature = z.object({
  type: z.literal('Feature'),
  geometry: z
    .union([
      z.object({ type: z.literal('Polygon'), coordinates: z.array(z.array(Position)).min(1) }),
      z.object({ type: z.literal('Point'), coordinates: Position }),
      z.object({ type: z.string() }).loose(),
    ])
    .nullable(),
  properties: z.record(z.string(), z.unknown()).nullable(),
})
const Collection = z.object({ type: z.literal('FeatureCollection'), features: z.array(Feature).min(1) })

/** Columns that say where a plot lies, made of its shape. */
const PLACE_COLUMNS = ['x [m]', 'y [m]', 'width [m]', 'length [m]', 'turn [°]'] as const

/** Metres in a degree of latitude on the sphere that is usual for maps. */
const METRES = (6371008.8 * Math.PI) / 180

/** Features as rows: their properties, and of polygons and points where they lie, in metres. */
export function geoJsonTable(name: string, text: string): Source {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new FileError(name, `it is not JSON (${error instanceof Error ? error.message.slice(0, 100) : 'unreadable'}).`)
  }
  const parsed = Collection.safeParse(json)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    throw new FileError(name, `it is no collection of features (${issue.path.join('.') || 'the file'}: ${issue.message}).`)
  }
  const { features } = parsed.data
  const names = [...new Set(features.flatMap((each) => Object.keys(each.properties ?? {})))].filter((each) => each !== 'coordinates')
  const places = placesOf(features)
  const asText = (value: unknown): string =>
    typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean'
      ? String(value)
      : value === null || value === undefined
        ? ''
        : JSON.stringify(value)
  return {
    name,
    columns: [...names, ...PLACE_COLUMNS],
    rows: features.map((feature, i) => ({
      line: i + 1,
      cells: [...names.map((each) => asText(feature.properties?.[each]).trim()), ...places[i]!],
    })),
  }
}

type Ring = readonly Point[]

/** By feature: front left corner, width, length and turn as text; empty where it has no such shape. */
function placesOf(features: readonly z.infer<typeof Feature>[]): string[][] {
  const shapes = features.map((feature): Ring | null => {
    const { geometry } = feature
    if (geometry?.type === 'Polygon') return (geometry as { coordinates: number[][][] }).coordinates[0]!.map(([x, y]) => [x!, y!] as Point)
    return geometry?.type === 'Point' ? [(geometry as { coordinates: number[] }).coordinates.slice(0, 2) as unknown as Point] : null
  })
  const all = shapes.flatMap((each) => each ?? [])
  const metric =
    features.some((each) => each.properties?.['coordinates'] === 'metres') || all.some(([x, y]) => Math.abs(x) > 180 || Math.abs(y) > 90)
  const south = Math.min(...all.map(([, y]) => y))
  const [least, most] = [Math.min(...all.map(([x]) => x)), Math.max(...all.map(([x]) => x))]
  // Ground on both sides of 180° lies together: there longitudes are counted on beyond it.
  const past = !metric && most - least > 180
  const east = (x: number): number => (past && x < 0 ? x + 360 : x)
  const west = Math.min(...all.map(([x]) => east(x)))
  const cos = Math.cos((south * Math.PI) / 180)
  const flat = (ring: Ring): Ring =>
    metric ? ring : ring.map(([x, y]) => [(east(x) - west) * METRES * cos, (y - south) * METRES] as Point)
  const rings = shapes.map((each) => each && flat(each))
  // In degrees the rows seldom run east: they are turned so that the first plot lies straight.
  const first = rings.find((each) => each && each.length >= 4)
  const bearing = metric || !first ? 0 : angleOf(first)
  const straight = rings.map((each) => each?.map((point) => turned(point, -bearing)))
  const boxes = straight.map((ring) => (ring ? rectangleOf(ring) : null))
  const low = metric ? [0, 0] : [0, 1].map((k) => Math.min(...boxes.flatMap((box) => (box ? [k === 0 ? box.x : box.y] : []))))
  const round = (value: number): string => String(Math.round(value * 1e4) / 1e4)
  return boxes.map((box) =>
    box
      ? [
          round(box.x - low[0]!),
          round(box.y - low[1]!),
          ...(box.width > 0 ? [round(box.width), round(box.length)] : ['', '']),
          box.turn === 0 ? '' : round(box.turn),
        ]
      : ['', '', '', '', ''],
  )
}

/** Direction of the first edge, degrees anticlockwise, within a quarter turn. */
function angleOf(ring: Ring): number {
  const [[ax, ay], [bx, by]] = [ring[0]!, ring[1]!]
  const angle = (Math.atan2(by - ay, bx - ax) * 180) / Math.PI
  return ((angle + 45 + 360) % 90) - 45
}

/** The rectangle a ring is, with its turn about its middle; a point is one without size. */
function rectangleOf(ring: Ring): { x: number; y: number; width: number; length: number; turn: number } {
  const open = ring.length > 1 && ring[0]![0] === ring.at(-1)![0] && ring[0]![1] === ring.at(-1)![1] ? ring.slice(0, -1) : ring
  const middle = [0, 1].map((k) => open.reduce((sum, point) => sum + point[k]!, 0) / open.length) as unknown as Point
  const angle = open.length >= 4 ? angleOf(open) : 0
  // Corners of a file are to a tenth of a millimetre: less than that is no turn.
  const turn = Math.abs(angle) < 0.02 ? 0 : Math.round(angle * 1e3) / 1e3
  const own = open.map(([x, y]) => turned([x - middle[0], y - middle[1]], -turn))
  const [xs, ys] = [own.map(([x]) => x), own.map(([, y]) => y)]
  const [width, length] = [Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)]
  return { x: middle[0] - width / 2, y: middle[1] - length / 2, width, length, turn }
}
