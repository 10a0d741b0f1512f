import {
  chiSquaredUpper,
  fUpper,
  kenwardRoger,
  parameterErrors,
  satterthwaite,
  type Classification,
  type MixedInference,
} from '../../statistics/index.ts'
import { crossing, type LayoutFrame } from '../layout.ts'
import { linearFit } from '../linear-model.ts'
import type { Judged } from '../one-error.ts'
import { plannedContrasts } from '../planned.ts'
import { AnalysisError } from '../request.ts'
import type { ErrorRow, MixedParameter, MixedResult, SimpleEffectRow } from '../result.ts'
import type { JudgedMean, TermMeans } from '../term-result.ts'
import { termCalled } from '../words.ts'
import { covariateRows } from './covariates.ts'
import { estimated, familyOf } from './estimates.ts'
import { mixedParts } from './parts.ts'
import { fitModels, fitOne, MixedFailure, type FittedModel } from './fit.ts'
import { combined, Rows, type Cell } from './rows.ts'
import { liesIn, mixedSetup, type MixedSetup } from './setup.ts'

/** Effects up to which Kenward and Roger's method is the one taken where none is asked for. */
const MOST_KENWARD_ROGER = 600
/** Random effects up to which each variance is tested by a fit without it. */
const MOST_TESTED = 400
/** Observations up to which the least squares with everything taken out are worked out beside it, for the checks. */
export const MOST_CHECKED = 1200

/** Whether the options ask for what only a mixed model answers. */
export function asksMixed({ request, sampled }: LayoutFrame): boolean {
  const { errorBy, dates, ground, df, likelihood } = request.options
  return sampled.length > 0 || [errorBy, dates, ground, df].some((each) => each !== undefined) || likelihood === 'ML'
}

/**
 * Larger units, sites or entries as a sample, and errors that go together, fitted by restricted maximum
 * likelihood; tests are of each term with every level counted alike (Type III), by Kenward and Roger or
 * Satterthwaite. Throws MixedFailure where it cannot be fitted, saying why.
 */
export function inMixedModel(frame: LayoutFrame): Judged {
  const { y, sites, random, finest, observed, request } = frame
  const { options } = request
  if (observed.weights && frame.random.size === 0) throw new MixedFailure('units count by what was looked at')
  if (options.weights === 'observed')
    throw new AnalysisError('Under several errors with units lost, means count every level alike: leave out the option “weights”.')
  const setup = mixedSetup(frame)
  const { models, best, method } = judgeable(frame, fitModels(frame, setup))
  const { fit, design } = best
  const { terms, bySite, variables } = setup
  const rows = new Rows(design, setup.fixed, variables, sites, setup.covariates, best.independent)
  const { planned, lacking } = plannedContrasts(frame)
  const whole = y.length <= MOST_CHECKED && frame.sampled.length === 0 ? linearFit(frame) : null
  const parameters = parametersOf(frame, setup, best)
  const spread = parameters.filter(({ kind }) => kind === 'variance')
  const means = { frame, setup, method, rows, lacking }
  const parts = mixedParts(frame, method, rows, bySite.length > 0, heldAgainst(frame, setup, terms[0] ?? []))
  return {
    fit: whole,
    tests: [...setup.testedUnits.map((name) => [name]), ...frame.covariates.map((each) => [each.name]), ...terms, ...bySite].flatMap(
      (term) => {
        const own = rows.of(term)
        if (own.length === 0) {
          lacking.push(`${termCalled(request.factors, term)} cannot be tested: too few of its combinations were grown.`)
          return []
        }
        const { f, numeratorDf: df, denominatorDf: errorDf } = method.test(own)
        const stratum = heldAgainst(frame, setup, term)
        const row = { term: term.join(':'), df, ss: NaN, ms: NaN, f, p: fUpper(f, df, errorDf), stratum, errorDf }
        return [
          row,
          ...(parts?.tests ?? []).filter((part) => row.term === (part.term.startsWith('site:') ? `site:${part.partOf}` : part.partOf)),
        ]
      },
    ),
    errors: [errorRow(frame, best, whole)],
    components: spread.map(({ name, value, se }) => ({ unit: name === 'residual' ? finest : name, variance: value, se })),
    mixed: {
      likelihood: fit.likelihood,
      df: method.method,
      minusTwoLogLikelihood: best.minusTwoLogLikelihood,
      aic: best.aic,
      bic: best.bic,
      takenOut: setup.taken,
      errors: best.errors && { key: best.errors.key, name: best.errors.name },
      parameters,
      // Of all nothing can be said where a part of it was not grown.
      mean: estimated(rows.estimable({}) ? method.estimate(rows.mean({})) : { estimate: NaN, se: NaN, df: NaN }, options.significance),
      predictions: predictionsOf(setup, best),
      errorTest: setup.by === 'group' ? againstOneError(frame, setup, best) : null,
      models: setup.by === null || setup.by === 'group' ? [] : modelRows(frame, setup, models),
    },
    residuals: fit.residuals(),
    terms: [
      ...terms.flatMap((term) => [
        meansOf(means, term, term),
        ...(bySite.some((each) => each.join() === ['site', ...term].join()) ? [meansOf(means, ['site', ...term], term)] : []),
      ]),
      ...(parts?.terms ?? []),
    ],
    contrasts: planned.flatMap((each) => {
      if (each.term.includes('site') && random.has('site')) return []
      const cells = cellsOf(setup, each.term)
      if (cells.some((cell) => (each.coefficients[cell.level] ?? 0) !== 0 && !rows.estimable(cell.at))) {
        lacking.push(`The contrast “${each.name}” cannot be estimated from what was grown.`)
        return []
      }
      const own = combined(cells.map((cell) => [each.coefficients[cell.level] ?? 0, rows.mean(cell.at)]))
      const all = { ...each, ...estimated(method.estimate(own), options.significance), ss: NaN, estimable: true }
      if (!sites || random.has('site') || each.term.includes('site')) return [all]
      const atSites = sites.levels.flatMap((site, s) => {
        if (cells.some((cell) => !rows.estimable({ ...cell.at, site: s }))) return []
        const there = combined(cells.map((cell) => [each.coefficients[cell.level] ?? 0, rows.mean({ ...cell.at, site: s })]))
        return { ...all, site, ...estimated(method.estimate(there), options.significance) }
      })
      return [all, ...atSites]
    }),
    covariates: covariateRows(frame, setup, method, rows),
    lacking,
  }
}

/** The error between observations; where each group has its own, that of all together, and each over the mean of its group. */
function errorRow(
  { y, finest, units, factors, request }: LayoutFrame,
  { fit, design, errors }: FittedModel,
  whole: Judged['fit'],
): ErrorRow {
  const meanOf = (values: Float64Array): number => Math.abs(values.reduce((sum, value) => sum + value, 0) / values.length)
  const cvOf = (ms: number, values: Float64Array): number => (100 * Math.sqrt(ms)) / meanOf(values)
  const by = errors?.key === 'by group' ? [...units, ...factors].find((each) => each.name === request.options.errorBy) : undefined
  const residual = fit.parameters.flatMap(({ kind }, i) => (kind === 'variance' ? [fit.values[i]!] : [])).at(-1)!
  const row = { stratum: finest, df: whole?.residualDf ?? y.length - design.columns.length, ss: NaN }
  if (!by) return { ...row, ms: residual, cv: cvOf(residual, y) }
  const groups = by.levels.map((level, g) => {
    const ms = fit.values[fit.parameters.findIndex((each) => each.name === level)]!
    return { level, ms, n: by.codes.filter((code) => code === g).length, cv: cvOf(ms, y.filter((_, i) => by.codes[i] === g)) } // prettier-ignore
  })
  // Pooled by what each group has left to judge by: nearly its observations.
  const pooled = whole?.residualMs ?? groups.reduce((sum, { ms, n }) => sum + ms * n, 0) / y.length
  return { ...row, ms: pooled, cv: cvOf(pooled, y), groups: groups.map(({ level, ms, cv }) => ({ level, ms, cv })) }
}

/**
 * The kind of unit whose differences are the coarsest that a term is judged by: of sites that are a sample what it
 * does differently there, else that which its factors were put on; of units taken out what lies in them and is a sample.
 */
function heldAgainst({ request, units, random, finest }: LayoutFrame, setup: MixedSetup, term: readonly string[]): string {
  const sampled = new Set(setup.random.map((each) => each.name))
  const atSites = `site:${term.join(':')}`
  if (random.has('site') && sampled.has(atSites)) return atSites
  const place = (kind: string): number => units.findIndex((unit) => unit.name === kind)
  const applied = request.structure.factors.filter((each) => term.includes(each.factor)).map((each) => each.appliedTo as string)
  if (applied.length > 0) {
    const on = applied.includes(finest) ? finest : applied.reduce((a, b) => (place(b) > place(a) ? b : a))
    return sampled.has(on) ? on : finest
  }
  const own = units.find((unit) => unit.name === term[0])
  if (!own) return finest
  return units.find((unit) => unit !== own && !unit.name.includes(':') && sampled.has(unit.name) && liesIn(unit, own))?.name ?? finest
}

/** The likeliest model that there are degrees of freedom for, first of all. */
function judgeable(
  frame: LayoutFrame,
  models: readonly FittedModel[],
): { models: FittedModel[]; best: FittedModel; method: MixedInference } {
  const reasons: MixedFailure[] = []
  for (const best of models) {
    try {
      const method = inference(frame, best)
      return { models: [best, ...models.filter((each) => each !== best)], best, method }
    } catch (error) {
      if (!(error instanceof MixedFailure)) throw error
      reasons.push(error)
    }
  }
  throw reasons[0]!
}

function inference({ request }: LayoutFrame, { fit, design }: FittedModel): MixedInference {
  const { df, likelihood } = request.options
  if (df === 'kenward-roger' && !fit.expansion)
    throw new AnalysisError(
      'Kenward and Roger’s method needs a covariance that is a sum of its parameters, of a moderate number of effects: ask for “satterthwaite”.',
    )
  const small = design.columns.length <= MOST_KENWARD_ROGER
  const chosen = df ?? (fit.expansion && small && likelihood === 'REML' ? 'kenward-roger' : 'satterthwaite')
  try {
    return chosen === 'kenward-roger' ? kenwardRoger(fit) : satterthwaite(fit)
  } catch (error) {
    if (error instanceof RangeError) throw new MixedFailure('what is known of its variances does not suffice for degrees of freedom')
    throw error
  }
}

/** With standard errors, and each variance of a random term held against a model without it. */
function parametersOf(frame: LayoutFrame, setup: MixedSetup, best: FittedModel): MixedParameter[] {
  const { fit, errors } = best
  const errorsOf = parameterErrors(fit)
  const effects = setup.random.reduce((sum, each) => sum + each.levels.length, 0)
  const few = fit.likelihood === 'REML' && setup.random.length <= 4 && effects <= MOST_TESTED && frame.y.length <= MOST_CHECKED
  return fit.parameters.map(({ name, kind }, i): MixedParameter => {
    const test = few && i < setup.random.length ? withoutTerm(frame, setup, best, i) : null
    return {
      name,
      kind,
      of: i < setup.random.length ? 'random' : errors ? 'errors' : 'residual',
      value: fit.values[i]!,
      se: errorsOf[i]!,
      atBound: fit.bounded[i]!,
      test,
    }
  })
}

/** Half of it is zero where there is no such variance: an equal mixture of χ² on none and on one degree of freedom (Self & Liang 1987). */
function withoutTerm(
  frame: LayoutFrame,
  setup: MixedSetup,
  { errors, minusTwoLogLikelihood }: FittedModel,
  at: number,
): MixedParameter['test'] {
  try {
    const less = fitOne(frame, { ...setup, random: setup.random.filter((_, i) => i !== at) }, errors)
    const chiSquared = Math.max(0, less.minusTwoLogLikelihood - minusTwoLogLikelihood)
    return { chiSquared, df: 1, p: chiSquared > 0 ? chiSquaredUpper(chiSquared, 1) / 2 : 1 }
  } catch (error) {
    if (error instanceof MixedFailure) return null
    throw error
  }
}

function againstOneError(frame: LayoutFrame, setup: MixedSetup, { fit, minusTwoLogLikelihood }: FittedModel): MixedResult['errorTest'] {
  const one = fitOne(frame, setup, null)
  const chiSquared = Math.max(0, one.minusTwoLogLikelihood - minusTwoLogLikelihood)
  const df = fit.values.length - one.fit.values.length
  return { chiSquared, df, p: chiSquaredUpper(chiSquared, df) }
}

function predictionsOf({ random }: MixedSetup, { fit }: FittedModel): MixedResult['predictions'] {
  return fit
    .predictions()
    .flatMap(({ effects, errors }, r) =>
      random[r]!.levels.map((level, l) => ({ term: random[r]!.name, level, effect: effects[l]!, se: errors[l]! })),
    )
}

/** All that were tried, beside what blocks alone come to; likelihoods of one fixed part can be held against each other. */
function modelRows(frame: LayoutFrame, setup: MixedSetup, models: readonly FittedModel[]): MixedResult['models'] {
  const rows = models.map(({ fit, errors, minusTwoLogLikelihood, aic, bic }, i) => ({
    key: errors!.key,
    name: errors!.name,
    parameters: fit.values.length,
    minusTwoLogLikelihood,
    aic,
    bic,
    used: i === 0,
  }))
  const others: { key: string; name: string; random: readonly Classification[] }[] = [
    { key: 'independent', name: 'all alike and apart', random: setup.random },
  ]
  const blocks = frame.units.filter((unit) => unit.name !== 'site' && !frame.random.has(unit.name))
  if (setup.by === 'ground' && blocks.length > 0)
    others.push({ key: 'blocks', name: 'blocks of the layout', random: [...setup.random, ...blocks] })
  return [
    ...rows,
    ...others.flatMap(({ key, name, random }) => {
      try {
        const { fit, minusTwoLogLikelihood, aic, bic } = fitOne(frame, { ...setup, random }, null)
        return [{ key, name, parameters: fit.values.length, minusTwoLogLikelihood, aic, bic, used: false }]
      } catch (error) {
        if (error instanceof MixedFailure) return []
        throw error
      }
    }),
  ]
}

interface LevelCell {
  readonly level: string
  readonly n: number
  readonly at: Cell
}

/** Levels of a term, as places of the variables of the model. */
function cellsOf({ variables }: MixedSetup, names: readonly string[]): LevelCell[] {
  const cells = crossing(names, variables)
  const counts = new Int32Array(cells.levels.length)
  const first = new Int32Array(cells.levels.length).fill(-1)
  cells.codes.forEach((code, i) => {
    counts[code]!++
    if (first[code]! < 0) first[code] = i
  })
  return cells.levels.map((level, l) => ({
    level,
    n: counts[l]!,
    at: Object.fromEntries(names.map((name) => [name, variables.find((each) => each.name === name)!.codes[first[l]!]!])),
  }))
}

interface Means {
  readonly frame: LayoutFrame
  readonly setup: MixedSetup
  readonly method: MixedInference
  readonly rows: Rows
  readonly lacking: string[]
}

function meansOf({ frame, setup, method, rows, lacking }: Means, names: readonly string[], term: readonly string[]): TermMeans {
  const { significance } = frame.request.options
  const all = cellsOf(setup, names)
  const cells = all.filter((cell) => rows.estimable(cell.at))
  if (cells.length < all.length && names.length === term.length)
    lacking.push(
      `${all.length - cells.length} of ${all.length} means of ${termCalled(frame.request.factors, names)} cannot be estimated from what was grown.`,
    )
  const family = method.family(cells.map((cell) => rows.mean(cell.at)))
  const means = cells.map(({ level, n }, i): JudgedMean => {
    const { estimate, se, df, lower, upper } = estimated(family.at(i), significance)
    return { level, n, estimate, se, df, lower, upper }
  })
  const applied = new Set(frame.request.structure.factors.map((factor) => factor.appliedTo))
  // Treatments of one kind of unit: their differences are nearly of one error.
  const estimates = familyOf(family, means, applied.size === 1 && applied.has(frame.finest))
  const crossed = setup.variables.filter((each) => term.includes(each.name)).reduce((product, each) => product * each.levels.length, 1)
  const simpleEffects = term.length === 2 && names.length === 2 && cells.length === crossed ? bothWays(setup, method, rows, term) : []
  return {
    frame: { ...frame, factors: setup.variables.filter((each) => frame.factors.some((factor) => factor.name === each.name)) },
    term,
    bySite: names.length > term.length,
    means,
    estimates,
    ms: NaN,
    simpleEffects,
  }
}

/** F of one factor at each level of the other. */
function bothWays({ variables }: MixedSetup, method: MixedInference, rows: Rows, term: readonly string[]): SimpleEffectRow[] {
  return [0, 1].flatMap((which) => {
    const [tested, within] = [which, 1 - which].map((at) => variables.find((each) => each.name === term[at])!) as [
      Classification,
      Classification,
    ]
    return within.levels.map((level, w): SimpleEffectRow => {
      const at = (l: number) => rows.mean({ [tested.name]: l, [within.name]: w })
      const apart = tested.levels.slice(1).map((_, l) => combined([[1, at(l + 1)], [-1, at(0)]])) // prettier-ignore
      const { f, numeratorDf, denominatorDf } = method.test(apart)
      const p = fUpper(f, numeratorDf, denominatorDf)
      return { factor: tested.name, within: within.name, level, df: numeratorDf, errorDf: denominatorDf, f, p }
    })
  })
}
