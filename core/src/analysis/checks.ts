import {
  andersonDarling,
  bartlettTest,
  boxCox,
  boxCoxLogLikelihood,
  crossed,
  describeSample,
  designMatrix,
  fitLinear,
  leveneTest,
  moran,
  nonAdditivity,
  oneSampleTest,
  outlierTest,
  serialCorrelation,
  shape,
  shapiroWilk,
  varianceRatioTest,
  welchTest,
  type BoxCox,
  type Classification,
  type LinearFit,
  type ResidualTable,
} from '../statistics/index.ts'
import { neighbours } from './neighbours.ts'
import type { LayoutFrame } from './layout.ts'
import { inOwnAxes } from '../trial/index.ts'

/** What the residuals say about the model. Null where a check cannot be made. */
export interface Checks {
  /** Shapiro and Wilk's test of the residuals, 3 to 5,000 of them. */
  readonly normality: {
    readonly w: number
    readonly p: number
    readonly skewness: number
    readonly excessKurtosis: number
    /** Anderson and Darling's A², from eight residuals on; else NaN. */
    readonly andersonDarling: { readonly a2: number; readonly p: number }
  } | null
  /** Whether treatments scatter alike, from the residuals by treatment. */
  readonly equalVariance: {
    readonly levene: SpreadTest
    readonly brownForsythe: SpreadTest
    readonly bartlett: SpreadTest
    /** The same of the values themselves, blocks left in. */
    readonly raw: { readonly levene: SpreadTest; readonly brownForsythe: SpreadTest; readonly bartlett: SpreadTest } | null
  } | null
  /** Of a factor with two levels: the two samples as they are, and pair by pair where each block holds one of each. */
  readonly twoSamples: {
    readonly welch: SampleTest
    readonly varianceRatio: { readonly f: number; readonly df: number; readonly df2: number; readonly p: number }
    readonly paired: SampleTest | null
  } | null
  /** Whether sites have one error: Bartlett's test of their error mean squares, each analysed alone. */
  readonly equalSiteErrors: SpreadTest | null
  /** Tukey's one degree of freedom: whether treatments act in proportion to the blocks. */
  readonly nonAdditivity: { readonly f: number; readonly df2: number; readonly p: number } | null
  /** The residual that stands out most, with the p of the largest of all. */
  readonly outlier: { readonly id: string; readonly unit: string; readonly t: number; readonly p: number } | null
  /** The observation that moves the answer most, by Cook's distance. */
  readonly influence: { readonly id: string; readonly unit: string; readonly cook: number } | null
  /** Whether residuals drift along the walking order. */
  readonly walk: { readonly r1: number; readonly durbinWatson: number; readonly z: number; readonly p: number } | null
  /** Whether neighbours on the plan are alike beyond what blocks explain (Moran's I). */
  readonly neighbours: {
    readonly i: number
    readonly expectation: number
    readonly z: number
    readonly p: number
    readonly pairs: number
    /** Of I where values are dealt out anew, and where they are normal. */
    readonly varianceRandomised: number
    readonly varianceNormal: number
  } | null
  /** The power that fits a positive response best, with limits at the level. */
  readonly boxCox: (BoxCox & { readonly profile: readonly { readonly lambda: number; readonly logLikelihood: number }[] }) | null
}

export interface SpreadTest {
  readonly statistic: number
  readonly df: number
  readonly df2: number
  readonly p: number
}

export interface SampleTest {
  readonly estimate: number
  readonly se: number
  readonly df: number
  readonly t: number
  readonly p: number
  readonly lower: number
  readonly upper: number
}

export const NO_CHECKS: Checks = {
  normality: null,
  equalVariance: null,
  twoSamples: null,
  equalSiteErrors: null,
  nonAdditivity: null,
  outlier: null,
  influence: null,
  walk: null,
  neighbours: null,
  boxCox: null,
}

/** All checks the layout allows, of the residuals of the finest error. */
export function checksOf(frame: LayoutFrame, fit: LinearFit, table: ResidualTable): Checks {
  const { observed } = frame
  const named = (i: number) => ({ id: observed.rows[i]!.unit.id, unit: observed.rows[i]!.unit.code })
  // With fewer degrees of freedom any value may look far.
  const outlier = fit.residualDf >= FEWEST_DF ? outlierTest(fit, table) : null
  const { cook } = table
  const most = cook.reduce((best, each, i) => (each > (cook[best] ?? -1) ? i : best), -1)
  return {
    normality: normality(fit.residuals),
    equalVariance: equalVariance(frame, fit),
    twoSamples: twoSamples(frame),
    equalSiteErrors: equalSiteErrors(frame),
    nonAdditivity: additive(frame, fit),
    outlier: outlier && Number.isFinite(outlier.external) ? { ...named(outlier.index), t: outlier.external, p: outlier.p } : null,
    influence: most >= 0 && Number.isFinite(cook[most]) ? { ...named(most), cook: cook[most]! } : null,
    walk: alongTheWalk(frame, fit),
    neighbours: onThePlan(frame, fit),
    boxCox: powerOf(frame, fit),
  }
}

const FEWEST_DF = 5
const NOT_TAKEN = { a2: NaN, p: NaN }

function normality(residuals: Float64Array): Checks['normality'] {
  if (residuals.length < 3 || residuals.length > 5000) return null
  const found = finite(shapiroWilk(residuals))
  return (
    found && {
      w: found.w,
      p: found.p,
      ...shape(residuals),
      andersonDarling: residuals.length >= 8 ? andersonDarling(residuals) : NOT_TAKEN,
    }
  )
}

/** Welch's and the variance-ratio test of one factor of two levels; paired where each block holds one of each. */
function twoSamples({ y, factors, units, observed, request, covariates }: LayoutFrame): Checks['twoSamples'] {
  const [factor] = factors
  if (!factor || factors.length !== 1 || factor.levels.length !== 2 || observed.weights || covariates.length > 0) return null
  const { significance } = request.options
  const own = [0, 1].map((level) => y.filter((_, i) => factor.codes[i] === level)) as [Float64Array, Float64Array]
  if (own.some((each) => each.length < 2)) return null
  const [a, b] = [describeSample(own[0]), describeSample(own[1])]
  if (!(a.sd > 0) || !(b.sd > 0)) return null
  const block = units.at(-1)
  const differences = block?.levels.map((_, u) => {
    const inside = [0, 1].map((level) => [...y.keys()].filter((i) => block.codes[i] === u && factor.codes[i] === level))
    return inside.every((each) => each.length === 1) ? y[inside[0]![0]!]! - y[inside[1]![0]!]! : NaN
  })
  const paired =
    differences && differences.length > 1 && differences.every(Number.isFinite)
      ? oneSampleTest(describeSample(differences), significance)
      : null
  const { f, df1, df2, p } = varianceRatioTest(a, b, significance)
  return { welch: welchTest(a, b, significance), varianceRatio: { f, df: df1, df2, p }, paired }
}

function equalVariance({ factors, y }: LayoutFrame, { residuals }: LinearFit): Checks['equalVariance'] {
  const cells = crossed('cell', factors)
  const groups = groupsOf(residuals, cells)
  // Two residuals of a treatment that are only each other's mirror tell nothing of its spread.
  if (groups.length < 2 || groups.some((group) => group.length < 3)) return null
  const levene = finite(leveneTest(groups, 'mean'))
  const brownForsythe = finite(leveneTest(groups, 'median'))
  const bartlett = finite(bartlettTest(groups.map((group) => ({ ms: variance(group), df: group.length - 1 }))))
  const values = groupsOf(y, cells)
  const rawLevene = finite(leveneTest(values, 'mean'))
  const rawMedian = finite(leveneTest(values, 'median'))
  const rawBartlett = finite(bartlettTest(values.map((group) => ({ ms: variance(group), df: group.length - 1 }))))
  const raw = rawLevene && rawMedian && rawBartlett ? { levene: rawLevene, brownForsythe: rawMedian, bartlett: rawBartlett } : null
  return levene && brownForsythe && bartlett ? { levene, brownForsythe, bartlett, raw } : null
}

function groupsOf(values: Float64Array, cells: Classification): Float64Array[] {
  return cells.levels.map((_, level) => values.filter((_value, i) => cells.codes[i] === level))
}

function variance(values: Float64Array): number {
  const mean = values.reduce((sum, each) => sum + each, 0) / values.length
  return values.reduce((sum, each) => sum + (each - mean) ** 2, 0) / (values.length - 1)
}

/** Each site by its own blocks and treatments; null with one site or several errors in it. */
export function equalSiteErrors(frame: LayoutFrame): SpreadTest | null {
  const { sites, y, units, factors, terms, observed } = frame
  if (!sites || frame.covariates.length > 0) return null
  const within = units.filter((unit) => unit !== sites && !unit.name.includes(':'))
  if (within.some((unit) => frame.request.structure.factors.some((factor) => factor.appliedTo === unit.name))) return null
  const errors = sites.levels.map((_, site) => {
    const rows = [...sites.codes.keys()].filter((i) => sites.codes[i] === site)
    const own = (of: Classification): Classification => {
      const codes = rows.map((i) => of.codes[i]!)
      const present = [...new Set(codes)].sort((a, b) => a - b)
      return {
        name: of.name,
        levels: present.map((code) => of.levels[code]!),
        codes: Int32Array.from(codes, (code) => present.indexOf(code)),
      }
    }
    const classes = [...within, ...factors].map(own)
    const used = [...within.map((unit) => [unit.name]), ...terms]
    const weights = observed.weights && Float64Array.from(rows, (i) => observed.weights![i]!)
    const fit = fitLinear(
      designMatrix(classes, used, rows.length),
      Float64Array.from(rows, (i) => y[i]!),
      weights,
    )
    return { ms: fit.residualMs, df: fit.residualDf }
  })
  return errors.every((each) => each.df > 0 && each.ms > 0) ? finite(bartlettTest(errors)) : null
}

/** One kind of block with every treatment once in each. */
function additive({ y, units, factors, observed, covariates }: LayoutFrame, fit: LinearFit): Checks['nonAdditivity'] {
  const [block] = units
  const cells = crossed('cell', factors)
  if (!block || units.length !== 1 || covariates.length > 0 || observed.weights || y.length !== block.levels.length * cells.levels.length)
    return null
  if (new Set(y.map((_, i) => block.codes[i]! * cells.levels.length + cells.codes[i]!)).size !== y.length || fit.residualDf < 2) return null
  const found = nonAdditivity(y, block.codes, cells.codes, { ss: fit.residualSs, df: fit.residualDf })
  return finite({ f: found.f, df2: fit.residualDf - 1, p: found.p })
}

/** Needs every observation's place in the walking order; at several sites each walk stands alone. */
function alongTheWalk({ observed, sites }: LayoutFrame, { residuals }: LinearFit): Checks['walk'] {
  if (observed.rows.length < 8 || observed.rows.some((row) => row.unit.walk === null)) return null
  const siteOf = (i: number): number => sites?.codes[i] ?? 0
  const order = [...observed.rows.keys()].sort(
    (a, b) => siteOf(a) - siteOf(b) || observed.rows[a]!.unit.walk! - observed.rows[b]!.unit.walk!,
  )
  const walked = Float64Array.from(order, (i) => residuals[i]!)
  const pairs = order.slice(1).flatMap((at, k) => (siteOf(at) === siteOf(order[k]!) ? [[k, k + 1] as const] : []))
  const { zRandomised: z, pRandomised: p } = moran(walked, pairs)
  return finite({ ...serialCorrelation(walked), z, p })
}

function onThePlan({ observed, sites }: LayoutFrame, { residuals }: LinearFit): Checks['neighbours'] {
  if (observed.rows.length < 8 || observed.rows.some((row) => row.unit.place === null)) return null
  const pairs = neighbours(observed.rows.map((row, i) => ({ ...inOwnAxes(row.unit.place!), site: sites?.codes[i] ?? 0 })))
  if (pairs.length < observed.rows.length / 2) return null
  const found = moran(residuals, pairs)
  return finite({
    i: found.i,
    expectation: found.expectation,
    z: found.zRandomised,
    p: found.pRandomised,
    pairs: pairs.length,
    varianceRandomised: found.varianceRandomised,
    varianceNormal: found.varianceNormal,
  })
}

/** Where the profile of powers is told. */
const POWERS = [-2, -1.5, -1, -0.5, 0, 0.5, 1, 1.5, 2]

function powerOf({ raw, observed, request }: LayoutFrame, fit: LinearFit): Checks['boxCox'] {
  const spread = Math.max(...raw) / Math.min(...raw)
  // Values that differ by a fraction only cannot tell one power from another.
  if (observed.weights || !raw.every((value) => value > 0) || !(spread > 1.05) || raw.length > 3000) return null
  const found = boxCox(fit.design, raw, request.options.significance, fit.qr)
  if (![found.lambda, found.lower, found.upper, found.log.p, found.none.p].every(Number.isFinite)) return null
  const profile = POWERS.map((lambda) => ({ lambda, logLikelihood: boxCoxLogLikelihood(fit.design, raw, lambda, fit.qr) }))
  return { ...found, profile }
}

/** A check that comes to no number (all residuals alike, say) is none. */
function finite<T extends object>(of: T): T | null {
  return Object.values(of).every((value) => typeof value !== 'number' || !Number.isNaN(value)) ? of : null
}
