import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { chanceFrom, designs } from '../src/design/index.ts'
import { drawOnStanding, undoEvent, type Document } from '../src/document/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { asOf, treatmentOn, type Layout, type TrialEvent } from '../src/trial/index.ts'
import { asTrial, countingIds, designed, ladder, PERSON, readingOf, trialWith } from './build.ts'

const LEVELS = [
  { code: 'AS', name: 'as before' },
  { code: 'FED', name: 'fed' },
]
const asked = (over: object = {}) => ({
  seed: 5,
  name: 'Feeding',
  levels: LEVELS,
  on: '2026-07-03',
  treatments: ladder(4).list.map((each) => each.key),
  sites: ['site-1'],
  ...over,
})

function standing(design = 'randomised-block', replicates = 4, sites = 1, levels = 4) {
  const draft = designed({ ...trialWith(levels, replicates), treatments: ladder(levels) }, { key: design })
  const all = Array.from({ length: sites }, (_, i) => ({ ...draft.sites[0]!, key: `site-${i + 1}`, name: `Site ${i + 1}` }))
  const trial = asTrial({ ...draft, sites: all })
  const ids = countingIds()
  return { trial, layouts: trial.sites.map((site) => layOut(trial, site.key, 11, ids)) }
}

const plotsOf = ({ units }: Layout) => units.filter((unit) => unit.kind === 'plot')
const fed = (unit: { received: Record<string, string> }): boolean => unit.received['drawn'] === 'way-1'

describe('a draw among what stands', () => {
  it('takes of each treatment, and of each block, as many as their numbers allow; the same seed the same', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 7 }),
        fc.integer({ min: 4, max: 8 }),
        fc.constantFrom('randomised-block', 'completely-randomised'),
        fc.integer({ min: 0, max: 2 ** 31 - 1 }),
        (levels, replicates, design, seed) => {
          const document = standing(design, replicates, 1, levels)
          const request = asked({ seed, treatments: document.trial.treatments.list.map((each) => each.key) })
          const { trial, layouts } = drawOnStanding(document, request)
          const plots = plotsOf(layouts[0]!)
          const counts = (key: (unit: (typeof plots)[number]) => string): [number, number][] => {
            const groups = new Map<string, [number, number]>()
            for (const plot of plots) {
              const at = groups.get(key(plot)) ?? [0, 0]
              at[fed(plot) ? 0 : 1]++
              groups.set(key(plot), at)
            }
            return [...groups.values()]
          }
          for (const [yes, no] of counts((plot) => plot.received['factor-1']!))
            expect(Math.abs(yes - no)).toBeLessThanOrEqual(replicates % 2)
          for (const [yes, no] of counts((plot) => plot.in.join()))
            expect(Math.abs(yes - no)).toBeLessThanOrEqual(replicates % 2 === 0 ? levels % 2 : levels)
          const index = new Map(layouts[0]!.units.map((unit) => [unit.id, unit]))
          expect(plots.every((plot) => treatmentOn(plot, index, trial.treatments) !== undefined)).toBe(true)
          expect(drawOnStanding(document, request).layouts).toEqual(layouts)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('takes every plot equally often', () => {
    const document = standing('randomised-block', 4)
    const plots = plotsOf(document.layouts[0]!)
    const times = new Map(plots.map((plot) => [plot.id, 0]))
    const RUNS = 600
    for (let seed = 0; seed < RUNS; seed++) {
      for (const plot of plotsOf(drawOnStanding(document, asked({ seed })).layouts[0]!))
        if (fed(plot)) times.set(plot.id, times.get(plot.id)! + 1)
    }
    const chi = [...times.values()].reduce((sum, n) => sum + (n - RUNS / 2) ** 2 / (RUNS / 4), 0)
    // Of sixteen plots of which half of each four are taken twelve are free to vary: above 33 in one run of 1,000.
    expect(chi).toBeLessThan(33)
  })

  it('is varied from its day on and not before: earlier readings are analysed as if it had never been', () => {
    const { design: choice } = standing().trial.sites[0]!
    const fitting = designs.filter(
      (each) => each.sizes.length === 0 && each.problems({ treatments: ladder(4), choice: { ...choice, key: each.key } }).length === 0,
    )
    let tried = 0
    for (const design of fitting) {
      const document = standing(design.key)
      let drawn: Document
      try {
        drawn = drawOnStanding(document, asked())
      } catch (error) {
        // Blocks of two leave nothing that hangs together.
        expect((error as Error).message).toMatch(/could not be told from the blocks/)
        continue
      }
      tried++
      const chance = chanceFrom(3)
      const values = new Map(plotsOf(document.layouts[0]!).map((plot) => [plot.id, 50 + chance.below(1000) / 500]))
      const records = [...values].map(([id, value]) => readingOf(id, 'gross-weight', value))
      const analysed = (of: Document, on: string | null) => {
        const trial = { ...of.trial, traits: { ...of.trial.traits, visits: of.trial.traits.visits.map((each) => ({ ...each, on })) } }
        return analyseTrait(
          trial,
          of.layouts,
          new TrialBook(trial, of.layouts, records).observations('gross-weight', 'harvest'),
          'gross-weight',
        ).without
      }
      const before = analysed(drawn, '2026-07-02')
      expect(before.cautions.map((each) => each.text).join('\n')).toMatch(/Feeding was drawn on 3 July 2026, after these readings/)
      expect({ ...before, cautions: before.cautions.filter((each) => each.kind !== 'drawn later') }, design.key).toEqual(
        analysed(document, '2026-07-02'),
      )
      const after = analysed(drawn, '2026-07-03')
      if (after.kind !== 'tested') continue
      expect(
        after.contrasts.map((each) => each.name),
        design.key,
      ).toEqual(['Feeding: fed against as before, from 3 July 2026'])
    }
    expect(tried).toBeGreaterThan(3)
  })

  it('is a randomised comparison where the treatments themselves were only set out, and recovers what was added', () => {
    const document = standing('systematic')
    const picked = document.trial.treatments.list.slice(1).map((each) => each.key)
    const { trial, layouts } = drawOnStanding(document, asked({ treatments: picked }))
    const index = new Map(layouts[0]!.units.map((unit) => [unit.id, unit]))
    const records = plotsOf(layouts[0]!).map((plot, i) => {
      const rate = Number(plot.received['factor-1']!.slice(1))
      return readingOf(plot.id, 'gross-weight', 40 + 3 * rate + (fed(plot) ? 5 : 0) + (i % 3) * 0.1)
    })
    const { without } = analyseTrait(
      trial,
      layouts,
      new TrialBook(trial, layouts, records).observations('gross-weight', 'harvest'),
      'gross-weight',
    )
    const [row] = without.contrasts
    expect(row!.estimate).toBeCloseTo(5, 0)
    expect(row!.evidence.kind).toBe('trial')
    expect(treatmentOn(plotsOf(layouts[0]!)[0]!, index, trial.treatments)).toBeDefined()
    const pairs = without.terms['treatment']!.comparisons['tukey']!
    const between = pairs.find((each) => [each.a, each.b].every((key) => ['l1', 'l2'].includes(key)))!
    expect(between.evidence.kind).toBe('compare')
  })

  it('at one of two sites: read together only what both have, and the other as it was', () => {
    const document = standing('randomised-block', 4, 2)
    const drawn = drawOnStanding(document, asked({ sites: ['site-2'] }))
    const records = drawn.layouts.flatMap((layout) =>
      plotsOf(layout).map((plot, i) => readingOf(plot.id, 'gross-weight', 40 + ((i * 7) % 5))),
    )
    const analysed = (layouts: readonly Layout[]) =>
      analyseTrait(
        drawn.trial,
        layouts,
        new TrialBook(drawn.trial, drawn.layouts, records).observations('gross-weight', 'harvest'),
        'gross-weight',
      ).without
    expect(analysed(drawn.layouts.slice(0, 1)).terms['factor-1']!.means).toHaveLength(4)
    expect(analysed(drawn.layouts.slice(1)).terms['factor-1:drawn']!.means).toHaveLength(8)
    const together = analysed(drawn.layouts)
    expect(together.cautions[0]!.kind).toBe('not shared')
    expect(together.observations).toBe(16 + 8)
  })

  it('is turned back whole, and refused where there is nothing to draw among', () => {
    const document = standing('randomised-block', 4, 2)
    const change = drawOnStanding(document, asked())
    const event = { ...change, id: PERSON, at: '', person: PERSON, kind: 'drawn', reason: '', undoes: null } as unknown as TrialEvent
    const back = undoEvent(change, event)
    expect(back.layouts).toEqual(document.layouts)
    expect({ ...back.trial, version: 1, versions: {} }).toEqual({ ...document.trial, version: 1, versions: {} })
    expect(asOf({ treatments: change.trial.treatments, layouts: change.layouts }, '2026-07-02')).toEqual({
      treatments: document.trial.treatments,
      layouts: document.layouts,
    })
    const said = (over: object, of: Document = document) => {
      try {
        drawOnStanding(of, asked(over))
      } catch (error) {
        return (error as Error).message
      }
      return 'drawn'
    }
    expect(said({ treatments: ['nowhere'] })).toMatch(/“nowhere” is not a treatment/)
    expect(said({ name: 'nitrogen' })).toMatch(/varied already/)
    expect(said({}, { ...document, layouts: [] })).toMatch(/not laid out/)
    expect(said({}, standing('randomised-block', 1))).toMatch(/no 2 plots treated alike/)
    expect(said({}, standing('randomised-block', 2))).toMatch(/could not be told from the blocks/)
    const wide = standing('randomised-block', 8)
    expect(said({ name: 'Lamps' }, drawOnStanding(wide, asked()))).toBe('drawn')
    expect(said({ name: 'Lamps' }, change)).toMatch(/could not be told from the blocks/)
  })
})
