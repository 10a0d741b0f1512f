import { adjustP, fUpper, residualTable, type LinearFit, type ResidualTable } from '../statistics/index.ts'
import { cautionsFor } from './cautions.ts'
import { checksOf, equalSiteErrors, NO_CHECKS } from './checks.ts'
import { evidenceTable } from './evidence.ts'
import { crossing, layoutFrame, type LayoutFrame } from './layout.ts'
import { linearFit, linearTerms } from './linear-model.ts'
import { MixedFailure } from './mixed/fit.ts'
import { asksMixed, inMixedModel } from './mixed/judge.ts'
import { mixedWords } from './mixed/words.ts'
import { inOneError, type Judged } from './one-error.ts'
import { AnalysisError, type AnalysisRequest } from './request.ts'
import type { Analysis, ContrastRow, NotTested, ResidualRow } from './result.ts'
import { scaleFor } from './scale.ts'
import { plainSentences } from './sentences.ts'
import { inSeveralErrors } from './several-errors.ts'
import { stabilityByTerm } from './stability.ts'
import { plural } from '../quantity/index.ts'
import { spread, termResult, type TermMeans } from './term-result.ts'
import { capital, symbolsOf, wordsOf } from './words.ts'

/**
 * The analysis a layout asks for. Missing plots are left out of the least squares, never filled
 * in. Without replication, or without anything left to judge error by, it describes and does not
 * test. Throws AnalysisError when there is nothing to analyse or an option does not fit, saying why.
 */
export function analyse(request: AnalysisRequest): Analysis {
  refuseOneNameForTwo(request)
  const laid = layoutFrame(request)
  const scale = scaleFor(request.options, laid.observed.rows, laid.raw)
  const frame: LayoutFrame = { ...laid, y: scale ? laid.raw.map(scale.forward) : laid.raw }
  const notTested = nothingToTest(frame)
  if (notTested) return described(frame, notTested)
  if (frame.random.size === 0 && !asksMixed(frame)) {
    const fit = linearFit(frame)
    const without = noError(frame, fit)
    return without ? described(frame, without) : tested(frame, scale, ownErrors(frame) ?? inOneError(frame, fit))
  }
  try {
    const judged = (asksMixed(frame) ? null : inSeveralErrors(frame)) ?? inMixedModel(frame)
    const without = judged.fit && noError(frame, judged.fit)
    return without ? described(frame, without) : tested(frame, scale, withEachSite(frame, ownErrors(frame) ?? judged))
  } catch (error) {
    if (error instanceof MixedFailure) return simpler(frame, error.message)
    throw error
  }
}

/** Below it sites are taken to differ in their error. */
const UNLIKE_ERRORS = 0.01
/** Observations beyond which an error of each site is fitted only where it is asked for. */
const MOST_BY_SITE = 600

/** Where sites differ in their error, each is judged by its own; null where they do not, or it cannot be fitted. */
function ownErrors(frame: LayoutFrame): Judged | null {
  const { request, y, observed } = frame
  const { options } = request
  const plain =
    options.errorBy === undefined && !options.dates && options.ground === undefined && options.tests === 'I' && options.weights === 'equal'
  if (!plain || observed.weights || y.length > MOST_BY_SITE || request.factors.some((factor) => factor.parts)) return null
  const found = equalSiteErrors(frame)
  if (!found || !(found.p < UNLIKE_ERRORS)) return null
  try {
    return inMixedModel({ ...frame, request: { ...request, options: { ...options, errorBy: 'site' } } })
  } catch (error) {
    if (error instanceof MixedFailure) return null
    throw error
  }
}

/**
 * Sites that are a sample of many are still places of their own: what treatments did at each, and whether
 * that differs from site to site, is told from the model with these very sites.
 */
function withEachSite(frame: LayoutFrame, judged: Judged): Judged {
  if (!frame.sites || !frame.random.has('site')) return judged
  const { options } = frame.request
  const own = { ...options, fixed: [...options.fixed, 'site' as const], random: options.random.filter((each) => each !== 'site') }
  try {
    const fixed: LayoutFrame = { ...layoutFrame({ ...frame.request, options: own }), y: frame.y }
    const found =
      fixed.random.size === 0 && !asksMixed(fixed) ? inOneError(fixed, linearFit(fixed)) : (inSeveralErrors(fixed) ?? inMixedModel(fixed))
    if (found.fit && found.fit.residualDf <= 0) return judged
    const known = new Set(judged.tests.map((test) => test.term))
    return {
      ...judged,
      tests: [...judged.tests, ...found.tests.filter((test) => test.term.startsWith('site:') && !known.has(test.term))],
      terms: [...judged.terms, ...found.terms.filter((term) => term.bySite).map((term) => ({ ...term, frame: fixed }))],
      contrasts: [...judged.contrasts, ...found.contrasts.filter((each) => each.site !== undefined || each.term.includes('site'))],
    }
  } catch (error) {
    if (error instanceof MixedFailure) return judged
    throw error
  }
}

/** What a mixed model that could not be fitted leaves: the same with less in it, told with the reason; else the means. */
function simpler(frame: LayoutFrame, reason: string): Analysis {
  const { options } = frame.request
  const { errorBy, dates, ground, ...plain } = options
  const taken = frame.incomplete.filter((kind) => !options.random.includes(kind))
  const [without, words] =
    errorBy !== undefined || dates || ground !== undefined
      ? [plain, dates ? 'dates of a unit are taken as apart' : ground ? 'blocks alone are trusted' : 'one error variance serves for all']
      : taken.length > 0
        ? [{ ...options, fixed: [...options.fixed, ...taken] }, `${taken.map((kind) => plural(kind)).join(' and ')} are taken out instead`]
        : [null, '']
  if (without) {
    const found = analyse({ ...frame.request, options: without })
    const text = `The model that was meant could not be fitted, since ${reason}: ${words}.`
    return { ...found, cautions: [{ kind: 'simpler model', text }, ...found.cautions] }
  }
  return described(frame, {
    reason: 'unbalanced errors',
    text: `Units are lost or treatments unevenly spread over the larger units, and the mixed model that this needs could not be fitted: ${reason}. The means are described, not tested.`,
  })
}

/** A factor, a kind of unit and a covariate are terms of one model: each needs its own name. */
function refuseOneNameForTwo({ structure, factors, options }: AnalysisRequest): void {
  const names = [...structure.kinds.map((each) => each.kind), ...factors.map((each) => each.key), ...options.covariates]
  const twice = names.find((name, i) => names.indexOf(name) !== i)
  if (twice !== undefined)
    throw new AnalysisError(`“${twice}” names two things in the model: give each kind of unit, factor and covariate its own name.`)
}

function nothingToTest({ factors, request, raw, observed }: LayoutFrame): NotTested | null {
  const constant = factors.find((factor) => factor.levels.length < 2)
  if (constant) {
    const name = request.factors.find((factor) => factor.key === constant.name)!.name ?? constant.name
    return { reason: 'one level', text: `${name} has values for one level only (${constant.levels[0]}): there is nothing to compare.` }
  }
  if (observed.rows.length > 0 && raw.every((value) => value === raw[0]))
    return { reason: 'constant', text: `All values of ${request.trait.name} are ${raw[0]}: a constant response cannot be tested.` }
  return null
}

function noError({ y, finest }: LayoutFrame, fit: LinearFit): NotTested | null {
  if (fit.residualDf <= 0)
    return {
      reason: 'no error df',
      text: `No residual degrees of freedom: nothing is repeated enough to judge chance differences between ${plural(finest)}. The values are described, not tested.`,
    }
  const scale = Math.max(...y.map(Math.abs))
  if (fit.residualSs > (1e-13 * scale) ** 2 * y.length) return null
  return {
    reason: 'no error',
    text: `${capital(plural(finest))} treated alike do not differ at all: there is no error to test against. Check the values.`,
  }
}

function tested(frame: LayoutFrame, scale: ReturnType<typeof scaleFor>, judged: Judged): Analysis {
  const table = judged.fit && residualTable(judged.fit)
  const checks = judged.fit && table ? checksOf(frame, judged.fit, table) : NO_CHECKS
  const terms = Object.fromEntries(
    judged.terms.map((of) => {
      const name = [...(of.bySite ? ['site'] : []), ...of.term].join(':')
      return [
        name,
        termResult(
          of.frame ?? frame,
          scale,
          of,
          judged.tests.find((test) => test.term === name),
        ),
      ]
    }),
  )
  return spoken({
    ...common(frame),
    kind: 'tested',
    notTested: null,
    model: {
      words: wordsOf(
        frame,
        [...new Set(judged.tests.map((test) => test.stratum))],
        judged.mixed ? { takenOut: judged.mixed.takenOut, said: mixedWords(judged.mixed, frame.incomplete) } : null,
      ),
      symbols: symbolsOf(frame, linearTerms(frame), scale?.name ?? null),
    },
    tests: judged.tests,
    errors: judged.errors,
    components: judged.components ?? null,
    mixed: judged.mixed ?? null,
    terms,
    contrasts: adjustedContrasts(frame, judged.contrasts),
    covariates: judged.covariates,
    stability: stabilityByTerm(frame, judged.fit),
    scale: scale && { name: scale.name, bias: scale.bias },
    checks,
    residuals: residualRows(frame, judged.fit, table, judged.residuals),
    cautions: cautionsFor(frame, { ...judged, notTested: null, checks }),
  })
}

/** Of a family: over all, or at one site. */
function adjustedContrasts(frame: LayoutFrame, all: Judged['contrasts']): ContrastRow[] {
  const families = new Map<string, Judged['contrasts'][number][]>()
  for (const each of all) families.set(each.site ?? '', [...(families.get(each.site ?? '') ?? []), each])
  return all.map((each) => {
    const family = families.get(each.site ?? '')!
    const ps = family.map((one) => one.p)
    const at = family.indexOf(each)
    const levels = crossing(each.term, [...(frame.sites ? [frame.sites] : []), ...frame.factors]).levels.length
    return {
      ...contrastRow(frame, each),
      adjusted: {
        bonferroni: adjustP(ps, 'bonferroni')[at]!,
        holm: adjustP(ps, 'holm')[at]!,
        sidak: adjustP(ps, 'sidak')[at]!,
        benjaminiHochberg: adjustP(ps, 'benjamini-hochberg')[at]!,
        scheffe: fUpper(each.t ** 2 / (levels - 1), levels - 1, each.df),
      },
    }
  })
}

function contrastRow(frame: LayoutFrame, of: Judged['contrasts'][number]): Omit<ContrastRow, 'adjusted'> {
  const cells = crossing(of.term, [...(frame.sites ? [frame.sites] : []), ...frame.factors])
  const side = (sign: number): number[] => [...cells.levels.keys()].filter((l) => sign * (of.coefficients[cells.levels[l]!] ?? 0) > 0)
  const { name, estimate, se, df, t, p, lower, upper } = of
  return {
    name,
    site: of.site ?? null,
    term: of.term.join(':'),
    estimate,
    se,
    df,
    t,
    p,
    lower,
    upper,
    evidence: evidenceTable(
      frame,
      of.term.filter((name) => name !== 'site'),
      cells,
    )(side(1), side(-1)),
  }
}

/** Means as they are, and why they are not tested. */
function described(frame: LayoutFrame, notTested: NotTested): Analysis {
  const plain = { ...frame, request: { ...frame.request, options: { ...frame.request.options, scale: 'none' as const, protect: false } } }
  const terms = Object.fromEntries(frame.terms.map((term) => [term.join(':'), describedTerm(plain, term)]))
  return spoken({
    ...common(frame),
    kind: 'described',
    notTested,
    model: { words: wordsOf(frame, null), symbols: symbolsOf(frame, linearTerms(frame), null) },
    tests: [],
    errors: [],
    components: null,
    mixed: null,
    terms,
    contrasts: [],
    covariates: [],
    stability: {},
    scale: null,
    checks: NO_CHECKS,
    residuals: residualRows({ ...frame, y: frame.raw }, null, null),
    cautions: cautionsFor(frame, { notTested, tests: [], errors: [], checks: NO_CHECKS, covariates: [], lacking: [] }),
  })
}

/** Nothing is known of chance errors: every comparison comes out without a figure. */
const noEstimates: TermMeans['estimates'] = (among) => ({
  values: among.map(() => NaN),
  covariance: () => NaN,
  differenceVariance: () => NaN,
  df: () => NaN,
  oneError: true,
  estimable: () => false,
})

function describedTerm(frame: LayoutFrame, term: readonly string[]): Analysis['terms'][string] {
  const cells = crossing(term, frame.factors)
  const means: TermMeans['means'] = cells.levels.map((level, l) => {
    const own = frame.raw.filter((_, i) => cells.codes[i] === l)
    const estimate = own.reduce((sum, value) => sum + value, 0) / own.length
    return { level, n: own.length, estimate, se: NaN, df: NaN, lower: NaN, upper: NaN }
  })
  const found = termResult(frame, null, { term, means, estimates: noEstimates, ms: NaN, simpleEffects: [] }, undefined)
  return { ...found, comparisons: {}, letters: {}, sed: spread([]), lsd: spread([]), evidence: { kind: 'look', why: 'nothing was tested' } }
}

function common({ request, raw, observed, finest }: LayoutFrame) {
  return {
    trait: request.trait,
    significance: request.options.significance,
    options: request.options,
    unit: finest,
    observations: raw.length,
    missing: observed.missing,
    leftOut: observed.leftOut,
    grandMean: raw.reduce((sum, value) => sum + value, 0) / raw.length,
  }
}

function spoken(analysis: Omit<Analysis, 'sentences'>): Analysis {
  return { ...analysis, sentences: plainSentences(analysis) }
}

/** Without a fit the residuals are from the plain treatment means. */
function residualRows(
  { observed, factors, y, raw }: LayoutFrame,
  fit: LinearFit | null,
  table: ResidualTable | null,
  mixed?: Judged['residuals'],
): ResidualRow[] {
  const cells = crossing(
    factors.map((factor) => factor.name),
    factors,
  )
  const plain = cells.levels.map((_, l) => {
    const own = y.filter((_value, i) => cells.codes[i] === l)
    return own.reduce((sum, value) => sum + value, 0) / own.length
  })
  return observed.rows.map(({ unit, samples, exposure }, i) => {
    const fitted = fit ? fit.fitted[i]! : mixed ? y[i]! - mixed.conditional[i]! : plain[cells.codes[i]!]!
    // An observation that alone decides its fit has no residual to speak of.
    const known = table && 1 - table.leverage[i]! > 1e-9 ? table : null
    return {
      unit: unit.id,
      code: unit.code,
      level: cells.levels[cells.codes[i]!]!,
      value: raw[i]!,
      samples,
      exposure,
      fitted,
      residual: y[i]! - fitted,
      studentised: known?.internal[i] ?? NaN,
      deleted: known?.external[i] ?? NaN,
      leverage: table?.leverage[i] ?? NaN,
      cook: known?.cook[i] ?? NaN,
      marginal: mixed?.marginal[i] ?? NaN,
      conditional: mixed?.conditional[i] ?? NaN,
    }
  })
}
