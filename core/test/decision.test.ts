import { describe, expect, it } from 'vitest'
import { genericProducts } from '../src/amounts/index.ts'
import {
  costedProducts,
  costsOf,
  decide,
  decisionInputs,
  decisionSentences,
  notStated,
  oddsInWords,
  priceOnScale,
  rankAtSites,
  rankedIn,
  rankingSentence,
} from '../src/decision/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { NO_PRICES, TrialBook } from '../src/numbers/index.ts'
import { Amounts, codesOnly, treatmentsOf, type Dose, type Prices, type Trial } from '../src/trial/index.ts'
import { asTrial, countingIds, kindsOf, readingOf, trialWith } from './build.ts'

const prices: Prices = {
  currency: '€',
  pricePerTonne: 40,
  baseQuality: 16,
  percentPerPoint: 10,
  productPrice: 0.3,
  applicationCost: 12,
  otherCost: {},
  reference: null,
}

const supply = {
  product: 'Lime nitrate',
  analysis: { N: 20 },
  applications: 2,
  labelMaximumPerApplication: null,
  labelMaximumPerSeason: null,
  reentryHours: null,
  preHarvestDays: null,
  protection: '',
  overMaximumReason: '',
}

/** Two rates in two blocks, weighed without dirt: 10.8 kg on 10.8 m² is 10 t/ha. */
function measured(yields: readonly [number, number, number, number], sugar: readonly [number, number]) {
  const trial: Trial = { ...asTrial(trialWith(2, 2)), prices, amounts: { supply, common: [] } }
  const layouts = [layOut(trial, 'site-1', 2, countingIds())]
  const { units } = layouts[0]!
  const blocks = units.filter((unit) => unit.kind === 'block')
  const records = units
    .filter((unit) => unit.walk !== null)
    .flatMap((plot) => {
      const level = plot.received['factor-1'] === 'l1' ? 1 : 0
      const block = blocks.findIndex((each) => each.id === plot.in[0])
      return [
        readingOf(plot.id, 'gross-weight', (yields[block * 2 + level]! * 10.8) / 10),
        readingOf(plot.id, 'dirt-tare', 0),
        readingOf(plot.id, 'sugar-content', sugar[level]),
      ]
    })
  const book = new TrialBook(trial, layouts, records)
  const run = (of: Prices = prices, other: Partial<Trial> = {}) => {
    const changed = { ...trial, ...other }
    return decide(changed, layouts, decisionInputs(changed, layouts, book), of)
  }
  return { trial, layouts, run }
}

it('works the money out as by hand', () => {
  const outcome = measured([60, 69, 62, 73], [16, 15]).run()
  if (!outcome.ok) throw new Error(outcome.problem)
  const [none, some] = outcome.decision.returns
  // Without: 61 t at 40; with 40 kg N: 71 t at 36, less 200 kg at 0.30 and two passes at 12.
  expect(none!.net).toBeCloseTo(61 * 40, 8)
  expect(some!.gross).toBeCloseTo(71 * 36, 8)
  expect(some!.cost.value).toBeCloseTo(200 * 0.3 + 24, 8)
  expect(some!.gain.difference).toBeCloseTo(71 * 36 - 84 - 61 * 40, 8)
  expect(some!.breakEven!.value).toBeCloseTo(84 / 40, 8)
  expect(some!.extraYield).toBeCloseTo(10, 8)
  expect(outcome.decision.priceAtReference.value).toBeCloseTo(40, 8)
  expect(some!.gain.odds).toBeGreaterThan(0.4)
  expect(some!.gain.odds).toBeLessThan(0.95)
  expect(some!.gain.lower).toBeLessThan(some!.gain.difference)
})

describe('what treatments cost', () => {
  const generic = (name: string) => genericProducts.find((each) => each.product === name)!
  const levels = kindsOf('source', 'Source', ['NONE', 'GYPSUM', 'SPRAY'])
  const dose = (over: Partial<Dose>): Dose => ({ key: 'g', to: { factor: 'source', level: 'gypsum' }, product: 'g', of: 'product', amount: 400, measure: 'kg/ha', per: 'unit', carrier: null, carrierToAll: false, placement: 'broadcast', depth: null, band: null, parts: [{ when: '', on: null, share: 100 }], reason: '', ...over }) // prettier-ignore
  const base = asTrial(trialWith(3, 2))
  const twice = [1, 15].map((day) => ({ when: '', on: `2026-06-${String(day).padStart(2, '0')}`, share: 50 }))
  const carrier = { amount: 200, measure: 'L/ha' }
  const products = [
    { ...generic('Gypsum'), key: 'g', price: { amount: 0.1, per: 'kg' as const } },
    { ...generic('Herbicide, 500 g/L'), key: 'h', price: { amount: 30, per: 'L' as const } },
    { ...generic('Wetter'), key: 'w', price: { amount: 8, per: 'L' as const } },
    { ...generic('Potassium chloride'), key: 'k' },
  ]
  const doses = [
    dose({}),
    dose({ key: 'h', product: 'h', to: { factor: 'source', level: 'spray' }, amount: 2, measure: 'L/ha', carrier, parts: twice }),
    dose({ key: 'w', product: 'w', to: { factor: 'source', level: 'spray' }, amount: 0.5, measure: 'L/ha', carrier, parts: twice }),
    // What all get alike is not counted, and need not be priced.
    dose({ key: 'k', product: 'k', to: null }),
  ]
  const trial = { ...base, treatments: treatmentsOf([levels]), amounts: Amounts.parse({ supply: null, common: [], products, doses }) }
  const cost = (of: Trial, stated: Prices, key: string) => {
    const found = costsOf(of, stated)(of.treatments.list.find((each) => each.key === key)!)
    return found.ok ? found.cost.value : found.problem
  }

  it('is each product at its price and each time somebody goes over it, by hand', () => {
    expect(costedProducts(trial).map((each) => each.key)).toEqual(['g', 'h', 'w'])
    // 400 kg at 0.1 and one pass at 12; 2 L at 30 and 0.5 L at 8 out of one tank on two days: 64 and two passes.
    expect(['none', 'gypsum', 'spray'].map((key) => cost(trial, prices, key))).toEqual([0, expect.closeTo(52, 9), expect.closeTo(88, 9)])
    expect(cost(trial, { ...prices, otherCost: { spray: 5 } }, 'spray')).toBeCloseTo(93, 9)
    // Rates by the plant cost what the plants of each site come to, the mean over both: 1 and 3 kg/ha.
    const grown = (key: string, plants: number) => ({ ...base.sites[0]!, key, ground: { ...base.sites[0]!.ground, plotWidth: 3, plotLength: 9, rows: { count: 6, spacing: 0.5, plants } } }) // prettier-ignore
    const planted = { ...trial, sites: [grown('a', 0.2), grown('b', 0.2 / 3)], amounts: { ...trial.amounts, doses: [dose({ amount: 0.01, measure: 'g', per: 'plant' })] } } // prettier-ignore
    expect(cost(planted, { ...prices, applicationCost: 0 }, 'gypsum')).toBeCloseTo((0.1 * (270 + 810) * 1e-5) / 2 / 27e-4, 9)
  })

  it('is not taken for nought where nobody stated it', () => {
    const bare = { ...trial, amounts: { ...trial.amounts, products: products.map(({ key, ...each }) => ({ ...each, key, price: key === 'h' ? null : each.price })) } } as Trial // prettier-ignore
    expect(cost(bare, prices, 'spray')).toMatch(/State the price of Herbicide, 500 g\/L, or what the treatments that get it cost besides/)
    expect(notStated({ ...bare, traits: { ...bare.traits, yieldTrait: measured([1, 1, 1, 1], [1, 1]).trial.traits.yieldTrait } }, prices)).toMatch(/State the price of Herbicide/) // prettier-ignore
    // What was said of the treatment covers what has no price: the wetter and the passes are added to it.
    expect(cost(bare, { ...prices, otherCost: { spray: 70 } }, 'spray')).toBeCloseTo(70 + 4 + 24, 9)
    expect(cost(trial, { ...prices, applicationCost: null }, 'gypsum')).toMatch(/State what each pass costs/)
    // Of a blinded trial it would tell what a code stands for.
    const blind = { ...trial, treatments: codesOnly(trial.treatments, 'salt') }
    expect([costedProducts(blind), cost(blind, prices, 'spray'), cost(blind, { ...prices, otherCost: { spray: 7 } }, 'spray')]).toEqual([[], expect.stringMatching(/^State what A\d costs per hectare/), 7]) // prettier-ignore
    const heavy = { ...trial, amounts: { ...trial.amounts, products: products.map((each) => (each.key === 'g' ? { ...each, price: { amount: 1, per: 'L' as const } } : each)) } } // prettier-ignore
    expect(cost(heavy, prices, 'gypsum')).toMatch(/price of Gypsum is for a litre: state its density/)
    // The main product at the price of its label, where the trial states no other.
    const main: Trial = { ...base, prices, amounts: { supply: { ...supply, price: { amount: 0.5, per: 'kg' } }, common: [] } }
    expect([cost(main, prices, 'l1'), cost(main, { ...prices, productPrice: null }, 'l1')]).toEqual([expect.closeTo(84, 9), expect.closeTo(124, 9)]) // prettier-ignore
  })
})

it('another reference turns the gain round, and words follow', () => {
  const { trial, run } = measured([60, 69, 62, 73], [16, 16])
  const outcome = run({ ...prices, reference: 'l1' })
  if (!outcome.ok) throw new Error(outcome.problem)
  expect(outcome.decision.returns[0]!.gain.difference).toBeCloseTo(61 * 40 - (71 * 40 - 84), 8)
  expect(decisionSentences(outcome.decision, trial.treatments, '€', 'metric')[0]).toMatch(/nothing returned more than 40 kg N\/ha/)
})

it('a scale price never turns negative, and without a stated scale quality does not move it', () => {
  expect(priceOnScale(prices, 17)).toBeCloseTo(44)
  expect(priceOnScale(prices, 1)).toBe(0)
  expect(priceOnScale({ ...prices, percentPerPoint: null }, 17)).toBe(40)
})

describe('the order from site to site', () => {
  /** Two sites at which the second rate gains so much each; no sugar scale. */
  function twoSites(gains: readonly [number, number]) {
    const draft = trialWith(2, 4)
    const sites = gains.map((_, i) => ({ ...draft.sites[0]!, key: `site-${i + 1}`, name: `Site ${i + 1}` }))
    const trial: Trial = { ...asTrial({ ...draft, sites }), prices: { ...prices, percentPerPoint: null }, amounts: { supply, common: [] } }
    const [ids, chance] = [countingIds(), chanceFrom(8, 1)]
    const layouts = trial.sites.map((site) => layOut(trial, site.key, 2, ids))
    const records = layouts.flatMap((layout, s) =>
      layout.units
        .filter((unit) => unit.walk !== null)
        .flatMap((plot) => [
          readingOf(
            plot.id,
            'gross-weight',
            ((60 + (plot.received['factor-1'] === 'l1' ? gains[s]! : 0) + chance.below(1000) / 400) * 10.8) / 10,
          ),
          readingOf(plot.id, 'dirt-tare', 0),
        ]),
    )
    const inputs = decisionInputs(trial, layouts, new TrialBook(trial, layouts, records))
    const outcome = decide(trial, layouts, inputs, trial.prices)
    if (!outcome.ok) throw new Error(outcome.problem)
    const sitesRanked = rankAtSites(trial, layouts, inputs, trial.prices)
    return {
      sites: sitesRanked,
      all: rankedIn(outcome.decision),
      said: rankingSentence(outcome.decision, sitesRanked, trial.treatments, 2026, 'metric'),
    }
  }

  it('is told where it holds and where it turns, and adds up to that over all', () => {
    // The rate costs 200 kg at 0.30 and two passes at 12: 84, which 2.1 t pay at 40.
    const turning = twoSites([9, 0])
    expect(turning.sites.map(({ ranked }) => ranked.get('l1')!.rank)).toEqual([1, 2])
    expect(turning.sites[0]!.ranked.get('l0')!.close).toBe(false)
    expect(turning.said).toBe(
      '40 kg N/ha returned most at 1 of 2 sites alone; at Site 2 it was no nitrogen, which could not be told from it there.',
    )
    for (const key of ['l0', 'l1'])
      expect(turning.all.get(key)!.net).toBeCloseTo(
        turning.sites.reduce((sum, { ranked }) => sum + ranked.get(key)!.net / 2, 0),
        6,
      )
    expect(twoSites([9, 8]).said).toBe('40 kg N/ha returned most at each of the 2 sites alone too.')
    expect(twoSites([2.1, 2.1]).sites.flatMap(({ ranked }) => [...ranked.values()].filter((each) => each.close))).not.toHaveLength(0)
  })
})

describe('nothing is said of money that nobody stated', () => {
  const { trial, layouts, run } = measured([60, 69, 62, 73], [16, 16])
  it.each<[string, Partial<Prices>, Partial<Trial>, RegExp]>([
    ['no price of the yield', { pricePerTonne: null }, {}, /State the price of the yield/],
    ['no price of the product', { productPrice: null }, {}, /State the price of the product/],
    ['no cost of a pass', { applicationCost: null }, {}, /State what each pass costs/],
    ['no product', {}, { amounts: { supply: null, common: [] } }, /Choose the product that carries the N/],
    ['no yield', {}, { traits: { ...trial.traits, yieldTrait: null } }, /which trait is the marketed yield/],
    ['a yield in kg a plot', {}, { traits: { ...trial.traits, yieldTrait: 'gross-weight' } }, /is in kg: money per hectare/],
  ])('%s', (_, patch, other, message) => {
    const outcome = run({ ...prices, ...patch }, other)
    expect(outcome.ok ? '' : outcome.problem).toMatch(message)
    expect(notStated({ ...trial, ...other }, { ...prices, ...patch })).toMatch(message)
  })

  it('a new grain trial with no prices says nothing, and kinds of thing need what each costs', () => {
    const variety = kindsOf('variety', 'Variety', ['A', 'B'])
    const kinds = { ...trial, treatments: treatmentsOf([variety]) }
    expect(notStated(kinds, NO_PRICES)).toMatch(/State the price/)
    expect(notStated(kinds, { ...prices, otherCost: { a: 0 } })).toMatch(/State what Variety B costs/)
    expect(notStated(kinds, { ...prices, otherCost: { a: 0, b: 45 } })).toBeNull()
  })

  it('no readings, no answer', () => {
    expect(decide(trial, layouts, [], prices)).toMatchObject({ ok: false, problem: expect.stringContaining('No plot has') as string })
  })
})

it('“could not be told” is a test of the difference, and odds are said as finely as they are known', () => {
  const near = measured([60, 61, 64, 63], [16, 16]).run()
  if (!near.ok) throw new Error(near.problem)
  expect(near.decision.returns.filter((each) => each !== near.decision.best).every((each) => !each.toldFromBest)).toBe(true)
  const sharp = measured([60, 69, 62, 71.1], [16, 16]).run()
  if (!sharp.ok) throw new Error(sharp.problem)
  expect(sharp.decision.returns.find((each) => each !== sharp.decision.best)!.toldFromBest).toBe(true)
  expect([0.9, 0.87, 0.5, 0.12, 0.97, 0.03, 0.999, 0.001].map(oddsInWords)).toEqual([
    '9 in 10',
    '9 in 10',
    '5 in 10',
    '1 in 10',
    '97 in 100',
    '3 in 100',
    'more than 99 in 100',
    'less than 1 in 100',
  ])
})
