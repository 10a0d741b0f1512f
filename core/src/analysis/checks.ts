import {
  bartlettTest,
  boxCox,
  crossed,
  designMatrix,
  fitLinear,
  leveneTest,
  moran,
  nonAdditivity,
  outlierTest,
  serialCorrelation,
  shapiroWilk,
  type BoxCox,
  type Classification,
  type LinearFit,
  type ResidualTable,
} from '../statistics/index.ts'
import { neighbours } from './neighbours.ts'
import type { LayoutFrame } from './layout.ts'

/** What the residuals say about the model. Null where a check cannot be made. */
export interface Checks {
  /** Shapiro and Wilk's test of the residuals, 3 to 5,000 of them. */
  readonly normality: { readonly w: number; readonly p: number } | null
  /** Whether treatments scatter alike, from the residuals by treatment. */
  readonly equalVariance: {
    readonly levene: SpreadTest
    readonly brownForsythe: SpreadTest
    readonly bartlett: SpreadTest
  } | null
  /** Whether sites have one error: Bartlett's test of their error mean squares, each analysed alone. */
  readonly equalSiteErrors: SpreadTest | null
  /** Tukey's one degree of freedom: whether treatments act in proportion to the blocks. */
  readonly nonAdditivity: { readonly f: number; readonly df2: number; readonly p: number } | null
  /** The residual that stands out most, with the p of the largest of all. */
  readonly outlier: { readonly unit: string; readonly t: number; readonly p: number } | null
  /** The observation that moves the answer most, by Cook's distance. */
  readonly influence: { readonly unit: string; readonly cook: number } | null
  /** Whether residuals drift along the walking order. */
  readonly walk: { readonly r1: number; readonly durbinWatson: number; readonly z: number; readonly p: number } | null
  /** Whether neighbours on the plan are alike beyond what blocks explain (Moran's I). */
  readonly neighbours: {
    readonly i: number
    readonly expectation: number
    readonly z: number
    readonly p: number
    readonly pairs: number
  } | null
  /** The power that fits a positive response best, with limits at the level. */
  readonly boxCox: BoxCox | null
}

export interface SpreadTest {
  readonly statistic: number
  readonly df: number
  readonly df2: number
  readonly p: number
}

export const NO_CHECKS: Checks = {
  normality: null,
  equalVariance: null,
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
  const { observed, y } = frame
  const codeOf = (i: number): string => observed.rows[i]!.unit.code
  const outlier = fit.residualDf > 1 ? outlierTest(fit, table) : null
  const { cook } = table
  const most = cook.reduce((best, each, i) => (each > (cook[best] ?? -1) ? i : best), -1)
  return {
    normality: y.length >= 3 && y.length <= 5000 ? finite(shapiroWilk(fit.residuals)) : null,
    equalVariance: equalVariance(frame, fit),
    equalSiteErrors: equalSiteErrors(frame),
    nonAdditivity: additive(frame, fit),
    outlier: outlier && Number.isFinite(outlier.external) ? { unit: codeOf(outlier.index), t: outlier.external, p: outlier.p } : null,
    influence: most >= 0 && Number.isFinite(cook[most]) ? { unit: codeOf(most), cook: cook[most]! } : null,
    walk: alongTheWalk(frame, fit),
    neighbours: onThePlan(frame, fit),
    boxCox: powerOf(frame, fit),
  }
}

function equalVariance({ factors }: LayoutFrame, { residuals }: LinearFit): Checks['equalVariance'] {
  const cells = crossed('cell', factors)
  const groups = groupsOf(residuals, cells)
  // Two residuals of a treatment that are only each other's mirror tell nothing of its spread.
  if (groups.length < 2 || groups.some((group) => group.length < 3)) return null
  const levene = finite(leveneTest(groups, 'mean'))
  const brownForsythe = finite(leveneTest(groups, 'median'))
  const bartlett = finite(bartlettTest(groups.map((group) => ({ ms: variance(group), df: group.length - 1 }))))
  return levene && brownForsythe && bartlett ? { levene, brownForsythe, bartlett } : null
}

function groupsOf(values: Float64Array, cells: Classification): Float64Array[] {
  return cells.levels.map((_, level) => values.filter((_value, i) => cells.codes[i] === level))
}

function variance(values: Float64Array): number {
  const mean = values.reduce((sum, each) => sum + each, 0) / values.length
  return values.reduce((sum, each) => sum + (each - mean) ** 2, 0) / (values.length - 1)
}

/** Each site by its own blocks and treatments; null with one site or several errors in it. */
function equalSiteErrors(frame: LayoutFrame): SpreadTest | null {
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
  const pairs = neighbours(observed.rows.map((row, i) => ({ ...row.unit.place!, site: sites?.codes[i] ?? 0 })))
  if (pairs.length < observed.rows.length / 2) return null
  const found = moran(residuals, pairs)
  return finite({ i: found.i, expectation: found.expectation, z: found.zRandomised, p: found.pRandomised, pairs: pairs.length })
}

function powerOf({ raw, observed, request }: LayoutFrame, fit: LinearFit): BoxCox | null {
  const spread = Math.max(...raw) / Math.min(...raw)
  // Values that differ by a fraction only cannot tell one power from another.
  if (observed.weights || !raw.every((value) => value > 0) || !(spread > 1.05) || raw.length > 3000) return null
  const found = boxCox(fit.design, raw, request.options.significance, fit.qr)
  return [found.lambda, found.lower, found.upper, found.log.p, found.none.p].every(Number.isFinite) ? found : null
}

/** A check that comes to no number (all residuals alike, say) is none. */
function finite<T extends object>(of: T): T | null {
  return Object.values(of).every((value) => typeof value !== 'number' || !Number.isNaN(value)) ? of : null
}
