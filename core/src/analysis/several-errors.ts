import {
  meanWeights,
  componentErrors,
  strataAnova,
  stratumContrast,
  stratumMean,
  fUpper,
  tTwoSided,
  tUpperQuantile,
  varianceComponents,
  type Classification,
  type StrataAnova,
  type StratumContrast,
} from '../statistics/index.ts'
import { crossing, type LayoutFrame } from './layout.ts'
import { linearFit } from './linear-model.ts'
import type { Judged } from './one-error.ts'
import { plannedContrasts } from './planned.ts'
import type { SimpleEffectRow } from './result.ts'
import type { JudgedMean, TermMeans } from './term-result.ts'

/** Units of a kind hold as many observations each: else their differences are not of one variance. */
function alike(units: readonly Classification[]): boolean {
  return units.every(({ levels, codes }) => {
    const counts = new Int32Array(levels.length)
    for (const code of codes) counts[code]!++
    return counts.every((count) => count === counts[0])
  })
}

/**
 * Several errors: each term is held against the differences between the units it was applied
 * to. Null where plots are lost or treatments unevenly spread, and these tests do not hold.
 */
export function inSeveralErrors(frame: LayoutFrame): Judged | null {
  const { y, units, factors, terms, sites, random, observed, finest, request } = frame
  // A covariate takes orthogonality away.
  if (frame.covariates.length > 0) return null
  const bySite = sites && !random.has('site') ? terms.map((term) => ['site', ...term]) : []
  const table = strataAnova(y, units, bySite.length > 0 ? [sites!, ...factors] : factors, [...terms, ...bySite])
  if (!table.orthogonal || observed.missing + observed.leftOut > 0 || !alike(units.filter((unit) => random.has(unit.name)))) return null
  // A sample of sites that differ less in what treatments do than their plots do by chance: as where plots are lost, that variance is zero.
  const [components, spread] = [varianceComponents(table, units), componentErrors(table, units)]
  if (random.has('site') && units.some((unit, u) => random.has(unit.name) && unit.name.includes(':') && components[u]! < 0)) return null
  const nameOf = (stratum: string): string => (stratum === 'observation' ? finest : stratum)
  const grand = Math.abs(table.grandMean)
  const { planned, lacking } = plannedContrasts(frame)
  // Between sites that are a sample, only the model with these very sites can compare.
  const contrasts = planned.filter((each) => !(each.term.includes('site') && random.has('site')))
  return {
    fit: linearFit(frame),
    tests: table.strata.flatMap(({ name, terms: rows, error }) =>
      rows.map((row) => ({ ...row, stratum: nameOf(name), errorDf: error.df })),
    ),
    errors: table.strata.map(({ name, error }) => ({ stratum: nameOf(name), ...error, cv: (100 * Math.sqrt(error.ms)) / grand })),
    components: table.strata.flatMap(({ name }, s) =>
      random.has(name) || s === table.strata.length - 1 ? [{ unit: nameOf(name), variance: components[s]!, se: spread[s]! }] : [],
    ),
    terms: terms.flatMap((term) => [
      meansOf(frame, table, term, term),
      ...(bySite.length > 0 ? [meansOf(frame, table, ['site', ...term], term)] : []),
    ]),
    contrasts: contrasts.map((planned) => {
      const cells = crossing(planned.term, [...(sites ? [sites] : []), ...factors])
      const w = new Float64Array(y.length)
      cells.levels.forEach((level, l) => {
        const c = planned.coefficients[level] ?? 0
        if (c !== 0) meanWeights(y.length, (i) => cells.codes[i] === l).forEach((each, i) => (w[i]! += c * each))
      })
      const found = stratumContrast(y, units, table, w)
      const half = tUpperQuantile(request.options.significance / 2, found.df) * found.se
      const t = found.estimate / found.se
      return {
        ...planned,
        ...found,
        t,
        p: tTwoSided(t, found.df),
        lower: found.estimate - half,
        upper: found.estimate + half,
        ss: NaN,
        estimable: true,
      }
    }),
    covariates: [],
    lacking,
  }
}

function meansOf(frame: LayoutFrame, table: StrataAnova, names: readonly string[], term: readonly string[]): TermMeans {
  const { y, units, factors, sites, random, request } = frame
  const { significance } = request.options
  const bySite = names.length > term.length
  const cells = crossing(names, bySite ? [sites!, ...factors] : factors)
  const weights = cells.levels.map((_, l) => meanWeights(y.length, (i) => cells.codes[i] === l))
  const means = cells.levels.map((level, l): JudgedMean => {
    const { estimate, se, df } = stratumMean(y, units, table, weights[l]!, random)
    const half = tUpperQuantile(significance / 2, df) * se
    return { level, n: cells.codes.filter((code) => code === l).length, estimate, se, df, lower: estimate - half, upper: estimate + half }
  })
  const known = new Map<number, StratumContrast>()
  const difference = (a: number, b: number): StratumContrast => {
    const at = a * means.length + b
    if (!known.has(at)) {
      const apart = weights[a]!.map((each, i) => each - weights[b]![i]!)
      known.set(at, stratumContrast(y, units, table, apart))
    }
    return known.get(at)!
  }
  const estimates: TermMeans['estimates'] = (among) => {
    const first = among.length > 1 ? difference(among[0]!, among[1]!).stratum : -1
    // All differences in one stratum have one error, and its mean square judges them like any means.
    const single = first !== -1 && among.every((a, i) => among.slice(i + 1).every((b) => difference(a, b).stratum === first))
    const ms = single ? table.strata[first]!.error.ms : NaN
    const between = (a: number, b: number): StratumContrast => difference(Math.min(among[a]!, among[b]!), Math.max(among[a]!, among[b]!))
    return {
      values: among.map((i) => means[i]!.estimate),
      covariance: (a, b) => (a === b ? ms / means[among[a]!]!.n : 0 * ms),
      differenceVariance: (a, b) => between(a, b).se ** 2,
      df: (a, b) => between(a, b).df,
      oneError: single,
      estimable: () => true,
    }
  }
  const simple = term.length === 2 && !bySite ? simpleEffectsOf(means, term, factors, difference) : []
  return { term, bySite, means, estimates, ms: NaN, simpleEffects: simple }
}

type Difference = (a: number, b: number) => StratumContrast
type Factor = LayoutFrame['factors'][number]

/**
 * F of one factor at each level of the other. Its error is half the squared SED times n, which is
 * the mean square of the stratum where all differences lie in one, and Satterthwaite's mixture
 * where they draw on several; left out where pairs have unlike SED.
 */
function simpleEffectsOf(
  means: readonly JudgedMean[],
  term: readonly string[],
  factors: LayoutFrame['factors'],
  difference: Difference,
): SimpleEffectRow[] {
  const placeOf = new Map(means.map((mean, i) => [mean.level, i]))
  return [0, 1].flatMap((which) => {
    const [tested, within] = [which, 1 - which].map((at) => factors.find((factor) => factor.name === term[at])!) as [Factor, Factor]
    return within.levels.flatMap((level): SimpleEffectRow[] => {
      const own = tested.levels.flatMap((each) => placeOf.get(which === 0 ? `${each}:${level}` : `${level}:${each}`) ?? [])
      if (own.length < 2) return []
      const { se, df: errorDf } = difference(own[0]!, own[1]!)
      const { n } = means[own[0]!]!
      const even = own.every((a, k) => own.slice(k + 1).every((b) => means[b]!.n === n && Math.abs(difference(a, b).se - se) <= 1e-9 * se))
      if (!even) return []
      const middle = own.reduce((sum, i) => sum + means[i]!.estimate, 0) / own.length
      const ss = own.reduce((sum, i) => sum + n * (means[i]!.estimate - middle) ** 2, 0)
      const df = own.length - 1
      const f = ss / df / ((se * se * n) / 2)
      return [{ factor: tested.name, within: within.name, level, df, errorDf, f, p: fUpper(f, df, errorDf) }]
    })
  })
}
