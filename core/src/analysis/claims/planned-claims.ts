import type { ContrastRow } from '../result.ts'
import type { Difference, Trend, Weighted } from './claim.ts'
import { byFactors } from './by-factors.ts'
import { contrastSize, observedMean, strengthOf, type Analysed } from './size.ts'

/** What came of the comparisons planned beforehand, over all sites or at one of them, in their order. */
export function plannedClaims(analysis: Analysed, site: string | null = null): (Difference | Trend | Weighted)[] {
  return analysis.contrasts.filter((row) => row.site === site && Number.isFinite(row.p)).map((row) => plannedClaim(analysis, row))
}

function plannedClaim(analysis: Analysed, row: ContrastRow): Difference | Trend | Weighted {
  const { trend, coefficients, name, late, p } = row
  const common = {
    name,
    late,
    p,
    strength: strengthOf(p, analysis.significance, row.evidence),
    evidence: row.evidence.kind,
    why: row.evidence.why,
  }
  if (trend) {
    const per = trend.degree === 1 ? stepOf(analysis, trend.factor) : stepOf(analysis, trend.factor) ** trend.degree
    return {
      kind: 'trend',
      ...common,
      factor: trend.factor,
      degree: trend.degree,
      size: contrastSize(analysis, row, trend.scale * per, [NaN, NaN]),
      per,
      reservations: [],
    }
  }
  const sides = isCrossing(coefficients) ? null : sidesOf(coefficients)
  if (!sides)
    return { kind: 'weighted', ...common, factors: row.term.split(':'), reservations: [], size: contrastSize(analysis, row, 1, [NaN, NaN]) }
  const means = analysis.terms[row.term]?.means ?? []
  const mean = (levels: readonly string[]): number =>
    levels.reduce((sum, level) => sum + observedMean(means.find((each) => each.level === level)), 0) / levels.length
  const { what, against, at } = byFactors(analysis.vocabulary, row.term, sides.plus, sides.minus)
  return {
    kind: 'difference',
    origin: 'planned',
    ...common,
    what,
    against,
    at: [...(row.site === null ? [] : [{ factor: 'site', level: row.site }]), ...at],
    size: contrastSize(analysis, row, 1 / sides.total, [mean(sides.plus), mean(sides.minus)]),
    among: 1,
    picked: 1,
    reservations: [],
  }
}

/** The mean step of a factor's amounts. */
function stepOf({ vocabulary }: Analysed, factor: string): number {
  const amounts = Object.values(vocabulary.factors[factor]?.amounts ?? {})
  return amounts.length > 1 ? (Math.max(...amounts) - Math.min(...amounts)) / (amounts.length - 1) : 1
}

/** A difference of differences: of several factors both sides have the same levels of each. */
function isCrossing(coefficients: Readonly<Record<string, number>>): boolean {
  const own = Object.entries(coefficients).filter(([, c]) => c !== 0)
  const factors = own[0]![0].split(':').length
  const levels = (sign: number, f: number): string =>
    [...new Set(own.flatMap(([level, c]) => (sign * c > 0 ? [level.split(':')[f]] : [])))].sort().join('|')
  return factors > 1 && Array.from({ length: factors }, (_, f) => levels(1, f) === levels(-1, f)).every(Boolean)
}

/** Levels whose plain means are set against each other; null where some count more than others. */
function sidesOf(coefficients: Readonly<Record<string, number>>): { plus: string[]; minus: string[]; total: number } | null {
  const side = (sign: number): [string, number][] => Object.entries(coefficients).filter(([, c]) => sign * c > 0)
  const even = (of: readonly [string, number][]): boolean => of.every(([, c]) => Math.abs(c - of[0]![1]) < 1e-9 * Math.abs(c))
  const [plus, minus] = [side(1), side(-1)]
  if (plus.length === 0 || minus.length === 0 || !even(plus) || !even(minus)) return null
  return {
    plus: plus.map(([level]) => level),
    minus: minus.map(([level]) => level),
    total: plus.reduce((sum, [, c]) => sum + c, 0),
  }
}
