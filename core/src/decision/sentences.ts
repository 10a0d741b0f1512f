import { listed, spokenTreatment } from '../analysis/index.ts'
import { formatConfidence, formatQuantity, type UnitSystem } from '../quantity/index.ts'
import type { Treatments } from '../trial/index.ts'
import type { Decision } from './returns.ts'

/** The money answer in words, the range of chance beside it. */
export function decisionSentences(decision: Decision, treatments: Treatments, currency: string, system: UnitSystem): string[] {
  const { best, reference } = decision
  const money = (value: number): string => formatQuantity(value, 'money/ha', system, { digits: 3, currency })
  const name = (key: string): string => spokenTreatment(treatments, key, system)
  const sentences: string[] = []
  if (best.treatment.key === reference.key) {
    sentences.push(`At these prices nothing returned more than ${name(reference.key)}.`)
  } else {
    const { difference, lower, upper, odds } = best.gain
    const chance = Number.isFinite(odds)
      ? ` (${money(lower)} to ${money(upper)} with ${formatConfidence(decision.significance)} % confidence; the odds that it pays are ${oddsInWords(odds)})`
      : ''
    sentences.push(
      `At these prices ${name(best.treatment.key)} returned most: ${money(difference)} more than ${name(reference.key)} after its cost${chance}${decision.tested ? '' : '; nothing tells how much of that is chance'}.`,
    )
  }
  const close = decision.tested ? decision.returns.filter((each) => each !== best && !each.toldFromBest) : []
  if (close.length > 0) {
    const list = listed(close.map((each) => name(each.treatment.key)))
    sentences.push(
      `The ${close.length === 1 ? 'return' : 'returns'} of ${list} could not be told from it at the level set; labour, risk and water may decide between them.`,
    )
  }
  const { sites } = decision
  const places = sites.length - decision.again
  const where = places === 1 ? 'One site' : `${places} sites`
  const rates = treatments.factors.some((factor) => factor.kind === 'rate')
    ? ', and rates between or above those grown were not tested'
    : ''
  const years =
    decision.seasons.length === 1
      ? 'one season'
      : `${decision.seasons.length} seasons, ${decision.again > 0 ? 'on the same plots' : 'each on its own ground'}`
  sentences.push(`${where}, ${years}: prices and weather elsewhere will differ${rates}.`)
  return sentences
}

/** `9 in 10`, finer near the ends, never more certain than `more than 99 in 100`. */
export function oddsInWords(odds: number): string {
  if (!Number.isFinite(odds)) return '–'
  if (odds > 0.99) return 'more than 99 in 100'
  if (odds < 0.01) return 'less than 1 in 100'
  if (odds >= 0.945 || odds < 0.055) return `${Math.round(odds * 100)} in 100`
  return `${Math.round(odds * 10)} in 10`
}
