import { analysedAs, measureOf, type BookObservations } from '../numbers/index.ts'
import {
  asOf,
  dayInWords,
  HALF,
  identities,
  isExtra,
  shownOf,
  treatedUnits,
  treatmentOn,
  type DerivedTrait,
  type Layout,
  type Trait,
  type Treatments,
  type Trial,
} from '../trial/index.ts'
import { analyse } from './analyse.ts'
import { otherWays, way, type BothWays, type OtherWay, type ShownRow } from './both-ways.ts'
import { gravestFirst } from './cautions.ts'
import { asMoved, extraCautions, happenedCautions, type Ended } from './happened.ts'
import { AnalysisError, type AnalysisOptions, type AnalysisRequest, type Observed } from './request.ts'
import type { Analysis, Caution } from './result.ts'
import { otherSchools, type School } from './schools.ts'
import { groundsOf } from './seasons.ts'
import { apartAt, readTogether, trialRequest } from './trial-request.ts'
import { beforeHalves, WHOLE } from './whole-term.ts'
import { inSentence, listed } from './words.ts'

type AnalysedTrial = Pick<Trial, 'treatments' | 'traits' | 'question' | 'sites'>

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
export function endsOf(
  { treatments, sites }: Pick<Trial, 'treatments' | 'sites'>,
  layouts: readonly Layout[],
  { fates }: Pick<BookObservations, 'fates'>,
  { observations, leftOut }: Pick<AnalysisRequest, 'observations' | 'leftOut'>,
): Ended[] {
  const measured = new Set(observations.map((each) => each.unit))
  const gone = new Map(fates.flatMap(({ unit, compared, fate }) => (compared === 'gone' ? [[unit, fate.kind] as const] : [])))
  return layouts.flatMap(({ siteKey, units, structure }) => {
    const onHalf = structure.factors.flatMap((each) => (each.appliedTo === HALF ? [each.factor] : []))
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
      return [
        { unit: unit.id, marks: { ...treatment.levels, [WHOLE]: beforeHalves(treatment.key, treatments.factors, onHalf), site: at }, end },
      ]
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

/** Factors that came into the trial after these readings. */
function drawnLater(whole: Treatments, then: Treatments): Caution[] {
  return whole.factors
    .filter((factor) => factor.drawn && !then.factors.some((each) => each.key === factor.key))
    .map(({ name, drawn }) => ({
      kind: 'drawn later',
      text: `${name} was drawn on ${dayInWords(drawn!.on)}, after these readings were taken: it is no part of this answer.`,
    }))
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
