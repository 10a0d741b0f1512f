import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { swapTreatments, undoEvent, type Change, type Document } from '../src/document/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import type { Layout, TrialEvent, Unit } from '../src/trial/index.ts'
import { asTrial, countingIds, readingOf, trialFor, trialWith } from './build.ts'

function document(draft = trialWith(4, 3), sites = 1): Document {
  const all = Array.from({ length: sites }, (_, i) => ({ ...draft.sites[0]!, key: `site-${i + 1}`, name: `Site ${i + 1}` }))
  const trial = asTrial({ ...draft, sites: all })
  const ids = countingIds()
  return { trial, layouts: all.map((site) => layOut(trial, site.key, 7, ids)) }
}

const eventOf = ({ section, what, before, after }: Change): TrialEvent => ({
  id: 'e',
  at: '',
  person: '',
  kind: 'swapped',
  section,
  reason: '',
  what,
  before,
  after,
  undoes: null,
})

const TRAIT = trialWith(2, 2).traits.observed.find((trait) => trait.kind === 'number')!.key

/** Plots of the first block, or of all. */
const plotsIn = ({ units }: Layout, block?: string): Unit[] =>
  units.filter((unit) => unit.kind === 'plot' && (block === undefined || unit.in.includes(block)))
const blockOf = ({ units }: Layout, n: number): string => units.filter((unit) => unit.kind === 'block')[n]!.id

describe('units swapped by hand before planting', () => {
  it('are no longer randomised, in the plan and in the answer; turned back in any order, the draw is one again', () => {
    const start = document()
    const [layout] = start.layouts as [Layout]
    const plots = plotsIn(layout)
    fc.assert(
      fc.property(fc.uniqueArray(fc.constantFrom(0, 1, 2), { minLength: 1 }), fc.boolean(), (blocks, backwards) => {
        let standing = start
        const events = blocks.map((n) => {
          const [a, b] = plotsIn(layout, blockOf(layout, n))
          const change = swapTreatments(standing, a!.id, b!.id)
          standing = change
          return eventOf(change)
        })
        const book = new TrialBook(
          standing.trial,
          standing.layouts,
          plots.map((plot, i) => readingOf(plot.id, TRAIT, 100 + i + 10 * Number(plot.planned['factor-1']!.slice(1)))),
        )
        const { without } = analyseTrait(standing.trial, standing.layouts, book.observations(TRAIT, 'harvest'), TRAIT)
        expect(new Set(without.sentences.map((sentence) => sentence.evidence))).toEqual(new Set(['compare']))
        expect(without.cautions.find((each) => each.kind === 'not randomised')!.text).toContain(
          `(${blocks.length} ${blocks.length === 1 ? 'pair' : 'pairs'} of units swapped by hand after the draw)`,
        )
        for (const event of backwards ? events.toReversed() : events) standing = undoEvent(standing, event)
        expect(standing.layouts).toEqual(start.layouts)
      }),
      { numRuns: 10 },
    )
  })

  it('are refused where each block was dealt by itself, where there is nothing to swap, and what is swapped again is turned back last first', () => {
    const start = document()
    const [layout] = start.layouts as [Layout]
    const [one, other] = [0, 1].map((n) => plotsIn(layout, blockOf(layout, n)))
    expect(() => swapTreatments(start, one![0]!.id, other![0]!.id)).toThrow(/lie in different blocks/)
    expect(() => swapTreatments(start, one![0]!.id, one![0]!.id)).toThrow(/Two different units of one kind/)
    expect(() => swapTreatments(start, one![0]!.id, blockOf(layout, 0))).toThrow(/of one kind/)
    expect(() => swapTreatments(start, blockOf(layout, 0), blockOf(layout, 1))).toThrow(/Nothing was dealt out to blocks/)
    const first = swapTreatments(start, one![0]!.id, one![1]!.id)
    const second = swapTreatments(first, one![1]!.id, one![2]!.id)
    expect(() => undoEvent(second, eventOf(first))).toThrow(/swapped again since/)
    expect(undoEvent(undoEvent(second, eventOf(second)), eventOf(first)).layouts).toEqual(start.layouts)
  })

  it('on the larger units of a split plot lower what was put on them only', () => {
    const start = document(trialFor('split-plot', 3))
    const [layout] = start.layouts as [Layout]
    const [a, b] = layout.units.filter((unit) => unit.kind === 'main plot')
    const { layouts } = swapTreatments(start, a!.id, b!.id)
    expect(layouts[0]!.structure.factors.map(({ factor, how }) => [factor, how])).toEqual([
      ['water', 'not randomised'],
      ['cultivar', 'randomised'],
    ])
  })

  it('at one of several sites leave the answer over all sites one that is compared', () => {
    const start = document(trialWith(3, 3), 2)
    const [a, b] = plotsIn(start.layouts[1]!, blockOf(start.layouts[1]!, 0))
    const standing = swapTreatments(start, a!.id, b!.id)
    const readings = standing.layouts.flatMap((layout) => plotsIn(layout).map((plot, i) => readingOf(plot.id, TRAIT, 90 + ((i * 7) % 11)))) // prettier-ignore
    const book = new TrialBook(standing.trial, standing.layouts, readings)
    const { without } = analyseTrait(standing.trial, standing.layouts, book.observations(TRAIT, 'harvest'), TRAIT)
    expect(without.cautions.map((each) => each.kind)).toContain('not randomised')
    expect(without.sentences.every((sentence) => sentence.evidence !== 'trial')).toBe(true)
  })
})
