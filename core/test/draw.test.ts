import { describe, expect, it } from 'vitest'
import { chanceFrom, DRAW, shuffled } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { chiSquaredUpper } from '../src/statistics/index.ts'
import { marksOn, type TrialDraft } from '../src/trial/index.ts'
import { countingIds, designed, trialWith, twoFactors } from './build.ts'

/** What stands on each plot, plot by plot. */
function arrangement(draft: TrialDraft, seed: number, draw = DRAW): string {
  const layout = layOut(draft, 'site-1', seed, countingIds(), null, null, draw)
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  return layout.units
    .filter((unit) => unit.kind === 'plot')
    .map((plot) =>
      Object.entries(marksOn(plot, index, 'planned'))
        .sort()
        .join('+'),
    ) // prettier-ignore
    .join(' ')
}

/** p of χ² that `of` arrangements are equally likely; the number that came up beside it. */
function uniformity(seen: readonly string[], of: number): { found: number; p: number } {
  const counts = new Map<string, number>()
  for (const each of seen) counts.set(each, (counts.get(each) ?? 0) + 1)
  const expected = seen.length / of
  const missing = Math.max(0, of - counts.size) * expected
  const chi = [...counts.values()].reduce((sum, count) => sum + (count - expected) ** 2 / expected, missing)
  return { found: counts.size, p: chiSquaredUpper(chi, of - 1) }
}

const split = (a: number, b: number, blocks: number): TrialDraft =>
  designed({ ...trialWith(2, blocks), treatments: twoFactors(a, b) }, { key: 'split-plot', placed: { 'main plot': ['water'] } })
const strips = (a: number, b: number, blocks: number): TrialDraft =>
  designed(
    { ...trialWith(2, blocks), treatments: twoFactors(a, b) },
    { key: 'strip-plot', placed: { row: ['water'], column: ['cultivar'] } },
  )
const plain = (treatments: number, replicates: number, key = 'randomised-block'): TrialDraft =>
  designed(trialWith(treatments, replicates), { key })

describe('over seeds every arrangement is as likely as any other', () => {
  it.each<[string, TrialDraft, number]>([
    ...[2, 3, 4, 5, 6, 7, 8].map((r): [string, TrialDraft, number] => [`2 treatments in ${r} blocks`, plain(2, r), 2 ** r]),
    ...[2, 3].map((r): [string, TrialDraft, number] => [`3 treatments in ${r} blocks`, plain(3, r), 6 ** r]),
    ...[2, 5, 8].map((r): [string, TrialDraft, number] => [`${r} pairs of strips`, plain(2, r, 'paired-strips'), 2 ** r]),
    ['2 treatments twice over a whole site', plain(2, 2, 'completely-randomised'), 6],
    ['2 treatments three times over a whole site', plain(2, 3, 'completely-randomised'), 20],
    ['2 × 2 split plots in one block', split(2, 2, 1), 8],
    ['2 × 2 split plots in two blocks', split(2, 2, 2), 64],
    ['3 × 2 split plots in one block', split(3, 2, 1), 48],
    ['2 × 3 split plots in one block', split(2, 3, 1), 72],
    ['2 × 2 crossing strips in two blocks', strips(2, 2, 2), 16],
    ['2 × 3 crossing strips in two blocks', strips(2, 3, 2), 144],
  ])('%s', (_, draft, of) => {
    const found = uniformity(
      Array.from({ length: 20 * of }, (_, seed) => arrangement(draft, seed)),
      of,
    )
    expect(found.found).toBe(of)
    expect(found.p).toBeGreaterThan(1e-4)
  })

  it('in turn and far apart alike: what seed n draws says nothing of what n + 1 draws', () => {
    for (const step of [1, 2, 1000, 65_536, 2 ** 31 - 12_345]) {
      const both = Array.from({ length: 1440 }, (_, i) => {
        const order = (seed: number): string => shuffled([...'abc'], chanceFrom(seed)).join('')
        return `${order(i)} ${order(i + step)}`
      })
      expect(uniformity(both, 36)).toEqual({ found: 36, p: expect.toSatisfy((p: number) => p > 1e-4) as number })
    }
  })

  it('the first draw, kept for old plans, was not: two treatments came in the same order in blocks 1 and 2', () => {
    const orders = new Set(Array.from({ length: 400 }, (_, seed) => arrangement(plain(2, 2), seed, 1)))
    expect(orders.size).toBe(2)
    expect(() => chanceFrom(1, 3)).toThrow(/no draw 3/)
  })
})

describe('places and neighbours, where arrangements are too many to count', () => {
  it('every treatment of ten comes to every place, and beside every other, equally often in each block', () => {
    const [places, pairs] = [
      [[], [], []],
      [[], [], []],
    ] as [string[][], string[][]]
    for (let seed = 0; seed < 1500; seed++) {
      const order = arrangement(plain(10, 3), seed).split(' ')
      for (let b = 0; b < 3; b++) {
        const block = order.slice(10 * b, 10 * b + 10)
        block.forEach((each, i) => places[b]!.push(`${each} ${i}`))
        // One pair of neighbours a plan, so that pairs are independent.
        pairs[b]!.push(`${block[seed % 9]} ${block[(seed % 9) + 1]}`)
      }
    }
    for (let b = 0; b < 3; b++) {
      // Ten places of one plan are not independent: their sum has 81 degrees of freedom and not 99, so the test is on the safe side.
      expect(uniformity(places[b]!, 100).p).toBeGreaterThan(1e-4)
      expect(uniformity(pairs[b]!, 90).p).toBeGreaterThan(1e-4)
    }
  })
})
