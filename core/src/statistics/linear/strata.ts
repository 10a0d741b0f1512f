import { fUpper } from '../distribution/f.ts'
import { tUpperQuantile } from '../distribution/t.ts'
import { termName, type AnovaRow } from './anova.ts'
import { designMatrix, type Classification, type Term } from './design-matrix.ts'
import { fitLinear } from './least-squares.ts'

export interface StratumTable {
  /** Name of the unit factor; the finest is that of the observations. */
  readonly name: string
  readonly terms: readonly AnovaRow[]
  /** What is left between its units; the error of its terms. */
  readonly error: { readonly df: number; readonly ss: number; readonly ms: number }
  /** Observations in one of its units. */
  readonly size: number
}

export interface StrataAnova {
  readonly strata: readonly StratumTable[]
  /** False when terms are not orthogonal to each other or to strata: then these tests do not hold. */
  readonly orthogonal: boolean
  readonly grandMean: number
}

/**
 * Analysis of variance by error strata for orthogonal layouts (J. A. Nelder, Proc. R. Soc. A
 * 283, 1965). `units` runs from coarse to fine and leaves out the observations themselves,
 * which are the last stratum. A term is tested in the first stratum whose units are each of one
 * of its levels.
 */
export function strataAnova(
  response: Float64Array,
  units: readonly Classification[],
  treatments: readonly Classification[],
  terms: readonly Term[],
): StrataAnova {
  const rows = response.length
  const observation: Classification = {
    name: 'observation',
    levels: Array.from({ length: rows }, (_, i) => String(i)),
    codes: Int32Array.from(response, (_, i) => i),
  }
  const all = [...units, observation]
  const byName = new Map(treatments.map((each) => [each.name, each]))
  const home = terms.map((term) =>
    all.findIndex((unit) =>
      isConstantWithin(
        unit,
        term.map((name) => byName.get(name)!),
      ),
    ),
  )
  const ordered: { term: Term; stratum: number; isUnit: boolean }[] = all.flatMap((unit, s) => [
    ...terms.filter((_, t) => home[t] === s).map((term) => ({ term, stratum: s, isUnit: false })),
    ...(s < units.length ? [{ term: [unit.name], stratum: s, isUnit: true }] : []),
  ])
  const fit = fitLinear(
    designMatrix(
      [...units, ...treatments],
      ordered.map((each) => each.term),
      rows,
    ),
    response,
  )
  const found = ordered.map((_, i) => sequential(fit, i + 1))
  const strata = all.map((unit, s): StratumTable => {
    const own = ordered.findIndex((each) => each.stratum === s && each.isUnit)
    const { df, ss } = own === -1 ? { df: fit.residualDf, ss: fit.residualSs } : found[own]!
    const error = { df, ss, ms: df > 0 ? ss / df : NaN }
    const rowsOf = ordered.flatMap((each, i) => (each.stratum === s && !each.isUnit ? [testRow(each.term, found[i]!, error)] : []))
    return { name: unit.name, terms: rowsOf, error, size: rows / unit.levels.length }
  })
  const grandMean = response.reduce((sum, each) => sum + each, 0) / rows
  return { strata, orthogonal: isOrthogonal(response, units, treatments, ordered, found), grandMean }
}

function testRow(term: Term, { df, ss }: { df: number; ss: number }, error: StratumTable['error']): AnovaRow {
  const ms = df > 0 ? ss / df : NaN
  const testable = df > 0 && error.df > 0 && error.ms > 0
  const f = testable ? ms / error.ms : NaN
  return { term: termName(term), df, ss, ms, f, p: testable ? fUpper(f, df, error.df) : NaN }
}

function sequential({ design, qr, effects }: ReturnType<typeof fitLinear>, index: number): { df: number; ss: number } {
  let ss = 0
  let df = 0
  for (let k = 0; k < qr.rank; k++) {
    if (design.termOf[qr.order[k]!] !== index) continue
    ss += effects[k]! ** 2
    df++
  }
  return { df, ss }
}

function isConstantWithin(unit: Classification, factors: readonly Classification[]): boolean {
  return factors.every((factor) => {
    const seen = new Int32Array(unit.levels.length).fill(-1)
    for (let i = 0; i < unit.codes.length; i++) {
      const level = seen[unit.codes[i]!]!
      if (level === -1) seen[unit.codes[i]!] = factor.codes[i]!
      else if (level !== factor.codes[i]) return false
    }
    return true
  })
}

/** In an orthogonal layout the order of fitting changes no sum of squares: the terms are fitted backwards to see. */
function isOrthogonal(
  response: Float64Array,
  units: readonly Classification[],
  treatments: readonly Classification[],
  ordered: readonly { term: Term; isUnit: boolean }[],
  found: readonly { df: number; ss: number }[],
): boolean {
  const treatmentTerms = ordered.filter((each) => !each.isUnit)
  if (treatmentTerms.length === 0) return true
  // Main effects before interactions still, or the sums would mean something else.
  const back = [...treatmentTerms].reverse().sort((a, b) => a.term.length - b.term.length)
  // A unit that treatments are crossed with (sites) stands before its interactions, for the same reason.
  const crossedWith = (term: Term): boolean => back.some((each) => each.term.length > 1 && each.term.includes(term[0]!))
  const unitTerms = ordered.filter((each) => each.isUnit).map((each) => each.term)
  const first = unitTerms.filter(crossedWith)
  const terms = [...first, ...back.map((each) => each.term), ...unitTerms.filter((term) => !crossedWith(term))]
  const fit = fitLinear(designMatrix([...units, ...treatments], terms, response.length), response)
  const total = found.reduce((sum, each) => sum + each.ss, 0)
  return back.every((each, i) => Math.abs(sequential(fit, first.length + i + 1).ss - found[ordered.indexOf(each)]!.ss) <= 1e-8 * total)
}

export interface StratumContrast {
  readonly estimate: number
  readonly se: number
  /** Exact in one stratum, Satterthwaite's when several are mixed. */
  readonly df: number
  /** The only stratum it draws on, by its place; -1 when it draws on several. */
  readonly stratum: number
}

/**
 * Σ w_i y_i over the observations, Σ w_i = 0, with its standard error from the strata it draws
 * on: each mean square weighs by the squared length of the contrast's part in its stratum.
 * `units` as for `strataAnova`, in a layout where every unit of a kind holds as many observations.
 */
export function stratumContrast(
  response: Float64Array,
  units: readonly Classification[],
  analysis: StrataAnova,
  w: Float64Array,
): StratumContrast {
  const shares = stratumShares(w, units)
  const total = shares.reduce((sum, each) => sum + each, 0)
  const drawn = [...shares.keys()].filter((s) => shares[s]! > 1e-10 * total)
  return {
    estimate: product(w, response),
    stratum: drawn.length === 1 ? drawn[0]! : -1,
    ...satterthwaite(
      analysis,
      shares.map((share) => (share > 1e-10 * total ? share : 0)),
    ),
  }
}

/** Standard error and df of Σ c_s × mean square of stratum s. */
function satterthwaite({ strata }: StrataAnova, c: ArrayLike<number>): { se: number; df: number } {
  let variance = 0
  let spread = 0
  strata.forEach(({ error }, s) => {
    if (c[s] === 0) return
    variance += c[s]! * error.ms
    spread += (c[s]! * error.ms) ** 2 / error.df
  })
  return { se: Math.sqrt(variance), df: variance ** 2 / spread }
}

export interface StratumDifference {
  readonly difference: number
  readonly sed: number
  readonly df: number
  readonly lsd: number
}

/** The difference of two groups of observations (a treatment mean minus another), as `stratumContrast`. */
export function stratumDifference(
  response: Float64Array,
  units: readonly Classification[],
  analysis: StrataAnova,
  inA: (i: number) => boolean,
  inB: (i: number) => boolean,
  level = 0.05,
): StratumDifference {
  const [a, b] = [meanWeights(response.length, inA), meanWeights(response.length, inB)]
  const found = stratumContrast(
    response,
    units,
    analysis,
    a.map((each, i) => each - b[i]!),
  )
  return { difference: found.estimate, sed: found.se, df: found.df, lsd: tUpperQuantile(level / 2, found.df) * found.se }
}

/** Weights over the observations that make the mean of those taken. */
export function meanWeights(rows: number, taken: (i: number) => boolean): Float64Array {
  const w = Float64Array.from({ length: rows }, (_, i) => (taken(i) ? 1 : 0))
  const n = w.reduce((sum, each) => sum + each, 0)
  return w.map((each) => each / n)
}

/**
 * Σ w_i y_i that is a mean, not a contrast: its variance is the sum over the random kinds of unit
 * of component × squared weight of each unit, Satterthwaite's df. `random` names the kinds whose
 * differences are chance (the observations always are); those taken out as fixed add none.
 */
export function stratumMean(
  response: Float64Array,
  units: readonly Classification[],
  analysis: StrataAnova,
  w: Float64Array,
  random: ReadonlySet<string>,
): Omit<StratumContrast, 'stratum'> {
  const c = new Float64Array(analysis.strata.length)
  const parts = componentCoefficients(analysis, units)
  analysis.strata.forEach((stratum, s) => {
    const unit = units[s]
    if (unit && !random.has(stratum.name)) return
    const squared = unit ? squaredSums(w, unit) : product(w, w)
    parts[s]!.forEach((part, inner) => (c[inner]! += part * squared))
  })
  return { estimate: product(w, response), ...satterthwaite(analysis, c) }
}

function squaredSums(w: Float64Array, unit: Classification): number {
  const sums = new Float64Array(unit.levels.length)
  for (let i = 0; i < w.length; i++) sums[unit.codes[i]!]! += w[i]!
  return product(sums, sums)
}

function product(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!
  return sum
}

/** Squared length of a contrast's part in each stratum, coarse to fine, observations last. */
function stratumShares(w: Float64Array, units: readonly Classification[]): Float64Array {
  const parts = stratumParts(w, units)
  return Float64Array.from(parts.slice(1), (part) => part.reduce((sum, each) => sum + each * each, 0))
}

/** The orthogonal parts of a vector: grand mean, each stratum coarse to fine, observations last. */
export function stratumParts(w: Float64Array, units: readonly Classification[]): Float64Array[] {
  const rows = w.length
  const mean = w.reduce((sum, each) => sum + each, 0) / rows
  const parts: { unit: Classification | null; part: Float64Array }[] = [{ unit: null, part: new Float64Array(rows).fill(mean) }]
  for (const unit of units) {
    const part = averaged(w, unit)
    for (const earlier of parts) {
      if (earlier.unit !== null && !isConstantWithin(unit, [earlier.unit])) continue
      for (let i = 0; i < rows; i++) part[i]! -= earlier.part[i]!
    }
    parts.push({ unit, part })
  }
  const rest = Float64Array.from(w)
  for (const { part } of parts) for (let i = 0; i < rows; i++) rest[i]! -= part[i]!
  return [...parts.map((each) => each.part), rest]
}

function averaged(w: Float64Array, unit: Classification): Float64Array {
  const sums = new Float64Array(unit.levels.length)
  const counts = new Float64Array(unit.levels.length)
  for (let i = 0; i < w.length; i++) {
    sums[unit.codes[i]!]! += w[i]!
    counts[unit.codes[i]!]!++
  }
  return Float64Array.from(w, (_, i) => sums[unit.codes[i]!]! / counts[unit.codes[i]!]!)
}

/**
 * Variance components of a balanced layout from its mean squares: E(MS) of a stratum is the
 * sum over itself and the strata inside it of component × observations in a unit. Negative
 * estimates are given as they come.
 */
export function varianceComponents(analysis: StrataAnova, units: readonly Classification[]): Float64Array {
  const ms = Float64Array.from(analysis.strata, (stratum) => stratum.error.ms)
  return Float64Array.from(componentCoefficients(analysis, units), (c) =>
    c.reduce((sum, each, s) => (each === 0 ? sum : sum + each * ms[s]!), 0),
  )
}

/** Standard errors of the same: a mean square of ν degrees of freedom has the variance 2 E(MS)² / ν. */
export function componentErrors(analysis: StrataAnova, units: readonly Classification[]): Float64Array {
  return Float64Array.from(componentCoefficients(analysis, units), (c) =>
    Math.sqrt(
      c.reduce((sum, each, s) => {
        const { ms, df } = analysis.strata[s]!.error
        return each === 0 ? sum : sum + (each * each * 2 * ms * ms) / df
      }, 0),
    ),
  )
}

/** Each component as a sum of mean squares: row s holds what each stratum's mean square counts in component s. */
function componentCoefficients({ strata }: StrataAnova, units: readonly Classification[]): Float64Array[] {
  const rows: Float64Array[] = strata.map(() => new Float64Array(strata.length))
  for (let s = strata.length - 1; s >= 0; s--) {
    const own = rows[s]!
    own[s] = 1
    for (let inner = s + 1; inner < strata.length; inner++) {
      const nested = inner === strata.length - 1 || isConstantWithin(units[inner]!, [units[s]!])
      if (nested) rows[inner]!.forEach((c, k) => (own[k]! -= c * strata[inner]!.size))
    }
    for (let k = 0; k < own.length; k++) own[k]! /= strata[s]!.size
  }
  return rows
}

/**
 * −2 × restricted log-likelihood of a balanced layout at its analysis-of-variance estimates:
 * log|V| + log|X'V⁻¹X| + r'V⁻¹r + (N − p) log 2π, X in reference-level coding. V has one
 * eigenvalue for each stratum, the expected mean square; the grand mean shares the coarsest.
 */
export function restrictedMinus2LogLikelihood(
  response: Float64Array,
  units: readonly Classification[],
  treatments: readonly Classification[],
  terms: readonly Term[],
  analysis: StrataAnova,
): number {
  const rows = response.length
  const eigenvalues = [analysis.strata[0]!.error.ms, ...analysis.strata.map((stratum) => stratum.error.ms)]
  const whiten = (w: Float64Array): Float64Array => {
    const result = new Float64Array(rows)
    stratumParts(w, units).forEach((part, s) => {
      const scale = 1 / Math.sqrt(eigenvalues[s]!)
      for (let i = 0; i < rows; i++) result[i]! += scale * part[i]!
    })
    return result
  }
  const design = designMatrix(treatments, terms, rows)
  const white = fitLinear({ ...design, columns: design.columns.map(whiten) }, whiten(response))
  let logDetX = 0
  for (let k = 0; k < white.qr.rank; k++) logDetX += 2 * Math.log(Math.abs(white.qr.packed[k]![k]!))
  const logDetV = eigenvalues.reduce((sum, value, s) => sum + dimension(s, units, rows) * Math.log(value), 0)
  return logDetV + logDetX + white.residualSs + (rows - white.qr.rank) * Math.log(2 * Math.PI)
}

/** Degrees of freedom of a stratum in the layout, before treatments: 0 the grand mean, observations last. */
function dimension(s: number, units: readonly Classification[], rows: number): number {
  if (s === 0) return 1
  const unit = units[s - 1]
  const inside = (other: number): boolean => other === 0 || !unit || isConstantWithin(unit, [units[other - 1]!])
  let left = unit ? unit.levels.length : rows
  for (let coarser = 0; coarser < s; coarser++) if (inside(coarser)) left -= dimension(coarser, units, rows)
  return left
}
