import {
  adjustP,
  againstControl,
  compactLetters,
  crossed,
  designMatrix,
  fitLinear,
  leveneTest,
  marginalAnova,
  marginalMeans,
  outlierTest,
  partialAnova,
  pairwise,
  sequentialAnova,
  shapiroWilk,
  strataAnova,
  stratumDifference,
  studentizedRangeUpper,
  tTwoSided,
  tUpperQuantile,
  varianceFactor,
  type Classification,
  type Comparison,
  type MarginalMean,
} from '../statistics/index.ts'
import type { UnitKind } from '../trial/index.ts'
import { factorialTerms, layoutStrata, levelOn, type LayoutStrata } from './layout-strata.ts'
import { evidenceOfTerm, sentencesOf, wordsOf } from './layout-words.ts'
import type { LayoutAnalysis, LayoutMean, LayoutOptions, LayoutPair, LayoutRequest, LayoutTest } from './layout-result.ts'
import { LayoutError } from './model.ts'

interface Case {
  readonly request: LayoutRequest
  readonly strata: LayoutStrata
  readonly y: Float64Array
  readonly factors: readonly Classification[]
  readonly terms: readonly string[][]
  readonly missing: number
  /** Of the observations, by how many samples each carries; null when all count alike. */
  readonly weights: Float64Array | null
}

/** Throws LayoutError when nothing can be analysed, saying why. */
export function analyseLayout(request: LayoutRequest): LayoutAnalysis {
  const strata = layoutStrata(request.structure, request.units, request.values, request.trait.kind)
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const factors = request.factors.map(({ key, levels }): Classification => {
    const own = strata.observations.map((each) => levelOn(each.unit, key, index))
    const lacking = own.indexOf(undefined)
    if (lacking !== -1) throw new LayoutError(`Unit ${strata.observations[lacking]!.unit.code} has no level of ${key}.`)
    const present = levels.filter((level) => own.includes(level))
    const strangers = [...new Set(own)].filter((level) => !levels.includes(level!))
    if (strangers.length > 0) throw new LayoutError(`“${strangers[0]}” is not a level of ${key}; known: ${levels.join(', ')}.`)
    return { name: key, levels: present, codes: Int32Array.from(own, (level) => present.indexOf(level!)) }
  })
  const constant = factors.find((factor) => factor.levels.length < 2)
  if (constant)
    throw new LayoutError(`${constant.name} has values for one level only (${constant.levels[0] ?? 'none'}): there is nothing to compare.`)
  const y = Float64Array.from(strata.observations, (each) => each.value)
  if (y.every((value) => value === y[0]))
    throw new LayoutError(`All values of ${request.trait.name} are ${y[0]}: a constant response cannot be analysed.`)
  const treated = request.units.filter((unit) => unit.kind === strata.finest).length
  const severalErrors = strata.units.some(
    (unit) => strata.experimental.has(unit.name) && !request.options.fixed.includes(unit.name as UnitKind),
  )
  const of: Case = {
    request,
    strata,
    y,
    factors,
    terms: termsAsked(request),
    missing: treated - y.length,
    weights: severalErrors ? null : sampleWeights(request, strata),
  }
  const result = severalErrors ? inStrata(of) : inOneError(of)
  return { ...result, sentences: sentencesOf(result) }
}

/** The terms asked for, or the full factorial. Throws LayoutError for one that names no factor. */
function termsAsked({ options, factors }: LayoutRequest): string[][] {
  const names = factors.map((factor) => factor.key)
  if (!options.terms) return factorialTerms(names)
  const strange = options.terms.flat().find((name) => !names.includes(name))
  if (strange) throw new LayoutError(`Options name a term with “${strange}”, which is not a factor; known: ${names.join(', ')}.`)
  return [...options.terms].sort((a, b) => a.length - b.length)
}

function terms(of: Case): string[][] {
  const { strata } = of
  const bySite = strata.sites ? of.terms.map((term) => ['site', ...term]) : []
  return [...strata.units.map((unit) => [unit.name]), ...of.terms, ...bySite]
}

/** One error: blocks of every kind, then the factorial, then its interactions with sites. */
function inOneError(of: Case): LayoutAnalysis {
  const { request, strata, y, factors } = of
  const { options } = request
  const { weights } = of
  const fit = fitLinear(designMatrix([...strata.units, ...factors], terms(of), y.length), y, weights)
  const base = frame(of, symbols(of, terms(of)))
  if (fit.residualDf === 0 || !(fit.residualMs > 1e-24 * Math.max(...y.map(Math.abs)) ** 2)) return described(of, base)
  const table =
    options.tests === 'I' ? sequentialAnova(fit) : options.tests === 'II' ? marginalAnova(fit, y, weights) : partialAnova(fit, y, weights)
  const { residualMs: ms, residualDf: df } = fit
  const half = tUpperQuantile(options.significance / 2, df)
  const means: Record<string, LayoutMean[]> = {}
  const pairs: Record<string, LayoutPair[]> = {}
  const cautions = [...base.cautions, ...commonCautions(df, of.missing)]
  // Blocks inside sites, and cells that were never grown, leave some means without an estimate.
  const cells = fitLinear(
    designMatrix(
      [...strata.units, ...factors],
      terms(of).filter((term) => !(term.length === 1 && term[0] === 'site')),
      y.length,
    ),
    y,
    weights,
  )
  for (const term of of.terms) {
    const found = marginalMeans(cells, term)
    const estimable = found.filter((mean) => mean.estimable)
    if (estimable.length < found.length)
      cautions.push(
        `${found.length - estimable.length} of ${found.length} means of ${term.join(' × ')} cannot be estimated from what was grown.`,
      )
    means[term.join(':')] = estimable.map((mean) => {
      const se = Math.sqrt(ms * varianceFactor(mean))
      return { level: mean.level, n: mean.n, mean: mean.estimate, se, lower: mean.estimate - half * se, upper: mean.estimate + half * se }
    })
    pairs[term.join(':')] = compareMeans(of, term, estimable, ms, df).map((pair) => ({
      a: estimable[pair.a]!.level,
      b: estimable[pair.b]!.level,
      difference: pair.difference,
      sed: pair.sed,
      df,
      t: pair.t,
      p: pair.p,
      lsd: half * pair.sed,
    }))
  }
  const tests = table.map((row) => ({ ...row, stratum: strata.finest, errorDf: df }))
  cautions.push(...unevenSpread(of, fit.residuals))
  const outlier = df > 1 ? outlierTest(fit) : null
  return {
    ...base,
    kind: 'tested',
    tests,
    errors: [{ stratum: strata.finest, df, ss: fit.residualSs, ms, cv: (100 * Math.sqrt(ms)) / Math.abs(base.grandMean) }],
    means,
    ...compared(of, tests, means, pairs),
    checks: {
      shapiroWilk: y.length >= 3 && y.length <= 5000 ? shapiroWilk(fit.residuals) : null,
      outlier:
        outlier && Number.isFinite(outlier.external)
          ? { unit: strata.observations[outlier.index]!.unit.code, t: outlier.external, p: outlier.p }
          : null,
    },
    cautions,
  }
}

/** A mean of more samples is surer: units count by how many values they carry, one on average. Null when all alike. */
function sampleWeights(request: LayoutRequest, strata: LayoutStrata): Float64Array | null {
  if (!strata.unevenSamples || request.trait.kind !== 'continuous') return null
  const counts = Float64Array.from(strata.observations, (each) => each.samples)
  const mean = counts.reduce((sum, each) => sum + each, 0) / counts.length
  return counts.map((each) => each / mean)
}

/** All pairs of a term's means, or each against the control where that was asked and the term has one. */
function compareMeans({ request }: Case, term: readonly string[], means: readonly MarginalMean[], ms: number, df: number): Comparison[] {
  const { method, significance } = request.options
  if (method !== 'dunnett') return pairwise(means, ms, df, significance, method)
  if (request.structure.controls.length === 0)
    throw new LayoutError('The method “dunnett” needs a control: name it in structure.controls of the plan.')
  const control = request.structure.controls.find((each) => term.length === 1 && each.factor === term[0])
  const at = means.findIndex((mean) => mean.level === control?.level)
  return at === -1 ? [] : againstControl(means, at, ms, df, significance)
}

/** Several errors: each term against the differences between the units it was applied to. */
function inStrata(of: Case): LayoutAnalysis {
  const { request, strata, y, factors } = of
  const base = frame(
    of,
    `${symbols(of, of.terms)}, with an error for each of ${[...strata.units.map((unit) => unit.name), strata.finest].join(', ')}`,
  )
  const table = strataAnova(y, strata.units, factors, of.terms)
  if (!table.orthogonal || of.missing > 0) {
    return {
      ...described(of, base),
      cautions: [
        ...base.cautions,
        'Plots are lost or treatments unevenly spread over the larger units: the tests by error strata do not hold, and a mixed model is needed. The means are described, not tested.',
      ],
    }
  }
  const tests = table.strata.flatMap((stratum) =>
    stratum.terms.map((row) => ({
      ...row,
      stratum: stratum.name === 'observation' ? strata.finest : stratum.name,
      errorDf: stratum.error.df,
    })),
  )
  const means: Record<string, LayoutMean[]> = {}
  const pairs: Record<string, LayoutPair[]> = {}
  for (const term of of.terms) {
    const cells = crossed(
      term.join(':'),
      term.map((name) => factors.find((factor) => factor.name === name)!),
    )
    means[cells.name] = plainMeans(y, cells)
    pairs[cells.name] = adjusted(
      request.options,
      cells.levels.length,
      cells.levels.flatMap((a, i) =>
        cells.levels.slice(i + 1).map((b, j): LayoutPair => {
          const found = stratumDifference(
            y,
            strata.units,
            table,
            (row) => cells.codes[row] === i,
            (row) => cells.codes[row] === i + 1 + j,
            request.options.significance,
          )
          const t = found.difference / found.sed
          return { a, b, difference: found.difference, sed: found.sed, df: found.df, t, p: tTwoSided(t, found.df), lsd: found.lsd }
        }),
      ),
    )
  }
  const least = Math.min(...tests.map((test) => test.errorDf))
  return {
    ...base,
    kind: 'tested',
    tests,
    errors: table.strata.map((stratum) => ({
      stratum: stratum.name === 'observation' ? strata.finest : stratum.name,
      ...stratum.error,
      cv: (100 * Math.sqrt(stratum.error.ms)) / Math.abs(base.grandMean),
    })),
    means,
    ...compared(of, tests, means, pairs),
    checks: { shapiroWilk: null, outlier: null },
    cautions: [...base.cautions, ...commonCautions(least, of.missing)],
  }
}

/** p values of pairs whose errors are mixed, by the method asked for. */
function adjusted({ method }: LayoutOptions, k: number, pairs: readonly LayoutPair[]): LayoutPair[] {
  switch (method) {
    case 'lsd':
      return [...pairs]
    case 'tukey':
      return pairs.map((pair) => ({ ...pair, p: studentizedRangeUpper(Math.SQRT2 * Math.abs(pair.t), k, pair.df) }))
    case 'bonferroni':
    case 'sidak':
    case 'holm':
    case 'benjamini-hochberg': {
      const p = adjustP(
        pairs.map((pair) => pair.p),
        method,
      )
      return pairs.map((pair, i) => ({ ...pair, p: p[i]! }))
    }
    default:
      throw new LayoutError(
        `The method “${method}” is not defined where differences draw on several errors. Use lsd, tukey, bonferroni, sidak, holm or benjamini-hochberg.`,
      )
  }
}

function compared(
  { request }: Case,
  tests: readonly LayoutTest[],
  means: Readonly<Record<string, readonly LayoutMean[]>>,
  pairs: Record<string, LayoutPair[]>,
) {
  const { significance, protect } = request.options
  const letters: Record<string, Record<string, string>> = {}
  for (const [term, rows] of Object.entries(pairs)) {
    if (protect && !((tests.find((test) => test.term === term)?.p ?? 1) < significance)) pairs[term] = []
    const own = means[term]!
    if (pairs[term]!.length === 0 || own.length > 60 || request.options.method === 'dunnett') continue
    const p = new Map(rows.map((pair) => [`${pair.a}|${pair.b}`, pair.p]))
    const order = own.map((_, i) => i).sort((a, b) => own[b]!.mean - own[a]!.mean)
    const found = compactLetters(
      order,
      (a, b) => (p.get(`${own[a]!.level}|${own[b]!.level}`) ?? p.get(`${own[b]!.level}|${own[a]!.level}`) ?? 1) < significance,
    )
    letters[term] = Object.fromEntries(own.map((mean, i) => [mean.level, found[i]!]))
  }
  return { pairs, letters }
}

function described(of: Case, base: ReturnType<typeof frame>): LayoutAnalysis {
  const means = Object.fromEntries(
    of.terms.map((term) => [
      term.join(':'),
      plainMeans(
        of.y,
        crossed(
          term.join(':'),
          term.map((name) => of.factors.find((factor) => factor.name === name)!),
        ),
      ),
    ]),
  )
  return {
    ...base,
    kind: 'described',
    tests: [],
    errors: [],
    means,
    pairs: {},
    letters: {},
    checks: { shapiroWilk: null, outlier: null },
    cautions: [...base.cautions, 'No residual degrees of freedom are left to judge chance by: the means are described, not tested.'],
  }
}

function plainMeans(y: Float64Array, cells: Classification): LayoutMean[] {
  return cells.levels.map((level, l) => {
    const own = y.filter((_, i) => cells.codes[i] === l)
    return { level, n: own.length, mean: own.reduce((sum, value) => sum + value, 0) / own.length, se: null, lower: null, upper: null }
  })
}

function frame(of: Case, model: string) {
  const { request, strata, y } = of
  const unrandomised = request.structure.factors.filter((factor) => factor.how !== 'randomised')
  const cautions: string[] = []
  if (strata.averaged > 0)
    cautions.push(
      `Several values of one ${strata.finest} were brought up to their ${request.trait.kind === 'count' ? 'total' : 'mean'}: they are one replicate.`,
    )
  for (const factor of unrandomised)
    cautions.push(
      `${factor.factor} was not randomised (${factor.how}): its differences may be those of the ground. Evidence class: compare.`,
    )
  if (strata.unevenSamples)
    cautions.push(
      `The number of values brought up differs from one ${strata.finest} to another; ${of.weights ? `each ${strata.finest} counts by it` : `each ${strata.finest} counts as one all the same`}.`,
    )
  if (strata.averaged > 0 && request.trait.kind === 'score')
    cautions.push('Ordered scores were averaged over samples, which treats their steps as equal.')
  const evidence = Object.fromEntries(of.terms.map((term) => [term.join(':'), evidenceOfTerm(request.structure, request.units, term)]))
  return {
    words: wordsOf(request.structure, strata),
    evidence,
    sentences: [] as string[],
    trait: request.trait,
    options: request.options,
    model,
    observations: y.length,
    missing: of.missing,
    grandMean: y.reduce((sum, value) => sum + value, 0) / y.length,
    cautions,
  }
}

/** Plots of some treatments that scatter more than those of others: the common error is then too small for them. */
function unevenSpread({ factors }: Case, residuals: Float64Array): string[] {
  const cells = crossed('cell', factors)
  const groups = cells.levels.map((_, l) => residuals.filter((_value, i) => cells.codes[i] === l))
  if (groups.length < 2 || groups.some((group) => group.length < 2)) return []
  const { p } = leveneTest(groups, 'median')
  return p < 0.01
    ? [
        'Some treatments scatter more than others (Brown–Forsythe p < 0.01): intervals are too narrow for those. Look at the scale of the trait.',
      ]
    : []
}

function commonCautions(df: number, missing: number): string[] {
  return [
    ...(df < 10 ? [`Only ${df} error degrees of freedom: intervals are wide, and a real difference is easily missed.`] : []),
    ...(missing > 0
      ? [`${missing} ${missing === 1 ? 'unit has' : 'units have'} no value; means are adjusted by least squares, nothing is filled in.`]
      : []),
  ]
}

function symbols(of: Case, used: readonly (readonly string[])[]): string {
  return `${of.request.trait.name} = mean ${used.map((term) => `+ ${term.join(':')}`).join(' ')} + residual`
}
