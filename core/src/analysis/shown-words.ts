import { formatNumber, formatQuantity, shown as inMeasure, type UnitSystem } from '../quantity/index.ts'
import type { Treatments } from '../trial/index.ts'
import type { Analysis, Sentence } from './result.ts'
import { capital, inSentence } from './words.ts'
import type { ShownRow } from './both-ways.ts'

/** What is only shown beside the trial, in words: its values against the trial's mean, and that nothing is tested. */
export function shownAnswers(
  rows: readonly ShownRow[],
  { trait, grandMean, unit }: Analysis,
  { list }: Treatments,
  system: UnitSystem,
): Sentence[] {
  const amount = (value: number): string => formatQuantity(value, trait.unit, system, { digits: 3 })
  const number = (value: number): string => formatNumber(inMeasure(value, trait.unit, system).value, 3)
  return rows.map(({ treatment, values }): Sentence => {
    const { name } = list.find((each) => each.key === treatment)!
    const why = `one ${unit} beside the trial, dealt out by nobody`
    if (values.length === 0)
      return { text: `${capital(name)}, shown beside the trial, has no value yet.`, evidence: 'look', why, about: 'beside' }
    const all = values.map((each) => each.value)
    const mean = all.reduce((sum, each) => sum + each, 0) / all.length
    const where = values.length === 1 ? `one ${unit} beside the trial` : `one ${unit} beside the trial at each of ${values.length} sites`
    const range = values.length === 1 ? '' : ` on average (${number(Math.min(...all))} to ${amount(Math.max(...all))})`
    return {
      text: `${capital(name)} stood in ${where} and had ${amount(mean)}${range}, where the ${inSentence(trait.name)} of the trial was ${amount(grandMean)} on average: it is shown, and not tested.`,
      evidence: 'look',
      why,
      about: 'beside',
    }
  })
}
