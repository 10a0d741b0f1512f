import {
  codedValue,
  designMatrix,
  fitLinear,
  fUpper,
  kenwardRoger,
  reml,
  tTwoSided,
  tUpperQuantile,
  type Classification,
  type MixedEstimate,
  type MixedInference,
} from '../statistics/index.ts'
import { crossing, type LayoutFrame } from './layout.ts'
import { linearFit } from './linear-model.ts'
import type { Judged } from './one-error.ts'
import { plannedContrasts } from './planned.ts'
import { AnalysisError } from './request.ts'
import type { SimpleEffectRow } from './result.ts'
import type { JudgedMean, TermMeans } from './term-result.ts'

/** Effects, fixed and random, that are fitted while somebody waits. */
const MOST_EFFECTS = 600

type Row = Float64Array

/**
 * Several errors where plots are lost or treatments unevenly spread: the larger units as random terms,
 * fitted by REML, with Kenward and Roger's tests and degrees of freedom; tests are of each term with
 * every level counted alike (Type III). Null where some combinations were not grown, or the model is too
 * large to be fitted while somebody waits.
 */
export function inMixedModel(frame: LayoutFrame): Judged | null {
  try {
    return fitted(frame)
  } catch (error) {
    // Variances that the units cannot tell apart leave nothing to judge by.
    if (error instanceof RangeError) return null
    throw error
  }
}

function fitted(frame: LayoutFrame): Judged | null {
  const { y, units, factors, terms, sites, random, finest, observed, request } = frame
  if (observed.weights) return null
  if (request.options.weights === 'observed')
    throw new AnalysisError('Under several errors with units lost, means count every level alike: leave out the option “weights”.')
  // What lies in units that are a sample of many is one too.
  const sampled = units.filter((unit) => random.has(unit.name))
  const chance = units.filter((unit) => sampled.some((outer) => outer === unit || liesIn(unit, outer)))
  const ground = finestOf(units.filter((unit) => !chance.includes(unit)))
  const bySite = sites && !random.has('site') ? terms.map((term) => ['site', ...term]) : []
  const taken = ground.map((unit) => [unit.name])
  const variables = [...units, ...factors]
  const design = designMatrix(variables, [...taken, ...terms, ...bySite], y.length, 'sum')
  const effects = design.columns.length + chance.reduce((sum, unit) => sum + unit.levels.length, 0)
  if (effects > MOST_EFFECTS || design.columns.length >= y.length) return null
  if (fitLinear(design, y).qr.rank < design.columns.length) return null
  const fit = reml({ y, fixed: design.columns, random: chance })
  if (!fit.converged) return null
  const method = kenwardRoger(fit)
  const rows = new Rows(design, [...taken, ...terms, ...bySite], variables, sites)
  const grand = Math.abs(y.reduce((sum, value) => sum + value, 0) / y.length)
  const { planned, lacking } = plannedContrasts(frame)
  const whole = linearFit(frame)
  const residual = fit.values.at(-1)!
  return {
    fit: whole,
    tests: [...terms, ...bySite].map((term) => {
      const { f, numeratorDf, denominatorDf } = method.test(rows.of(term))
      const p = fUpper(f, numeratorDf, denominatorDf)
      return { term: term.join(':'), df: numeratorDf, ss: NaN, ms: NaN, f, p, stratum: finest, errorDf: denominatorDf }
    }),
    errors: [{ stratum: finest, df: whole.residualDf, ss: NaN, ms: residual, cv: (100 * Math.sqrt(residual)) / grand }],
    components: [...chance.map((unit, i) => ({ unit: unit.name, variance: fit.values[i]! })), { unit: finest, variance: residual }],
    terms: terms.flatMap((term) => [
      meansOf(frame, method, rows, term, term),
      ...(bySite.length > 0 ? [meansOf(frame, method, rows, ['site', ...term], term)] : []),
    ]),
    contrasts: planned.flatMap((each) => {
      const cells = cellsOf(frame, each.term)
      const own = combined(cells.map((cell) => [each.coefficients[cell.level] ?? 0, rows.mean(cell.at)]))
      const all = { ...each, ...tested(method.estimate(own), request.options.significance), ss: NaN, estimable: true }
      if (!sites || random.has('site')) return [all]
      const atSites = sites.levels.map((site, s) => {
        const there = combined(cells.map((cell) => [each.coefficients[cell.level] ?? 0, rows.mean({ ...cell.at, site: s })]))
        return { ...all, site, ...tested(method.estimate(there), request.options.significance) }
      })
      return [all, ...atSites]
    }),
    covariates: [],
    lacking,
  }
}

/** Of kinds of unit that lie in each other the finest: it holds what the wider ones differ by. */
function finestOf(units: readonly Classification[]): Classification[] {
  return units.filter((unit, u) => !units.some((other, o) => o !== u && liesIn(other, unit) && (!liesIn(unit, other) || o < u)))
}

function liesIn(inner: Classification, outer: Classification): boolean {
  const seen = new Map<number, number>()
  inner.codes.forEach((code, i) => seen.has(code) || seen.set(code, outer.codes[i]!))
  return inner.codes.every((code, i) => seen.get(code) === outer.codes[i])
}

/** Linear functions of the fixed effects in sum coding: what is averaged over, with every level alike, leaves nothing. */
class Rows {
  readonly #design: ReturnType<typeof designMatrix>
  readonly #terms: readonly (readonly string[])[]
  readonly #variables: readonly Classification[]
  readonly #sites: Classification | null

  constructor(
    design: ReturnType<typeof designMatrix>,
    terms: readonly (readonly string[])[],
    variables: readonly Classification[],
    sites: Classification | null,
  ) {
    this.#design = design
    this.#terms = terms
    this.#variables = variables
    this.#sites = sites
  }

  /** The rows that are zero where a term has no effect. */
  of(term: readonly string[]): Row[] {
    const { columns, termOf } = this.#design
    const at = 1 + this.#terms.findIndex((each) => each.join() === term.join())
    return [...columns.keys()].filter((c) => termOf[c] === at).map((c) => Float64Array.from(columns, (_, j) => (j === c ? 1 : 0)))
  }

  /** The mean at some levels, by name of the factor or `site`. */
  mean(at: Readonly<Record<string, number>>): Row {
    const row = [1]
    for (const term of this.#terms) {
      const own = term.map((name) => this.#variables.find((each) => each.name === name)!)
      const width = own.reduce((count, each) => count * (each.levels.length - 1), 1)
      for (let c = 0; c < width; c++) {
        let [rest, product] = [c, 1]
        for (const each of own) {
          const column = rest % (each.levels.length - 1)
          product *= this.#coded(each, column, at)
          rest = Math.floor(rest / (each.levels.length - 1))
        }
        row.push(product)
      }
    }
    return Float64Array.from(row)
  }

  #coded(variable: Classification, column: number, at: Readonly<Record<string, number>>): number {
    const level = at[variable.name]
    if (level !== undefined) return codedValue('sum', variable.levels.length, column, level)
    if (variable.name === 'site' || !this.#sites || !this.#liesInSites(variable)) return 0
    // Units of a site stand for it, each alike; over all sites each site counts alike.
    const groups = this.#sites.levels
      .map((_, s) => this.#membersAt(variable, s))
      .filter((_, s) => at['site'] === undefined || at['site'] === s)
    const mean = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
    return mean(groups.map((members) => mean(members.map((l) => codedValue('sum', variable.levels.length, column, l)))))
  }

  #liesInSites(variable: Classification): boolean {
    return variable.levels.every((_, l) => this.#sites!.levels.filter((__, s) => this.#membersAt(variable, s).includes(l)).length === 1)
  }

  #membersAt(variable: Classification, site: number): number[] {
    return [...new Set([...variable.codes].filter((_, i) => this.#sites!.codes[i] === site))]
  }
}

interface Cell {
  readonly level: string
  readonly n: number
  /** Levels by name, as places. */
  readonly at: Readonly<Record<string, number>>
}

function cellsOf({ factors, sites }: LayoutFrame, names: readonly string[]): Cell[] {
  const variables = [...(sites ? [sites] : []), ...factors]
  const cells = crossing(names, variables)
  return cells.levels.map((level, l) => {
    const i = cells.codes.indexOf(l)
    const at = Object.fromEntries(names.map((name) => [name, variables.find((each) => each.name === name)!.codes[i]!]))
    return { level, n: cells.codes.filter((code) => code === l).length, at }
  })
}

function combined(parts: readonly (readonly [number, Row])[]): Row {
  const row = new Float64Array(parts[0]![1].length)
  for (const [c, own] of parts) if (c !== 0) own.forEach((each, j) => (row[j]! += c * each))
  return row
}

function tested({ estimate, se, df }: MixedEstimate, level: number) {
  const half = tUpperQuantile(level / 2, df) * se
  const t = estimate / se
  return { estimate, se, df, t, p: tTwoSided(t, df), lower: estimate - half, upper: estimate + half }
}

function meansOf(frame: LayoutFrame, method: MixedInference, rows: Rows, names: readonly string[], term: readonly string[]): TermMeans {
  const { significance } = frame.request.options
  const cells = cellsOf(frame, names)
  const own = cells.map((cell) => rows.mean(cell.at))
  const means = cells.map(({ level, n }, i): JudgedMean => {
    const { estimate, se, df, lower, upper } = tested(method.estimate(own[i]!), significance)
    return { level, n, estimate, se, df, lower, upper }
  })
  const family = method.family(own)
  const estimates: TermMeans['estimates'] = (among) => ({
    values: among.map((i) => means[i]!.estimate),
    covariance: (a, b) => family.covariance(among[a]!, among[b]!),
    differenceVariance: (a, b) => family.difference(among[a]!, among[b]!).se ** 2,
    df: (a, b) => family.difference(among[a]!, among[b]!).df,
    oneError: false,
    estimable: () => true,
  })
  const simpleEffects = term.length === 2 && names.length === 2 ? bothWays(frame, method, rows, term) : []
  return { term, bySite: names.length > term.length, means, estimates, ms: NaN, simpleEffects }
}

/** F of one factor at each level of the other. */
function bothWays({ factors }: LayoutFrame, method: MixedInference, rows: Rows, term: readonly string[]): SimpleEffectRow[] {
  return [0, 1].flatMap((which) => {
    const [tested, within] = [which, 1 - which].map((at) => factors.find((factor) => factor.name === term[at])!) as [
      Classification,
      Classification,
    ]
    return within.levels.map((level, w): SimpleEffectRow => {
      const at = (l: number): Row => rows.mean({ [tested.name]: l, [within.name]: w })
      const apart = tested.levels.slice(1).map((_, l) => combined([[1, at(l + 1)], [-1, at(0)]])) // prettier-ignore
      const { f, numeratorDf, denominatorDf } = method.test(apart)
      const p = fUpper(f, numeratorDf, denominatorDf)
      return { factor: tested.name, within: within.name, level, df: numeratorDf, errorDf: denominatorDf, f, p }
    })
  })
}
