import { fLower, fQuantile, fUpper } from '../distribution/f.ts'
import { normalQuantile } from '../distribution/normal.ts'
import { tLower, tTwoSided, tUpper, tUpperQuantile } from '../distribution/t.ts'

export interface Sample {
  readonly n: number
  readonly mean: number
  readonly sd: number
}

export function describeSample(values: ArrayLike<number>): Sample {
  const n = values.length
  let mean = 0
  for (let i = 0; i < n; i++) mean += values[i]! / n
  let squares = 0
  for (let i = 0; i < n; i++) squares += (values[i]! - mean) ** 2
  return { n, mean, sd: Math.sqrt(squares / (n - 1)) }
}

/** A mean or a difference of means with its t test; limits two-sided at the level. */
export interface MeanTest {
  readonly estimate: number
  readonly se: number
  readonly df: number
  readonly t: number
  readonly p: number
  readonly pLess: number
  readonly pGreater: number
  readonly lower: number
  readonly upper: number
}

function meanTest(estimate: number, se: number, df: number, level: number): MeanTest {
  const t = estimate / se
  const half = tUpperQuantile(level / 2, df) * se
  return {
    estimate,
    se,
    df,
    t,
    p: tTwoSided(t, df),
    pLess: tLower(t, df),
    pGreater: tUpper(t, df),
    lower: estimate - half,
    upper: estimate + half,
  }
}

/** First minus second without assuming equal variances; df by Satterthwaite (Welch, Biometrika 34, 1947). */
export function welchTest(a: Sample, b: Sample, level = 0.05): MeanTest {
  const [va, vb] = [a.sd ** 2 / a.n, b.sd ** 2 / b.n]
  return meanTest(a.mean - b.mean, Math.sqrt(va + vb), (va + vb) ** 2 / (va ** 2 / (a.n - 1) + vb ** 2 / (b.n - 1)), level)
}

/** First minus second with one variance for both. */
export function pooledTest(
  a: Sample,
  b: Sample,
  level = 0.05,
): MeanTest & { readonly sd: number; readonly cohenD: number; readonly hedgesG: number } {
  const df = a.n + b.n - 2
  const sd = Math.sqrt(((a.n - 1) * a.sd ** 2 + (b.n - 1) * b.sd ** 2) / df)
  const test = meanTest(a.mean - b.mean, sd * Math.sqrt(1 / a.n + 1 / b.n), df, level)
  const cohenD = test.estimate / sd
  return { ...test, sd, cohenD, hedgesG: (1 - 3 / (4 * df - 1)) * cohenD }
}

/** The mean of one sample (differences of pairs, say) against zero. */
export function oneSampleTest(differences: Sample, level = 0.05): MeanTest {
  return meanTest(differences.mean, differences.sd / Math.sqrt(differences.n), differences.n - 1, level)
}

export interface Equivalence {
  readonly tLower: number
  readonly tUpper: number
  readonly pLower: number
  readonly pUpper: number
  /** The larger of the two: below the level, the difference lies inside the margin. */
  readonly p: number
}

/** Two one-sided tests that a difference lies within ± margin (Schuirmann, J. Pharmacokin. Biopharm. 15, 1987). */
export function equivalenceTest({ estimate, se, df }: Pick<MeanTest, 'estimate' | 'se' | 'df'>, margin: number): Equivalence {
  const above = (estimate + margin) / se
  const below = (estimate - margin) / se
  const [pLower, pUpper] = [tUpper(above, df), tLower(below, df)]
  return { tLower: above, tUpper: below, pLower, pUpper, p: Math.max(pLower, pUpper) }
}

/** var(a)/var(b) with its two-sided F test and limits. */
export function varianceRatioTest(
  a: Sample,
  b: Sample,
  level = 0.05,
): { f: number; df1: number; df2: number; p: number; lower: number; upper: number } {
  const f = a.sd ** 2 / b.sd ** 2
  const [df1, df2] = [a.n - 1, b.n - 1]
  const p = Math.min(1, 2 * Math.min(fLower(f, df1, df2), fUpper(f, df1, df2)))
  return { f, df1, df2, p, lower: f / fQuantile(1 - level / 2, df1, df2), upper: f / fQuantile(level / 2, df1, df2) }
}

/** Product-moment correlation, its t test, and limits by Fisher's z. */
export function correlation(
  a: ArrayLike<number>,
  b: ArrayLike<number>,
  level = 0.05,
): { r: number; p: number; lower: number; upper: number } {
  const n = a.length
  const [x, y] = [describeSample(a), describeSample(b)]
  let product = 0
  for (let i = 0; i < n; i++) product += (a[i]! - x.mean) * (b[i]! - y.mean)
  const r = product / ((n - 1) * x.sd * y.sd)
  const half = -normalQuantile(level / 2) / Math.sqrt(n - 3)
  const z = Math.atanh(r)
  return { r, p: tTwoSided(r * Math.sqrt((n - 2) / (1 - r * r)), n - 2), lower: Math.tanh(z - half), upper: Math.tanh(z + half) }
}
