import { describe, expect, it } from 'vitest'
import { analyseTrait, shownAnswers } from '../src/analysis/index.ts'
import { designs, planEfficiency, uneven } from '../src/design/index.ts'
import { applyPatch, checkTrial, DocumentError } from '../src/document/index.ts'
import { layOut, layoutFigures, layoutProblems } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { treatmentOn, treatmentsDealt, type Layout, type Treatments, type Trial } from '../src/trial/index.ts'
import { asTrial, countingIds, ladder, readingOf, trialFor, trialWith } from './build.ts'

/** Treatments with one more outside them that is only shown. */
const withShown = (treatments: Treatments): Treatments => ({
  ...treatments,
  list: [...treatments.list, { key: 'full', code: 'FULL', name: 'Full stand', colour: null, role: 'shown', levels: {} }],
})
const finest = (layout: Layout) => layout.units.filter((unit) => unit.kind === 'plot')
const values = (layouts: readonly Layout[]) =>
  layouts.flatMap((layout) =>
    finest(layout).map((plot, i) =>
      readingOf(plot.id, 'gross-weight', plot.code.includes('S') ? (plot.code.startsWith('2') ? 100 : 98) : 40 + ((i * 7) % 11)),
    ),
  )
const analysed = (trial: Trial, layouts: readonly Layout[]) =>
  analyseTrait(trial, layouts, new TrialBook(trial, layouts, values(layouts)).observations('gross-weight', 'harvest'), 'gross-weight')

describe('what is only shown beside the trial', () => {
  it.each(designs.map((each) => each.key))('leaves the plan and the answer of %s as they would be without it', (key) => {
    const plain = trialFor(key, 3)
    const shown = { ...plain, treatments: withShown(plain.treatments) }
    expect(layoutProblems(shown, 'site-1')).toEqual([])
    expect(layoutFigures(shown, 'site-1')).toEqual(layoutFigures(plain, 'site-1'))
    const without = layOut(plain, 'site-1', 7, countingIds())
    const layout = layOut(shown, 'site-1', 7, countingIds())
    expect(checkTrial(shown, [layout])).toEqual([])
    expect(layout.units.slice(0, without.units.length).map(({ walk: _, ...unit }) => unit)).toEqual(
      without.units.map(({ walk: _, ...unit }) => unit),
    )
    const own = finest(layout).filter((plot) => !finest(without).some((each) => each.code === plot.code))
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    expect(own.map((plot) => treatmentOn(plot, index, shown.treatments)?.key)).toEqual(['full'])
    // Beside all others, and gone to like them.
    const right = Math.max(...finest(without).map(({ place }) => place!.x + place!.width))
    expect(own[0]!.place!.x).toBeGreaterThanOrEqual(right)
    expect(own[0]!.walk).not.toBeNull()
    const dealt = treatmentsDealt(shown.treatments, shown.sites[0]!)
    expect(planEfficiency(layout, dealt)).toEqual(planEfficiency(without, plain.treatments))
    expect(uneven(layout, dealt)).toEqual(uneven(without, plain.treatments))
    const [a, b] = [analysed(asTrial(plain), [without]), analysed(asTrial(shown), [layout])]
    expect(b.without).toEqual(a.without)
    expect(b.shown).toEqual([{ treatment: 'full', values: [{ site: plain.sites[0]!.name, value: 98 }] }])
  })

  it('is told as a look, over sites with its range; nothing is planned with it', () => {
    const draft = { ...trialWith(4, 3), treatments: withShown(ladder(4)) }
    const trial = asTrial({ ...draft, sites: [draft.sites[0]!, { ...draft.sites[0]!, key: 'site-2', name: 'Second' }] })
    const ids = countingIds()
    const layouts = trial.sites.map((site) => layOut(trial, site.key, 5, ids))
    const { without, shown } = analysed(trial, layouts)
    const [told] = shownAnswers(shown, without, trial.treatments, 'metric')
    expect(told!.evidence).toBe('look')
    expect(told!.text).toMatch(
      /^Full stand stood in one plot beside the trial at each of 2 sites and had 99\.0 kg on average \(98\.0 to 100 kg\), where the gross root weight of the trial was 44\.6 kg on average: it is shown, and not tested\.$/,
    )
    const comparison = { key: 'c', name: 'all in', of: { kind: 'sides', plus: ['full'], minus: ['l0'] }, late: false }
    expect(() => applyPatch({ trial, layouts }, 'treatments', { comparisons: [comparison] })).toThrow(/only shown beside the trial/)
    expect(() => applyPatch({ trial, layouts }, 'treatments', { comparisons: [comparison] })).toThrow(DocumentError)
  })
})
