import { analysedAs, measureOf, type BookObservations } from '../numbers/index.ts'
import { comparisonMethods } from '../statistics/index.ts'
import {
  asOf,
  controlLevel,
  dayInWords,
  identities,
  isCrossing,
  isExtra,
  isInside,
  nutrientOf,
  shownOf,
  treatedUnits,
  treatmentOn,
  treatmentsAt,
  type DerivedTrait,
  type Factor,
  type Layout,
  type Structure,
  type Trait,
  type Treatments,
  type Trial,
  type Unit,
} from '../trial/index.ts'
import { analyse } from './analyse.ts'
import { otherWays, way, type BothWays, type OtherWay, type ShownRow } from './both-ways.ts'
import { gravestFirst } from './cautions.ts'
import { BY_STRENGTH } from './evidence.ts'
import { asMoved, extraCautions, happenedCautions, type Ended } from './happened.ts'
import { coefficientsOf } from './comparison-coefficients.ts'
import { AnalysisError, AnalysisOptions, type AnalysisRequest, type Observed, type Said } from './request.ts'
import type { Analysis, Caution } from './result.ts'
import { otherSchools, type School } from './schools.ts'
import { groundsOf, overSeasons, sharedSeasons } from './seasons.ts'
import { inSentence, listed } from './words.ts'

type AnalysedTrial = Pick<Trial, 'treatments' | 'traits' | 'question' | 'sites'>

/** The one factor of treatments that are not all combinations of their levels: some dropped, or some outside. */
export const WHOLE = 'treatment'

/** The trait of this key. Throws RangeError when there is none. */
export function traitOf({ traits }: Pick<Trial, 'traits'>, key: string): Trait | DerivedTrait {
  const found = [...traits.observed, ...traits.derived].find((each) => each.key === key)
  if (!found) throw new RangeError(`No trait “${key}” in this trial`)
  return found
}

/**
 * One trait of a trial at one visit, on some of its sites: the answer as decided, and with nothing
 * left out. Throws AnalysisError when there is nothing to analyse, saying why.
 */
export function analyseTrait(
  whole: AnalysedTrial,
  laid: readonly Layout[],
  readings: BookObservations,
  traitKey: string,
  options: Partial<AnalysisOptions> = {},
  onProgress?: AnalysisRequest['onProgress'],
): BothWays {
  const { trial, layouts, own, request: silent } = asked(whole, laid, readings, traitKey, options)
  const { unit } = trial.sites.find((site) => site.key === layouts[0]?.siteKey)?.design ?? { unit: 'plot' }
  const request = onProgress ? { ...silent, onProgress } : silent
  const shown = shownRows(trial, layouts, own)
  const aside = notShared(trial, layouts)
  const first = [
    ...drawnLater(whole.treatments, trial.treatments),
    ...identityCautions(whole.treatments),
    ...(aside ? [aside] : []),
    ...newGround(trial, layouts),
    ...asideOf(trial, layouts, own),
    ...happenedCautions(trial, layouts, readings, unit),
    ...extraCautions(layouts),
  ]
  const told = (analysis: Analysis): Analysis =>
    first.length > 0 ? { ...analysis, cautions: gravestFirst([...first, ...analysis.cautions]) } : analysis
  const without = told(analyse(request))
  const there = (compared: 'kept' | 'apart'): ReadonlySet<string> =>
    new Set(readings.fates.filter((each) => each.compared === compared).map((each) => each.unit))
  const doubted = { kept: there('kept'), apart: there('apart') }
  const byHand = [...request.leftOut].some((each) => !doubted.apart.has(each))
  return {
    without,
    all: byHand ? told(analyse({ ...request, leftOut: new Set() })) : without,
    others: [...asItWasTaken(whole, laid, readings, traitKey, options, without), ...otherWays(request, without, doubted)],
    ends: endsOf(trial, layouts, readings, request),
    shown,
  }
}

/** The answer as it was told before levels were found to be one. */
function asItWasTaken(
  whole: AnalysedTrial,
  laid: readonly Layout[],
  readings: BookObservations,
  traitKey: string,
  options: Partial<AnalysisOptions>,
  answer: Analysis,
): OtherWay[] {
  const one = identities(whole.treatments).filter((each) => each.same)
  if (one.length === 0) return []
  const { request } = asked(whole, laid, readings, traitKey, options, { taken: true })
  const names = one.map(({ level, same }) => `${level.identity!.was} apart from ${same!.name}`)
  return [way(request, answer, `As it was told before ${dayInWords(one.at(-1)!.level.identity!.on)}, with ${listed(names)}`, {})]
}

/** What levels turned out to be, and that what was said of them before is revised. */
function identityCautions(treatments: Treatments): Caution[] {
  return identities(treatments).map(({ level, same }) => {
    const { on, was } = level.identity!
    return {
      kind: 'identity',
      text: same
        ? `${was} turned out to be the same as ${same.name}, found on ${dayInWords(on)}: both are one treatment here, and what was said of the two apart before that day is revised.`
        : `What was called ${was} turned out to be ${level.name}, found on ${dayInWords(on)}: what was said of it before that day is said of ${level.name}.`,
    }
  })
}

/** How each unit that was treated ended: what a mean of those left stands on. */
function endsOf(
  { treatments, sites }: Pick<Trial, 'treatments' | 'sites'>,
  layouts: readonly Layout[],
  { fates }: Pick<BookObservations, 'fates'>,
  { observations, leftOut }: Pick<AnalysisRequest, 'observations' | 'leftOut'>,
): Ended[] {
  const measured = new Set(observations.map((each) => each.unit))
  const gone = new Map(fates.flatMap(({ unit, compared, fate }) => (compared === 'gone' ? [[unit, fate.kind] as const] : [])))
  return layouts.flatMap(({ siteKey, units }) => {
    const site = sites.find((each) => each.key === siteKey)
    const index = new Map(units.map((unit) => [unit.id, unit]))
    const at = units.find((unit) => unit.kind === 'site')?.code ?? siteKey
    return treatedUnits(units, site?.design.unit ?? 'plot').flatMap((unit): Ended[] => {
      const treatment = treatmentOn(unit, index, treatments)
      if (!treatment || treatment.role === 'shown' || isExtra(unit, index)) return []
      const ended = gone.get(unit.id)
      const end =
        ended === 'discarded' || ended === 'lost'
          ? ended
          : !measured.has(unit.id)
            ? 'missing'
            : leftOut?.has(unit.id)
              ? 'left out'
              : 'measured'
      return [{ unit: unit.id, marks: { ...treatment.levels, [WHOLE]: treatment.key, site: at }, end }]
    })
  })
}

/** The same trait answered the other way where practitioners differ, as decided on what is left out. `answer`: what it came to, where it is known. */
export function schoolsOfTrait(
  whole: AnalysedTrial,
  laid: readonly Layout[],
  readings: BookObservations,
  traitKey: string,
  { answer, onProgress }: { readonly answer?: Analysis; readonly onProgress?: AnalysisRequest['onProgress'] } = {},
): School[] {
  const { request } = asked(whole, laid, readings, traitKey, {})
  return otherSchools(onProgress ? { ...request, onProgress } : request, answer)
}

/** A trait as the analysis takes it. Throws AnalysisError for one that is no figure. */
export function analysedTrait(trial: Pick<Trial, 'traits'>, key: string): AnalysisRequest['trait'] {
  const trait = traitOf(trial, key)
  const observed = 'kind' in trait ? trait : undefined
  const kind = analysedAs(observed)
  if (kind === null) throw new AnalysisError(`${trait.name} is kept in words and shown as it is; there is nothing to test.`)
  const unit = observed ? measureOf(observed) : trait.unit
  const { response, smallestDifference: smallest } = trial.traits
  return {
    key: trait.key,
    name: trait.name,
    unit,
    kind,
    said: inSentence(trait.name),
    better: trait.better,
    ...(smallest && trait.key === response && smallest.unit === unit ? { smallest: smallest.value } : {}),
  }
}

/** What is asked of the analysis, of the trial as it stood when the readings were taken. */
function asked(
  whole: AnalysedTrial,
  laid: readonly Layout[],
  { observations, leftOut, fates, conflicts, apart, day }: BookObservations,
  traitKey: string,
  options: Partial<AnalysisOptions>,
  { taken = false } = {},
) {
  const dealt = asOf({ treatments: whole.treatments, layouts: laid }, day, { taken })
  const { treatments } = dealt
  const layouts = dealt.layouts.map((layout) => asMoved(layout, fates))
  const trial = { ...whole, treatments }
  const trait = analysedTrait(trial, traitKey)
  const units = new Set(layouts.flatMap((layout) => layout.units.map((unit) => unit.id)))
  const own = observations.filter((each) => units.has(each.unit))
  if (own.length === 0 && apart > 0)
    throw new AnalysisError(
      `${trait.name} was read by two people, and their readings are kept apart: choose one of them, or have them averaged.`,
    )
  if (own.length === 0 && conflicts > 0)
    throw new AnalysisError(`Every value of ${trait.name} was entered twice: choose in Walk which holds.`)
  const request = trialRequest(trial, layouts, trait, own, options)
  return { trial, layouts, own, request: { ...request, leftOut: new Set([...leftOut].filter((unit) => units.has(unit))) } }
}

/** The analysis of observations on some sites of a trial: every way of comparing means that its reader can choose. */
export function trialRequest(
  trial: Pick<Trial, 'treatments' | 'question' | 'sites'>,
  laid: readonly Layout[],
  trait: AnalysisRequest['trait'],
  observations: readonly Observed[],
  options: Partial<AnalysisOptions> = {},
): AnalysisRequest {
  if (laid.length === 0) throw new AnalysisError('Nothing is laid out yet.')
  const { question } = trial
  const { grounds } = readTogether(trial, laid, observations)
  const again = grounds.some(({ seasons }) => seasons.length > 1)
  const layouts = grounds.map(({ seasons }) => seasons[0]!.layout)
  const apart = [...apartAt(trial, layouts), ...shownOf(trial.treatments).map((each) => each.key), ...standNowhere(trial, layouts)]
  const treatments = varied(treatmentsAt(trial.treatments, { without: apart }))
  // What does not vary among what is compared needs not be dealt out alike.
  const structure = oneStructure(
    layouts.map(({ structure: own }) => ({
      ...own,
      kinds: own.kinds.flatMap((each) =>
        each.kind === 'demonstration' ? [] : [{ ...each, in: each.in.filter((kind) => kind !== 'demonstration') }],
      ),
      factors: own.factors.filter(({ factor }) => treatments.factors.some((each) => each.key === factor)),
    })),
  )
  const units = layouts.flatMap((layout) => sharedUnits(layout, trial.treatments, apart))
  // On units of several sizes the factors stay apart, though some combinations are missing.
  const sizes = new Set(structure.factors.map((each) => each.appliedTo)).size
  const crossing = isCrossing(treatments) || (sizes > 1 && treatments.list.every((each) => isInside(each, treatments.factors)))
  const factors = crossing ? crossedFactors(treatments) : [wholeTreatments(treatments, structure)]
  const several = again || severalErrors(structure)
  const against = factors.some((factor) => factor.control !== undefined)
  const contrasts = plannedIn(treatments, crossing)
  const method = comparisonMethods
    .filter((each) => (each.pairs === 'all' || against) && !(several && each.needsOneError))
    .map((each) => each.key)
  const dealt = { ...(crossing ? { structure: named(structure, factors), units } : asWhole(structure, units, treatments)), factors }
  const { unit: treated } = grounds[0]!.seasons[0]!.site.design
  return {
    ...(again ? overSeasons(grounds, dealt, treated) : dealt),
    trait,
    observations,
    options: AnalysisOptions.parse({
      significance: question.significance,
      method,
      contrasts,
      ...(again ? { random: [treated] } : {}),
      ...options,
    }),
  }
}

/** Factors that came into the trial after these readings. */
function drawnLater(whole: Treatments, then: Treatments): Caution[] {
  return whole.factors
    .filter((factor) => factor.drawn && !then.factors.some((each) => each.key === factor.key))
    .map(({ name, drawn }) => ({
      kind: 'drawn later',
      text: `${name} was drawn on ${dayInWords(drawn!.on)}, after these readings were taken: it is no part of this answer.`,
    }))
}

function readTogether(
  { sites, question }: Pick<Trial, 'sites' | 'question'>,
  layouts: readonly Layout[],
  observations: readonly Observed[],
) {
  return sharedSeasons(groundsOf(sites, question.season, layouts), new Set(observations.map((each) => each.unit)))
}

/** Seasons of some ground that other ground did not have. */
function asideOf(trial: Pick<Trial, 'sites' | 'question'>, layouts: readonly Layout[], observations: readonly Observed[]): Caution[] {
  const { aside } = readTogether(trial, layouts, observations)
  const names = listed(aside.map((site) => site.name))
  return aside.length === 0
    ? []
    : [
        {
          kind: 'not shared',
          text: `Not all ground stood for the same seasons: together only those that all of it had are read. Read ${names} by ${aside.length === 1 ? 'itself' : 'themselves'}.`,
        },
      ]
}

/** Season and field that are one and the same are named together. */
function newGround({ sites, question }: Pick<Trial, 'sites' | 'question'>, layouts: readonly Layout[]): Caution[] {
  const grounds = groundsOf(sites, question.season, layouts)
  const seasons = new Set(grounds.flatMap((ground) => ground.seasons.map((each) => each.season)))
  return seasons.size > 1 && grounds.every((ground) => ground.seasons.length === 1)
    ? [
        {
          kind: 'site and season',
          text: 'Each season stood on ground of its own: what differs between sites is of field and season together, and nothing here is an effect of the year.',
        },
      ]
    : []
}

function shownRows(
  { treatments, sites }: Pick<Trial, 'treatments' | 'sites'>,
  layouts: readonly Layout[],
  observations: readonly Observed[],
): ShownRow[] {
  const shown = shownOf(treatments)
  if (shown.length === 0) return []
  const found = layouts.flatMap((layout) => {
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const site = sites.find((each) => each.key === layout.siteKey)!.name
    return observations.flatMap(({ unit: id, value, bound }) => {
      const unit = index.get(id)
      const treatment = unit && bound === undefined ? treatmentOn(unit, index, treatments) : undefined
      return treatment?.role === 'shown' ? [{ treatment: treatment.key, site, value }] : []
    })
  })
  return shown.map(({ key }) => ({
    treatment: key,
    values: found.filter((each) => each.treatment === key).map(({ site, value }) => ({ site, value })),
  }))
}

/** Treatments that some of the sites looked at together do not have. */
function apartAt({ sites }: Pick<Trial, 'sites'>, layouts: readonly Layout[]): string[] {
  const looked = sites.filter((site) => layouts.some((layout) => layout.siteKey === site.key))
  return [...new Set(looked.flatMap((site) => site.without))]
}

/** Treatments that no unit was ever to get: all units of them were handled another way later. */
function standNowhere({ treatments }: Pick<Trial, 'treatments'>, layouts: readonly Layout[]): string[] {
  if (!treatments.factors.some((factor) => factor.drawn)) return []
  const planned = layouts.flatMap(({ units }) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return units.map((unit) => treatmentOn(unit, index, treatments, 'planned')?.key)
  })
  return treatments.list.map((each) => each.key).filter((key) => !planned.includes(key))
}

/** What is set aside where sites are read together, since one of them does not have it; null where they have the same. */
function notShared(trial: Pick<Trial, 'treatments' | 'sites'>, layouts: readonly Layout[]): Caution | null {
  const apart = apartAt(trial, layouts)
  if (apart.length === 0 || layouts.length < 2) return null
  const codes = trial.treatments.list.filter((each) => apart.includes(each.key)).map((each) => each.code)
  return {
    kind: 'not shared',
    text: `Not every site has ${listed(codes)}: together only what all of them have is compared. Read ${codes.length === 1 ? 'it' : 'them'} at the sites that do.`,
  }
}

/** Treatments by the factors that vary among them: a factor of one level, at a site that has only that, explains nothing. */
function varied(treatments: Treatments): Treatments {
  const factors = treatments.factors.filter((factor) => factor.levels.length > 1)
  return factors.length === 0 || factors.length === treatments.factors.length ? treatments : { ...treatments, factors }
}

/** Units without those of treatments that are set aside, and what lies in them. */
function sharedUnits({ units }: Layout, treatments: Treatments, apart: readonly string[]): readonly Unit[] {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  if (apart.length === 0 && !units.some((unit) => unit.kind === 'demonstration')) return units
  return units.filter((unit) => {
    if (isExtra(unit, index)) return false
    const treatment = treatmentOn(unit, index, treatments)
    return treatment === undefined || !apart.includes(treatment.key)
  })
}

/** Factors were applied to units of several sizes, or to strips that cross: differences draw on several errors. */
function severalErrors({ factors, kinds }: Structure): boolean {
  const applied = new Set(factors.map((factor) => factor.appliedTo))
  const finest = kinds.filter(
    ({ kind }) => !kinds.some((other) => other.in.includes(kind) && other.kind !== 'plant' && other.kind !== 'sample'),
  )
  return [...applied].some((kind) => !finest.some((each) => each.kind === kind))
}

/** Sites are analysed together when they are laid out alike. Throws AnalysisError when they are not. */
function oneStructure(structures: readonly Structure[]): Structure {
  const [first] = structures
  const told = (structure: Structure): string =>
    JSON.stringify([structure.kinds, structure.factors.map(({ factor, appliedTo, within }) => [factor, appliedTo, within])])
  if (structures.some((each) => told(each) !== told(first!)))
    throw new AnalysisError('The sites are laid out by different designs: read each site by itself.')
  // Where units were swapped by hand at one site, the draw over all is no stronger than there.
  const swapped = structures.flatMap((each) => each.swapped ?? [])
  if (swapped.length === 0) {
    if (structures.some((each) => JSON.stringify(each.factors) !== JSON.stringify(first!.factors)))
      throw new AnalysisError('The sites are laid out by different designs: read each site by itself.')
    return first!
  }
  const weakest = (at: number) => structures.map((each) => BY_STRENGTH.indexOf(each.factors[at]!.how)).reduce((a, b) => Math.min(a, b))
  return { ...first!, factors: first!.factors.map((each, i) => ({ ...each, how: BY_STRENGTH[weakest(i)]! })), swapped }
}

type AnalysedFactor = AnalysisRequest['factors'][number]

function crossedFactors(treatments: Treatments): AnalysedFactor[] {
  return treatments.factors.map((factor) => {
    const control = controlLevel(treatments, factor.key)
    const amounts = Object.fromEntries(factor.levels.flatMap(({ key, amount }) => (amount === null ? [] : [[key, amount]])))
    return {
      key: factor.key,
      name: inSentence(factor.name),
      levels: factor.levels.map((level) => level.key),
      amounts,
      ...(factor.measure ? { measure: factor.measure } : {}),
      said: Object.fromEntries(factor.levels.map((level) => [level.key, saidOf(factor, level)])),
      ...(control === undefined ? {} : { control }),
    }
  })
}

/** An amount in the reader's unit, or a name as it was written. */
function saidOf(factor: Factor, { name, amount }: Factor['levels'][number]): Said {
  if (factor.kind !== 'rate' || amount === null) return { name }
  const of = nutrientOf(factor)
  return { name, amount: { value: amount, unit: factor.measure, ...(of ? { of } : {}) } }
}

function wholeTreatments(treatments: Treatments, structure: Structure): AnalysedFactor {
  const { factors, list } = treatments
  const control =
    list.find((each) => each.role === 'untreated control') ??
    (list.filter((each) => each.role === 'standard').length === 1 ? list.find((each) => each.role === 'standard') : undefined)
  return {
    key: WHOLE,
    name: WHOLE,
    levels: list.map((each) => each.key),
    said: Object.fromEntries(list.map((each) => [each.key, wholeSaid(treatments, each)])),
    ...(control ? { control: control.key } : {}),
    controls: list.filter((each) => each.role !== 'none' && each.role !== 'shown').map((each) => each.key),
    ...(factors.length > 1 ? { parts: partsOf(treatments, structure) } : {}),
  }
}

/** Of one factor its level, of several, or outside them, its name. */
function wholeSaid({ factors }: Treatments, treatment: Treatments['list'][number]): Said {
  const [factor] = factors
  const level = factors.length === 1 ? factor!.levels.find((each) => each.key === treatment.levels[factor!.key]) : undefined
  return level ? saidOf(factor!, level) : { name: treatment.name }
}

/** What whole treatments are combinations of; those outside have none of it. */
function partsOf(treatments: Treatments, { factors: dealt }: Structure): NonNullable<AnalysedFactor['parts']> {
  const how = (key: string) => dealt.find((each) => each.factor === key)?.how
  return crossedFactors(treatments).map(({ key, name, levels, amounts, said, measure }) => ({
    key,
    ...(name ? { name } : {}),
    levels,
    ...(said ? { said } : {}),
    ...(measure ? { measure } : {}),
    ...(amounts ? { amounts } : {}),
    ...(how(key) && how(key) !== dealt[0]!.how ? { how: how(key)! } : {}),
    of: Object.fromEntries(treatments.list.flatMap((each) => (isInside(each, treatments.factors) ? [[each.key, each.levels[key]!]] : []))),
  }))
}

/** The comparisons planned with the trial, as contrasts of what is analysed: combinations of levels, or whole treatments. */
function plannedIn(treatments: Treatments, crossing: boolean): AnalysisOptions['contrasts'] {
  const { factors, list, comparisons } = treatments
  const levelOf = new Map(list.map((each) => [each.key, crossing ? factors.map((factor) => each.levels[factor.key]).join(':') : each.key]))
  return comparisons.flatMap((comparison) => {
    const coefficients = Object.entries(coefficientsOf(comparison, treatments)).filter(([, c]) => c !== 0)
    if (coefficients.length === 0) return []
    return [
      {
        name: comparison.name,
        term: crossing ? factors.map((factor) => factor.key) : [WHOLE],
        coefficients: Object.fromEntries(coefficients.map(([key, c]) => [levelOf.get(key)!, c])),
        ...(comparison.of.kind === 'trend' ? { trend: { factor: comparison.of.factor, degree: comparison.of.degree, scale: 1 } } : {}),
        ...(comparison.late ? { late: true } : {}),
      },
    ]
  })
}

/** Controls as the trial names them now. */
function named(structure: Structure, factors: readonly AnalysedFactor[]): Structure {
  return { ...structure, controls: factors.flatMap(({ key, control }) => (control === undefined ? [] : [{ factor: key, level: control }])) }
}

/** The same units with the treatment as their one factor. */
function asWhole(structure: Structure, units: readonly Unit[], treatments: Treatments): Pick<AnalysisRequest, 'structure' | 'units'> {
  const [first] = structure.factors
  if (!first || structure.factors.some((each) => each.appliedTo !== first.appliedTo))
    throw new AnalysisError(
      'Some treatments stand outside the combinations of factors that stand on units of several sizes: read those inside by themselves, with the others set aside.',
    )
  const index = new Map(units.map((unit) => [unit.id, unit]))
  return {
    structure: { ...structure, factors: [{ ...first, factor: WHOLE }], controls: [] },
    units: units.map((unit): Unit => {
      if (unit.kind !== first.appliedTo) return unit
      const marks = (which: 'planned' | 'received'): Record<string, string> => {
        const treatment = treatmentOn(unit, index, treatments, which)
        return treatment ? { [WHOLE]: treatment.key } : {}
      }
      const changes = Object.values(unit.changes)
      const worst = changes.includes('misapplied') ? 'misapplied' : changes[0]
      return { ...unit, planned: marks('planned'), received: marks('received'), changes: worst ? { ...unit.changes, [WHOLE]: worst } : {} }
    }),
  }
}
