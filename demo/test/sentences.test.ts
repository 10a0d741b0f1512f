import { readFileSync, writeFileSync } from 'node:fs'
import { analyseTrait, AnalysisError, classAnswers, shownAnswers } from '@canter/core/analysis'
import { decide, decisionInputs, decisionSentences } from '@canter/core/decision'
import { TrialBook } from '@canter/core/numbers'
import { asOf, visitsOf } from '@canter/core/trial'
import { expect, it } from 'vitest'
import type { TrialContents } from '@canter/core/exchange'
import { demoTrials } from '../src/index.ts'

const golden = new URL('sentences.txt', import.meta.url)

/** All that the demonstration says of a trial's response and of its money. */
function saidOf({ trial, layouts, records }: TrialContents): string[] {
  const book = new TrialBook(trial, layouts, records)
  const key = trial.traits.response
  const visit = visitsOf(trial.traits, key).at(-1)
  const own = visit === undefined ? null : book.observations(key, visit)
  if (layouts.length === 0 || own === null || own.observations.length === 0) return ['Nothing is measured yet.']
  const { treatments } = asOf({ treatments: trial.treatments, layouts }, own.day)
  const { without, all, shown } = analyseTrait(trial, layouts, own, key)
  const decision = decide(trial, layouts, decisionInputs(trial, layouts, book), trial.prices)
  return [
    ...without.sentences.map(({ evidence, text }) => `[${evidence}] ${text}`),
    ...classAnswers(without, treatments, 'metric').map(({ evidence, text }) => `[${evidence}] ${text}`),
    ...shownAnswers(shown, without, treatments, 'metric').map(({ evidence, text }) => `[${evidence}] ${text}`),
    ...(all === without ? [] : [`With nothing left out: ${all.sentences[0]!.text}`]),
    ...without.cautions.map(({ text }) => `Caution: ${text}`),
    ...(decision.ok
      ? decisionSentences(decision.decision, treatments, trial.prices.currency, 'metric').map((text) => `Money: ${text}`)
      : [`Money: ${decision.problem}`]),
  ]
}

// With CANTER_GOLDEN=write the file is written anew, to be read before it is kept.
it('the demonstration says what was read and kept', () => {
  const said = demoTrials()
    .map((demo) => {
      try {
        return [`# ${demo.trial.question.title}`, ...saidOf(demo)].join('\n')
      } catch (error) {
        if (error instanceof AnalysisError) return `# ${demo.trial.question.title}\n${error.message}`
        throw error
      }
    })
    .join('\n\n')
    .concat('\n')
  if (process.env['CANTER_GOLDEN'] === 'write') writeFileSync(golden, said)
  expect(said).toBe(readFileSync(golden, 'utf8'))
})
