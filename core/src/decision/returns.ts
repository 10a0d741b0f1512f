import { analyse, AnalysisError, trialRequest, type TermResult } from '../analysis/index.ts'
import { nutrientAmounts } from '../amounts/index.ts'
import type { PlotTable } from '../numbers/index.ts'
import { given, over, times, workedProduct, type Worked } from '../quantity/index.ts'
import { tUpper } from '../statistics/index.ts'
import type { Economics, Layout, Level, Trial } from '../trial/index.ts'

export interface LevelReturn {
  readonly level: Level
  /** money/ha, mean over plots adjusted for blocks. */
  readonly gross: number
  readonly cost: Worked
  readonly net: number
  /** Against the reference treatment; the reference itself has zeros and no interval. */
  readonly gain: { readonly difference: number; readonly lower: number; readonly upper: number; readonly odds: number }
  /** Extra yield that pays the extra cost, t/ha; null for the reference. */
  readonly breakEven: Worked | null
  readonly extraYield: number
}

export interface Decision {
  readonly reference: Level
  readonly levels: readonly LevelReturn[]
  readonly best: LevelReturn
  /** money/t at the reference treatment's mean quality. */
  readonly priceAtReference: Worked
  /** Whether chance could be judged; if not, gains have no limits. */
  readonly tested: boolean
  readonly significance: number
}

export type DecisionOutcome = { ok: true; decision: Decision } | { ok: false; problem: string }

/** Price of a tonne on the quality scale, money/t: so much more or less for each point of quality. */
export function priceOnScale(economics: Economics, quality: number): number {
  return economics.pricePerTonne * Math.max(0, 1 + (economics.percentPerPoint / 100) * (quality - economics.baseQuality))
}

/**
 * Whether each level pays against the reference. Gross return is worked out plot by plot at
 * that plot's own quality and analysed like any trait, so its interval carries the error of
 * yield and quality together. Costs are taken as known.
 */
export function decide(trial: Trial, layout: Layout, table: PlotTable, economics: Economics): DecisionOutcome {
  const factor = trial.factors[0]!
  const { yieldTrait, qualityTrait } = trial
  if (!yieldTrait) return { ok: false, problem: 'Say which trait is the marketed yield, under Question.' }
  const grossByPlot = new Map<string, number>()
  const yields = new Map<string, number>()
  const qualities = new Map<string, number>()
  const leftOut = new Set<string>()
  for (const row of table.rows) {
    const harvest = valueOf(row.values.get(yieldTrait))
    const quality = qualityTrait ? valueOf(row.values.get(qualityTrait)) : economics.baseQuality
    if (harvest === null || quality === null) continue
    grossByPlot.set(row.unit.id, harvest * priceOnScale(economics, quality))
    yields.set(row.unit.id, harvest)
    qualities.set(row.unit.id, quality)
    if (row.leftOut(yieldTrait) || (qualityTrait && row.leftOut(qualityTrait))) leftOut.add(row.unit.id)
  }
  const run = (key: string, name: string, unit: string, values: Map<string, number>): TermResult =>
    analyse({ ...trialRequest(trial, layout, { key, name, unit, kind: 'continuous' }, values), leftOut }).terms[factor.key]!
  let gross: TermResult
  try {
    gross = run('gross-return', 'Gross return', 'money/ha', grossByPlot)
  } catch (error) {
    if (error instanceof AnalysisError) return { ok: false, problem: 'No plot has the yield and quality that the price needs yet.' }
    throw error
  }
  const harvest = run(yieldTrait, 'Yield', 't/ha', yields)
  const quality = run(qualityTrait ?? 'quality', 'Quality', '%', qualities)
  const meanOf = (term: TermResult, level: string): number => term.means.find((each) => each.level === level)?.mean ?? NaN

  const reference =
    factor.levels.find((level) => level.key === economics.reference) ?? factor.levels.find((level) => level.control) ?? factor.levels[0]!
  const priceAtReference = given('Price at the reference’s quality', priceOnScale(economics, meanOf(quality, reference.key)), 'money/t')
  const referenceCost = levelCost(trial, economics, reference)
  const levels = factor.levels.flatMap((level): LevelReturn[] => {
    const mean = meanOf(gross, level.key)
    if (!Number.isFinite(mean)) return []
    const cost = levelCost(trial, economics, level)
    const extraCost = cost.value - referenceCost.value
    return [
      {
        level,
        gross: mean,
        cost,
        net: mean - cost.value,
        gain: gainOf(gross, level.key, reference.key, extraCost),
        breakEven:
          level.key === reference.key
            ? null
            : workedProduct('Break-even response', 't/ha', [times(given('Extra cost', extraCost, 'money/ha')), over(priceAtReference)]),
        extraYield: meanOf(harvest, level.key) - meanOf(harvest, reference.key),
      },
    ]
  })
  if (levels.length < 2) return { ok: false, problem: 'Fewer than two treatments have a return yet.' }
  const best = levels.reduce((a, b) => (b.net > a.net ? b : a))
  return {
    ok: true,
    decision: { reference, levels, best, priceAtReference, tested: gross.comparisons.lsd !== undefined, significance: trial.significance },
  }
}

function valueOf(value: { kind: string; worked?: Worked } | undefined): number | null {
  return value?.kind === 'value' && value.worked ? value.worked.value : null
}

/** Product and passes, money/ha. A level of nothing needs no pass. */
function levelCost(trial: Trial, economics: Economics, level: Level): Worked {
  const outcome = nutrientAmounts(trial, null)
  const mine = outcome.ok ? outcome.amounts.levels.find((each) => each.level.key === level.key) : undefined
  const rate = mine?.productRate.value ?? 0
  const passes = rate > 0 ? (trial.supply?.applications ?? 1) : 0
  const product = workedProduct('Product', 'money/ha', [
    times(given('Product rate', rate, 'kg/ha')),
    times(given('Product price', economics.productPrice, 'money/kg')),
  ])
  return given('Cost of the treatment', product.value + passes * economics.applicationCost, 'money/ha')
}

function gainOf(gross: TermResult, level: string, reference: string, extraCost: number): LevelReturn['gain'] {
  if (level === reference) return { difference: 0, lower: NaN, upper: NaN, odds: NaN }
  const row = gross.comparisons.lsd?.find(
    (each) => (each.a === level && each.b === reference) || (each.a === reference && each.b === level),
  )
  if (!row) {
    const mean = (key: string): number => gross.means.find((each) => each.level === key)?.mean ?? NaN
    return { difference: mean(level) - mean(reference) - extraCost, lower: NaN, upper: NaN, odds: NaN }
  }
  const difference = (row.a === level ? row.difference : -row.difference) - extraCost
  // Odds that the true gain is above zero, taking all gains as equally likely beforehand.
  return { difference, lower: difference - row.threshold, upper: difference + row.threshold, odds: tUpper(-difference / row.sed, row.df) }
}
