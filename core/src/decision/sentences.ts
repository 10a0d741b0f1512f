import { spoken } from '../analysis/index.ts'
import { formatQuantity, type UnitSystem } from '../quantity/index.ts'
import type { Factor } from '../trial/index.ts'
import type { Decision } from './returns.ts'

/** The money answer in words, the range of chance beside it. */
export function decisionSentences(decision: Decision, factor: Factor, currency: string, system: UnitSystem): string[] {
  const { best, reference } = decision
  const money = (value: number): string => formatQuantity(value, 'money/ha', system, { digits: 3, currency })
  const name = (key: string): string => spoken(factor, key, system)
  const sentences: string[] = []
  if (best.level.key === reference.key) {
    sentences.push(`At these prices nothing returned more than ${name(reference.key)}.`)
  } else {
    const { difference, lower, upper, odds } = best.gain
    const chance = Number.isFinite(odds)
      ? ` (${money(lower)} to ${money(upper)} with ${Math.round(100 * (1 - decision.significance))} % confidence; the odds that it pays are ${oddsInWords(odds)})`
      : ''
    sentences.push(
      `At these prices ${name(best.level.key)} returned most: ${money(difference)} more than ${name(reference.key)} after its cost${chance}.`,
    )
    const close = decision.levels.filter((each) => each !== best && best.net - each.net < Math.max(0, (upper - lower) / 4))
    if (close.length > 0) {
      const list = close.map((each) => name(each.level.key)).join(', ')
      sentences.push(
        `${list.charAt(0).toUpperCase()}${list.slice(1)} came within what this trial can tell apart; labour, risk and water may decide between them.`,
      )
    }
  }
  sentences.push('One site, one season: prices and weather elsewhere will differ, and rates between or above those grown were not tested.')
  return sentences
}

/** `9 in 10`, never more certain than `more than 99 in 100`. */
export function oddsInWords(odds: number): string {
  if (!Number.isFinite(odds)) return '–'
  if (odds > 0.99) return 'more than 99 in 100'
  if (odds < 0.01) return 'less than 1 in 100'
  return `${Math.round(odds * 100)} in 100`
}
