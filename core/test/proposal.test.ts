import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { designOf, proposeDesign, type GroundAnswers } from '../src/design/index.ts'
import type { TrialDraft } from '../src/trial/index.ts'
import { crossed, designed, entries, ladder, trialWith, twoFactors } from './build.ts'

const choiceOf = (replicates: number): TrialDraft['sites'][0]['design'] => designed(trialWith(4, replicates), {}).sites[0]!.design
const NOTHING: GroundAnswers = { hard: null, ways: 1, even: null, single: false }
const proposed = (treatments: TrialDraft['treatments'], answers: Partial<GroundAnswers>, replicates = 4) =>
  proposeDesign({ treatments, choice: choiceOf(replicates) }, { ...NOTHING, ...answers })!

describe('a design proposed from what a person can say', () => {
  it.each([
    ['six rates on ground that falls one way', ladder(6), {}, 4, 'randomised-block', /side by side on ground that is even/],
    [
      'twenty-four entries, eight on even ground',
      entries(24),
      { even: 8 },
      3,
      'alpha-lattice',
      /24 treatments do not lie on 8 even plots: .* blocks of 8/,
    ],
    ['twenty-four entries on ground that changes both ways', entries(24), { even: 6, ways: 2 }, 3, 'row-column', /rows and columns/],
    ['five rates, five times, both ways', ladder(5), { ways: 2 }, 5, 'latin-square', /square/],
    ['seven rates, four times, both ways', ladder(7), { ways: 2 }, 4, 'incomplete-latin-square', /4 rows are enough/],
    ['water that cannot be changed', twoFactors(), { hard: 'water' }, 3, 'split-plot', /water cannot be changed from plot to plot/],
    ['three factors of two levels, four on even ground', crossed(2, 2, 2), { even: 4 }, 3, 'confounded', /highest interaction/],
    ['seed for one plot, with checks', entries(30, 2), { single: true }, 4, 'augmented', /checks/],
    ['seed for one plot, without', entries(30), { single: true }, 2, 'partially-replicated', /stand twice/],
    ['an even bench', ladder(4), { ways: 0, even: 40 }, 5, 'completely-randomised', /all 20 plots lie on even ground/],
  ] as const)('%s', (_, treatments, answers, replicates, key, why) => {
    const found = proposed(treatments, answers, replicates)
    expect(found.design.key).toBe(key)
    expect(found.why).toMatch(why)
  })

  it('can always be laid out as proposed, whatever was said', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(ladder(3), ladder(7), entries(25), entries(31, 2), crossed(2, 2, 2), crossed(3, 4), twoFactors()),
        fc.record({
          hard: fc.constantFrom(null, 'f1', 'water', 'nobody'),
          ways: fc.constantFrom(0, 1, 2),
          even: fc.option(fc.integer({ min: 1, max: 60 })),
          single: fc.boolean(),
        }),
        fc.integer({ min: 1, max: 8 }),
        (treatments, answers, replicates) => {
          const found = proposed(treatments, answers, replicates)
          expect(designOf(found.choice.key)!.problems({ treatments, choice: found.choice })).toEqual([])
          expect(found.why).toMatch(/^Because .*\.$/)
        },
      ),
    )
  })
})
