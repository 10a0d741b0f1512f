import { crossed, type Classification, type Covariate } from '../statistics/index.ts'
import type { Structure, Unit, UnitKind } from '../trial/index.ts'
import { bringUp, holderOf, levelOn, type Observations } from './observations.ts'
import { AnalysisError, type AnalysisRequest } from './request.ts'

/** What the structure makes of the readings: observations, the units they lie in, and what those were given. */
export interface LayoutFrame {
  readonly request: AnalysisRequest
  readonly observed: Observations
  /** As observed, and on the scale of the analysis. */
  readonly raw: Float64Array
  readonly y: Float64Array
  readonly finest: UnitKind
  /** Kinds of unit above the observations, coarse to fine; with random sites also their crossings with treatments. */
  readonly units: readonly Classification[]
  /** Those whose differences are chance: errors of their own. */
  readonly random: ReadonlySet<string>
  /** Factors, and their crossings with each other and with kinds of unit, that are a sample of many. */
  readonly sampled: readonly Classification[]
  /** Kinds of unit taken as a sample since most of their units hold a part of the treatments only. */
  readonly incomplete: readonly UnitKind[]
  /** Kinds of which the same holds, but of which there are too few to say how much they differ. */
  readonly tooFew: readonly UnitKind[]
  readonly factors: readonly Classification[]
  readonly covariates: readonly Covariate[]
  /** Of the treatments, main effects first. */
  readonly terms: readonly string[][]
  readonly sites: Classification | null
  /** One unit of each treatment at a site: then sites are blocks, and what treatments do differently from site to site is chance. */
  readonly sitesAsBlocks: boolean
  /** The unit of a kind that the observation i lies in, or is. */
  readonly holder: (i: number, kind: UnitKind) => Unit | undefined
}

/**
 * From structure and readings to the frame of the analysis. The observations are the coarsest
 * units that are each of one treatment. The name of the design is never asked for. Throws
 * AnalysisError when the structure or the readings leave nothing to analyse.
 */
export function layoutFrame(request: AnalysisRequest): Omit<LayoutFrame, 'y'> {
  const { structure, options, units } = request
  const finest = finestKind(structure)
  const observed = bringUp(request, finest)
  if (observed.rows.length === 0) throw new AnalysisError(`No ${finest} has a value of “${request.trait.name}” yet.`)
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const holder = (i: number, kind: UnitKind): Unit | undefined => {
    const { unit } = observed.rows[i]!
    return unit.kind === kind ? unit : index.get(holderOf(unit, kind, index) ?? '')
  }
  const factors = request.factors.map((factor): Classification => {
    const own = observed.rows.map((row) => levelOn(row.unit, factor.key, index))
    const lacking = own.indexOf(undefined)
    if (lacking !== -1) throw new AnalysisError(`${finest} ${observed.rows[lacking]!.unit.code} has no level of ${factor.key}.`)
    const stranger = own.find((level) => !factor.levels.includes(level!))
    if (stranger !== undefined)
      throw new AnalysisError(`“${stranger}” is not a level of ${factor.key}; known: ${factor.levels.join(', ')}.`)
    const present = factor.levels.filter((level) => own.includes(level))
    return { name: factor.key, levels: present, codes: Int32Array.from(own, (level) => present.indexOf(level!)) }
  })
  const terms = termsAsked(request)
  const above = kindsAbove(structure, finest).flatMap((kind): Classification[] => {
    const holders = observed.rows.map((_, i) => holder(i, kind)?.id)
    const names = [...new Set(holders)]
    // A kind with one member, or with one observation in each, has no differences of its own.
    if (names.includes(undefined) || names.length < 2 || names.length === holders.length) return []
    return [
      { name: kind, levels: calledBy(names as string[], kind, index), codes: Int32Array.from(holders, (each) => names.indexOf(each)) },
    ]
  })
  const partial = incompleteKinds(request, finest, index)
  const free = ({ kind }: (typeof partial)[number]): boolean =>
    !options.ground && above.some((each) => each.name === kind) && !options.fixed.includes(kind)
  const incomplete = partial.filter((each) => free(each) && each.enough).map((each) => each.kind)
  const tooFew = partial.filter((each) => free(each) && !each.enough && !options.random.includes(each.kind)).map((each) => each.kind)
  const asked = randomAsked(request)
  const places = above.find((each) => each.name === 'site') ?? null
  const sitesAsBlocks =
    places !== null &&
    structure.factors.every((each) => each.appliedTo === finest) &&
    terms.some((term) => term.length === factors.length) &&
    crossing(['site', ...factors.map((each) => each.name)], [places, ...factors]).levels.length === observed.rows.length
  const region = places && !sitesAsBlocks && places.levels.length >= SITES_OF_A_REGION ? ['site'] : []
  const random = new Set<string>(
    [
      ...structure.factors.map((factor) => factor.appliedTo).filter((kind) => kind !== finest),
      ...asked.kinds,
      ...incomplete,
      ...region,
    ].filter((kind) => !options.fixed.some((each) => each === kind) && above.some((each) => each.name === kind)),
  )
  const sites = sitesAsBlocks ? null : places
  const sampled = asked.crossings.map((names) => crossing(names, [...above, ...factors]))
  // Sites that are a sample of many: what treatments do differently there is chance too.
  const bySite = sites && random.has('site') ? terms.map((term) => crossing(['site', ...term], [sites, ...factors])) : []
  bySite.forEach((each) => random.add(each.name))
  return {
    request,
    observed,
    raw: Float64Array.from(observed.rows, (row) => row.value),
    finest,
    units: [...above, ...bySite],
    random,
    sampled,
    incomplete,
    tooFew,
    factors,
    covariates: options.covariates.map((name, c) => ({
      name,
      values: Float64Array.from(observed.rows, (row) => row.covariates[c]!),
    })),
    terms,
    sites,
    sitesAsBlocks,
    holder,
  }
}

/** Sites by what they are called, where that tells them apart; all else by id, since block 1 stands at every site. */
function calledBy(ids: readonly string[], kind: UnitKind, index: ReadonlyMap<string, Unit>): readonly string[] {
  const codes = ids.map((id) => index.get(id)!.code.replaceAll(':', '\u2236'))
  return kind === 'site' && new Set(codes).size === ids.length ? codes : ids
}

/** Kinds of unit, and crossings of kinds and factors, that the options take as a sample. Throws AnalysisError for a name that is neither. */
function randomAsked({ options, structure, factors }: AnalysisRequest): { kinds: string[]; crossings: string[][] } {
  const kinds = structure.kinds.map((each) => each.kind as string)
  const keys = factors.map((factor) => factor.key)
  const asked = options.random.map((each) => each.split(':'))
  const strange = [...asked.flat(), ...Object.keys(options.checks)].find((name) => !kinds.includes(name) && !keys.includes(name))
  if (strange !== undefined)
    throw new AnalysisError(
      `The options take “${strange}” as a sample of many, which is neither a kind of unit (${kinds.join(', ')}) nor a factor (${keys.join(', ')}).`,
    )
  // Kinds before factors, each in its order, so that a term has one name.
  const ordered = asked.map((names) => [...kinds, ...keys].filter((name) => names.includes(name)))
  return {
    kinds: ordered.flatMap((names) => (names.length === 1 && kinds.includes(names[0]!) ? names : [])),
    crossings: ordered.filter((names) => names.length > 1 || keys.includes(names[0]!)),
  }
}

/**
 * Kinds to which no factor was applied, most of whose units hold a part of the treatments only, and whether
 * there are enough of them to say how much they differ.
 */
function incompleteKinds(
  { structure, units, factors }: AnalysisRequest,
  finest: UnitKind,
  index: ReadonlyMap<string, Unit>,
): { kind: UnitKind; enough: boolean }[] {
  const applied = new Set(structure.factors.map((factor) => factor.appliedTo))
  const treated = units.filter((unit) => unit.kind === finest)
  const treatmentOf = (unit: Unit): string => factors.map(({ key }) => levelOn(unit, key, index)).join(':')
  /** Of a site what was grown there: sites may differ in their treatments. */
  const siteOf = (unit: Unit): string => holderOf(unit, 'site', index) ?? ''
  const grown = new Map<string, Set<string>>()
  for (const unit of treated) grown.set(siteOf(unit), (grown.get(siteOf(unit)) ?? new Set()).add(treatmentOf(unit)))
  return kindsAbove(structure, finest).flatMap((kind) => {
    if (applied.has(kind) || kind === 'site') return []
    const held = new Map<string, { own: Set<string>; of: number }>()
    for (const unit of treated) {
      const holder = holderOf(unit, kind, index)
      if (holder === undefined) continue
      const found = held.get(holder) ?? { own: new Set<string>(), of: grown.get(siteOf(unit))!.size }
      found.own.add(treatmentOf(unit))
      held.set(holder, found)
    }
    const shares = [...held.values()].map(({ own, of }) => own.size / of).sort((a, b) => a - b)
    const around = new Set([...held.keys()].map((id) => index.get(id)!.in.join())).size
    if (!(shares.length > 1) || shares[Math.floor(shares.length / 2)]! > MOST_OF_ALL) return []
    return [{ kind, enough: shares.length >= FEWEST_UNITS && shares.length - around >= FEWEST_DF }]
  })
}

/** So many sites are taken to stand for others like them, unless the options say otherwise. */
export const SITES_OF_A_REGION = 5
/** Fewer units of a kind than this, or fewer to compare within what holds them, tell too little of how much they differ. */
const [FEWEST_UNITS, FEWEST_DF] = [5, 3]
/** A block that lost a plot or two is still a complete one. */
const MOST_OF_ALL = 0.85

/** The kind that lies in every kind any factor was applied to: strips that cross meet in it. */
export function finestKind(structure: Structure): UnitKind {
  if (structure.factors.length === 0) throw new AnalysisError('The layout names no factor: say what was applied to which kind of unit.')
  const applied = new Set(structure.factors.map((factor) => factor.appliedTo))
  const holding = structure.kinds
    .map(({ kind }) => ({ kind, above: kindsAbove(structure, kind) }))
    .filter(({ kind, above }) => [...applied].every((each) => each === kind || above.includes(each)))
    .sort((a, b) => a.above.length - b.above.length)
  if (!holding[0]) throw new AnalysisError('No kind of unit lies in every kind that was treated: say in the structure where they meet.')
  return holding[0].kind
}

/** All kinds a kind lies in, widest first. */
function kindsAbove(structure: Structure, kind: UnitKind): UnitKind[] {
  const found: UnitKind[] = []
  const visit = (each: UnitKind): void => {
    for (const above of structure.kinds.find((entry) => entry.kind === each)?.in ?? []) {
      visit(above)
      if (!found.includes(above)) found.push(above)
    }
  }
  visit(kind)
  return found
}

/** The terms asked for, or the full factorial. Throws AnalysisError for one that names no factor. */
function termsAsked({ options, factors }: AnalysisRequest): string[][] {
  const names = factors.map((factor) => factor.key)
  const asked = [...(options.terms ?? []), ...options.contrasts.map((each) => each.term), options.polynomials]
  const bySite = options.contrasts.flatMap((each) => each.term)
  const strange = asked.flat().find((name) => !names.includes(name) && !(name === 'site' && bySite.includes('site')))
  if (strange !== undefined) throw new AnalysisError(`The options name “${strange}”, which is not a factor; known: ${names.join(', ')}.`)
  const terms = options.terms ?? factorialTerms(names)
  // Named in the order of the factors, so that a term has one name; terms asked for stay in the order given.
  return terms.map((term) => names.filter((name) => term.includes(name)))
}

/** Every combination of the names, main effects first: the full factorial. */
export function factorialTerms(names: readonly string[]): string[][] {
  return names
    .reduce<string[][]>((found, name) => [...found, ...found.map((each) => [...each, name])], [[]])
    .filter((each) => each.length > 0)
    .sort((a, b) => a.length - b.length)
}

/** The combinations of a term that were grown, as one classification; a single factor as it is. */
export function crossing(term: readonly string[], factors: readonly Classification[]): Classification {
  const own = term.map((name) => factors.find((factor) => factor.name === name)!)
  return own.length === 1 ? own[0]! : crossed(term.join(':'), own)
}
