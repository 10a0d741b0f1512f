import {
  byGroup,
  dateModels,
  groundModels,
  type Classification,
  type Covariate,
  type Dates,
  type ErrorModel,
} from '../../statistics/index.ts'
import type { LayoutFrame } from '../layout.ts'
import { countedFromThere } from '../linear-model.ts'
import { AnalysisError } from '../request.ts'
import { inOwnAxes } from '../../trial/index.ts'

/** What a mixed model is made of, from layout and options. */
export interface MixedSetup {
  /** In their order: kinds of unit taken out, treatments, and these by site where sites are fixed. */
  readonly fixed: readonly (readonly string[])[]
  /** Kinds of unit taken out, finest first named; of these, those that lie in no other that is taken out too. */
  readonly taken: readonly string[]
  readonly testedUnits: readonly string[]
  /** Of the treatments, those that are fixed. */
  readonly terms: readonly string[][]
  readonly bySite: readonly string[][]
  readonly variables: readonly Classification[]
  /** Counted from the value that means are adjusted to, which is 0 then. */
  readonly covariates: readonly (Covariate & { readonly at: number })[]
  readonly random: readonly Classification[]
  /** Ways in which errors may be spread and go together, of which the likeliest is taken; null: all alike and apart. */
  readonly errors: readonly (ErrorModel | null)[]
  /** What the errors are asked for by. */
  readonly by: 'dates' | 'ground' | 'group' | null
}

export function mixedSetup(frame: LayoutFrame): MixedSetup {
  const { units, terms, sites, random, request } = frame
  const { options } = request
  const { factors, sampled } = withChecks(frame)
  const names = new Set(sampled.map((each) => each.name))
  // A factor with checks keeps a mean of each, and one of all others.
  const kept = terms.filter((term) => !names.has(term.join(':')) || term.every((name) => Object.hasOwn(options.checks, name)))
  const isFixed = (name: string): boolean => options.fixed.some((each) => each === name)
  const asked = units.filter((unit) => {
    if (unit.name === options.dates?.subject) return random.has(unit.name) && options.random.includes(unit.name)
    // Where plots go together by where they lie, their blocks need not be told apart.
    return !options.ground || unit.name === 'site' || random.has(unit.name) || isFixed(unit.name)
  })
  // What lies in units that are a sample of many is one too.
  const chosen = asked.filter((unit) => random.has(unit.name))
  const chance = asked.filter((unit) => !isFixed(unit.name) && chosen.some((outer) => outer === unit || liesIn(unit, outer)))
  const taken = finestOf(asked.filter((unit) => !chance.includes(unit)))
  const bySite = sites && !random.has('site') ? kept.map((term) => ['site', ...term]).filter((term) => !names.has(term.join(':'))) : []
  return {
    fixed: [
      ...taken.map((unit) => [unit.name]),
      ...frame.covariates.map((each) => [each.name]),
      ...kept,
      ...bySite,
      ...(options.slopes === 'separate' ? frame.covariates.flatMap((each) => kept.map((term) => [...term, each.name])) : []),
    ],
    covariates: countedFromThere(frame).map((each) => ({ ...each, at: 0 })),
    taken: taken.map((unit) => unit.name),
    testedUnits: taken
      .filter((unit) => !asked.some((outer) => outer !== unit && !chance.includes(outer) && liesIn(unit, outer)))
      .map((unit) => unit.name),
    terms: kept,
    bySite,
    variables: [...asked, ...factors],
    random: [...chance, ...sampled],
    ...errorsOf(frame),
  }
}

/** Factors of which some levels are checks: for the fixed part these and one level for all others, for the random part the others alone. */
function withChecks({ factors, sampled, request }: LayoutFrame): Pick<LayoutFrame, 'factors' | 'sampled'> {
  const { checks } = request.options
  for (const [factor, levels] of Object.entries(checks)) {
    const own = factors.find((each) => each.name === factor)
    const strange = own && levels.find((level) => !own.levels.includes(level))
    if (!own || strange !== undefined) throw new AnalysisError(`“${strange ?? factor}” under “checks” is not a level with values.`)
  }
  return {
    factors: factors.map((factor) => {
      const own = checks[factor.name]
      if (!own) return factor
      const levels = [...factor.levels.filter((level) => own.includes(level)), 'others']
      const codes = factor.codes.map((code) => {
        const at = levels.indexOf(factor.levels[code]!)
        return at < 0 ? levels.length - 1 : at
      })
      return { ...factor, levels, codes }
    }),
    sampled: sampled.map((each) => {
      const factor = factors.find((one) => one.name === each.name)
      const own = factor && checks[factor.name]
      if (!factor || !own) return each
      const levels = factor.levels.filter((level) => !own.includes(level))
      return { name: factor.name, levels, codes: factor.codes.map((code) => levels.indexOf(factor.levels[code]!)) }
    }),
  }
}

function errorsOf(frame: LayoutFrame): Pick<MixedSetup, 'errors' | 'by'> {
  const { errorBy, dates, ground } = frame.request.options
  const asked = [errorBy && '“errorBy”', dates && '“dates”', ground && '“ground”'].filter(Boolean)
  if (asked.length > 1) throw new AnalysisError(`${asked.join(' and ')} each say how errors go together: give one of them.`)
  if (errorBy !== undefined) return { errors: [byGroup(classOf(frame, errorBy))], by: 'group' }
  if (dates) {
    const of = datesOf(frame, dates)
    // Of two dates an autoregression says what one correlation between any two says.
    const two = of.dates.levels.length === 2
    const models = dateModels.filter(({ key }) =>
      dates.covariance === 'best' ? !(two && key === 'autoregression') : dates.covariance === key,
    )
    return { errors: models.map(({ model }) => model(of)), by: 'dates' }
  }
  if (ground !== undefined) {
    const models = groundModels.filter(({ key }) => ground === 'best' || ground === key)
    return { errors: models.map(({ model }) => model(placesOf(frame))), by: 'ground' }
  }
  return { errors: [null], by: null }
}

function classOf({ units, factors }: LayoutFrame, name: string): Classification {
  const found = [...units, ...factors].find((each) => each.name === name)
  if (!found) throw new AnalysisError(`“${name}” under “errorBy” is neither a kind of unit with several members nor a factor.`)
  return found
}

/** Throws AnalysisError where the dates cannot be told, or a unit has a date twice. */
function datesOf(
  { units, factors, request }: LayoutFrame,
  { occasion, subject }: NonNullable<LayoutFrame['request']['options']['dates']>,
): Dates {
  const dates = factors.find((each) => each.name === occasion)
  if (!dates) throw new AnalysisError(`“${occasion}” under “dates” is not a factor: name the factor that holds the dates.`)
  const subjects = units.find((each) => each.name === subject)
  if (!subjects) throw new AnalysisError(`No ${subject} was read at several dates: name under “dates” the kind of unit that was.`)
  const amounts = request.factors.find((each) => each.key === occasion)!.amounts
  const times = dates.levels.map((level) => amounts?.[level] ?? Number(level))
  const odd = times.findIndex((each) => !Number.isFinite(each))
  if (odd !== -1)
    throw new AnalysisError(`“${dates.levels[odd]}” is no time: give “amounts” of ${occasion} in the plan, as days from the first.`)
  const seen = new Set<string>()
  subjects.codes.forEach((code, i) => {
    const key = `${code} ${dates.codes[i]}`
    if (seen.has(key))
      throw new AnalysisError(`A ${subject} has two values at ${occasion} ${dates.levels[dates.codes[i]!]}: one is all it can have.`)
    seen.add(key)
  })
  return { subjects, dates, times }
}

function placesOf({ observed, sites }: LayoutFrame) {
  const lacking = observed.rows.find((row) => row.unit.place === null)
  if (lacking)
    throw new AnalysisError(`${lacking.unit.kind} ${lacking.unit.code} has no place on the plan: the ground between plots is not known.`)
  const places = observed.rows.map(({ unit }) => unit.place!)
  if (places.some((place) => (place.turn ?? 0) !== (places[0]!.turn ?? 0)))
    throw new AnalysisError('Groups of plots are turned different ways: the ground between them has no rows and columns in common.')
  const middle = (at: 'x' | 'y', side: 'width' | 'length'): number[] => places.map((place) => inOwnAxes(place)[at] + place[side] / 2)
  return { across: middle('x', 'width'), along: middle('y', 'length'), apart: sites?.codes ?? null }
}

/** Of kinds of unit that lie in each other the finest: it holds what the wider ones differ by. */
function finestOf(units: readonly Classification[]): Classification[] {
  return units.filter((unit, u) => !units.some((other, o) => o !== u && liesIn(other, unit) && (!liesIn(unit, other) || o < u)))
}

export function liesIn(inner: Classification, outer: Classification): boolean {
  const seen = new Map<number, number>()
  inner.codes.forEach((code, i) => seen.has(code) || seen.set(code, outer.codes[i]!))
  return inner.codes.every((code, i) => seen.get(code) === outer.codes[i])
}
