import { treatmentOn, type Ground, type Layout, type Point, type Treatment, type Treatments, type Unit } from '../trial/index.ts'
import { inkOn, treatmentColours } from './colours.ts'
import { edgesOf, siteExtent } from './placement.ts'
import { cornersOf, middleOf, type Rectangle } from './rectangle.ts'

/** What a drawn plan shows. */
export interface PlanDrawing {
  readonly layout: Pick<Layout, 'units'>
  readonly ground: Ground
  readonly treatments: Treatments
  /** The part of the site that is drawn, metres; all of it where none is named. */
  readonly window?: Rectangle
  /** Millimetres on paper for a metre on the ground. */
  readonly scale: number
  /** A heading and a key above and below, for a plan that goes out by itself. */
  readonly alone?: { readonly title: string; readonly about: string }
}

const FACE = "font-family=\"'Public Sans', 'Public Sans Variable', Arial, sans-serif\""
/** Room for heading, north and scale above and below a plan that stands alone, mm. */
const [HEAD, FOOT, MARGIN] = [18, 14, 4] as const

/** The plan as SVG, in millimetres at the scale asked, front edge at the bottom, north and scale drawn. */
export function planSvg({ layout, ground, treatments, window, scale, alone }: PlanDrawing): string {
  const extent = window ?? siteExtent(layout.units, ground)
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  const at = ([x, y]: Point): string => `${mm((x - extent.x) * scale)},${mm((extent.y + extent.length - y) * scale)}`
  const polygon = (corners: readonly Point[], style: string): string => `<polygon points="${corners.map(at).join(' ')}" ${style}/>`
  const seen = (place: Rectangle): boolean =>
    cornersOf(place).some(([x, y]) => x > extent.x && y > extent.y) && cornersOf(place).some(([x, y]) => x < extent.x + extent.width && y < extent.y + extent.length) // prettier-ignore
  const plots = layout.units.filter((unit) => unit.walk !== null && unit.place && seen(unit.place))
  const groups = layout.units.filter((unit) => unit.place && (unit.kind === 'block' || unit.kind === 'main plot') && seen(unit.place))
  const size = textSize(plots, index, treatments) * scale
  const [width, length] = [extent.width * scale, extent.length * scale]
  const [left, above] = alone ? [MARGIN, HEAD] : [0, 0]
  const [fullWidth, fullLength] = alone
    ? [Math.max(150, width + 2 * MARGIN), length + HEAD + FOOT + keyRows(treatments) * 6]
    : [width, length]
  const drawn = [
    ground.outline && polygon(ground.outline, 'fill="none" stroke="#5f5b49" stroke-width="0.4" stroke-dasharray="3 1 0.7 1"'),
    ...edgesOf(layout.units, ground).map((edge) => polygon(cornersOf(edge), 'fill="#ece8dd" stroke="#a9a48f" stroke-width="0.15"')),
    ...ground.avoid.flatMap(({ name, corners }) => {
      const [x, y] = corners.reduce(([sx, sy], [cx, cy]) => [sx + cx / corners.length, sy + cy / corners.length], [0, 0])
      return [
        polygon(corners, 'fill="#f0e0b8" stroke="#9a6a00" stroke-width="0.3"'),
        text(within(at([x, y]), name, width), name, 2.6, '#6b4a00'),
      ]
    }),
    ...groups.map(({ place }) => polygon(cornersOf(place!), 'fill="none" stroke="#8a877c" stroke-width="0.5"')),
    ...plots.flatMap((unit) => plotMarks(unit, treatmentOn(unit, index, treatments), treatments, at, size, ground.round ? scale : 0)),
    ground.gradient && arrow(ground.gradient, at),
  ].filter((each): each is string => typeof each === 'string')
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${mm(fullWidth)}mm" height="${mm(fullLength)}mm" viewBox="0 0 ${mm(fullWidth)} ${mm(fullLength)}">`,
    '<defs><pattern id="none" width="1.4" height="1.4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="1.4" height="1.4" fill="#fff"/><line x1="0" y1="0" x2="0" y2="1.4" stroke="#8a877c" stroke-width="0.25"/></pattern></defs>',
    alone ? `<rect width="100%" height="100%" fill="#fff"/>${text(`${MARGIN},7`, alone.title, 5, '#1d201d', 'start', 700)}${text(`${MARGIN},12.5`, alone.about, 3, '#5f5b49', 'start')}` : '', // prettier-ignore
    `<g transform="translate(${left} ${above})">${drawn.join('\n')}</g>`,
    alone ? foot(ground, treatments, scale, above + length + 6) : '',
    '</svg>',
  ]
    .filter(Boolean)
    .join('\n')
}

/** A name moved so far from the edge that all of it is seen. */
function within(at: string, name: string, width: number): string {
  const [x, y] = at.split(',').map(Number) as [number, number]
  const half = name.length * 0.75
  return half * 2 > width ? at : `${mm(Math.min(width - half, Math.max(half, x)))},${mm(y)}`
}

/** A round length for a scale bar, metres, and the bar with the arrow to the north. */
export function scaleBar(scale: number): { readonly metres: number; readonly millimetres: number } {
  const most = 40 / scale
  const power = 10 ** Math.floor(Math.log10(most))
  const metres = ([5, 2, 1].find((each) => each * power <= most) ?? 1) * power
  return { metres, millimetres: metres * scale }
}

function foot({ bearing }: Ground, treatments: Treatments, scale: number, y: number): string {
  const { metres, millimetres } = scaleBar(scale)
  const north =
    bearing === null
      ? ''
      : `<g transform="translate(${mm(MARGIN + millimetres + 28)} ${mm(y)}) rotate(${mm(-bearing)})"><path d="M0 -4L2 3.5L0 2L-2 3.5Z" fill="#1d201d"/></g>${text(`${mm(MARGIN + millimetres + 33)},${mm(y + 1)}`, 'north', 2.8, '#1d201d', 'start')}` // prettier-ignore
  const bar = `<path d="M${MARGIN} ${mm(y - 1)}v2h${mm(millimetres)}v-2" fill="none" stroke="#1d201d" stroke-width="0.35"/>${text(`${mm(MARGIN + millimetres + 2)},${mm(y + 1)}`, `${metres} m`, 2.8, '#1d201d', 'start')}` // prettier-ignore
  return `${bar}${north}${key(treatments, y + 6)}`
}

const PER_ROW = 4

function keyRows({ list }: Treatments): number {
  return Math.ceil(Math.min(list.length, 60) / PER_ROW)
}

function key(treatments: Treatments, y: number): string {
  const colours = treatmentColours(treatments)
  return treatments.list
    .slice(0, 60)
    .map((treatment, i) => {
      const [x, down] = [MARGIN + (i % PER_ROW) * 36, y + Math.floor(i / PER_ROW) * 6]
      const colour = colours.get(treatment.key)
      return `<rect x="${mm(x)}" y="${mm(down - 2)}" width="3.4" height="3.4" fill="${colour?.hatched ? 'url(#none)' : (colour?.fill ?? '#fff')}" stroke="#6d6a60" stroke-width="0.15"/>${text(`${mm(x + 4.6)},${mm(down + 0.8)}`, cut(`${treatment.code}: ${treatment.name}`, 24), 2.5, '#1d201d', 'start')}` // prettier-ignore
    })
    .join('')
}

function plotMarks(
  unit: Unit,
  treatment: Treatment | undefined,
  treatments: Treatments,
  at: (point: Point) => string,
  size: number,
  /** Millimetres for a metre where units are round; else nought. */
  round: number,
): string[] {
  const colour = treatment ? treatmentColours(treatments).get(treatment.key) : undefined
  const fill = colour?.hatched ? 'url(#none)' : (colour?.fill ?? '#ffffff')
  const ink = colour ? (colour.hatched ? '#1d201d' : inkOn(colour.fill)) : '#1d201d'
  const place = unit.place!
  const [x, y] = at(middleOf(place)).split(',').map(Number) as [number, number]
  const turn = place.turn ? ` transform="rotate(${mm(-place.turn)} ${mm(x)} ${mm(y)})"` : ''
  const lines = [unit.code, treatment?.code ?? '']
  return [
    round > 0
      ? `<circle cx="${mm(x)}" cy="${mm(y)}" r="${mm((Math.min(place.width, place.length) / 2) * round)}" fill="${fill}" stroke="#6d6a60" stroke-width="0.2"/>`
      : `<polygon points="${cornersOf(place).map(at).join(' ')}" fill="${fill}" stroke="#6d6a60" stroke-width="0.2"/>`,
    `<g${turn}>${colour?.hatched ? behind(x, y, Math.max(...lines.map((line) => line.length)), size) : ''}${lines.map((line, i) => text(`${mm(x)},${mm(y + (i === 0 ? -0.15 : 1.05) * size)}`, line, i === 0 ? size : size * 0.85, ink, 'middle', i === 0 ? 700 : 400)).join('')}</g>`, // prettier-ignore
  ]
}

/** Paper behind the words of a hatched plot, so that they can be read. */
function behind(x: number, y: number, letters: number, size: number): string {
  const width = letters * 0.62 * size
  return `<rect x="${mm(x - width / 2)}" y="${mm(y - size)}" width="${mm(width)}" height="${mm(size * 2.3)}" fill="#fff" fill-opacity="0.85"/>`
}

/** The largest text that fits every plot, metres on the ground. */
function textSize(plots: readonly Unit[], index: ReadonlyMap<string, Unit>, treatments: Treatments): number {
  let size = 4
  for (const unit of plots) {
    const longest = Math.max(3, unit.code.length, (treatmentOn(unit, index, treatments)?.code.length ?? 0) * 0.9)
    size = Math.min(size, (unit.place!.width * 0.92) / (longest * 0.64), unit.place!.length / 2.8)
  }
  return size
}

const RISES: Readonly<Record<NonNullable<Ground['gradient']>['what'], string>> = {
  slope: 'uphill',
  light: 'lighter',
  soil: 'heavier soil',
  wet: 'wetter',
  wind: 'with the wind',
}

/** What the arrow of a gradient says towards its head. */
export function risesInWords(what: NonNullable<Ground['gradient']>['what']): string {
  return RISES[what]
}

function arrow({ what, from, to }: NonNullable<Ground['gradient']>, at: (point: Point) => string): string {
  const [[x1, y1], [x2, y2]] = [at(from), at(to)].map((each) => each.split(',').map(Number) as [number, number]) as [[number, number], [number, number]] // prettier-ignore
  const way = Math.atan2(y2 - y1, x2 - x1)
  const barb = (off: number): string => `L${mm(x2 - 2.4 * Math.cos(way + off))} ${mm(y2 - 2.4 * Math.sin(way + off))}`
  return `<path d="M${mm(x1)} ${mm(y1)}L${mm(x2)} ${mm(y2)}${barb(0.5)}M${mm(x2)} ${mm(y2)}${barb(-0.5)}" fill="none" stroke="#7d1845" stroke-width="0.45"/>${text(`${mm((x1 + x2) / 2)},${mm((y1 + y2) / 2 - 1)}`, RISES[what], 2.6, '#7d1845', 'middle', 400, true)}` // prettier-ignore
}

function text(at: string, of: string, size: number, fill: string, anchor = 'middle', weight = 400, halo = false): string {
  const [x, y] = at.split(',')
  const edge = halo ? ` stroke="#fff" stroke-width="${mm(size * 0.24)}" paint-order="stroke"` : ''
  return `<text x="${x}" y="${y}" ${FACE} font-size="${mm(size)}" font-weight="${weight}" text-anchor="${anchor}" fill="${fill}"${edge}>${escaped(of)}</text>`
}

function mm(value: number): string {
  return String(Math.round(value * 100) / 100)
}

function cut(of: string, most: number): string {
  return of.length > most ? `${of.slice(0, most - 1)}…` : of
}

function escaped(of: string): string {
  return of.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;')
}
