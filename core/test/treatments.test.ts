import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  analyseTrait,
  classAnswers,
  classRows,
  coefficientsOf,
  plannedAnswers,
  proposeComparisons,
  withinLimits,
} from '../src/analysis/index.ts'
import { chanceFrom, costOfDropping, mixedUp } from '../src/design/index.ts'
import { applyPatch, checkTrial, lockedChanges, markedLate } from '../src/document/index.ts'
import { fileFormats, readTreatmentList } from '../src/exchange/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import {
  codesOnly,
  crossFactors,
  isCrossing,
  levelsFromText,
  treatmentOn,
  treatmentsOf,
  withFactors,
  withList,
  type Factor,
  type Layout,
  type PlannedComparison,
  type Treatment,
  type Treatments,
} from '../src/trial/index.ts'
import { asTrial, countingIds, kindsOf, ladder, readingOf, trialWith } from './build.ts'

const RATE: Factor = { key: 'n', name: 'Nitrogen', kind: 'rate', measure: 'kg/ha', of: { what: 'nutrient', nutrient: 'N' }, levels: [] }
const rates = (...amounts: number[]): Factor => ({ ...RATE, levels: typed(RATE, amounts.join(' ')) })
const typed = (factor: Factor, text: string, system: 'metric' | 'us' = 'metric') => {
  const read = levelsFromText(factor, text, system)
  if (!read.ok) throw new Error(read.problem)
  return read.levels
}
const carriers = kindsOf('carrier', 'Carrier', ['PEAT', 'CLAY', 'OIL'])
const outside = (key: string, role: Treatment['role']): Treatment => ({
  key,
  code: key.toUpperCase(),
  name: key,
  colour: null,
  role,
  levels: {},
})
const withOutside = (): Treatments => {
  const factors = [carriers, rates(0, 40, 80)]
  return treatmentsOf(factors, [...crossFactors(factors), outside('nil', 'untreated control'), outside('std', 'standard')])
}

describe('levels as they are typed', () => {
  it('a ladder as multiples of a base, in either system and with any sign for times', () => {
    const amounts = (text: string, system: 'metric' | 'us' = 'metric') => typed(RATE, text, system).map((level) => level.amount)
    expect(amounts('0 0.5 1 2 × 60 kg N/ha')).toEqual([0, 30, 60, 120])
    expect(amounts('0, 0,5, 1 x 60')).toEqual([0, 30, 60])
    expect(amounts('0 1 2 * 60 lb/ac').map((each) => Math.round(each! * 100) / 100)).toEqual([0, 67.25, 134.5])
    expect(levelsFromText(RATE, '0 1 2 × 60 cm', 'metric')).toMatchObject({ ok: false })
  })

  it('dates every n days, weeks after an event, practices as ordered passes', () => {
    const timing: Factor = { ...kindsOf('when', 'Planting', []), kind: 'timing' }
    expect(typed(timing, '20 April every 14 d × 4').map((level) => level.name)).toEqual(['20 April', '4 May', '18 May', '1 June'])
    const weeks: Factor = { ...timing, measure: 'wk', after: 'lifting' }
    expect(typed(weeks, '0 4 8').map((level) => [level.code, level.name])).toContainEqual(['W4', '4 wk after lifting'])
    const tillage: Factor = { ...kindsOf('tillage', 'Tillage', []), kind: 'practice' }
    expect(typed(tillage, 'plough 25 cm > harrow 8 cm > roll, direct drill').map((level) => level.passes)).toEqual([
      [
        { tool: 'plough', depth: 25 },
        { tool: 'harrow', depth: 8 },
        { tool: 'roll', depth: null },
      ],
      undefined,
    ])
  })
})

describe('a list pasted from a spreadsheet', () => {
  const waysOf = (text: string) => {
    const read = readTreatmentList(text)
    if (!read.ok) throw new Error(read.problem)
    return read.list.ways
  }

  it('eight options that are two carriers × four rates are recognised, and offered beside the list as it stands', () => {
    const text = ['peat', 'clay'].flatMap((carrier) => [0, 1, 2, 4].map((rate) => `${carrier} ${rate} L/ha`)).join('\n')
    const [crossed, flat] = waysOf(`Treatment\n${text}`)
    expect(isCrossing(crossed!.treatments)).toBe(true)
    expect(crossed!.about).toMatch(/^2 × 4/)
    expect(crossed!.treatments.factors[1]).toMatchObject({ kind: 'rate', measure: 'L/ha' })
    expect(flat!.treatments.list).toHaveLength(8)
    for (const { treatments } of [crossed!, flat!]) expect(checkTrial({ ...trialWith(2, 2), treatments })).toEqual([])
  })

  it('any crossing of names comes back whatever parts them, holes and checks outside too', () => {
    const word = fc.stringMatching(/^[a-z]{3,8}$/)
    const words = (least: number) => fc.uniqueArray(word, { minLength: least, maxLength: 4 })
    fc.assert(
      fc.property(
        words(2),
        words(3),
        fc.constantFrom(' + ', ' / ', '; ', ' with ', '_'),
        fc.boolean(),
        fc.boolean(),
        (a, b, mark, hole, check) => {
          fc.pre(
            !a.some((each) => b.includes(each)) && ![...a, ...b].some((each) => ['with', 'and', 'plus', 'none', 'control'].includes(each)),
          )
          const cells = a.flatMap((first) => b.map((second) => first + mark + second)).slice(hole ? 1 : 0)
          const [way] = waysOf([...(check ? ['untreated'] : []), ...cells].join('\n'))
          expect(way!.treatments.factors.map((factor) => factor.levels.length)).toEqual([a.length, b.length])
          expect(way!.treatments.list).toHaveLength(cells.length + (check ? 1 : 0))
          expect(way!.treatments.list.some((each) => each.role === 'untreated control')).toBe(check)
        },
      ),
      { numRuns: 200 },
    )
  })

  it('columns under their names; what cannot be read says which line', () => {
    const [way] = waysOf('Cultivar\tN [kg/ha]\nMira\t0\nMira\t60\nTorv\t0\nTorv\t60')
    expect(way!.treatments.factors.map((factor) => [factor.name, factor.kind, factor.measure])).toEqual([
      ['Cultivar', 'kind', ''],
      ['N', 'rate', 'kg/ha'],
    ])
    expect(readTreatmentList('A\tB\nx\t1\ny\t\nz\t2')).toMatchObject({ ok: false, problem: expect.stringMatching(/^Line 3/) as string })
    expect(readTreatmentList('same\nsame')).toMatchObject({ ok: false, problem: expect.stringMatching(/twice/) as string })
    expect(readTreatmentList('one')).toMatchObject({ ok: false })
    expect(waysOf('Mira\nTorv\nEsk\nLind').map((each) => each.treatments.factors.length)).toEqual([1])
  })
})

describe('planned comparisons', () => {
  const plan = (treatments: Treatments, match: RegExp): Treatments => {
    const found = proposeComparisons(treatments).filter((each) => match.test(each.name))
    const comparisons = found
      .flatMap((each) => each.comparisons)
      .map((each, i): PlannedComparison => ({ ...each, key: `c${i}`, late: false }))
    return { ...treatments, comparisons }
  }

  it('what the treatments suggest: checks, a trend, kinds at each rate; each sums to zero, none twice', () => {
    const treatments = withOutside()
    const all = plan(treatments, /./)
    for (const comparison of all.comparisons) {
      const values = Object.values(coefficientsOf(comparison, treatments))
      expect(Math.abs(values.reduce((sum, each) => sum + each, 0))).toBeLessThan(1e-12)
      expect(values.some((each) => each !== 0)).toBe(true)
    }
    expect(all.comparisons.map((each) => each.name)).toEqual(
      expect.arrayContaining([
        'nil against all others',
        'std against what is tried',
        'Rise with nitrogen',
        'Bend with nitrogen',
        'Carrier PEAT against Carrier OIL, at 40 kg N/ha',
      ]),
    )
    expect(proposeComparisons(all)).toEqual([])
    expect(checkTrial({ ...trialWith(2, 2), treatments: all })).toEqual([])
  })

  it('estimates recover what was planted: slopes per measure, the square, sides; over sites and with controls outside', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.1, max: 0.1, noNaN: true }),
        fc.double({ min: -1e-3, max: 1e-3, noNaN: true }),
        fc.integer({ min: 1, max: 500 }),
        (slope, bend, seed) => {
          const treatments = plan(withOutside(), /rises|nil against|PEAT against .*CLAY/)
          const draft = { ...trialWith(2, 3), treatments }
          const second = { ...draft.sites[0]!, key: 'site-2', name: 'Site 2' }
          const trial = asTrial({ ...draft, sites: [draft.sites[0]!, second] })
          const ids = countingIds()
          const layouts = trial.sites.map((site) => layOut(trial, site.key, seed, ids))
          const valueOf = (treatment: Treatment): number => {
            const amount = treatments.factors[1]!.levels.find((level) => level.key === treatment.levels['n'])?.amount ?? 0
            return (
              50 +
              slope * amount +
              bend * amount ** 2 +
              (treatment.levels['carrier'] === 'peat' ? 2 : 0) -
              (treatment.key === 'nil' ? 9 : 0)
            )
          }
          const both = analyseTrait(trial, layouts, book(trial, layouts, valueOf, seed), 'gross-weight')
          const row = (name: string) => both.without.contrasts.find((each) => each.name === name)!
          const close = (x: number, y: number) => expect(Math.abs(x - y)).toBeLessThan(1e-6)
          close(row('Bend with nitrogen').estimate, bend)
          close(row('Rise with nitrogen').estimate, slope + bend * 80)
          close(row('Carrier PEAT against Carrier CLAY, at 40 kg N/ha').estimate, 2)
          const mean = (keys: Treatment[]) => keys.reduce((sum, each) => sum + valueOf(each), 0) / keys.length
          const options = treatments.list.filter((each) => each.key !== 'nil')
          close(row('nil against all others').estimate, mean(treatments.list.filter((each) => each.key === 'nil')) - mean(options))
        },
      ),
      { numRuns: 12 },
    )
  })

  /** Values without noise but for blocks, and a little that is alike in sum over each treatment's plots. */
  function book(trial: ReturnType<typeof asTrial>, layouts: readonly Layout[], valueOf: (treatment: Treatment) => number, seed: number) {
    const turn = new Map<string, number>()
    const records = layouts.flatMap((layout, site) => {
      const index = new Map(layout.units.map((unit) => [unit.id, unit]))
      return layout.units.flatMap((unit) => {
        const treatment = unit.kind === 'plot' ? treatmentOn(unit, index, trial.treatments) : undefined
        if (!treatment) return []
        const at = `${site} ${treatment.key}`
        const n = turn.get(at) ?? 0
        turn.set(at, n + 1)
        const block = Number(index.get(unit.in[0]!)!.code)
        const shift = trial.treatments.list.indexOf(treatment)
        const noise = [-1, 0, 1][(n + shift) % 3]! * 1e-3
        return [readingOf(unit.id, 'gross-weight', valueOf(treatment) + block * (seed % 7) + site + noise)]
      })
    })
    return new TrialBook(trial, layouts, records).observations('gross-weight', 'harvest')
  }

  it('what is dropped leaves its comparisons, or takes them along; a comparison of nothing is refused', () => {
    const treatments = plan(withOutside(), /nil against|at each/)
    const less = withList(
      treatments,
      treatments.list.filter((each) => each.key !== 'nil'),
    )
    expect(less.comparisons.some((each) => each.name.startsWith('nil'))).toBe(false)
    expect(checkTrial({ ...trialWith(2, 2), treatments: less })).toEqual([])
    const bad = (of: PlannedComparison['of']) =>
      checkTrial({ ...trialWith(2, 2), treatments: { ...treatments, comparisons: [{ key: 'c', name: 'odd', of, late: false }] } })[0]
        ?.message
    expect(bad({ kind: 'sides', plus: ['nil'], minus: ['nil'] })).toMatch(/both sides/)
    expect(bad({ kind: 'sides', plus: ['nil'], minus: ['gone'] })).toMatch(/“gone”, which is not a treatment/)
    expect(bad({ kind: 'trend', factor: 'carrier', degree: 1 })).toMatch(/2 different amounts/)
  })

  it('added or changed after the first readings it is late, whatever the sender says; words alone do not make it so', () => {
    const trial = asTrial({
      ...trialWith(4, 3),
      treatments: {
        ...ladder(4),
        comparisons: [{ key: 'a', name: 'first', of: { kind: 'trend', factor: 'factor-1', degree: 1 }, late: false }],
      },
    })
    const sent = (comparisons: object[], measured: boolean) =>
      applyPatch({ trial, layouts: [] }, 'treatments', markedLate(trial, 'treatments', { comparisons }, measured)).trial.treatments
        .comparisons
    const other = { key: 'b', name: 'second', of: { kind: 'trend', factor: 'factor-1', degree: 2 }, late: false }
    expect(sent([trial.treatments.comparisons[0]!, other], false).map((each) => each.late)).toEqual([false, false])
    expect(sent([{ ...trial.treatments.comparisons[0]!, name: 'renamed', late: true }, other], true).map((each) => each.late)).toEqual([
      false,
      true,
    ])
    expect(sent([{ ...trial.treatments.comparisons[0]!, of: other.of }], true)[0]!.late).toBe(true)
    const [trait] = trial.traits.observed
    const more = markedLate(trial, 'traits', { observed: [trait!, { ...trait!, key: 'extra', code: 'X', late: false }] }, true)[
      'observed'
    ] as { late?: boolean }[]
    expect(more.map((each) => each.late)).toEqual([undefined, true])
  })

  it('is told first, in words with its interval; a late one is marked', () => {
    const treatments: Treatments = {
      ...ladder(3),
      comparisons: [{ key: 'a', name: 'N0 against N40', of: { kind: 'sides', plus: ['l0'], minus: ['l1'] }, late: true }],
    }
    const trial = asTrial({ ...trialWith(3, 4), treatments })
    const layout = layOut(trial, 'site-1', 3, countingIds())
    const values = book(trial, [layout], (each) => (each.key === 'l0' ? 5 : 9), 1)
    const [answer] = plannedAnswers(analyseTrait(trial, [layout], values, 'gross-weight').without, treatments, 'metric')
    expect(answer!.text).toMatch(
      /^“N0 against N40”, added when there were readings already and so a lead to follow: no nitrogen gave 4\.0\d* kg less gross root weight than 40 kg N\/ha \(95 % interval /,
    )
    expect(answer!.evidence).toBe('trial')
  })
})

describe('what cannot be told apart', () => {
  const textsOf = (treatments: Treatments) => mixedUp(treatments).map((each) => each.text)
  const cell = (factors: readonly Factor[], ...levels: string[]): Treatment => {
    const key = levels.join('-')
    return {
      key,
      code: key,
      name: key,
      colour: null,
      role: 'none',
      levels: Object.fromEntries(factors.map((factor, f) => [factor.key, levels[f]!])),
    }
  }

  it('a whole crossing mixes nothing; arms that change together say so, and the missing check is one act', () => {
    const factors = [kindsOf('feed', 'Feed', ['RICH', 'PLAIN']), kindsOf('pot', 'Pot', ['LARGE', 'SMALL'])]
    expect(textsOf(treatmentsOf(factors))).toEqual([])
    const arms = treatmentsOf(factors, [cell(factors, 'rich', 'large'), cell(factors, 'plain', 'small')])
    const [mixed] = mixedUp(arms)
    expect(mixed!.text).toMatch(/Feed and pot change together .*which of the two makes a difference cannot be said/)
    const mended = { ...arms, list: [...arms.list, { ...cell(factors, ...factors.map((factor) => mixed!.missing!.levels[factor.key]!)) }] }
    expect(textsOf(mended).join()).not.toMatch(/change together/)
  })

  it('adding what is proposed always mends something, until a main effect can be told of every factor', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 4 }), fc.integer({ min: 2, max: 4 }), fc.integer({ min: 0, max: 999_999 }), (a, b, mask) => {
        const factors = [kindsOf('a', 'A', ['P', 'Q', 'R', 'S'].slice(0, a)), kindsOf('b', 'B', ['W', 'X', 'Y', 'Z'].slice(0, b))]
        let treatments = treatmentsOf(
          factors,
          crossFactors(factors).filter((_, i) => (mask >> i) & 1),
        )
        for (let step = 0; step < a * b; step++) {
          const missing = mixedUp(treatments).find((each) => each.missing)?.missing
          if (!missing) break
          const before = mixedUp(treatments).length
          treatments = { ...treatments, list: [...treatments.list, cell(factors, ...factors.map((factor) => missing.levels[factor.key]!))] }
          expect(treatments.list.length).toBeLessThanOrEqual(a * b)
          expect(mixedUp(treatments).length).toBeLessThanOrEqual(before + 1)
        }
        expect(textsOf(treatments).join()).not.toMatch(/change together|Whether the effect/)
      }),
    )
  })

  it('what dropping costs, controls that lack everything, one member of a class, a treatment of one site', () => {
    const factors = [kindsOf('product', 'Product', ['WITH', 'NONE']), rates(0, 40, 80)]
    const alone = treatmentsOf(
      factors,
      crossFactors(factors).filter((each) => each.levels['product'] === 'with' || each.levels['n'] === 'l1'),
    )
    expect(textsOf(alone).join()).toMatch(/Whether the effect of product depends on nitrogen cannot be told/)
    const [with0] = crossFactors(factors)
    expect(costOfDropping(treatmentsOf(factors), with0!.key).join()).toMatch(/Product WITH|stands? with/)
    expect(textsOf(withOutside()).filter((text) => /lacks carrier and nitrogen at once/.test(text))).toHaveLength(2)
    const hybrids: Factor = { ...kindsOf('hybrid', 'Hybrid', ['A', 'B', 'C']), classes: 'root form' }
    const classed = treatmentsOf([
      { ...hybrids, levels: hybrids.levels.map((level, i) => ({ ...level, class: i < 2 ? 'long' : 'round' })) },
    ])
    expect(textsOf(classed)).toEqual(['Hybrid C alone stands for round: what it does is told of Hybrid C, and of no root form.'])
    const sites = [
      { name: 'Hazel Bank', without: [] },
      { name: 'Low Field', without: ['l2'] },
    ]
    expect(mixedUp(ladder(3), sites).map((each) => each.text)[0]).toMatch(/^Only Hazel Bank has 80 kg N\/ha/)
  })
})

describe('classes of levels', () => {
  it('are judged by the members within them: a nominal rate of false claims, where the plots would claim far too often', () => {
    const hybrids = kindsOf('hybrid', 'Hybrid', ['A', 'B', 'C', 'D', 'E', 'F'])
    const classed: Factor = {
      ...hybrids,
      classes: 'root form',
      levels: hybrids.levels.map((level, i) => ({ ...level, class: i < 3 ? 'long' : 'round' })),
    }
    const trial = asTrial({ ...trialWith(2, 4), treatments: treatmentsOf([classed]) })
    const layout = layOut(trial, 'site-1', 3, countingIds())
    const plots = layout.units.filter((unit) => unit.kind === 'plot')
    const chance = chanceFrom(11)
    const deviate = () => Array.from({ length: 12 }, () => chance.below(10_000) / 10_000).reduce((sum, each) => sum + each, -6)
    let [claims, byPlots] = [0, 0]
    const runs = 300
    for (let run = 0; run < runs; run++) {
      // Hybrids differ by chance, forms do not.
      const own = new Map(hybrids.levels.map((level) => [level.key, 2 * deviate()]))
      const records = plots.map((plot) => readingOf(plot.id, 'gross-weight', 100 + own.get(plot.received['hybrid']!)! + deviate()))
      const { without } = analyseTrait(
        trial,
        [layout],
        new TrialBook(trial, [layout], records).observations('gross-weight', 'harvest'),
        'gross-weight',
        {
          method: 'lsd',
          contrasts: [{ name: 'forms', term: ['hybrid'], coefficients: { a: 1 / 3, b: 1 / 3, c: 1 / 3, d: -1 / 3, e: -1 / 3, f: -1 / 3 } }],
        },
      )
      const [row] = classRows(without, trial.treatments)
      expect(row!.df).toBe(4)
      expect(row!.difference).toBeCloseTo(without.contrasts[0]!.estimate, 8)
      if (row!.p < 0.05) claims++
      if (without.contrasts[0]!.p < 0.05) byPlots++
    }
    expect(claims).toBeLessThan(runs * 0.09)
    expect(byPlots).toBeGreaterThan(runs * 0.3)
  })

  it('of one member nothing is claimed', () => {
    const hybrids = kindsOf('hybrid', 'Hybrid', ['A', 'B', 'C'])
    const classed = {
      ...hybrids,
      classes: 'root form',
      levels: hybrids.levels.map((level, i) => ({ ...level, class: i < 2 ? 'long' : 'round' })),
    }
    const trial = asTrial({ ...trialWith(2, 3), treatments: treatmentsOf([classed]) })
    const layout = layOut(trial, 'site-1', 3, countingIds())
    const records = layout.units
      .filter((unit) => unit.kind === 'plot')
      .map((unit, i) => readingOf(unit.id, 'gross-weight', 20 + ((i * 5) % 7)))
    const { without } = analyseTrait(
      trial,
      [layout],
      new TrialBook(trial, [layout], records).observations('gross-weight', 'harvest'),
      'gross-weight',
    )
    expect(classAnswers(without, trial.treatments, 'metric').map((each) => each.text)).toEqual([
      'Of round only one member was grown: nothing is claimed of the root form from it.',
    ])
  })
})

describe('limits on other traits', () => {
  it('the best of the response among those that keep them, a yardstick aside; by means, so it is a look', () => {
    const treatments = {
      ...ladder(4),
      list: ladder(4).list.map((each, i) => ({ ...each, role: i === 3 ? ('yardstick' as const) : each.role })),
    }
    const trial = asTrial({ ...trialWith(4, 3), treatments })
    const layout = layOut(trial, 'site-1', 3, countingIds())
    const plots = layout.units.filter((unit) => unit.kind === 'plot')
    const level = (received: Record<string, string>): number => Number(received['factor-1']!.slice(1))
    const records = plots.flatMap((plot, i) => [
      readingOf(plot.id, 'gross-weight', 50 - 5 * level(plot.received) + (i % 3) / 10),
      readingOf(plot.id, 'dirt-tare', 5 + level(plot.received) + (i % 2) / 10),
    ])
    const of = (key: string) =>
      analyseTrait(trial, [layout], new TrialBook(trial, [layout], records).observations(key, 'harvest'), key).without
    const tare = trial.traits.observed.find((each) => each.key === 'dirt-tare')!
    const said = (value: number) =>
      withinLimits(
        of('gross-weight'),
        [{ trait: { ...tare, limit: { side: 'at most', value } }, analysis: of('dirt-tare') }],
        treatments,
        'less',
        'metric',
      )
    expect(said(6.5)!.text).toMatch(
      /^No nitrogen and 40 kg N\/ha kept dirt tare at most 6.5 %, by their means; of these 40 kg N\/ha had the least gross root weight, 45/,
    )
    expect(said(99)!.text).toMatch(/^All treatments kept .*of these 80 kg N\/ha had the least/)
    expect(said(1)!.text).toMatch(/^No treatment kept dirt tare at most 1 %/)
    expect(said(6.5)!.evidence).toBe('look')
  })
})

describe('a blinded trial', () => {
  it('shows codes that tell nothing, the same for everybody, under the keys all is dealt out by', () => {
    const treatments = { ...withOutside(), blinded: true }
    const seen = codesOnly(treatments, 'trial-1')
    const words = JSON.stringify([
      seen.factors.map((factor) => [factor.name, factor.levels.map((level) => [level.code, level.name, level.amount])]),
      seen.list.map((each) => [each.code, each.name, each.role, each.colour]),
    ])
    expect(words).not.toMatch(/peat|clay|oil|nitrogen|carrier|40|80|nil|std|control|standard/i)
    expect(seen.list.map((each) => each.key).sort()).toEqual(treatments.list.map((each) => each.key).sort())
    expect(codesOnly(treatments, 'trial-1')).toEqual(seen)
    const orders = new Set(
      Array.from({ length: 30 }, (_, i) =>
        codesOnly(treatments, `trial-${i}`)
          .factors[1]!.levels.map((level) => level.key)
          .join(),
      ),
    )
    expect(orders.size).toBeGreaterThan(3)
    const trial = asTrial({ ...trialWith(2, 3), treatments })
    const layout = layOut(trial, 'site-1', 3, countingIds())
    const plots = fileFormats
      .find((each) => each.key === 'plots')!
      .make({ trial, layouts: [layout], records: [], events: [], people: [] }) as string
    expect(plots).not.toMatch(/peat|40 kg|std/i)
    expect(checkTrial(trial, [layout])).toEqual([])
  })
})

describe('sites that do not have all treatments', () => {
  it('are laid out with what they have; together only what is shared is compared, and said', () => {
    const draft = trialWith(5, 3)
    const second = { ...draft.sites[0]!, key: 'site-2', name: 'Site 2', without: ['l3', 'l4'] }
    const trial = asTrial({ ...draft, sites: [draft.sites[0]!, second] })
    const ids = countingIds()
    const layouts = trial.sites.map((site) => layOut(trial, site.key, 5, ids))
    expect(layouts[1]!.units.filter((unit) => unit.kind === 'plot')).toHaveLength(9)
    const records = layouts.flatMap((layout) =>
      layout.units.filter((unit) => unit.kind === 'plot').map((unit, i) => readingOf(unit.id, 'gross-weight', 20 + ((i * 7) % 5))),
    )
    const observations = new TrialBook(trial, layouts, records).observations('gross-weight', 'harvest')
    const { without: together } = analyseTrait(trial, layouts, observations, 'gross-weight')
    expect(together.terms['factor-1']!.means.map((mean) => [mean.level, mean.n])).toEqual([
      ['l0', 6],
      ['l1', 6],
      ['l2', 6],
    ])
    expect(together.missing).toBe(0)
    expect(together.cautions[0]!.text).toMatch(/^Not every site has N120 and N160: together only what all of them have is compared/)
    expect(analyseTrait(trial, layouts.slice(0, 1), observations, 'gross-weight').without.terms['factor-1']!.means).toHaveLength(5)
    expect(checkTrial({ ...trial, sites: [trial.sites[0]!, { ...second, without: ['l0', 'l1', 'l2', 'l3'] }] })[0]!.message).toMatch(
      /fewer than two/,
    )
    const fixed = {
      onGround: new Set(['site-2']),
      sitesWithRecords: new Set<string>(),
      traits: new Set<string>(),
      visits: new Set<string>(),
      halves: new Set<string>(),
      halvedFrom: new Set<string>(),
    }
    const changed = { ...trial, sites: [trial.sites[0]!, { ...second, without: [] }] }
    expect(lockedChanges(trial, changed, fixed).map((each) => [each.code, each.how])).toEqual([['design', 'refused']])
  })

  it('one level of a factor at a site: the other factor is read by itself', () => {
    const treatments = treatmentsOf([carriers, rates(0, 40)])
    const draft = trialWith(2, 3)
    const only = {
      ...draft.sites[0]!,
      without: treatments.list.filter((each) => each.levels['carrier'] !== 'peat').map((each) => each.key),
    }
    const trial = asTrial({ ...draft, treatments, sites: [only] })
    const layout = layOut(trial, 'site-1', 2, countingIds())
    const records = layout.units
      .filter((unit) => unit.kind === 'plot')
      .map((unit, i) => readingOf(unit.id, 'gross-weight', 10 + ((i * 3) % 4)))
    const { without } = analyseTrait(
      trial,
      [layout],
      new TrialBook(trial, [layout], records).observations('gross-weight', 'harvest'),
      'gross-weight',
    )
    expect(Object.keys(without.terms)).toEqual(['n'])
    expect(without.kind).toBe('tested')
    expect(withFactors(trial.treatments, trial.treatments.factors).list).toHaveLength(6)
  })
})
