import {
  comparisonMethod,
  comparisonMethods,
  compactLetters,
  equivalenceTest,
  type Classification,
  type Comparison,
  type Estimates,
  type Transformation,
} from '../statistics/index.ts'
import { evidenceTable, weakest, type Evidence } from './evidence.ts'
import { crossing, type LayoutFrame } from './layout.ts'
import { AnalysisError, type Method } from './request.ts'
import type { ComparisonRow, MeanRow, SimpleEffectRow, Spread, TermResult, TestRow } from './result.ts'
import { broughtBack, isLogarithm } from './scale.ts'
import { termCalled } from './words.ts'

export interface JudgedMean {
  readonly level: string
  readonly n: number
  readonly estimate: number
  readonly se: number
  readonly df: number
  readonly lower: number
  readonly upper: number
}

/** Means of a term on the scale of the analysis, and how pairs of them are compared. */
export interface TermMeans {
  /** Where its factors are not those of the analysis but parts of them. */
  readonly frame?: LayoutFrame
  /** Factors of the treatments; with `bySite` the means are those at each site. */
  readonly term: readonly string[]
  readonly bySite?: boolean
  readonly means: readonly JudgedMean[]
  /** Some of the means, by their places in `means`, with what is known of their errors. */
  readonly estimates: (among: readonly number[]) => Estimates
  /** Error mean square of a single observation, for the bias of the way back; NaN when it is not known. */
  readonly ms: number
  readonly simpleEffects: readonly SimpleEffectRow[]
}

const NO_SPREAD: Spread = { mean: NaN, min: NaN, max: NaN }
/** Letters over more means than this can no longer be read. */
const MOST_LETTERS = 60

/** A term of the result: means, pairs by each method asked for with their evidence, letters. */
export function termResult(frame: LayoutFrame, scale: Transformation | null, of: TermMeans, test: TestRow | undefined): TermResult {
  const { request } = frame
  const { significance, protect } = request.options
  const name = [...(of.bySite ? ['site'] : []), ...of.term]
  const cells = crossing(name, [...(frame.sites ? [frame.sites] : []), ...frame.factors])
  const cellOf = of.means.map((mean) => cells.levels.indexOf(mean.level))
  const control = of.bySite ? -1 : of.means.findIndex((mean) => mean.level === controlOf(request, of.term))
  const judge = evidenceTable(frame, of.term, cells)
  const evidence = (a: number, b: number): Evidence => judge(cellOf[a]!, cellOf[b]!)
  const silent = protect && !((test?.p ?? 1) < significance)
  const groups = (of.bySite ? siteGroups(frame, cells, cellOf) : [[...of.means.keys()]]).filter((among) => among.length > 1)

  const comparisons: Partial<Record<Method, ComparisonRow[]>> = {}
  const letters: Partial<Record<Method, Record<string, string>>> = {}
  for (const method of methodsFor(request, control)) {
    request.onProgress?.({ doing: `comparing the means of ${termCalled(request.factors, name)}`, step: null })
    const rows = silent ? [] : groups.flatMap((among) => compared(request, of, method, among, control))
    comparisons[method] = rows.map((row) => comparisonRow(frame, scale, of.means, row, evidence(row.a, row.b)))
    if (comparisonMethod(method).pairs === 'all' && rows.length > 0 && of.means.length <= MOST_LETTERS) {
      const found = groups.map((among) => lettersOf(of.means, among, rows, significance))
      if (found.every((each) => each !== null)) letters[method] = Object.fromEntries(found.flat())
    }
  }
  const alone = groups.flatMap((among) => compared(request, of, 'lsd', among, control))
  const found = alone.map((row) => evidence(row.a, row.b))
  return {
    term: name.join(':'),
    factors: name,
    evidence: found.length > 0 ? weakest(found) : { kind: 'look', why: 'there are no two of it to compare' },
    means: of.means.map((mean, i) => meanRow(frame, scale, of, mean, cells, cellOf[i]!, of.means[control])),
    control: control === -1 ? null : of.means[control]!.level,
    comparisons,
    letters,
    sed: spread(alone.map((row) => row.sed)),
    lsd: spread(alone.map((row) => row.threshold)),
    simpleEffects: of.simpleEffects,
  }
}

/** Pairs among some means, or each against the control, by their places in the means of the term. */
function compared(request: LayoutFrame['request'], of: TermMeans, method: Method, among: readonly number[], control: number): Comparison[] {
  const found = comparisonMethod(method)
  const estimates = of.estimates(among)
  if (found.needsOneError && !estimates.oneError) {
    const others = comparisonMethods.filter((each) => !each.needsOneError).map((each) => each.key)
    throw new AnalysisError(`The method “${method}” is not defined where differences draw on several errors. Use ${others.join(', ')}.`)
  }
  const { significance, side } = request.options
  const rows = found.compare(estimates, { level: significance, control: among.indexOf(control), side })
  return rows.map((row) => ({ ...row, a: among[row.a]!, b: among[row.b]! }))
}

/** The level of a single factor that others are compared with. */
function controlOf({ factors, structure }: LayoutFrame['request'], term: readonly string[]): string | undefined {
  if (term.length !== 1) return undefined
  return (
    factors.find((factor) => factor.key === term[0])?.control ?? structure.controls.find((control) => control.factor === term[0])?.level
  )
}

/** The methods asked for; by default Dunnett's where there is a control, Tukey's for all else. */
function methodsFor(request: LayoutFrame['request'], control: number): Method[] {
  const asked = request.options.method
  if (asked === undefined) return [control === -1 ? 'tukey' : 'dunnett']
  const methods = typeof asked === 'string' ? [asked] : asked
  const against = methods.filter((method) => comparisonMethod(method).pairs === 'control')
  if (against.length > 0 && !request.factors.some((factor) => controlOf(request, [factor.key])))
    throw new AnalysisError(`The method “${against[0]}” needs a control: name it in structure.controls of the plan.`)
  return [...new Set(methods)].filter((method) => comparisonMethod(method).pairs === 'all' || control !== -1)
}

/** Means of one site are compared with each other, not with those of other sites. */
function siteGroups({ sites }: LayoutFrame, cells: Classification, cellOf: readonly number[]): number[][] {
  const siteOf = cellOf.map((cell) => sites!.codes[cells.codes.indexOf(cell)]!)
  return sites!.levels.map((_, site) => [...siteOf.keys()].filter((i) => siteOf[i] === site))
}

function comparisonRow(
  { request }: LayoutFrame,
  scale: Transformation | null,
  means: readonly JudgedMean[],
  row: Comparison,
  evidence: Evidence,
): ComparisonRow {
  const { equivalence, significance } = request.options
  const tost = equivalence === undefined ? null : equivalenceTest({ estimate: row.difference, se: row.sed, df: row.df }, equivalence)
  return {
    a: means[row.a]!.level,
    b: means[row.b]!.level,
    difference: row.difference,
    sed: row.sed,
    df: row.df,
    t: row.t,
    p: row.p,
    lower: row.lower,
    upper: row.upper,
    threshold: row.threshold,
    evidence,
    ratio: isLogarithm(scale) ? { estimate: scale.back(row.difference), lower: scale.back(row.lower), upper: scale.back(row.upper) } : null,
    critical: row.threshold / row.sed,
    equivalence: tost && { margin: equivalence!, p: tost.p, equivalent: tost.p < significance },
  }
}

function meanRow(
  { raw, request }: LayoutFrame,
  scale: Transformation | null,
  { ms }: TermMeans,
  mean: JudgedMean,
  cells: Classification,
  cell: number,
  control: JudgedMean | undefined,
): MeanRow {
  const own = raw.filter((_, i) => cells.codes[i] === cell)
  // A share lies between none and all, whatever the error says.
  const bounded = (limit: number): number => (request.trait.kind === 'share' && !scale ? Math.min(100, Math.max(0, limit)) : limit)
  const observed = (each: JudgedMean): number => (scale ? scale.back(each.estimate) : each.estimate)
  // Of a control at or below zero, or of a scale without a true zero, there is no per cent.
  const per = control && observed(control) > 0 ? observed(control) : NaN
  return {
    level: mean.level,
    n: mean.n,
    mean: mean.estimate,
    se: mean.se,
    df: mean.df,
    lower: bounded(mean.lower),
    upper: bounded(mean.upper),
    min: Math.min(...own),
    max: Math.max(...own),
    percentOfControl: (100 * observed(mean)) / per,
    back: broughtBack(scale, mean.estimate, mean.lower, mean.upper, ms),
  }
}

function lettersOf(
  means: readonly JudgedMean[],
  among: readonly number[],
  pairs: readonly Comparison[],
  significance: number,
): [level: string, letters: string][] | null {
  const k = means.length
  const order = [...among].sort((a, b) => means[b]!.estimate - means[a]!.estimate)
  const differ = new Uint8Array(k * k)
  for (const pair of pairs) differ[pair.a * k + pair.b] = differ[pair.b * k + pair.a] = pair.p < significance ? 1 : 0
  // The letters of the first of the order come first: places among those compared, not among all.
  const found = compactLetters(
    order.map((_, i) => i),
    (a, b) => differ[order[a]! * k + order[b]!] === 1,
  )
  return found && order.map((index, i) => [means[index]!.level, found[i]!])
}

export function spread(values: readonly number[]): Spread {
  if (values.length === 0) return NO_SPREAD
  let [sum, min, max] = [0, Infinity, -Infinity]
  for (const each of values) {
    sum += each
    min = Math.min(min, each)
    max = Math.max(max, each)
  }
  return { mean: sum / values.length, min, max }
}
