import { orthogonalPolynomials } from '../statistics/index.ts'
import { isInside, type PlannedComparison, type Treatment, type Treatments } from '../trial/index.ts'

/**
 * The coefficient of each treatment in a planned comparison, by treatment; they sum to zero. Of two
 * sides each counts one in all. Of a trend the estimate is the slope, or the coefficient of the square,
 * per measure of the factor (least squares on the means of its amounts).
 */
export function coefficientsOf({ of }: Pick<PlannedComparison, 'of'>, treatments: Treatments): Readonly<Record<string, number>> {
  if (of.kind === 'sides') {
    return Object.fromEntries([
      ...of.plus.map((each) => [each, 1 / of.plus.length] as const),
      ...of.minus.map((each) => [each, -1 / of.minus.length] as const),
    ])
  }
  const factor = treatments.factors.find((each) => each.key === of.factor)!
  const members = crossedWith(of.factor, treatments)
  const levels = factor.levels.filter((level) => members.some((each) => each.levels[of.factor] === level.key))
  const x = levels.map((level) => level.amount ?? 0)
  if (levels.length <= of.degree) return {}
  const shape = orthogonalPolynomials(x, of.degree).at(-1)!
  const scale = shape.reduce((sum, c, i) => sum + c * x[i]! ** of.degree, 0)
  return Object.fromEntries(
    members.map((each) => {
      const at = levels.findIndex((level) => level.key === each.levels[of.factor])
      const sharing = members.filter((other) => other.levels[of.factor] === each.levels[of.factor]).length
      return [each.key, shape[at]! / scale / sharing]
    }),
  )
}

/** Treatments over which the amounts of a factor can be averaged alike: those of what has every amount, where there is such. */
function crossedWith(key: string, { factors, list }: Treatments): readonly Treatment[] {
  const inside = list.filter((each) => isInside(each, factors))
  const rest = (each: Treatment): string =>
    factors
      .filter((factor) => factor.key !== key)
      .map((factor) => each.levels[factor.key])
      .join('|')
  const present = new Set(inside.map((each) => each.levels[key]))
  const whole = inside.filter((each) => inside.filter((other) => rest(other) === rest(each)).length === present.size)
  return whole.length > 0 ? whole : inside
}
