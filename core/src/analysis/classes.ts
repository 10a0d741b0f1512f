import { formatConfidence, formatNumber, formatP, formatQuantity, plural, shown, type UnitSystem } from '../quantity/index.ts'
import { tTwoSided, tUpperQuantile } from '../statistics/index.ts'
import type { Factor, Treatments } from '../trial/index.ts'
import type { Analysis, MeanRow, Sentence } from './result.ts'
import { capital, inSentence, listed } from './words.ts'

/** Two classes of levels set against each other by their members. */
export interface ClassRow {
  readonly factor: string
  readonly a: string
  readonly b: string
  readonly difference: number
  readonly se: number
  /** Members beyond the first of each class: the plots behind them do not count. */
  readonly df: number
  readonly p: number
  readonly lower: number
  readonly upper: number
}

/**
 * Classes against each other, with the members within them as the error: what is claimed of a class
 * must hold for members that were not grown (the means of members as observations, one way). Only of
 * classes with two members or more.
 */
export function classRows({ terms, significance, scale }: Analysis, { factors }: Treatments): ClassRow[] {
  if (scale) return []
  return factors.flatMap((factor) => {
    const members = membersOf(factor, terms[factor.key]?.means ?? [])
    const several = [...members].filter(([, own]) => own.length > 1)
    if (several.length < 2) return []
    const df = several.reduce((sum, [, own]) => sum + own.length - 1, 0)
    const ss = several.reduce((sum, [, own]) => sum + own.reduce((total, x) => total + (x - mean(own)) ** 2, 0), 0)
    const half = tUpperQuantile(significance / 2, df)
    return several.flatMap(([a, first], i) =>
      several.slice(i + 1).map(([b, second]): ClassRow => {
        const difference = mean(first) - mean(second)
        const se = Math.sqrt((ss / df) * (1 / first.length + 1 / second.length))
        return {
          factor: factor.key,
          a,
          b,
          difference,
          se,
          df,
          p: tTwoSided(difference / se, df),
          lower: difference - half * se,
          upper: difference + half * se,
        }
      }),
    )
  })
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, each) => sum + each, 0) / values.length
}

/** Means of the members by class, in the order of the levels. */
function membersOf(factor: Factor, means: readonly MeanRow[]): Map<string, number[]> {
  const classes = new Map<string, number[]>()
  for (const level of factor.levels) {
    const own = means.find((each) => each.level === level.key)
    if (level.class !== undefined && own) classes.set(level.class, [...(classes.get(level.class) ?? []), own.mean])
  }
  return classes
}

/** The same in words; of a class with one member that nothing is claimed of it. */
export function classAnswers(analysis: Analysis, treatments: Treatments, system: UnitSystem): Sentence[] {
  const { trait, significance } = analysis
  const number = (value: number): string => formatNumber(shown(value, trait.unit, system).value, 2)
  const amount = (value: number): string => formatQuantity(value, trait.unit, system, { digits: 2 })
  const told = classRows(analysis, treatments).map((row): Sentence => {
    const factor = treatments.factors.find((each) => each.key === row.factor)!
    const [a, b, low, high] = row.difference >= 0 ? [row.a, row.b, row.lower, row.upper] : [row.b, row.a, -row.upper, -row.lower]
    const percent = formatConfidence(significance)
    const limits = `${percent} % interval ${number(low)} to ${amount(high)}`
    const by = `judged by how the ${plural(inSentence(factor.name))} within a ${factor.classes ?? 'class'} differ (${row.df} degrees of freedom), not by the ${plural(analysis.unit)}`
    const text =
      row.p < significance
        ? `${capital(a)} had ${amount(Math.abs(row.difference))} more ${inSentence(trait.name)} than ${b} (${limits}), ${by}.`
        : `${capital(a)} and ${b} were not told apart in ${inSentence(trait.name)} (p ${formatP(row.p)}; ${limits}), ${by}.`
    return {
      text,
      evidence: analysis.terms[row.factor]!.evidence.kind,
      why: `members as a sample of their ${factor.classes ?? 'class'}`,
      about: 'beside',
    }
  })
  const lone = treatments.factors.flatMap((factor) => {
    const single = [...membersOf(factor, analysis.terms[factor.key]?.means ?? [])].filter(([, own]) => own.length === 1)
    if (single.length === 0) return []
    const text = `Of ${listed(single.map(([name]) => name))} only one member was grown: nothing is claimed of the ${factor.classes ?? 'class'} from it.`
    return [{ text, evidence: 'look' as const, why: 'a single member', about: 'beside' as const }]
  })
  return [...told, ...lone]
}
