import { adjustP, fUpper, residualTable, type LinearFit, type ResidualTable } from '../statistics/index.ts'
import { cautionsFor, gravestFirst } from './cautions.ts'
import { checksOf, equalSiteErrors, NO_CHECKS } from './checks.ts'
import { evidenceTable } from './evidence.ts'
import { crossing, layoutFrame, type LayoutFrame } from './layout.ts'
import { linearFit, linearTerms } from './linear-model.ts'
import { MixedFailure } from './mixed/fit.ts'
import { asksMixed, inMixedModel, MOST_CHECKED } from './mixed/judge.ts'
import { mixedWords } from './mixed/words.ts'
import { inOneError, type Judged } from './one-error.ts'
import { AnalysisError, type AnalysisRequest } from './request.ts'
import type { Analysis, ContrastRow, NotTested, ResidualRow } from './result.ts'
import { scaleFor } from './scale.ts'
import { carriedCautions, withoutCarried } from './claims/carried.ts'
import { claimsOf } from './claims/claims.ts'
import type { Claim } from './claims/claim.ts'
import { keyOf, onePlotOf } from './claims/one-plot.ts'
import type { Source } from './claims/size.ts'
import { sentencesOf } from './claims/text.ts'
import { vocabularyOf, type Carried } from './claims/vocabulary.ts'
import { withoutOneLevel } from './one-level.ts'
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
  const found = analyseOnce(request)
  const one = onePlotOf(request, found, analyseOnce)
  if (!one) return found
  const at = 1 + found.claims.findIndex((claim) => keyOf(claim) === one.of)
  return retold(found, [...found.claims.slice(0, at), one, ...found.claims.slice(at)])
}

function retold(analysis: Omit<Analysis, 'sentences'>, claims: readonly Claim[]): Analysis {
  return { ...analysis, claims, sentences: sentencesOf({ ...analysis, claims }, 'metric') }
}

/** The same, without looking whether a single unit carries the answer: where only figures are needed of it. */
export function analyseOnce(asked: AnalysisRequest): Analysis {
  refuseOneNameForTwo(asked)
  const left = withoutOneLevel(asked)
  const { request, carried } = withoutCarried(left.request)
  const found = modelled(request, carried)
  const cautions = [...left.cautions, ...carriedCautions(asked, carried)]
  return cautions.length > 0 ? { ...found, cautions: gravestFirst([...cautions, ...found.cautions]) } : found
}

function modelled(request: AnalysisRequest, carried: readonly Carried[]): Analysis {
  const laid = layoutFrame(request)
  const scale = scaleFor(request.options, laid.observed.rows, laid.raw)
  const frame: LayoutFrame = { ...laid, y: scale ? laid.raw.map(scale.forward) : laid.raw }
  const notTested = nothingToTest(frame)
  if (notTested) return described(frame, notTested, carried)
  if (frame.random.size === 0 && !asksMixed(frame)) {
    const fit = linearFit(frame)
    const without = noError(frame, fit)
    return without ? described(frame, without, carried) : tested(frame, scale, ownErrors(frame) ?? inOneError(frame, fit), carried)
  }
  try {
    const judged =
      (asksMixed(frame) || frame.request.factors.some((factor) => factor.parts) ? null : inSeveralErrors(frame)) ?? inMixedModel(frame)
    const without = judged.fit && noError(frame, judged.fit)
    return without ? described(frame, without, carried) : tested(frame, scale, withEachSite(frame, ownErrors(frame) ?? judged), carried)
  } catch (error) {
    if (!(error instanceof MixedFailure)) throw error
    // Values without any error leave variances nothing to be told by: that is then the reason.
    const without = frame.y.length <= MOST_CHECKED ? noError(frame, linearFit(frame)) : null
    return without?.reason === 'no error' ? described(frame, without, carried) : simpler(frame, error.message, carried)
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
  const plain = options.errorBy === undefined && !options.dates && options.ground === undefined && options.weights === 'equal'
  if (!plain || observed.weights || y.length > MOST_BY_SITE) return null
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
function simpler(frame: LayoutFrame, reason: string, carried: readonly Carried[]): Analysis {
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
    const found = modelled({ ...frame.request, options: without }, carried)
    const text = `The model that was meant could not be fitted, since ${reason}: ${words}.`
    return { ...found, cautions: [{ kind: 'simpler model', text }, ...found.cautions] }
  }
  return described(
    frame,
    {
      reason: 'unbalanced errors',
      text: `Units are lost or treatments unevenly spread over the larger units, and the mixed model that this needs could not be fitted: ${reason}. The means are described, not tested.`,
    },
    carried,
  )
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

function noError(frame: LayoutFrame, fit: LinearFit): NotTested | null {
  const { y, finest } = frame
  if (fit.residualDf <= 0)
    return {
      reason: 'no error df',
      text: repeated(frame)
        ? `All that is repeated is used up by what is taken out first: no degrees of freedom are left to judge chance differences between ${plural(finest)} by.`
        : `No treatment is repeated: nothing tells what chance does between ${plural(finest)}.`,
    }
  const scale = Math.max(...y.map(Math.abs))
  if (fit.residualSs > (1e-13 * scale) ** 2 * y.length) return null
  return {
    reason: 'no error',
    text: `${capital(plural(finest))} treated alike do not differ at all: there is no error to test against. Check the values.`,
  }
}

/** Whether any treatment stood on two units that have values. */
function repeated({ factors }: LayoutFrame): boolean {
  const cells = crossing(
    factors.map((factor) => factor.name),
    factors,
  )
  return cells.levels.length < cells.codes.length
}

function tested(frame: LayoutFrame, scale: ReturnType<typeof scaleFor>, judged: Judged, carried: readonly Carried[]): Analysis {
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
  const analysis = {
    ...common(frame, carried),
    kind: 'tested' as const,
    notTested: null,
    model: {
      words: wordsOf(
        frame,
        [...new Set(judged.tests.map((test) => test.stratum))],
        judged.mixed ? { takenOut: judged.mixed.takenOut, said: mixedWords(judged.mixed, frame.incomplete, frame.request) } : null,
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
  }
  return spoken({ analysis, pair: pairOf(frame, judged), back: (x) => (scale ? scale.back(x) : x) })
}

/** Two means of a term by themselves, as the estimates and the evidence table of the term have them. */
function pairOf(frame: LayoutFrame, { terms }: Judged): Source['pair'] {
  const known = new Map<string, { means: readonly string[]; judge: ReturnType<typeof evidenceTable>; cellOf: readonly number[] }>()
  return (name, a, b) => {
    const of = terms.findLast((each) => [...(each.bySite ? ['site'] : []), ...each.term].join(':') === name)
    if (!of) return null
    const own = of.frame ?? frame
    const found = known.get(name) ?? tableOf(own, of)
    known.set(name, found)
    const [i, j] = [found.means.indexOf(a), found.means.indexOf(b)]
    if (i < 0 || j < 0) return null
    const estimates = of.estimates([i, j])
    if (!estimates.estimable(0) || !estimates.estimable(1)) return null
    const sed = Math.sqrt(estimates.differenceVariance(0, 1))
    const difference = estimates.values[0]! - estimates.values[1]!
    return Number.isFinite(sed)
      ? { a, b, difference, sed, df: estimates.df(0, 1), evidence: found.judge(found.cellOf[i]!, found.cellOf[j]!) }
      : null
  }
}

function tableOf(frame: LayoutFrame, of: TermMeans) {
  const cells = crossing([...(of.bySite ? ['site'] : []), ...of.term], [...(frame.sites ? [frame.sites] : []), ...frame.factors])
  const means = of.means.map((mean) => mean.level)
  return { means, judge: evidenceTable(frame, of.term, cells), cellOf: means.map((level) => cells.levels.indexOf(level)) }
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
    coefficients: of.coefficients,
    trend: of.trend ?? null,
    late: of.late ?? false,
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
function described(frame: LayoutFrame, notTested: NotTested, carried: readonly Carried[]): Analysis {
  const plain = { ...frame, request: { ...frame.request, options: { ...frame.request.options, scale: 'none' as const, protect: false } } }
  const terms = Object.fromEntries(frame.terms.map((term) => [term.join(':'), describedTerm(plain, term)]))
  const analysis = {
    ...common(frame, carried),
    kind: 'described' as const,
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
  }
  return spoken({ analysis, pair: () => null, back: (x) => x })
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

function common(frame: LayoutFrame, carried: readonly Carried[]) {
  const { request, raw, observed, finest } = frame
  return {
    vocabulary: vocabularyOf(frame, carried),
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

function spoken(source: Source): Analysis {
  return retold({ ...source.analysis, claims: [] }, claimsOf(source))
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
