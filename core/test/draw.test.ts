import { describe, expect, it } from 'vitest'
import { chanceFrom, designOf, designs, drawLater, drawnInTwos, shuffled } from '../src/design/index.ts'
import { layOut } from '../src/ground/index.ts'
import { chiSquaredUpper } from '../src/statistics/index.ts'
import { DRAW, Layout, marksOn, type TrialDraft } from '../src/trial/index.ts'
import { countingIds, crossed, designed, entries, trialFor, trialWith, twoFactors } from './build.ts'

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
const splitSplit = (blocks: number): TrialDraft =>
  designed(
    { ...trialWith(2, blocks), treatments: crossed(2, 2, 2) },
    { key: 'split-split-plot', placed: { 'main plot': ['f1'], subplot: ['f2'] } },
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
    ['2 × 2 × 2 split-split plots in one block', splitSplit(1), 128],
    ['3 × 3 Latin squares', plain(3, 1, 'latin-square'), 12],
    ['2 entries among check strips, three times', designed({ ...trialWith(3, 3), treatments: entries(3, 1) }, { key: 'check-strips' }), 8],
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

/** A search that ends as soon as it began: what is dealt out by chance around it stays. */
const STOPPED = { progress: () => undefined, stopped: () => true }
const drawn = designs.filter((design) => design.key !== 'systematic').map((design) => design.key)

describe.each(drawn)('%s: over seeds', (key) => {
  it('what stands as often as another comes to every plot, and before every other, as often', () => {
    const draft = trialFor(key, 2)
    const choice = draft.sites[0]!.design
    const [factor] = draft.treatments.factors
    const levels = factor!.levels.map((level) => level.key)
    const { times } = designOf(key)!.figures({ treatments: draft.treatments, choice })
    const timesOf = (level: string): number =>
      draft.treatments.list.reduce((sum, each, i) => sum + (each.levels[factor!.key] === level ? times[i]! : 0), 0)
    const alike = (level: string): string[] => levels.filter((each) => timesOf(each) === timesOf(level))
    const [standing, before] = [new Map<string, string[]>(), new Map<string, string[]>()]
    const add = (map: Map<string, string[]>, at: string, what: string): unknown => map.set(at, [...(map.get(at) ?? []), what])
    for (let seed = 0; seed < (designOf(key)!.searched ? 250 : 600); seed++) {
      const layout = layOut(draft, 'site-1', seed, countingIds(), null, STOPPED)
      const index = new Map(layout.units.map((unit) => [unit.id, unit]))
      const marks = layout.units.filter((unit) => unit.kind === 'plot').map((unit) => marksOn(unit, index, 'planned')[factor!.key]!)
      marks.forEach((mark, i) => {
        const group = alike(mark)
        if (group.length > 1) add(standing, `${i} ${group.length}`, mark)
        const next = marks[i + 1]
        if (next !== undefined && next !== mark && group.includes(next)) add(before, `${i} ${group.length}`, `${mark} ${next}`)
      })
    }
    const pOf = (seen: readonly string[], of: number): number => (seen.length < 5 * of ? 1 : uniformity(seen, of).p)
    const places = [...standing].map(([at, seen]) => pOf(seen, Number(at.split(' ')[1])))
    const pairs = [...before].map(([at, seen]) => pOf(seen, Number(at.split(' ')[1]) * (Number(at.split(' ')[1]) - 1)))
    expect(places.filter((p) => p < 1)).not.toEqual([])
    for (const p of [...places, ...pairs]) expect(p).toBeGreaterThan(1e-6)
  })
})

describe('a later draw', () => {
  // In blocks 12 of the 36 leave nothing by which the ways could be told from what stood before.
  it.each<[string, number, number]>([
    ['completely-randomised', 36, 1440],
    ['randomised-block', 24, 480],
  ])('of two ways among the four plots of each of two treatments finds every way it can, as often: %s', (key, of, seeds) => {
    const plots = layOut(plain(2, 4, key), 'site-1', 1, countingIds()).units.filter((unit) => unit.kind === 'plot')
    const groups = ['l0', 'l1'].map((mark) => plots.filter((unit) => unit.planned['factor-1'] === mark))
    const seen = Array.from({ length: seeds }, (_, seed) => {
      const drawn = drawLater(groups, 2, chanceFrom(seed))!
      return groups.map((group) => group.map((unit) => drawn.get(unit.id)).join('')).join(' ')
    })
    for (const way of seen) for (const own of way.split(' ')) expect([...own].sort().join('')).toBe('0011')
    expect(uniformity(seen, of)).toEqual({ found: of, p: expect.toSatisfy((p: number) => p > 1e-4) as number })
  })
})

describe('a plan keeps the draw that made it', () => {
  const laid = (draft: TrialDraft, draw: number) => layOut(draft, 'site-1', 7, countingIds(), null, null, draw)

  it('so that the same seed makes it again, and a draw of a newer version is refused', () => {
    const layout = laid(plain(4, 3), DRAW)
    expect(layout.structure.draw).toBe(DRAW)
    expect(laid(plain(4, 3), layout.structure.draw!)).toEqual(layout)
    expect(laid(plain(4, 3), 1).units).not.toEqual(layout.units)
    expect(laid(plain(4, 3, 'systematic'), DRAW).structure.draw).toBeUndefined()
    const newer = { ...layout, structure: { ...layout.structure, draw: DRAW + 1 } }
    expect(Layout.safeParse(newer).error!.issues[0]!.message).toMatch(/newer version of Canter/)
  })

  it.each<[string, TrialDraft, string[]]>([
    ['two treatments in blocks', plain(2, 4), ['plot']],
    ['two treatments in one block', plain(2, 1), []],
    ['three treatments in blocks', plain(3, 4), []],
    ['two treatments over a whole site', plain(2, 4, 'completely-randomised'), []],
    ['pairs of strips', plain(2, 4, 'paired-strips'), ['plot']],
    ['two others among check strips', designed({ ...trialWith(3, 3), treatments: entries(3, 1) }, { key: 'check-strips' }), ['plot']],
    ['three others among check strips', designed({ ...trialWith(4, 3), treatments: entries(4, 1) }, { key: 'check-strips' }), []],
    ['two main plots of three', split(2, 3, 3), ['main plot']],
    ['three main plots of two', split(3, 2, 3), ['plot']],
    ['crossing strips of two and three', strips(2, 3, 3), ['row']],
    ['two in the order listed', plain(2, 4, 'systematic'), []],
  ])('plans of the first draw that were dealt out in twos are known: %s', (_, draft, kinds) => {
    expect(drawnInTwos(laid(draft, 1))).toEqual(kinds)
    expect(drawnInTwos(laid(draft, DRAW))).toEqual([])
  })
})
