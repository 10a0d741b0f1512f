import { analyseTrait } from '@canter/core/analysis'
import { decide, decisionInputs } from '@canter/core/decision'
import { TrialBook } from '@canter/core/numbers'
import { describe, expect, it } from 'vitest'
import { beetAtSites, beetTruth } from '../src/beet-sites.ts'
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

describe('the main demonstration: nitrogen for three varieties at four places in two seasons', () => {
  const sites = beetAtSites()
  const book = new TrialBook(sites.trial, sites.layouts, sites.records)
  const of = (trait: string, keys: (key: string) => boolean = () => true) => {
    const layouts = sites.layouts.filter((layout) => keys(layout.siteKey))
    return analyseTrait(sites.trial, layouts, book.observations(trait, 'harvest'), trait)
  }

  it('planned comparisons cover the truth they were drawn from, but for the control that was odd', () => {
    const { without } = of('clean-yield', (key) => key !== 'mere-end-2026')
    const truth = (rate: number, variety: number): number =>
      [0, 1, 2, 3, 0, 1, 2].reduce((sum, place) => sum + beetTruth(place, variety, rate).clean, 0) / 7
    const row = (name: string) => without.contrasts.find((each) => each.name === name)!
    const thrifty = row('Thrifty against mid-season variety, at 40 kg N/ha')
    const late = row('Late variety, 160 against 120 kg N/ha')
    for (const [found, gain] of [
      [thrifty, truth(40, 2) - truth(40, 0)],
      [late, truth(160, 1) - truth(120, 1)],
    ] as const)
      expect(Math.abs(found.estimate - gain)).toBeLessThan(3.5 * found.se)
    expect(row('Bend with nitrogen').estimate).toBeLessThan(0)
    expect(row('Bend with nitrogen').p).toBeLessThan(0.001)
    expect(without.tests.find((test) => test.term === 'nitrogen:variety')!.p).toBeLessThan(0.01)
  })

  it('its faults are there to be found: run-on water, lost plots, a wrong rate, swapped stakes, an odd control', () => {
    const { without, all } = of('clean-yield')
    expect([without.missing, without.leftOut, all.leftOut]).toEqual([2, 1, 0])
    const changes = sites.layouts.flatMap((layout) => layout.units.flatMap((unit) => Object.values(unit.changes)))
    expect(changes.filter((each) => each === 'misapplied')).toHaveLength(1)
    expect(changes).toContain('label corrected')
    const odd = of('clean-yield', (key) => key === 'mere-end-2026').without
    const other = of('clean-yield', (key) => key === 'mere-end-2025').without
    const control = (analysis: typeof odd) => {
      const mean = (level: string) => analysis.terms['nitrogen']!.means.find((each) => each.level === level)!.mean
      return mean('r40') - mean('r0')
    }
    expect(control(other) - control(odd)).toBeGreaterThan(4)
    expect(of('clean-yield', (key) => key === 'chalk-down-2026').without.terms['nitrogen']!.evidence.kind).toBe('compare')
  })

  it('oat lines in small blocks are told apart after the blocks they stood in', () => {
    const oats = demoTrials().find((each) => each.trial.question.crop === 'Oats')!
    const { without } = analyseTrait(
      oats.trial,
      oats.layouts,
      new TrialBook(oats.trial, oats.layouts, oats.records).observations('grain-weight', 'harvest'),
      'grain-weight',
    )
    const [line] = without.tests.filter((test) => test.term === 'line')
    // Blocks hold a part of the lines: how much they differ is fitted as chance.
    const block = without.mixed!.parameters.find((each) => each.name === 'block')!
    expect(line!.df).toBe(23)
    expect(block.test!.p).toBeLessThan(0.001)
  })
})
