import { analyseTrait } from '@canter/core/analysis'
import { decide, decisionInputs } from '@canter/core/decision'
import { TrialBook } from '@canter/core/numbers'
import { expect, it } from 'vitest'
import { demoTrials, sugarBeet } from '../src/index.ts'

const beet = sugarBeet()
const book = new TrialBook(beet.trial, beet.layouts, beet.records)
const analysed = (trait: string) => analyseTrait(beet.trial, beet.layouts, book.observations(trait, 'harvest'), trait)

it('the demonstration is the same on every machine', () => {
  expect(sugarBeet()).toEqual(beet)
  expect(demoTrials().map((each) => each.trial.id)).toEqual([...new Set(demoTrials().map((each) => each.trial.id))])
})

it('the analysis finds the truth the data were drawn from', () => {
  const { without } = analysed('clean-yield')
  const { means, letters } = without.terms['nitrogen']!
  for (const mean of means) {
    const rate = Math.min(125, Number(mean.level.slice(1)))
    const truth = 55 + 0.31 * rate - 0.00124 * rate * rate
    // Blocks have their own level: means are of these four blocks, so three standard errors and theirs.
    expect(Math.abs(mean.mean - truth)).toBeLessThan(3 * mean.se + 3)
  }
  expect(letters['tukey']!['r0']).not.toBe(letters['tukey']!['r120'])
})

it('the planted faults are there to be found', () => {
  const { without, all } = analysed('sugar-yield')
  expect([without.missing, without.leftOut, all.leftOut]).toEqual([1, 1, 0])
  const [out] = beet.records.filter((record) => record.type === 'note' && record.kind === 'left out')
  const worst = all.residuals.reduce((a, b) => (Math.abs(b.studentised) > Math.abs(a.studentised) ? b : a))
  expect(worst.unit).toBe(out!.type === 'note' && out!.unit)
  expect(all.errors[0]!.cv).toBeGreaterThan(without.errors[0]!.cv)
  const slips = beet.records.filter((record) => record.type === 'reading' && record.supersedes.length > 0)
  expect(slips).toHaveLength(1)
  const decision = decide(beet.trial, beet.layouts, decisionInputs(beet.trial, beet.layouts, book), beet.trial.prices)
  expect(decision.ok && Number(decision.decision.best.treatment.key.slice(1))).toBeGreaterThanOrEqual(80)
})
