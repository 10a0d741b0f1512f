import { describe, expect, it } from 'vitest'
import { analyse, AnalysisOptions, sentencesFor, spoken, type Analysis, type ComparisonRow } from '../src/analysis/index.ts'
import { newTrialDraft, traitSets } from '../src/numbers/index.ts'
import { Ground, lockedChanges, TrialDraft, Unit } from '../src/trial/index.ts'
import { trialWith } from './build.ts'
import { blocksOf } from './plan-case.ts'

const problems = (change: (draft: TrialDraft) => unknown): string[] => {
  const parsed = TrialDraft.safeParse(change(trialWith(4, 3)))
  return parsed.success ? [] : parsed.error.issues.map((issue) => `${issue.path.join('.')}: ${issue.message}`)
}

describe('a trial is checked where it is written', () => {
  it('takes every set of traits that is offered', () => {
    for (const set of traitSets) {
      const draft = { ...newTrialDraft(set.key, 2026), title: 'Any', crop: 'Any' }
      expect(TrialDraft.safeParse(draft).error?.issues ?? []).toEqual([])
    }
  })

  const factor = (draft: TrialDraft) => draft.factors[0]!
  const withLevels = (draft: TrialDraft, change: (level: TrialDraft['factors'][0]['levels'][0], i: number) => object) => ({
    ...draft,
    factors: [{ ...factor(draft), levels: factor(draft).levels.map((level, i) => ({ ...level, ...change(level, i) })) }],
  })

  it.each<[string, (draft: TrialDraft) => unknown, RegExp]>([
    ['no title', (draft) => ({ ...draft, title: '  ' }), /title: Title is empty/],
    ['two controls', (draft) => withLevels(draft, () => ({ control: true })), /Only one level can be the control/],
    ['one code twice', (draft) => withLevels(draft, () => ({ code: 'N0' })), /factors\.0\.levels\.1\.code: The code “N0” is used twice/],
    ['a code too long for a stake', (draft) => withLevels(draft, (_, i) => ({ code: `NITROGEN${i}` })), /at most 8 characters/],
    ['a rate without an amount', (draft) => withLevels(draft, () => ({ amount: null })), /needs an amount in kg\/ha/],
    ['a negative rate', (draft) => withLevels(draft, () => ({ amount: -1 })), /cannot be negative/],
    [
      'a response that is no trait',
      (draft) => ({ ...draft, response: 'height' }),
      /response: The response that matters is not among the traits/,
    ],
    [
      'a derived value of nothing',
      (draft) => ({ ...draft, traits: draft.traits.slice(0, 1) }),
      /needs “dirt-tare”, which is not a trait before it/,
    ],
    ['an unknown unit', (draft) => ({ ...draft, factors: [{ ...factor(draft), unit: 'bags' }] }), /Unknown unit/],
    ['a season that is none', (draft) => ({ ...draft, season: 20260 }), /season/],
    ['too many replicates', (draft) => ({ ...draft, replicates: 51 }), /At most 50 replicates/],
    ['a difference of nothing', (draft) => ({ ...draft, smallestDifference: { value: 0, unit: 't/ha' } }), /above zero/],
    [
      'a reference nobody grew',
      (draft) => ({
        ...draft,
        economics: {
          currency: '€',
          pricePerTonne: 1,
          baseQuality: 16,
          percentPerPoint: 9,
          productPrice: 1,
          applicationCost: 1,
          reference: 'l9',
        },
      }),
      /not a level of the factor/,
    ],
  ])('%s', (_, change, message) => {
    expect(problems(change).join('\n')).toMatch(message)
  })

  it('ground that cannot be, and units that lie in any number of others', () => {
    const ground = trialWith(2, 2).sites[0]!.ground
    expect(Ground.safeParse({ ...ground, harvestWidth: ground.plotWidth + 1 }).error?.issues[0]?.message).toMatch(/wider than the plot/)
    expect(Ground.safeParse({ ...ground, plotWidth: 0 }).success).toBe(false)
    const ids = [1, 2, 3].map((n) => `00000000-0000-7000-8000-00000000000${n}`)
    expect(
      Unit.safeParse({
        id: ids[0],
        kind: 'plot',
        code: '11',
        in: ids.slice(1),
        planned: {},
        received: {},
        change: 'none',
        place: null,
        walk: null,
      }).success,
    ).toBe(true)
  })
})

it('locks: what is refused and what needs a reason once a trial stands on the ground', () => {
  const before = trialWith(4, 3)
  const changed = (patch: Partial<TrialDraft>, observed: string[] = []) =>
    lockedChanges(before, { ...before, ...patch }, new Set(observed)).map((each) => each.how)
  const factor = before.factors[0]!
  expect(changed({ title: 'Another', question: { ...before.question, why: 'because' } })).toEqual([])
  expect(changed({ replicates: 4 })).toEqual(['refused'])
  expect(changed({ factors: [{ ...factor, levels: factor.levels.slice(1) }] })).toEqual(['refused'])
  expect(changed({ factors: [{ ...factor, levels: factor.levels.map((level) => ({ ...level, name: `${level.name}!` })) }] })).toEqual([
    'reason',
  ])
  expect(changed({ significance: 0.1 })).toEqual(['reason'])
  expect(changed({ traits: before.traits.slice(1) })).toEqual([])
  expect(changed({ traits: before.traits.slice(1) }, ['gross-weight'])).toEqual(['refused'])
})

describe('words', () => {
  const factor = trialWith(3, 4).factors[0]!
  const evidence = { kind: 'trial' as const, why: 'randomised, 4 plots each' }
  const row = (a: string, difference: number, p: number): ComparisonRow => ({
    a,
    b: 'l0',
    difference,
    sed: 0.4,
    df: 6,
    t: difference / 0.4,
    p,
    lower: difference - 1,
    upper: difference + 1,
    threshold: 1,
    evidence,
    ratio: null,
    equivalence: null,
  })
  /** A real analysis of three rates, with comparisons put in as the case asks. */
  const analysis = (dunnett: ComparisonRow[]): Analysis => {
    const request = blocksOf(['l0', 'l1', 'l2'], 4, (level, block) => level.charCodeAt(1) + block * ((level.charCodeAt(1) % 3) + 1))
    const found = analyse({
      ...request,
      options: AnalysisOptions.parse({ significance: 0.1 }),
      trait: { key: 'h', name: 'Leaf burn', unit: '%', kind: 'continuous' },
    })
    return { ...found, terms: { [factor.key]: { ...found.terms['rate']!, control: 'l0', comparisons: { dunnett } } } }
  }
  const tell = (rows: ComparisonRow[], better: 'more' | 'less' | 'neither') =>
    sentencesFor({ analysis: analysis(rows), factor, better, smallest: null, system: 'metric' })[0]!.text

  it('less can be better: the strongest reduction leads, “less” and never “reduced to”', () => {
    expect(tell([row('l1', -3, 0.01), row('l2', 5, 0.001)], 'less')).toBe(
      '40 kg N/ha gave 3.0 % less leaf burn than no nitrogen (90 % interval 2.0 to 4.0 %).',
    )
    expect(tell([row('l1', -3, 0.01), row('l2', 5, 0.001)], 'more')).toMatch(/^80 kg N\/ha gave 5\.0 % more leaf burn/)
    expect(tell([row('l1', -3, 0.01), row('l2', 5, 0.001)], 'neither')).toMatch(/^80 kg N\/ha/)
  })

  it('what was not told apart is given with the interval that could hide a difference', () => {
    expect(tell([row('l1', 0.4, 0.7), row('l2', 0.6, 0.4)], 'more')).toMatch(
      /did not separate any treatment from no nitrogen.*0\.60 %.*could have gone unseen/,
    )
  })

  it('levels are spoken of by what they are', () => {
    expect(spoken(factor, 'l0', 'metric')).toBe('no nitrogen')
    expect(spoken(factor, 'l1', 'metric')).toBe('40 kg N/ha')
    expect(spoken(factor, 'l1', 'us')).toBe('35.7 lb N/ac')
    expect(spoken({ ...factor, unit: '' }, 'l1', 'metric')).toBe('40 kg N/ha')
  })
})
