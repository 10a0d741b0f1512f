import { designMatrix, fitLinear, type Covariate, type LinearFit } from '../statistics/index.ts'
import type { LayoutFrame } from './layout.ts'

/** The terms of the linear model: blocks of every kind, covariates, the treatments, and these with sites. */
export function linearTerms({ units, covariates, terms, sites, request }: LayoutFrame): string[][] {
  const bySite = sites ? terms.map((term) => ['site', ...term]) : []
  const own = request.options.slopes === 'separate' ? covariates.flatMap((each) => terms.map((term) => [...term, each.name])) : []
  return [
    ...units.filter((unit) => !unit.name.includes(':')).map((unit) => [unit.name]),
    ...covariates.map((each) => [each.name]),
    ...terms,
    ...bySite,
    ...own,
  ]
}

/** Where means are adjusted to, of a covariate: as asked, else at its mean. */
export function covariateAt({ request }: Pick<LayoutFrame, 'request'>, { name, values }: Covariate): number {
  return request.options.at[name] ?? values.reduce((sum, value) => sum + value, 0) / values.length
}

/** Covariates counted from where means are adjusted to, so that with a slope for each treatment these are tested there too. */
export function countedFromThere(frame: Pick<LayoutFrame, 'request' | 'covariates'>): Covariate[] {
  return frame.covariates.map((each) => {
    const at = covariateAt(frame, each)
    return { ...each, values: each.values.map((value) => value - at) }
  })
}

/** Least squares of the whole linear model, every kind of unit taken out as fixed. */
export function linearFit(frame: LayoutFrame, terms = linearTerms(frame)): LinearFit {
  const { units, factors, y, observed } = frame
  const covariates = countedFromThere(frame)
  const weights = frame.random.size > 0 ? null : observed.weights
  return fitLinear(designMatrix([...units, ...factors, ...covariates], terms, y.length), y, weights)
}

/** Kinds of unit that lie in a coarser kind, by the finest such kind. */
export function nesting(units: LayoutFrame['units']): Map<string, string> {
  return new Map(
    units.flatMap((unit, u) => {
      const holding = units.slice(0, u).filter((outer) => unit.levels.length > outer.levels.length && liesIn(unit.codes, outer.codes))
      const [finest] = [...holding].sort((a, b) => b.levels.length - a.levels.length)
      return finest ? [[unit.name, finest.name] as const] : []
    }),
  )
}

function liesIn(inner: Int32Array, outer: Int32Array): boolean {
  const seen = new Map<number, number>()
  inner.forEach((code, i) => seen.has(code) || seen.set(code, outer[i]!))
  return inner.every((code, i) => seen.get(code) === outer[i])
}
