import { comparisonMethods } from '../statistics/index.ts'
import {
  controlLevel,
  HALF,
  isCrossing,
  isExtra,
  isInside,
  nutrientOf,
  OUTSIDE,
  shownOf,
  treatmentOn,
  treatmentsAt,
  withoutDraw,
  type Factor,
  type Layout,
  type Structure,
  type Treatments,
  type Trial,
  type Unit,
} from '../trial/index.ts'
import { coefficientsOf } from './comparison-coefficients.ts'
import { BY_STRENGTH } from './evidence.ts'
import { AnalysisError, AnalysisOptions, type AnalysisRequest, type Observed, type Said } from './request.ts'
import { groundsOf, overSeasons, sharedSeasons } from './seasons.ts'
import { beforeHalves, WHOLE } from './whole-term.ts'
import { inSentence } from './words.ts'

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
  const asked = crossing ? null : asWhole(structure, units, treatments)
  const factors = asked?.factors ?? crossedFactors(treatments)
  const several = again || severalErrors(structure)
  const against = factors.some((factor) => factor.control !== undefined)
  const contrasts = plannedIn(treatments, asked)
  const method = comparisonMethods
    .filter((each) => (each.pairs === 'all' || against) && !(several && each.needsOneError))
    .map((each) => each.key)
  const dealt = { structure: asked?.structure ?? named(structure, factors), units: asked?.units ?? units, factors }
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

export function readTogether(
  { sites, question }: Pick<Trial, 'sites' | 'question'>,
  layouts: readonly Layout[],
  observations: readonly Observed[],
) {
  return sharedSeasons(groundsOf(sites, question.season, layouts), new Set(observations.map((each) => each.unit)))
}

/** Treatments that some of the sites looked at together do not have. */
export function apartAt({ sites }: Pick<Trial, 'sites'>, layouts: readonly Layout[]): string[] {
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
function plannedIn(treatments: Treatments, whole: AsWhole | null): AnalysisOptions['contrasts'] {
  const { factors, list, comparisons } = treatments
  const levelOf = new Map(
    list.map((each) => [each.key, whole?.levelOf(each.key) ?? factors.map((factor) => each.levels[factor.key]).join(':')]),
  )
  return comparisons.flatMap((comparison) => {
    const coefficients = Object.entries(coefficientsOf(comparison, treatments)).filter(([, c]) => c !== 0)
    if (coefficients.length === 0) return []
    return [
      {
        name: comparison.name,
        term: (whole?.factors ?? factors).map((factor) => factor.key),
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

/** What is asked of treatments that are no crossing: the treatment as one factor, and beside it what is varied on halves of plots. */
interface AsWhole extends Pick<AnalysisRequest, 'structure' | 'units' | 'factors'> {
  /** The level, or the levels, that a treatment stands for. */
  readonly levelOf: (treatment: string) => string
}

function asWhole(structure: Structure, units: readonly Unit[], all: Treatments): AsWhole {
  const onHalves = structure.factors.filter((each) => each.appliedTo === HALF)
  const above = structure.factors.filter((each) => each.appliedTo !== HALF)
  const [first] = above.length > 0 ? above : onHalves
  const below = above.length > 0 ? onHalves : []
  if (!first || above.some((each) => each.appliedTo !== first.appliedTo))
    throw new AnalysisError(
      'Some treatments stand outside the combinations of factors that stand on units of several sizes: read those inside by themselves, with the others set aside.',
    )
  const onHalf = below.map((each) => each.factor)
  const treatments = onHalf.reduce(withoutDraw, all)
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const varied = crossedFactors(all).filter(({ key }) => onHalf.includes(key))
  return {
    structure: { ...structure, factors: [{ ...first, factor: WHOLE }, ...below], controls: [] },
    factors: [wholeTreatments(treatments, { ...structure, factors: above.length > 0 ? above : onHalves }), ...varied],
    levelOf: (key) =>
      [
        beforeHalves(key, all.factors, onHalf),
        ...varied.map((each) => all.list.find(({ key: own }) => own === key)!.levels[each.key]),
      ].join(':'),
    units: units.map((unit): Unit => {
      if (unit.kind !== first.appliedTo) return unit.kind === HALF ? halfAlone(unit) : unit
      const marks = (which: 'planned' | 'received'): Record<string, string> => {
        const treatment = treatmentOn(unit, index, all, which)
        return treatment ? { [WHOLE]: beforeHalves(treatment.key, all.factors, onHalf) } : {}
      }
      const changes = Object.values(unit.changes)
      const worst = changes.includes('misapplied') ? 'misapplied' : changes[0]
      return { ...unit, planned: marks('planned'), received: marks('received'), changes: worst ? { ...unit.changes, [WHOLE]: worst } : {} }
    }),
  }
}

/** What stands outside the crossing is told by the plot. */
function halfAlone(unit: Unit): Unit {
  const { [OUTSIDE]: _, ...planned } = unit.planned
  const { [OUTSIDE]: __, ...received } = unit.received
  return { ...unit, planned, received }
}
