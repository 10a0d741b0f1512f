import { describe, expect, it } from 'vitest'
import { analyse, analyseTrait, AnalysisOptions, type AnalysisRequest } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { checkTrial } from '../src/document/index.ts'
import { layOut, layOutAgain } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import type { Layout, Trial, Unit } from '../src/trial/index.ts'
import { asTrial, countingIds, ladder, readingOf, trialFor, trialWith } from './build.ts'

/** A trial whose plots stand for some seasons, at one place or more. */
function standing(seasons: readonly number[], places = 1, key = 'randomised-block') {
  const draft = trialFor(key, 4)
  const [site] = draft.sites
  const sites = Array.from({ length: places }, (_, p) =>
    seasons.map((season, s) => ({ ...site!, key: `p${p}-${s}`, name: `Place ${p} ${season}`, season, again: s === 0 ? null : `p${p}-0` })),
  ).flat()
  const trial: Trial = asTrial({ ...draft, sites })
  const ids = countingIds()
  const layouts: Layout[] = []
  for (const each of sites) {
    const first = layouts.find((layout) => layout.siteKey === each.again)
    layouts.push(first ? layOutAgain(each, first, ids) : layOut(trial, each.key, 3, ids))
  }
  return { trial, layouts }
}

const SHOWN = { key: 'full', code: 'FULL', name: 'Full stand', colour: null, role: 'shown' as const, levels: {} }
const plotsOf = (layout: Layout): Unit[] => layout.units.filter((unit) => unit.kind === 'plot')

function analysed({ trial, layouts }: { trial: Trial; layouts: Layout[] }, valueOf: (plot: Unit, season: number, place: number) => number) {
  const records = layouts.flatMap((layout) => {
    const site = trial.sites.find((each) => each.key === layout.siteKey)!
    return plotsOf(layout).map((plot) => readingOf(plot.id, 'gross-weight', valueOf(plot, site.season!, Number(site.key.charAt(1)))))
  })
  const book = new TrialBook(trial, layouts, records)
  return analyseTrait(trial, layouts, book.observations('gross-weight', 'harvest'), 'gross-weight').without
}

describe('plots that stand for several seasons', () => {
  it('are the same plots: codes, treatments and places, under ids of their own; others are refused', () => {
    const { trial, layouts } = standing([2025, 2026])
    expect(checkTrial(trial, layouts)).toEqual([])
    const [first, again] = layouts.map((layout) => plotsOf(layout).map(({ code, received, place }) => ({ code, received, place })))
    expect(again).toEqual(first)
    expect(new Set(layouts.flatMap((layout) => layout.units.map((unit) => unit.id))).size).toBe(2 * layouts[0]!.units.length)
    const other = layOut({ ...trialWith(3, 4), sites: trial.sites }, 'p0-1', 3, countingIds())
    expect(
      checkTrial({ ...trial, treatments: ladder(4) }, [layouts[0]!, { ...other, units: other.units.slice(0, -1) }])[0]!.message,
    ).toMatch(/is to have the plots of Place 0 2025, and has others/)
    const stray = { ...trial, sites: trial.sites.map((site) => (site.again ? { ...site, again: 'nowhere' } : site)) }
    expect(checkTrial(stray)[0]!.message).toMatch(/not part of this trial/)
  })

  it('are judged between plots: by the means over seasons, exactly', () => {
    const document = standing([2025, 2026, 2027])
    const chance = chanceFrom(4)
    const fertility = new Map(plotsOf(document.layouts[0]!).map((plot) => [plot.code, chance.below(1000) / 100]))
    const values = new Map<string, number>()
    const both = analysed(document, (plot, season) => {
      const value =
        40 + fertility.get(plot.code)! + (season - 2025) * 5 + Number(plot.received['factor-1']!.slice(1)) + chance.below(100) / 100
      values.set(`${plot.code} ${season}`, value)
      return value
    })
    const [layout] = document.layouts
    const means = plotsOf(layout!).map((plot) => ({
      unit: plot.id,
      value: [2025, 2026, 2027].reduce((sum, s) => sum + values.get(`${plot.code} ${s}`)! / 3, 0),
    }))
    const request: AnalysisRequest = {
      structure: layout!.structure,
      units: layout!.units,
      factors: [{ key: 'factor-1', levels: ['l0', 'l1', 'l2', 'l3'] }],
      trait: { key: 'y', name: 'y', unit: '', kind: 'continuous' },
      observations: means,
      options: AnalysisOptions.parse({ method: 'lsd' }),
    }
    const plain = analyse(request)
    const row = (of: typeof plain, term: string) => of.tests.find((test) => test.term === term)!
    expect(row(both, 'factor-1').f).toBeCloseTo(row(plain, 'factor-1').f, 8)
    expect(row(both, 'factor-1').errorDf).toBe(9)
    expect(both.tests.map((test) => [test.term, test.df, test.errorDf])).toEqual([
      ['factor-1', 3, 9],
      ['season', 2, 24],
      ['factor-1:season', 6, 24],
    ])
    const pair = (of: typeof plain) => of.terms['factor-1']!.comparisons['lsd']![0]!
    expect(pair(both).difference).toBeCloseTo(pair(plain).difference, 8)
    expect(pair(both).sed).toBeCloseTo(pair(plain).sed, 8)
    // A change with the season is within plots, so that the poor plots do not blur it; and nobody drew the seasons.
    expect(both.terms['season']!.evidence.kind).toBe('compare')
    expect(both.terms['factor-1']!.evidence.kind).toBe('trial')
  })

  it('with nothing to find, claims as seldom as it says, where seasons taken for replicates would claim often', () => {
    const document = standing([2025, 2026])
    const naive = { ...document.trial, sites: document.trial.sites.map((site) => ({ ...site, again: null })) }
    let [claims, taken] = [0, 0]
    const RUNS = 120
    for (let run = 0; run < RUNS; run++) {
      const chance = chanceFrom(run)
      const fertility = new Map(plotsOf(document.layouts[0]!).map((plot) => [plot.code, chance.below(1000)]))
      const seen = new Map<string, number>()
      const value = (plot: Unit, season: number): number => {
        const key = `${plot.code} ${season}`
        if (!seen.has(key)) seen.set(key, fertility.get(plot.code)! + chance.below(300))
        return seen.get(key)!
      }
      if (analysed(document, value).tests[0]!.p < 0.05) claims++
      if (analysed({ trial: naive, layouts: document.layouts }, value).tests.find((test) => test.term === 'factor-1')!.p < 0.05) taken++
    }
    expect(claims).toBeLessThan(0.09 * RUNS)
    expect(taken).toBeGreaterThan(1.5 * claims)
  })

  it('what is only shown beside them is told at each season, and no part of the tests', () => {
    const plain = standing([2025, 2026])
    const draft = { ...plain.trial, treatments: { ...plain.trial.treatments, list: [...plain.trial.treatments.list, SHOWN] } }
    const ids = countingIds()
    const first = layOut(draft, 'p0-0', 3, ids)
    const layouts = [first, layOutAgain(draft.sites[1]!, first, ids)]
    expect(checkTrial(draft, layouts)).toEqual([])
    const value = (plot: Unit, season: number) =>
      plot.code.startsWith('S') ? 90 : 40 + ((Number(plot.code) * 7) % 11) + ((Number(plot.code) * season) % 5)
    const both = analysed({ trial: draft, layouts }, value)
    expect(both.kind).toBe('tested')
    expect(both.tests).toEqual(analysed(plain, value).tests)
  })

  it('at several places, and with split plots; where ground stood for unlike seasons only what all of it had is read', () => {
    const chance = chanceFrom(9)
    const places = analysed(standing([2025, 2026], 2), (plot) => 40 + chance.below(100) + plot.code.length)
    expect(places.tests.map((test) => test.term)).toEqual(
      expect.arrayContaining(['factor-1', 'season', 'factor-1:season', 'site:factor-1', 'site:season', 'site:factor-1:season']),
    )
    const split = analysed(standing([2025, 2026], 1, 'split-plot'), () => 40 + chance.below(100))
    expect(split.errors.map((error) => error.stratum)).toEqual(['block', 'main plot', 'plot', 'plot-season'])
    // A season that other ground did not have, or that has only been laid out, does not take the answer away.
    const uneven = standing([2025, 2026], 2)
    const first = { ...uneven, layouts: [uneven.layouts[0]!, uneven.layouts[2]!] }
    const value = (plot: Unit) => 40 + Number(plot.code) * 0.37 + (Number(plot.code) % 7)
    const shared = analysed({ ...uneven, layouts: uneven.layouts.slice(0, 3) }, value)
    expect(shared.tests).toEqual(analysed(first, value).tests)
    expect(shared.cautions[0]).toEqual({
      kind: 'not shared',
      text: 'Not all ground stood for the same seasons: together only those that all of it had are read. Read Place 0 2026 by itself.',
    })
    const begun = standing([2025, 2026])
    const records = plotsOf(begun.layouts[0]!).map((plot) => readingOf(plot.id, 'gross-weight', value(plot)))
    const book = new TrialBook(begun.trial, begun.layouts, records)
    const early = analyseTrait(begun.trial, begun.layouts, book.observations('gross-weight', 'harvest'), 'gross-weight').without
    expect(early.tests.map((test) => test.term)).toEqual(['block', 'factor-1'])
    expect(early.missing).toBe(0)
  })
})
