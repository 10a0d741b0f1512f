import type { Factor } from '@canter/core/trial'
import { scaleLinear } from 'd3-scale'

export interface TreatmentColour {
  readonly fill: string
  /** Ink that reads on the fill. */
  readonly ink: string
  readonly hatched: boolean
}

/** Rates run from pale straw to deep spruce: ordered also for eyes that do not see the hue. */
const ladder = scaleLinear<string>().domain([0, 0.35, 0.7, 1]).range(['#f3e6b8', '#b9c476', '#4f8f78', '#1d4a5a'])

/** Kinds of thing: hues that stay apart in the common colour blindnesses; the code is always written too. */
const KINDS = ['#c9dcec', '#e7a977', '#8fb59a', '#c6a5cf', '#f0d777', '#7a9cc6', '#d98a94', '#a9a48f', '#5f8d8f', '#b97a4b']

/** One colour a treatment, the same on plan, charts, sheets and report. The control is paper with a hatch. */
export function treatmentColours(factor: Factor): Map<string, TreatmentColour> {
  const others = factor.levels.filter((level) => !level.control)
  const ordered = factor.unit === '' ? others : [...others].sort((a, b) => (a.amount ?? 0) - (b.amount ?? 0))
  const colours = new Map<string, TreatmentColour>()
  for (const level of factor.levels) if (level.control) colours.set(level.key, { fill: '#ffffff', ink: '#1d201d', hatched: true })
  ordered.forEach((level, i) => {
    const share = ordered.length === 1 ? 0.7 : (i + 0.4) / (ordered.length - 0.6)
    const fill = factor.unit === '' ? KINDS[i % KINDS.length]! : ladder(Math.min(1, share))
    colours.set(level.key, { fill, ink: inkOn(fill), hatched: false })
  })
  return colours
}

/** The same colour on a small square beside a code; the control is hatched there too. */
export function swatchFill(colour: TreatmentColour | undefined): string {
  if (!colour) return '#ffffff'
  return colour.hatched ? 'repeating-linear-gradient(45deg, #fff 0 3px, #8a877c 3px 4px)' : colour.fill
}

/** Values: pale to deep plum, read against a legend with the figures. */
export function valueScale(values: readonly number[]): ((value: number) => string) & { low: number; high: number } {
  const low = Math.min(...values)
  const high = Math.max(...values)
  const scale = scaleLinear<string>()
    .domain([low, (low + high) / 2, high || low + 1])
    .range(['#f6efe2', '#c78fae', '#5c1a49'])
    .clamp(true)
  return Object.assign((value: number) => (high === low ? '#c78fae' : scale(value)), { low, high })
}

/** What is left over after the model: rust below, paper at zero, blue above. */
export function residualScale(most: number): (value: number) => string {
  return scaleLinear<string>().domain([-most, 0, most]).range(['#b5541c', '#fffefb', '#2b5d8c']).clamp(true)
}

export function inkOn(fill: string): string {
  const [r, g, b] = channels(fill)
  return 0.299 * r + 0.587 * g + 0.114 * b > 140 ? '#1d201d' : '#ffffff'
}

function channels(colour: string): [number, number, number] {
  const rgb = /^rgba?\((\d+), (\d+), (\d+)/.exec(colour)
  if (rgb) return [Number(rgb[1]), Number(rgb[2]), Number(rgb[3])]
  const value = Number.parseInt(colour.slice(1), 16)
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255]
}
