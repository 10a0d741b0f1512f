import type { BookObservations } from '../numbers/index.ts'
import { comparisonMethods } from '../statistics/index.ts'
import { dayNumber, HALF, type Layout, type Structure, type Trial, type Unit } from '../trial/index.ts'
import { analyse } from './analyse.ts'
import { finestKind } from './layout.ts'
import { bringUp, holderOf, levelOn } from './observations.ts'
import { AnalysisError, AnalysisOptions, type AnalysisRequest } from './request.ts'
import type { Analysis, Caution } from './result.ts'
import type { Ended } from './happened.ts'
import { analysedTrait, endsOf } from './trial-analysis.ts'
import { trialRequest } from './trial-request.ts'
import { inSentence, listed } from './words.ts'

/** What the dates of units that are read several times are called among the factors. */
const DATE = 'date'

export interface OverDates {
  /** Treatments, dates, and what treatments do otherwise from date to date, with the dates of a unit as they go together. */
  readonly over: Analysis
  /** The area under the curve of each unit read at every date, as a trait of its own; null where too few were. */
  readonly area: Analysis | null
  readonly dates: readonly { readonly visit: string; readonly name: string; readonly time: number }[]
  /** How each unit ended at each date, by what was read there: of units and dates, with the date among the marks. */
  readonly ends: readonly Ended[]
  /** Whether times are days; else the dates are not known, or two fall on one, and visits are taken as evenly spaced. */
  readonly inDays: boolean
}

/**
 * A trait read at several visits: all of them together. Throws AnalysisError when there are not two visits
 * with values, or the layout does not allow it, saying why.
 */
export function analyseOverDates(
  trial: Pick<Trial, 'treatments' | 'traits' | 'question' | 'sites'>,
  layouts: readonly Layout[],
  readings: readonly { readonly visit: string; readonly observations: BookObservations }[],
  traitKey: string,
  options: Partial<AnalysisOptions> = {},
  onProgress?: AnalysisRequest['onProgress'],
): OverDates {
  // What is worth knowing is set for the trait at one visit, and not for its mean over several.
  const { smallest: _, ...trait } = analysedTrait(trial, traitKey)
  const { request, dates, inDays, treated, whole } = datedRequest(trial, layouts, readings, trait, options)
  const found = analyse(onProgress ? { ...request, onProgress } : request)
  const over = whole.length > 0 ? { ...found, cautions: [...found.cautions, readWhole(whole)] } : found
  const ends = dates.flatMap(({ visit, name }) => {
    const { observations: own } = readings.find((each) => each.visit === visit)!
    return endsOf(trial, layouts, own, own).map((each): Ended => ({ ...each, marks: { ...each.marks, [DATE]: name } }))
  })
  return { ends, over, area: areaUnder(trial, layouts, trait, { request, dates, treated, whole }, options), dates, inDays }
}

interface Dated {
  readonly request: AnalysisRequest
  readonly dates: OverDates['dates']
  /** The unit each reading was taken on. */
  readonly treated: ReadonlyMap<string, string>
  /** Visits at which plots that are in halves now were read as a whole. */
  readonly whole: readonly string[]
}

function readWhole(visits: readonly string[]): Caution {
  return {
    kind: 'drawn later',
    text: `${listed(visits)} ${visits.length === 1 ? 'was' : 'were'} read on whole plots, before their halves were handled otherwise: ${visits.length === 1 ? 'it is' : 'they are'} no part of this. Read ${visits.length === 1 ? 'it' : 'each'} by itself.`,
  }
}

function datedRequest(
  trial: Pick<Trial, 'treatments' | 'traits' | 'question' | 'sites'>,
  layouts: readonly Layout[],
  readings: readonly { readonly visit: string; readonly observations: BookObservations }[],
  trait: AnalysisRequest['trait'],
  options: Partial<AnalysisOptions>,
): Dated & { inDays: boolean } {
  const all = readings.flatMap(({ observations: { observations } }) => observations)
  const base = trialRequest(trial, layouts, trait, all)
  const finest = finestKind(base.structure)
  const units = new Set(base.units.map((unit) => unit.id))
  const taken = readings.flatMap(({ visit, observations: { observations, leftOut, day } }) => {
    const own = observations.filter((each) => units.has(each.unit))
    const rows = own.length === 0 ? [] : bringUp({ ...base, observations: own, leftOut }, finest).rows
    return rows.length === 0 ? [] : [{ visit, day, rows, leftOut }]
  })
  // Levels are joined by a colon, which a name may hold.
  const nameOf = (visit: string): string => (trial.traits.visits.find((each) => each.key === visit)?.name ?? visit).replaceAll(':', ' ')
  const kinds = new Map(base.units.map((unit) => [unit.id, unit.kind]))
  const whole = readings.flatMap(({ visit, observations: { observations } }) =>
    finest === HALF && observations.length > 0 && observations.every((each) => kinds.get(each.unit) !== HALF) ? [nameOf(visit)] : [],
  )
  if (taken.length < 2)
    throw new AnalysisError(
      `${trait.name} has values at ${taken.length === 1 ? 'one visit' : 'no visit'} only: there are no dates to read together.${whole.length > 0 ? ` ${readWhole(whole).text}` : ''}`,
    )
  const days = taken.map(({ day }) => (day === null ? NaN : dayNumber(day)))
  const inDays = days.every(Number.isFinite) && new Set(days).size === days.length
  const times = taken.map((_, i) => (inDays ? days[i]! - Math.min(...days) : i))
  const order = [...taken.keys()].sort((a, b) => times[a]! - times[b]!)
  const dates = order.map((i) => ({ visit: taken[i]!.visit, name: nameOf(taken[i]!.visit), time: times[i]! }))
  if (new Set(dates.map((each) => each.name)).size < dates.length) throw new AnalysisError('Two visits have one name: give each its own.')
  const treated = new Map<string, string>()
  const marked = taken.flatMap(({ visit, rows, leftOut }) => {
    const values = new Map(rows.map(({ unit, value }) => [unit.id, value]))
    // A unit without a value at a visit is a reading that is missing there.
    return base.units
      .filter((unit) => unit.kind === finest && !leftOut.has(unit.id))
      .map((unit) => {
        const id = `${unit.id} ${visit}`
        treated.set(id, unit.id)
        const marks = { [DATE]: nameOf(visit) }
        const reading: Unit = {
          ...unit,
          id,
          kind: 'reading',
          in: [unit.id],
          at: null,
          planned: marks,
          received: marks,
          changes: {},
          place: null,
          walk: null,
        }
        return { reading, value: values.get(unit.id) }
      })
  })
  const finer = new Set(['plant', 'sample'].filter((kind) => kind !== finest))
  const structure: Structure = {
    ...base.structure,
    kinds: [...base.structure.kinds.filter(({ kind }) => !finer.has(kind)), { kind: 'reading', in: [finest] }],
    factors: [...base.structure.factors, { factor: DATE, appliedTo: 'reading', within: finest, how: 'systematic' }],
  }
  return {
    inDays,
    dates,
    treated,
    whole,
    request: {
      ...base,
      structure,
      units: [...base.units.filter((unit) => !finer.has(unit.kind)), ...marked.map((each) => each.reading)],
      // Whole treatments are taken as they are: their parts are told at each visit alone.
      factors: [
        ...base.factors.map(({ parts: _, ...factor }) => factor),
        {
          key: DATE,
          name: DATE,
          levels: dates.map((each) => each.name),
          amounts: Object.fromEntries(dates.map((each) => [each.name, each.time])),
        },
      ],
      observations: marked.flatMap(({ reading, value }) => (value === undefined ? [] : [{ unit: reading.id, value }])),
      options: AnalysisOptions.parse({
        significance: trial.question.significance,
        method: comparisonMethods.filter((each) => each.pairs === 'all' && !each.needsOneError).map((each) => each.key),
        dates: { occasion: DATE, subject: finest },
        ...options,
      }),
    },
  }
}

/**
 * Of a request with dates: the area under the curve of each unit that was read at every one, as a trait of
 * that unit; null where too few were. Throws AnalysisError when it cannot be analysed.
 */
export function areaRequest(request: AnalysisRequest): AnalysisRequest | null {
  const { dates } = request.options
  if (!dates) return null
  const { occasion, subject } = dates
  const factor = request.factors.find((each) => each.key === occasion)!
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const times = new Map(factor.levels.map((level) => [level, factor.amounts?.[level] ?? Number(level)]))
  const read = new Map<string, { time: number; value: number }[]>()
  for (const { unit: id, value } of request.observations) {
    const unit = index.get(id)
    const level = unit && levelOn(unit, occasion, index)
    const holder = unit && (unit.kind === subject ? unit.id : holderOf(unit, subject, index))
    if (level === undefined || holder === undefined) continue
    read.set(holder, [...(read.get(holder) ?? []), { time: times.get(level)!, value }])
  }
  const observations = [...read].flatMap(([unit, own]) => {
    if (own.length < factor.levels.length) return []
    const sorted = [...own].sort((a, b) => a.time - b.time)
    const value = sorted.slice(1).reduce((sum, each, i) => sum + ((each.value + sorted[i]!.value) / 2) * (each.time - sorted[i]!.time), 0)
    return [{ unit, value }]
  })
  if (observations.length < 4) return null
  const finer = new Set(request.structure.factors.filter((each) => each.factor === occasion).map((each) => each.appliedTo))
  const { dates: _, ...options } = request.options
  return {
    ...request,
    structure: {
      ...request.structure,
      kinds: request.structure.kinds.filter(({ kind }) => !finer.has(kind)),
      factors: request.structure.factors.filter((each) => each.factor !== occasion),
    },
    units: request.units.filter((unit) => !finer.has(unit.kind)),
    factors: request.factors.filter((each) => each.key !== occasion),
    trait: {
      key: `${request.trait.key} area`,
      name: `area under ${request.trait.name}`,
      unit: `${request.trait.unit} × time`.trim(),
      kind: 'continuous',
    },
    observations,
    options: {
      ...options,
      terms: options.terms?.filter((term) => !term.includes(occasion)),
      contrasts: options.contrasts.filter((each) => !each.term.includes(occasion)),
      polynomials: options.polynomials.filter((each) => each !== occasion),
    },
  }
}

/** Trapezia between the dates, of units that were read at each. */
function areaUnder(
  trial: Pick<Trial, 'treatments' | 'question' | 'sites'>,
  layouts: readonly Layout[],
  trait: AnalysisRequest['trait'],
  { request, dates, treated }: Dated,
  { significance }: Partial<AnalysisOptions>,
): Analysis | null {
  const byUnit = new Map<string, Map<string, number>>()
  const marks = new Map(request.units.map((unit) => [unit.id, unit.received[DATE]]))
  for (const { unit, value } of request.observations) {
    const own = byUnit.get(treated.get(unit)!) ?? new Map<string, number>()
    byUnit.set(treated.get(unit)!, own.set(marks.get(unit)!, value))
  }
  const observations = [...byUnit].flatMap(([unit, own]) => {
    if (own.size < dates.length) return []
    const value = dates
      .slice(1)
      .reduce((sum, { name, time }, i) => sum + ((own.get(name)! + own.get(dates[i]!.name)!) / 2) * (time - dates[i]!.time), 0)
    return [{ unit, value }]
  })
  if (observations.length < 4) return null
  const of = {
    key: `${trait.key} area`,
    name: `Area under ${inSentence(trait.name)}`,
    said: `area under ${inSentence(trait.name)}`,
    unit: trait.unit === '' || trait.unit === 'score' ? 'days' : `${trait.unit} × days`,
    kind: 'continuous' as const,
  }
  try {
    return analyse(trialRequest(trial, layouts, of, observations, significance === undefined ? {} : { significance }))
  } catch (error) {
    if (error instanceof AnalysisError) return null
    throw error
  }
}
