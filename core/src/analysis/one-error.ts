import {
  contrast,
  linearEstimates,
  marginalAnova,
  marginalMeans,
  nestedTest,
  partialAnova,
  sequentialAnova,
  simpleEffects,
  slopes,
  tUpperQuantile,
  varianceFactor,
  type LinearFit,
  type MarginalMean,
  type MarginalOptions,
} from '../statistics/index.ts'
import type { LayoutFrame } from './layout.ts'
import { covariateAt, linearFit, linearTerms, nesting } from './linear-model.ts'
import { judgeParts } from './parts.ts'
import { plannedContrasts, type PlannedContrast } from './planned.ts'
import type { Analysis, CovariateRow, ErrorRow, MixedResult, SimpleEffectRow, TestRow } from './result.ts'
import type { TermMeans } from './term-result.ts'
import { termCalled } from './words.ts'

/** What a layout with one error, or with several, comes to. */
export interface Judged {
  /** Least squares with every kind of unit taken out; null where that would be too large, or leaves nothing. */
  readonly fit: LinearFit | null
  readonly tests: readonly TestRow[]
  readonly errors: readonly ErrorRow[]
  /** Variances by kind of unit, where they were fitted. */
  readonly components?: Analysis['components']
  readonly mixed?: MixedResult
  readonly residuals?: { readonly marginal: Float64Array; readonly conditional: Float64Array }
  readonly terms: readonly TermMeans[]
  readonly contrasts: readonly (PlannedContrast & ReturnType<typeof contrast>)[]
  readonly covariates: readonly CovariateRow[]
  /** Means that could not be estimated, in words. */
  readonly lacking: readonly string[]
}

/** One error: every term is held against the differences between observations treated alike. */
export function inOneError(frame: LayoutFrame, fit: LinearFit): Judged {
  const { request, y, finest } = frame
  const { options } = request
  const { residualMs: ms, residualDf: df, weights } = fit
  const table =
    options.tests === 'I' ? sequentialAnova(fit) : options.tests === 'II' ? marginalAnova(fit, y, weights) : partialAnova(fit, y, weights)
  const marginal: MarginalOptions = {
    at: Object.fromEntries(frame.covariates.map(({ name }) => [name, 0])),
    weights: options.weights,
    nested: nesting(frame.units),
  }
  const { planned: contrasts, lacking } = plannedContrasts(frame)
  // Means of many cells are dear, and asked for by terms and by each comparison.
  const known = new Map<string, MarginalMean[]>()
  const meansFor = (names: readonly string[]): MarginalMean[] => {
    const key = names.join(':')
    const found = known.get(key) ?? marginalMeans(fit, names, marginal)
    known.set(key, found)
    return found
  }
  const terms = frame.terms.flatMap((term) => [
    meansOf(frame, fit, term, term, meansFor(term), lacking),
    ...(frame.sites ? [meansOf(frame, fit, ['site', ...term], term, meansFor(['site', ...term]), [])] : []),
  ])
  const grand = y.reduce((sum, value) => sum + value, 0) / y.length
  const contrastOf = (means: readonly MarginalMean[], coefficients: Readonly<Record<string, number>>) =>
    contrast(
      means,
      means.map((mean) => coefficients[mean.level] ?? 0),
      ms,
      df,
      options.significance,
    )
  /** The same comparison at each site that can make it, against the error of all. */
  const atSites = (planned: PlannedContrast): Judged['contrasts'] => {
    if (!frame.sites || planned.term.includes('site')) return []
    const cells = meansFor(['site', ...planned.term])
    return frame.sites.levels.flatMap((site) => {
      const own = cells.flatMap((cell) =>
        cell.level.startsWith(`${site}:`) ? [{ ...cell, level: cell.level.slice(site.length + 1) }] : [],
      )
      const lacks = own.some((cell) => (planned.coefficients[cell.level] ?? 0) !== 0 && cell.n === 0)
      const found = lacks ? null : contrastOf(own, planned.coefficients)
      return found?.estimable ? [{ ...planned, site, ...found }] : []
    })
  }
  const parts = judgeParts(frame, fit, marginal)
  return {
    fit,
    tests: table.flatMap((row) => [
      { ...row, stratum: finest, errorDf: df },
      ...(parts?.tests ?? []).filter((part) => row.term === (part.term.startsWith('site:') ? `site:${part.partOf}` : part.partOf)),
    ]),
    errors: [{ stratum: finest, df, ss: fit.residualSs, ms, cv: (100 * Math.sqrt(ms)) / Math.abs(grand) }],
    terms: [...terms, ...(parts?.terms ?? [])],
    contrasts: contrasts.flatMap((planned) => {
      const found = contrastOf(meansFor(planned.term), planned.coefficients)
      if (found.estimable) return [{ ...planned, ...found }, ...atSites(planned)]
      lacking.push(`The contrast “${planned.name}” cannot be estimated from what was grown.`)
      return []
    }),
    covariates: frame.covariates.map((covariate) => covariateRow(frame, fit, covariate.name)),
    lacking,
  }
}

function meansOf(
  frame: LayoutFrame,
  fit: LinearFit,
  names: readonly string[],
  term: readonly string[],
  found: readonly MarginalMean[],
  lacking: string[],
): TermMeans {
  const { options } = frame.request
  const { residualMs: ms, residualDf: df } = fit
  const half = tUpperQuantile(options.significance / 2, df)
  const means = found.filter((mean) => mean.estimable && mean.n > 0)
  if (means.length < found.length)
    lacking.push(
      `${found.length - means.length} of ${found.length} means of ${termCalled(frame.request.factors, names)} cannot be estimated from what was grown.`,
    )
  return {
    term,
    bySite: names.length > term.length,
    means: means.map((mean) => {
      const se = Math.sqrt(ms * varianceFactor(mean))
      return {
        level: mean.level,
        n: mean.n,
        estimate: mean.estimate,
        se,
        df,
        lower: mean.estimate - half * se,
        upper: mean.estimate + half * se,
      }
    }),
    estimates: (among) =>
      linearEstimates(
        among.map((i) => means[i]!),
        ms,
        df,
      ),
    ms,
    simpleEffects: names.length === 2 && term.length === 2 && means.length === found.length ? bothWays(fit, term) : [],
  }
}

function bothWays(fit: LinearFit, term: readonly string[]): SimpleEffectRow[] {
  return [term, [...term].reverse()].flatMap(([factor, within]) =>
    simpleEffects(fit, factor!, within!).map(({ level, df, errorDf, f, p }) => ({
      factor: factor!,
      within: within!,
      level,
      df,
      errorDf,
      f,
      p,
    })),
  )
}

function covariateRow(frame: LayoutFrame, fit: LinearFit, name: string): CovariateRow {
  const { options } = frame.request
  const covariate = frame.covariates.find((each) => each.name === name)!
  const { values } = covariate
  const factor = frame.factors[0]!
  const separate = options.slopes === 'separate'
  const common = linearTerms({ ...frame, request: { ...frame.request, options: { ...options, slopes: 'common' } } })
  const bare = { ...frame, covariates: [], y: values }
  const blocks = linearTerms({ ...bare, terms: [] })
  const own = slopes(fit, factor.name, name)
  return {
    name,
    at: covariateAt(frame, covariate),
    min: Math.min(...values),
    max: Math.max(...values),
    slopes: (separate ? own : own.slice(0, 1)).map((each) => {
      const { estimate, se, df, t, p, lower, upper } = contrast([each], [1], fit.residualMs, fit.residualDf, options.significance)
      return { level: separate ? each.level : null, slope: estimate, se, df, t, p, lower, upper }
    }),
    equalSlopes: nestedTest(linearFit(frame, common), linearFit(frame, [...common, ...frame.terms.map((term) => [...term, name])])),
    byTreatment: nestedTest(linearFit(bare, blocks), linearFit(bare, linearTerms(bare))),
  }
}
