import {
  againstControl,
  compactLetters,
  designMatrix,
  fitLinear,
  leverages,
  marginalMeans,
  pairwise,
  sequentialAnova,
  tUpperQuantile,
  varianceFactor,
  type Comparison,
  type LinearFit,
  type MarginalMean,
} from '../statistics/index.ts'
import type { Layout, Level } from '../trial/index.ts'
import { cautionsFor } from './cautions.ts'
import { evidenceOf } from './evidence.ts'
import { layoutModel, LayoutError, type LayoutModel, type Observation } from './model.ts'
import type { Analysis, ComparisonRow, MeanRow, ResidualRow, Spread } from './result.ts'

export interface AnalysisRequest {
  readonly layout: Pick<Layout, 'structure' | 'units'>
  /** Levels of the factor in their order. */
  readonly levels: readonly Pick<Level, 'key' | 'control'>[]
  /** How the factor is called in the model; its key when not given. */
  readonly factorName?: string
  readonly trait: { readonly key: string; readonly name: string; readonly unit: string }
  /** Value by unit id; units without one count as missing. */
  readonly values: ReadonlyMap<string, number>
  /** Units left out with a reason. */
  readonly leftOut: ReadonlySet<string>
  readonly significance: number
}

const NO_SPREAD: Spread = { mean: NaN, min: NaN, max: NaN }

/**
 * The analysis a layout asks for. Missing plots are left out of the least squares, never
 * filled in. Without replication, or without anything left to judge error by, it describes
 * and does not test. Throws LayoutError when there is nothing to analyse, saying why.
 */
export function analyse(request: AnalysisRequest): Analysis {
  const { structure, units } = request.layout
  const assignment = structure.factors[0]
  if (!assignment) throw new LayoutError('The layout names no factor.')
  const experimental = units.filter((unit) => unit.kind === assignment.appliedTo)
  const observations: Observation[] = []
  let leftOut = 0
  for (const unit of experimental) {
    const value = request.values.get(unit.id)
    if (value === undefined || !Number.isFinite(value)) continue
    if (request.leftOut.has(unit.id)) leftOut++
    else observations.push({ unit, value })
  }
  if (observations.length === 0) throw new LayoutError(`No plot has a value of ${request.trait.name} yet.`)
  const model = layoutModel(structure, units, observations, request.levels, request.factorName ?? assignment.factor)
  const response = Float64Array.from(observations, (each) => each.value)
  const fit = fitLinear(designMatrix(model.classes, model.terms, response.length), response)
  const context: Context = { request, model, observations, fit, missing: experimental.length - observations.length - leftOut, leftOut }
  return testable(context) ? tested(context) : described(context)
}

interface Context {
  readonly request: AnalysisRequest
  readonly model: LayoutModel
  readonly observations: readonly Observation[]
  readonly fit: LinearFit
  readonly missing: number
  readonly leftOut: number
}

/** Two levels or more, an error to judge them by, and a response that varies. */
function testable({ model, fit, observations }: Context): boolean {
  const treatment = model.classes.at(-1)!
  const first = observations[0]!.value
  const scale = Math.max(...observations.map((each) => Math.abs(each.value)))
  const varies = observations.some((each) => each.value !== first)
  const noise = fit.residualSs > (1e-13 * scale) ** 2 * observations.length
  return treatment.levels.length >= 2 && fit.residualDf > 0 && varies && noise
}

function tested(context: Context): Analysis {
  const { request, model, fit } = context
  const means = marginalMeans(fit, model.treatment)
  const { residualMs: ms, residualDf: df } = fit
  const critical = tUpperQuantile(request.significance / 2, df)
  const control = controlOf(request, means)
  const lsd = pairwise(means, ms, df, request.significance, 'lsd')
  const tukey = pairwise(means, ms, df, request.significance, 'tukey')
  const dunnett = control === -1 ? [] : againstControl(means, control, ms, df, request.significance)
  const evidence = evidenceTable(context, means)
  const name = (rows: readonly Comparison[]): ComparisonRow[] =>
    rows.map((row) => ({ ...row, a: means[row.a]!.level, b: means[row.b]!.level, evidence: evidence(row.a, row.b) }))
  const base = common(context)
  return {
    ...base,
    model: {
      ...base.model,
      words: `${base.model.words} Treatments are tested against the differences between ${unitsOf(context)} treated alike.`,
    },
    kind: 'tested',
    anova: sequentialAnova(fit),
    cv: (100 * Math.sqrt(ms)) / Math.abs(base.grandMean),
    means: means.map((mean) => {
      const se = Math.sqrt(ms * varianceFactor(mean))
      return meanRow(
        context,
        mean.level,
        mean.estimate,
        se,
        mean.estimate - critical * se,
        mean.estimate + critical * se,
        control === -1 ? NaN : means[control]!.estimate,
      )
    }),
    control: control === -1 ? null : means[control]!.level,
    comparisons: { lsd: name(lsd), tukey: name(tukey), dunnett: name(dunnett) },
    letters: { lsd: lettersOf(means, lsd, request.significance), tukey: lettersOf(means, tukey, request.significance) },
    sed: spread(lsd.map((row) => row.sed)),
    lsd: spread(lsd.map((row) => row.threshold)),
    hsd: spread(tukey.map((row) => row.threshold)),
    residuals: residualRows(context, true),
    cautions: cautionsFor({ ...context, tested: true }),
  }
}

function described(context: Context): Analysis {
  const { request, model, observations } = context
  const treatment = model.classes.at(-1)!
  const plain = treatment.levels.map((level) => average(observations.filter((each) => each.unit.received[model.treatment] === level)))
  const control = treatment.levels.findIndex((level) => request.levels.find((each) => each.key === level)?.control)
  return {
    ...common(context),
    kind: 'described',
    anova: [],
    cv: NaN,
    means: treatment.levels.map((level, i) => meanRow(context, level, plain[i]!, NaN, NaN, NaN, control === -1 ? NaN : plain[control]!)),
    control: control === -1 ? null : treatment.levels[control]!,
    comparisons: { lsd: [], tukey: [], dunnett: [] },
    letters: { lsd: {}, tukey: {} },
    sed: NO_SPREAD,
    lsd: NO_SPREAD,
    hsd: NO_SPREAD,
    residuals: residualRows(context, false),
    cautions: cautionsFor({ ...context, tested: false }),
  }
}

function common({ request, model, observations, fit, missing, leftOut }: Context) {
  return {
    trait: request.trait,
    factor: model.treatment,
    significance: request.significance,
    model: { words: model.words, symbols: model.symbols },
    plots: observations.length,
    missing,
    leftOut,
    residual: { df: fit.residualDf, ss: fit.residualSs, ms: fit.residualMs },
    grandMean: average(observations),
  }
}

function meanRow(
  { observations, model }: Context,
  level: string,
  mean: number,
  se: number,
  lower: number,
  upper: number,
  control: number,
): MeanRow {
  const own = observations.filter((each) => each.unit.received[model.treatment] === level).map((each) => each.value)
  return {
    level,
    n: own.length,
    mean,
    se,
    lower,
    upper,
    min: Math.min(...own),
    max: Math.max(...own),
    percentOfControl: (100 * mean) / control,
  }
}

function unitsOf({ request }: Context): string {
  return `${request.layout.structure.factors[0]!.appliedTo}s`
}

function controlOf(request: AnalysisRequest, means: readonly MarginalMean[]): number {
  return means.findIndex((mean) => request.levels.find((level) => level.key === mean.level)?.control)
}

function lettersOf(means: readonly MarginalMean[], pairs: readonly Comparison[], significance: number): Record<string, string> {
  const k = means.length
  const order = means.map((_, i) => i).sort((a, b) => means[b]!.estimate - means[a]!.estimate)
  const differ = new Uint8Array(k * k)
  for (const pair of pairs) differ[pair.a * k + pair.b] = differ[pair.b * k + pair.a] = pair.p < significance ? 1 : 0
  const letters = compactLetters(order, (a, b) => differ[a * k + b] === 1)
  return Object.fromEntries(means.map((mean, i) => [mean.level, letters[i]!]))
}

/** Evidence of each pair, worked out once. */
function evidenceTable(context: Context, means: readonly MarginalMean[]) {
  const units = context.observations.map((each) => each.unit)
  const grouped = new Map(means.map((mean) => [mean.level, units.filter((unit) => unit.received[context.model.treatment] === mean.level)]))
  return (a: number, b: number) => {
    const [first, second] = [means[a]!.level, means[b]!.level]
    return evidenceOf(
      context.request.layout.structure,
      [...grouped.get(first)!, ...grouped.get(second)!],
      context.model.treatment,
      first,
      second,
    )
  }
}

function residualRows({ observations, fit, model }: Context, withError: boolean): ResidualRow[] {
  const leverage = withError ? leverages(fit) : null
  return observations.map(({ unit, value }, i) => {
    const room = leverage ? 1 - leverage[i]! : 0
    return {
      unit: unit.id,
      code: unit.code,
      level: unit.received[model.treatment]!,
      value,
      fitted: fit.fitted[i]!,
      residual: fit.residuals[i]!,
      studentised: room > 1e-9 ? fit.residuals[i]! / Math.sqrt(fit.residualMs * room) : NaN,
    }
  })
}

function average(observations: readonly Observation[]): number {
  return observations.reduce((sum, each) => sum + each.value, 0) / observations.length
}

function spread(values: readonly number[]): Spread {
  const sum = values.reduce((total, each) => total + each, 0)
  return { mean: sum / values.length, min: Math.min(...values), max: Math.max(...values) }
}
