import { given as figureGiven, isUnit, parseQuantity, type Worked } from '../../quantity/index.ts'
import { day } from '../../trial/index.ts'
import type { DoseRow } from '../dose-amounts.ts'

/** Something that is asked of a calculation. */
export interface CalculationInput {
  readonly key: string
  readonly name: string
  /** The measure it is kept in; what is typed may be in any that measures the same. */
  readonly unit: string
  /** one: a figure; several: figures with blanks between; choice: one of some words; date: a day. */
  readonly kind?: 'one' | 'several' | 'choice' | 'date'
  readonly choices?: readonly string[]
  /** Least and most it may be; at least nought where nothing is said. */
  readonly low?: number
  readonly high?: number
  /** Divided by: nought is not enough. */
  readonly aboveNought?: boolean
  /** Taken where nothing is given. */
  readonly usual?: number
  /** May be left out, and then nothing that rests on it is worked out. */
  readonly optional?: boolean
  /** What of a site, or of a pass there, it is, where it is known. */
  readonly from?: SiteFact | PassFact
  /** Shown where nothing is typed yet. */
  readonly example: string
}

export type SiteFact = 'plot area' | 'plot length' | 'rows' | 'row spacing' | 'units'
/** Of one pass: what carries it and the product by area, the water as a depth, the area it covers, the tank, what is spread dry. */
export type PassFact = 'volume rate' | 'product rate' | 'product volume rate' | 'depth' | 'pass area' | 'tank' | 'spread dry from'

export type CalculationGroup = 'nutrients' | 'solutions' | 'seed' | 'water' | 'calibration' | 'samples and yield' | 'weather' | 'comparing'

/** One file a calculation, all of this shape; the list is in `index.ts`. */
export interface Calculation {
  readonly key: string
  readonly name: string
  readonly group: CalculationGroup
  /** What it is for, in a sentence. */
  readonly about: string
  readonly inputs: readonly CalculationInput[]
  /** What is told with the figures, beside what everybody who applies anything is told. */
  readonly cautions: readonly string[]
  /** Whether something is put on plants or ground by it: the label and local rules come first then. */
  readonly applies: boolean
  /** The figures by name. One that rests on something left out is not there. Throws RangeError, saying why, where they cannot be worked out. */
  work(given: Given): Readonly<Record<string, Worked>>
  /** Whether it is begun for a pass at which this goes on, and kept with it. `spreadable`: from how little on is spread dry, g/m². */
  suits?(row: DoseRow, spreadable: number | null): boolean
  /** Of a calibration: the share of what was wanted that goes out, %; null where nothing was wanted. */
  share?(figures: Readonly<Record<string, Worked>>): number | null
  /** What is told of these figures and no others. */
  doubts?(given: Given, figures: Readonly<Record<string, Worked>>): readonly string[]
}

/** What a calculation was given, checked against what it asks. */
export interface Given {
  readonly has: (key: string) => boolean
  readonly of: (key: string) => Worked
  readonly number: (key: string) => number
  readonly several: (key: string) => readonly number[]
  readonly text: (key: string) => string
}

export type Reckoned =
  | {
      readonly ok: true
      readonly figures: Readonly<Record<string, Worked>>
      /** As it was understood: each input in the measure it is kept in. */
      readonly understood: Readonly<Record<string, Worked | readonly number[] | string>>
      readonly doubts: readonly string[]
    }
  | { readonly ok: false; readonly problems: readonly { readonly input: string; readonly problem: string }[] }

export type RawInputs = Readonly<Record<string, string | number | readonly number[]>>

/** Works a calculation out from what was typed, each figure with a unit or without. All that is wrong with it is told at once. */
export function reckon(calculation: Calculation, raw: RawInputs, assumed: (unit: string) => string = (unit) => unit): Reckoned {
  const problems: { input: string; problem: string }[] = []
  const numbers = new Map<string, readonly number[]>()
  const texts = new Map<string, string>()
  for (const input of calculation.inputs) {
    const read = readInput(input, raw[input.key], assumed(input.unit))
    if (typeof read === 'string') problems.push({ input: input.key, problem: read })
    else if (read?.text !== undefined) texts.set(input.key, read.text)
    else if (read) numbers.set(input.key, read.numbers)
  }
  const strange = Object.keys(raw).find((key) => !calculation.inputs.some((each) => each.key === key))
  if (strange !== undefined)
    problems.push({ input: strange, problem: `${calculation.name} asks nothing called “${strange}”. It asks: ${calculation.inputs.map((each) => each.key).join(', ')}.` }) // prettier-ignore
  if (problems.length > 0) return { ok: false, problems }
  const inputOf = (key: string): CalculationInput => calculation.inputs.find((each) => each.key === key)!
  const given: Given = {
    has: (key) => numbers.has(key) || texts.has(key),
    of: (key) => figureGiven(inputOf(key).name, numbers.get(key)?.[0] ?? NaN, inputOf(key).unit),
    number: (key) => numbers.get(key)?.[0] ?? NaN,
    several: (key) => numbers.get(key) ?? [],
    text: (key) => texts.get(key) ?? '',
  }
  try {
    const figures = calculation.work(given)
    const odd = Object.values(figures).find((each) => !Number.isFinite(each.value))
    if (odd) return { ok: false, problems: [{ input: '', problem: `${odd.label} cannot be worked out from these figures.` }] }
    const understood = Object.fromEntries(
      calculation.inputs.flatMap((input): [string, Worked | readonly number[] | string][] => {
        if (texts.has(input.key)) return [[input.key, texts.get(input.key)!]]
        if (!numbers.has(input.key)) return []
        return [[input.key, input.kind === 'several' ? given.several(input.key) : given.of(input.key)]]
      }),
    )
    return { ok: true, figures, understood, doubts: calculation.doubts?.(given, figures) ?? [] }
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
    return { ok: false, problems: [{ input: '', problem: error.message }] }
  }
}

type Read = { readonly numbers: readonly number[]; readonly text?: undefined } | { readonly text: string; readonly numbers?: undefined }

/** What was typed; null where nothing was and nothing has to be; a string says what is wrong. */
function readInput(input: CalculationInput, raw: RawInputs[string] | undefined, assumed: string): Read | null | string {
  const empty = raw === undefined || (typeof raw === 'string' && raw.trim() === '') || (Array.isArray(raw) && raw.length === 0)
  if (empty) {
    if (input.usual !== undefined) return { numbers: [input.usual] }
    return input.optional ? null : `${input.name} is missing.`
  }
  if (input.kind === 'choice') {
    const chosen = input.choices!.find((each) => each.toLowerCase() === String(raw).trim().toLowerCase())
    return chosen === undefined
      ? `${input.name} is one of ${input.choices!.join(', ')}; “${String(raw).slice(0, 30)}” is none.`
      : { text: chosen }
  }
  if (input.kind === 'date') {
    const text = String(raw).trim()
    return day.safeParse(text).success ? { text } : `${input.name} is a date written YYYY-MM-DD.`
  }
  const parts =
    typeof raw === 'number' ? [String(raw)] : typeof raw === 'string' ? (input.kind === 'several' ? partsOf(raw) : [raw]) : raw.map(String)
  const numbers: number[] = []
  for (const part of parts) {
    const parsed = parseQuantity(part, input.unit, isUnit(assumed) ? assumed : input.unit)
    if (!parsed.ok) return parsed.problem
    const low = input.low ?? 0
    if (parsed.value < low) return `${input.name} is at least ${low}${input.unit ? ` ${input.unit}` : ''}.`
    if (input.aboveNought && parsed.value === 0) return `${input.name} is above nought.`
    if (input.high !== undefined && parsed.value > input.high)
      return `${input.name} is at most ${input.high}${input.unit ? ` ${input.unit}` : ''}.`
    numbers.push(parsed.value)
  }
  return { numbers }
}

/** Figures with blanks, commas with blanks or semicolons between; a measure after the last is that of all. */
function partsOf(text: string): string[] {
  const [, figures, measure] = /^([\d\s.,;eE+\-−]*)(.*)$/s.exec(text.trim())!
  const each = figures!.split(/[;\s]+|,\s+/).filter(Boolean)
  return measure!.trim() === '' || each.length === 0 ? (each.length > 0 ? each : [text]) : each.map((one) => `${one} ${measure}`)
}

export function mean(values: readonly number[]): number {
  return values.reduce((sum, each) => sum + each, 0) / values.length
}

/** Standard deviation of n − 1 over the mean, %. */
export function coefficientOfVariation(values: readonly number[]): number {
  const middle = mean(values)
  return (100 * Math.sqrt(values.reduce((sum, each) => sum + (each - middle) ** 2, 0) / (values.length - 1))) / middle
}
