import { tTwoSided, tUpperQuantile, type MixedEstimate, type MixedFamily } from '../../statistics/index.ts'
import type { JudgedMean, TermMeans } from '../term-result.ts'

/** An estimate with its test against zero and its interval. */
export function estimated({ estimate, se, df }: MixedEstimate, level: number) {
  const half = tUpperQuantile(level / 2, df) * se
  const t = estimate / se
  return { estimate, se, df, t, p: tTwoSided(t, df), lower: estimate - half, upper: estimate + half }
}

/** Means of a family, as methods of comparison ask for some of them. `oneError`: their differences are nearly of one error. */
export function familyOf(family: MixedFamily, means: readonly JudgedMean[], oneError: boolean): TermMeans['estimates'] {
  return (among) => ({
    values: among.map((i) => means[i]!.estimate),
    covariance: (a, b) => family.covariance(among[a]!, among[b]!),
    differenceVariance: (a, b) => family.difference(among[a]!, among[b]!).se ** 2,
    df: (a, b) => family.difference(among[a]!, among[b]!).df,
    oneError,
    estimable: () => true,
  })
}
