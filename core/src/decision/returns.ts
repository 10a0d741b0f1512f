import { analyseOnce, AnalysisError, levelInWhole, SEASON, trialRequest, type Observed, type TermResult } from '../analysis/index.ts'
import type { TrialBook } from '../numbers/index.ts'
import { given, over, sameMeasure, times, workedProduct, type Worked } from '../quantity/index.ts'
import { tTwoSided, tUpper } from '../statistics/index.ts'
import { costsOf } from './costs.ts'
import { asOf, visitsOf, type Layout, type Prices, type Treatment, type Trial } from '../trial/index.ts'

export interface TreatmentReturn {
  readonly treatment: Treatment
  /** money/ha, mean over plots adjusted for what they lie in. */
  readonly gross: number
  readonly cost: Worked
  readonly net: number
  /** Against the reference treatment; the reference itself has zeros and no interval. */
  readonly gain: { readonly difference: number; readonly lower: number; readonly upper: number; readonly odds: number }
  /** Extra yield that pays the extra cost, t/ha; null for the reference. */
  readonly breakEven: Worked | null
  readonly extraYield: number
  /** Whether its net return could be told from the best one's; false for the best itself. */
  readonly toldFromBest: boolean
}

export interface Decision {
  readonly reference: Treatment
  readonly returns: readonly TreatmentReturn[]
  readonly best: TreatmentReturn
  /** money/t at the reference treatment's mean quality. */
  readonly priceAtReference: Worked
  /** Whether chance could be judged; if not, gains have no limits. */
  readonly tested: boolean
  readonly significance: number
  /** Whether each plot was priced at its own quality. */
  readonly scaled: boolean
  /** Sites whose plots were counted. */
  readonly sites: readonly string[]
  /** The seasons those were of. */
  readonly seasons: readonly number[]
  /** How many of the sites are plots of another, in a later season. */
  readonly again: number
}

export type DecisionOutcome = { ok: true; decision: Decision } | { ok: false; problem: string }

/** Price of a tonne on the quality scale, money/t: so much more or less for each point of quality. */
export function priceOnScale({ pricePerTonne, percentPerPoint, baseQuality }: Prices, quality: number): number {
  if (percentPerPoint === null || baseQuality === null) return pricePerTonne ?? NaN
  return (pricePerTonne ?? NaN) * Math.max(0, 1 + (percentPerPoint / 100) * (quality - baseQuality))
}

/** Whether quality moves the price: only where somebody stated how. */
function hasScale({ percentPerPoint, baseQuality }: Prices): boolean {
  return percentPerPoint !== null && baseQuality !== null
}

/** What must be stated before money can be spoken of, in words; null when all of it is. */
export function notStated(trial: Pick<Trial, 'treatments' | 'traits' | 'amounts' | 'sites'>, prices: Prices): string | null {
  const { yieldTrait, observed, derived } = trial.traits
  const harvest = [...observed, ...derived].find((trait) => trait.key === yieldTrait)
  if (!harvest) return 'Say which trait is the marketed yield: money is worked out from a yield in mass per area.'
  if (!sameMeasure(harvest.unit, 't/ha'))
    return `${harvest.name} is in ${harvest.unit || 'no measure'}: money per hectare is worked out from a yield in mass per area, such as t/ha.`
  if (prices.pricePerTonne === null) return 'State the price of the yield: without one nothing is said of money.'
  const costIn = costsOf(trial, prices)
  for (const treatment of trial.treatments.list.filter((each) => each.role !== 'shown')) {
    const cost = costIn(treatment)
    if (!cost.ok) return cost.problem
  }
  return null
}

/**
 * Whether each treatment pays against the reference, at some sites of a trial. Gross return is
 * worked out unit by unit at that unit's own quality and analysed like any trait, so its interval
 * carries the error of yield and quality together. Costs are taken as known. Nothing is said
 * where a price or a cost is not stated.
 */
export function decide(whole: Trial, laid: readonly Layout[], inputs: readonly DecisionInput[], prices: Prices): DecisionOutcome {
  const harvested = visitsOf(whole.traits, whole.traits.yieldTrait ?? '').at(-1)
  const day = whole.traits.visits.find((each) => each.key === harvested)?.on ?? null
  const { treatments, layouts } = asOf({ treatments: whole.treatments, layouts: laid }, day)
  const trial = { ...whole, treatments }
  const lacking = notStated(trial, prices)
  if (lacking) return { ok: false, problem: lacking }
  const { yieldTrait, qualityTrait } = trial.traits
  const scaled = qualityTrait !== null && hasScale(prices)
  const gathered = inputs.flatMap(({ unit, harvest, quality, leftOut }): Gathered[] => {
    if (scaled && quality === null) return []
    const graded = scaled ? quality! : NaN
    return [{ unit, harvest, quality: graded, gross: harvest * priceOnScale(prices, graded), leftOut }]
  })
  const run = (key: string, name: string, unit: string, pick: (of: Gathered) => number): TermResult => {
    const observations = gathered.map((each): Observed => ({ unit: each.unit, value: pick(each) }))
    const leftOut = new Set(gathered.filter((each) => each.leftOut).map((each) => each.unit))
    const request = trialRequest(trial, layouts, { key, name, unit, kind: 'continuous' }, observations, { method: 'lsd', contrasts: [] })
    const { terms } = analyseOnce({ ...request, leftOut })
    return terms[
      request.factors
        .map((factor) => factor.key)
        .filter((key) => key !== SEASON)
        .join(':')
    ]!
  }
  let gross: TermResult
  try {
    gross = run('gross-return', 'Gross return', 'money/ha', (each) => each.gross)
  } catch (error) {
    if (!(error instanceof AnalysisError)) throw error
    return { ok: false, problem: gathered.length === 0 ? 'No plot has the yield and quality that the price needs yet.' : error.message }
  }
  const harvest = run(yieldTrait!, 'Yield', 't/ha', (each) => each.harvest)
  const quality = scaled ? run(qualityTrait, 'Quality', '%', (each) => each.quality) : null
  const levelOf = (treatment: Treatment): string => levelInWhole(gross, treatment, treatments)
  const meanOf = (term: TermResult, treatment: Treatment): number =>
    term.means.find((each) => each.level === levelOf(treatment))?.mean ?? NaN

  const grown = trial.treatments.list.filter((each) => Number.isFinite(meanOf(gross, each)))
  if (grown.length < 2) return { ok: false, problem: 'Fewer than two treatments have a return yet.' }
  const reference =
    grown.find((each) => each.key === prices.reference) ??
    grown.find((each) => each.role === 'untreated control') ??
    grown.find((each) => each.role === 'standard') ??
    grown[0]!
  const atReference = quality ? priceOnScale(prices, meanOf(quality, reference)) : prices.pricePerTonne!
  const priceAtReference = given('Price at the reference’s quality', atReference, 'money/t')
  const grownAt = trial.sites.filter((site) => layouts.some((layout) => layout.siteKey === site.key))
  const costIn = costsOf({ ...trial, sites: grownAt }, prices)
  const costOf = (treatment: Treatment): Worked => {
    const cost = costIn(treatment)
    if (!cost.ok) throw new RangeError(cost.problem)
    return cost.cost
  }
  const referenceCost = costOf(reference)
  const nets = grown.map((treatment) => meanOf(gross, treatment) - costOf(treatment).value)
  // A yardstick is compared with, and is no option to choose.
  const options = nets.map((net, i) => (grown[i]!.role === 'yardstick' ? -Infinity : net))
  const top = options.indexOf(Math.max(...options))
  const returns = grown.map((treatment, i): TreatmentReturn => {
    const cost = costOf(treatment)
    const extraCost = cost.value - referenceCost.value
    return {
      treatment,
      gross: meanOf(gross, treatment),
      cost,
      net: nets[i]!,
      gain: gainOf(gross, levelOf(treatment), levelOf(reference), extraCost),
      breakEven:
        treatment === reference
          ? null
          : workedProduct('Break-even response', 't/ha', [times(given('Extra cost', extraCost, 'money/ha')), over(priceAtReference)]),
      extraYield: meanOf(harvest, treatment) - meanOf(harvest, reference),
      toldFromBest:
        i !== top && toldApart(gross, levelOf(treatment), levelOf(grown[top]!), nets[top]! - nets[i]!, trial.question.significance),
    }
  })
  return {
    ok: true,
    decision: {
      reference,
      returns,
      best: returns[top]!,
      priceAtReference,
      tested: gross.comparisons['lsd'] !== undefined,
      significance: trial.question.significance,
      scaled,
      sites: grownAt.map((site) => site.name),
      seasons: [...new Set(grownAt.map((site) => site.season ?? trial.question.season))],
      again: grownAt.filter((site) => grownAt.some((other) => other.key === site.again)).length,
    },
  }
}

/** Yield in t/ha and quality in % of one unit, at the last visit of each. */
export interface DecisionInput {
  readonly unit: string
  readonly harvest: number
  readonly quality: number | null
  readonly leftOut: boolean
}

interface Gathered extends DecisionInput {
  readonly quality: number
  readonly gross: number
}

/** What the money is worked out from, unit by unit. Empty where the yield is not in mass per area. */
export function decisionInputs(trial: Pick<Trial, 'traits'>, layouts: readonly Layout[], book: TrialBook): DecisionInput[] {
  const { yieldTrait, qualityTrait, observed, derived } = trial.traits
  const harvested = [...observed, ...derived].find((trait) => trait.key === yieldTrait)
  if (!harvested || !sameMeasure(harvested.unit, 't/ha')) return []
  const units = new Set(layouts.flatMap((layout) => layout.units.map((unit) => unit.id)))
  const last = (trait: string): string => visitsOf(trial.traits, trait).at(-1) ?? ''
  const figure = (unit: string, trait: string | null): Worked | null => {
    const value = trait === null ? null : book.value(unit, trait, last(trait))
    return value?.kind === 'value' ? value.worked : null
  }
  const found = book.observations(harvested.key, last(harvested.key))
  return found.observations.flatMap(({ unit }): DecisionInput[] => {
    const yielded = figure(unit, harvested.key)
    if (!units.has(unit) || !yielded) return []
    const byHand = [yieldTrait, qualityTrait].some((trait) => trait !== null && book.leftOut(unit, trait) !== undefined)
    const leftOut = byHand || found.leftOut.has(unit)
    return [
      {
        unit,
        harvest: workedProduct('Yield', 't/ha', [times(yielded)]).value,
        quality: figure(unit, qualityTrait)?.value ?? null,
        leftOut,
      },
    ]
  })
}

type Pair = { readonly difference: number; readonly sed: number; readonly df: number; readonly threshold: number }

function pairOf(gross: TermResult, a: string, b: string): Pair | undefined {
  const row = gross.comparisons['lsd']?.find((each) => (each.a === a && each.b === b) || (each.a === b && each.b === a))
  return row && { ...row, difference: row.a === a ? row.difference : -row.difference }
}

/** Whether two net returns that differ by so much are told apart: costs are known, so the error is that of the gross returns. */
function toldApart(gross: TermResult, a: string, b: string, difference: number, level: number): boolean {
  const pair = pairOf(gross, a, b)
  return pair !== undefined && tTwoSided(difference / pair.sed, pair.df) < level
}

function gainOf(gross: TermResult, level: string, reference: string, extraCost: number): TreatmentReturn['gain'] {
  if (level === reference) return { difference: 0, lower: NaN, upper: NaN, odds: NaN }
  const pair = pairOf(gross, level, reference)
  if (!pair || !Number.isFinite(pair.threshold)) {
    const mean = (key: string): number => gross.means.find((each) => each.level === key)?.mean ?? NaN
    return { difference: mean(level) - mean(reference) - extraCost, lower: NaN, upper: NaN, odds: NaN }
  }
  const difference = pair.difference - extraCost
  // Odds that the true gain is above zero, taking all gains as equally likely beforehand.
  return {
    difference,
    lower: difference - pair.threshold,
    upper: difference + pair.threshold,
    odds: tUpper(-difference / pair.sed, pair.df),
  }
}
