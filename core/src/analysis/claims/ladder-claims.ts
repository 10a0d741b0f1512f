import { weakest } from '../evidence.ts'
import type { TermResult } from '../result.ts'
import type { Difference, Ladder } from './claim.ts'
import { differenceOf, evident, limitsOf, observedMean, pOf, type Pair, type Source } from './size.ts'

/** Along amounts: where it still rises at the last, levels off, or has passed its best; each pair by itself. */
export function ladderClaims(source: Source, term: TermResult): Ladder[] {
  const { analysis } = source
  const words = analysis.vocabulary.factors[term.term]
  const levels = words?.ladder?.filter((level) => term.means.some((mean) => mean.level === level)) ?? []
  if (levels.length < 3 || analysis.scale) return []
  const { better } = analysis.vocabulary.trait
  const mean = (level: string): number => observedMean(term.means.find((each) => each.level === level))
  const values = levels.map(mean)
  // Without a better way the larger movement along the amounts is followed.
  const sign =
    better === 'less' ? -1 : better === 'more' ? 1 : Math.max(...values) - values[0]! >= values[0]! - Math.min(...values) ? 1 : -1
  const step = (from: string, to: string): (Pair & { p: number; gain: number }) | null => {
    const pair = source.pair(term.term, to, from)
    return pair && Number.isFinite(pair.sed) && pair.sed > 0 ? { ...pair, p: pOf(pair, 1), gain: sign * pair.difference } : null
  }
  const claim = (pair: Pair): Difference =>
    differenceOf(analysis, term.term, pair, limitsOf(pair, analysis.significance, 1), pOf(pair, 1), { origin: 'step' }, false)
  const told = (one: { p: number; gain: number } | null): boolean => one !== null && one.gain > 0 && one.p < analysis.significance
  const gains = levels.map((from, i) => levels.slice(i + 1).map((to) => step(from, to)))
  const pairs = gains.flat()
  if (pairs.some((each) => each === null || each.evidence.kind === 'look')) return []
  const start = gains.findIndex((each) => !each.some(told))
  const last = levels.length - 1
  const best = values.reduce((top, value, i) => (sign * value > sign * values[top]! ? i : top), 0)
  const fall = best < last ? step(levels[best]!, levels[last]!)! : null
  const common = {
    kind: 'ladder' as const,
    factor: term.term,
    last: levels[last]!,
    better,
    ...evident({ evidence: weakest(pairs.map((each) => each!.evidence)) }),
  }
  if (fall && fall.gain < 0 && fall.p < analysis.significance)
    return [
      best === 0
        ? { ...common, shape: 'falling', turn: levels[0]!, step: claim(fall), hidden: null }
        : { ...common, shape: 'past its best', turn: levels[best]!, step: claim(fall), hidden: null },
    ]
  if (start === 0) return []
  if (start === last)
    return [{ ...common, shape: 'rising', turn: levels[last]!, step: claim(step(levels[last - 1]!, levels[last]!)!), hidden: null }]
  const upper = gains[start]!.map((each) => {
    const { lower, upper: high } = limitsOf(each!, analysis.significance, 1)
    return sign > 0 ? high : -lower
  })
  return [{ ...common, shape: 'level off', turn: levels[start]!, step: null, hidden: Math.max(0, ...upper) }]
}
