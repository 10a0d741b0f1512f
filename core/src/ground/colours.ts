import { isInside, type Factor, type Treatment, type Treatments } from '../trial/index.ts'
import { interpolateRgb } from 'd3-interpolate'
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
/** The same hues at full strength, for the first of two factors; the second makes them lighter. */
const HUES = ['#356a9a', '#b4591f', '#2f7a55', '#8a4f9c', '#b08a12', '#27505f', '#a8404f', '#5f5b49', '#2b6d70', '#7d4a20']
/** Treatments outside the crossing of several factors. */
const OUTSIDE = ['#d9d5ca', '#a9a48f', '#e9e4d5']
/** Above this, colour goes by the first factor alone and codes carry the rest. */
const MANY = 24

const PAPER: TreatmentColour = { fill: '#ffffff', ink: '#1d201d', hatched: true }

/** One colour a treatment, the same on plan, charts, sheets and report. The untreated control is paper with a hatch. */
export function treatmentColours(treatments: Treatments): ReadonlyMap<string, TreatmentColour> {
  const known = found.get(treatments)
  if (known) return known
  const made = coloursOf(treatments)
  found.set(treatments, made)
  return made
}

const found = new WeakMap<Treatments, ReadonlyMap<string, TreatmentColour>>()

function coloursOf(treatments: Treatments): Map<string, TreatmentColour> {
  const { factors, list } = treatments
  const inside = list.filter((each) => isInside(each, factors))
  const outside = list.filter((each) => !isInside(each, factors))
  const colours = new Map<string, TreatmentColour>()
  inside.forEach((treatment) => colours.set(treatment.key, own(treatment) ?? insideColour(treatment, treatments, inside)))
  outside.forEach((treatment, i) => colours.set(treatment.key, own(treatment) ?? plain(OUTSIDE[i % OUTSIDE.length]!)))
  return colours
}

function own(treatment: Treatment): TreatmentColour | null {
  if (treatment.colour) return { ...plain(treatment.colour), hatched: treatment.role === 'untreated control' }
  return treatment.role === 'untreated control' ? PAPER : null
}

function insideColour(treatment: Treatment, treatments: Treatments, inside: readonly Treatment[]): TreatmentColour {
  const { hue: first, step: second } = hueAndStep(treatments)
  const at = (factor: Factor): number => factor.levels.findIndex((level) => level.key === treatment.levels[factor.key])
  if (!second) {
    const others = inside.filter((each) => each.role !== 'untreated control')
    return levelColour(
      first,
      others.findIndex((each) => each.key === treatment.key),
      others.length,
    )
  }
  const hue = HUES[Math.max(0, at(first)) % HUES.length]!
  if (first.levels.length * second.levels.length > MANY) return plain(hue)
  return plain(interpolateRgb('#fbf7ee', hue)(0.25 + (0.7 * (at(second) + 0.5)) / second.levels.length))
}

/** Which factor is told by its hue and which by how light it is, as chosen; else of the first two: amounts have an order, which lightness shows. */
export function hueAndStep({ factors, coloured = [] }: Treatments): { hue: Factor; step: Factor | undefined } {
  const [hue, step] = coloured.map((key) => factors.find((each) => each.key === key))
  if (hue && step && hue !== step) return { hue, step }
  const [first, second] = factors as [Factor, ...Factor[]]
  return second && first.measure !== '' && second.measure === '' ? { hue: second, step: first } : { hue: first, step: second }
}

function levelColour(factor: Factor, place: number, of: number): TreatmentColour {
  if (factor.kind !== 'rate') return plain(KINDS[Math.max(0, place) % KINDS.length]!)
  const share = of === 1 ? 0.7 : (place + 0.4) / (of - 0.6)
  return plain(ladder(Math.min(1, Math.max(0, share))))
}

/** One colour a level of one factor: that of its treatment where it is the only factor, else its own hue or step. */
export function factorColours(treatments: Treatments, factor: Factor): Map<string, TreatmentColour> {
  const { factors, list } = treatments
  if (factors.length === 1) {
    const colours = treatmentColours(treatments)
    return new Map(
      factor.levels.map((level) => {
        const treatment = list.find((each) => each.levels[factor.key] === level.key)
        return [level.key, colours.get(treatment?.key ?? '') ?? plain('#d9d5ca')]
      }),
    )
  }
  if (hueAndStep(treatments).hue === factor) return new Map(factor.levels.map((level, i) => [level.key, plain(HUES[i % HUES.length]!)]))
  return new Map(
    factor.levels.map((level, i) => [
      level.key,
      plain(interpolateRgb('#fbf7ee', '#3a3d3a')(0.2 + (0.7 * (i + 0.5)) / factor.levels.length)),
    ]),
  )
}

export function plain(fill: string): TreatmentColour {
  return { fill, ink: inkOn(fill), hatched: false }
}

/** The same colour on a small square beside a code; the control is hatched there too. */
export function swatchFill(colour: TreatmentColour | undefined): string {
  if (!colour) return '#ffffff'
  return colour.hatched ? `repeating-linear-gradient(45deg, ${colour.fill} 0 3px, #8a877c 3px 4px)` : colour.fill
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
