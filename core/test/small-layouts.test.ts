import { describe, expect, it } from 'vitest'
import { chanceFrom } from '../src/design/index.ts'
import { kenwardRoger, reml, type MixedTest } from '../src/statistics/index.ts'

interface Cell {
  readonly block: number
  readonly treatment: number
  readonly visit: number
  readonly y: number
}

/** Plots in blocks, each seen at every visit, without those lost: whole plots or single readings. */
function readings(
  sizes: readonly [blocks: number, treatments: number, visits: number],
  lost: ReadonlySet<number>,
  of: 'plot' | 'reading',
  seed: number,
  ground: number,
): Cell[] {
  const [blocks, treatments, visits] = sizes
  const chance = chanceFrom(seed)
  const noise = (): number => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6)
  const all = Array.from({ length: blocks * treatments }, (_, plot) => {
    const level = 10 + ground * noise()
    return Array.from({ length: visits }, (__, visit): Cell => ({ block: Math.floor(plot / treatments), treatment: plot % treatments, visit, y: level + noise() })) // prettier-ignore
  })
  return of === 'plot' ? all.filter((_, plot) => !lost.has(plot)).flat() : all.flat().filter((_, n) => !lost.has(n))
}

interface Tests {
  readonly among: MixedTest
  readonly visits: MixedTest
  readonly both: MixedTest
  /** Of the single functions that `among` takes together. */
  readonly single: readonly { readonly t: number; readonly df: number }[]
  readonly plots: number
}

/** Blocks, treatments, visits and their interaction fixed, plots random; or plots fixed in the place of blocks and treatments. */
function tested(cells: readonly Cell[], [blocks, treatments, visits]: readonly [number, number, number]): Tests {
  const from = (count: number): number[] => Array.from({ length: count - 1 }, (_, i) => i + 1)
  const column = (of: (cell: Cell) => boolean): Float64Array => Float64Array.from(cells, (cell) => Number(of(cell)))
  const fixed = [
    column(() => true),
    ...from(blocks).map((b) => column((cell) => cell.block === b)),
    ...from(treatments).map((t) => column((cell) => cell.treatment === t)),
    ...from(visits).map((v) => column((cell) => cell.visit === v)),
    ...from(treatments).flatMap((t) => from(visits).map((v) => column((cell) => cell.treatment === t && cell.visit === v))),
  ]
  const plotOf = (cell: Cell): number => cell.block * treatments + cell.treatment
  const levels = [...new Set(cells.map(plotOf))]
  const fit = reml({
    y: Float64Array.from(cells, (cell) => cell.y),
    fixed,
    random: [{ name: 'plot', levels: levels.map(String), codes: Int32Array.from(cells, (cell) => levels.indexOf(plotOf(cell))) }],
  })
  const [t0, v0, both0] = [blocks, blocks + treatments - 1, blocks + treatments + visits - 2]
  const row = (weights: readonly (readonly [number, number])[]): Float64Array => {
    const made = new Float64Array(fixed.length)
    for (const [at, weight] of weights) made[at]! += weight
    return made
  }
  const cross = (t: number, v: number): number => both0 + (t - 1) * (visits - 1) + v - 1
  const among = from(treatments).map((t) => row([[t0 + t - 1, 1], ...from(visits).map((v): [number, number] => [cross(t, v), 1 / visits])]))
  const inference = kenwardRoger(fit)
  return {
    among: inference.test(among),
    visits: inference.test(from(visits).map((v) => row([[v0 + v - 1, 1], ...from(treatments).map((t): [number, number] => [cross(t, v), 1 / treatments])]))), // prettier-ignore
    both: inference.test(from(treatments).flatMap((t) => from(visits).map((v) => row([[cross(t, v), 1]])))),
    single: among.map((each) => {
      const { estimate, se, df } = inference.estimate(each)
      return { t: estimate / se, df }
    }),
    plots: fit.values[0]!,
  }
}

/** F of treatments from plot means, on blocks and treatments, by the sums of squares that treatments take away. */
function fromPlotMeans(cells: readonly Cell[], [blocks, treatments, visits]: readonly [number, number, number]): MixedTest {
  const means = new Map<string, { block: number; treatment: number; sum: number }>()
  for (const { block, treatment, y } of cells) {
    const at = `${block} ${treatment}`
    means.set(at, { block, treatment, sum: (means.get(at)?.sum ?? 0) + y / visits })
  }
  const rows = [...means.values()]
  const left = (by: (row: (typeof rows)[number]) => number[]): number => {
    // Gram and Schmidt: what is left of the means once these columns are taken out.
    let y = rows.map((each) => each.sum)
    const basis: number[][] = []
    for (let k = 0; k < by(rows[0]!).length; k++) {
      let own = rows.map((each) => by(each)[k]!)
      for (let again = 0; again < 2; again++)
        for (const b of basis) own = own.map((value, i) => value - b[i]! * b.reduce((sum, each, j) => sum + each * own[j]!, 0))
      const norm = Math.hypot(...own)
      if (norm < 1e-9) continue
      basis.push(own.map((value) => value / norm))
    }
    for (const b of basis) {
      const along = b.reduce((sum, each, j) => sum + each * y[j]!, 0)
      y = y.map((value, i) => value - along * b[i]!)
    }
    return y.reduce((sum, value) => sum + value * value, 0)
  }
  const inBlock = (row: (typeof rows)[number]): number[] => Array.from({ length: blocks }, (_, b) => Number(row.block === b))
  const [without, withThem] = [left(inBlock), left((row) => [...inBlock(row), ...Array.from({ length: treatments }, (_, t) => Number(row.treatment === t))])] // prettier-ignore
  const [numeratorDf, denominatorDf] = [treatments - 1, rows.length - blocks - treatments + 1]
  return { f: (without - withThem) / numeratorDf / (withThem / denominatorDf), numeratorDf, denominatorDf }
}

const SIZES = [2, 3, 4].flatMap((blocks) =>
  [2, 3, 4].flatMap((treatments) => [2, 3, 4].map((visits) => [blocks, treatments, visits] as const)),
)

/** Which of so many are lost, by chance. */
function lostOf(count: number, of: number, seed: number): Set<number> {
  const chance = chanceFrom(seed)
  const lost = new Set<number>()
  while (lost.size < count) lost.add(chance.below(of))
  return lost
}

describe('Kenward and Roger’s tests of small layouts', () => {
  it.each([0, 1, 2])(
    'with %i plots lost whole, treatments are tested exactly as from plot means, at two degrees of freedom too',
    (count) => {
      let atTwo = 0
      let compared = 0
      for (const sizes of SIZES) {
        for (let seed = 1; seed <= 6; seed++) {
          const cells = readings(sizes, lostOf(count, sizes[0] * sizes[1], seed), 'plot', 31 * seed + count, 2)
          const exact = fromPlotMeans(cells, sizes)
          const standing =
            new Set(cells.map((cell) => cell.treatment)).size === sizes[1] && new Set(cells.map((cell) => cell.block)).size === sizes[0]
          if (exact.denominatorDf < 1 || !standing) continue
          let found: Tests
          try {
            found = tested(cells, sizes)
          } catch {
            // Blocks that hold together by nothing leave effects that cannot be told.
            continue
          }
          expect(found.among.denominatorDf).toBeCloseTo(exact.denominatorDf, 5)
          // Plots whose variance came out at zero are judged by a pooled variance, which is another F.
          if (found.plots === 0) continue
          compared++
          if (exact.denominatorDf === 2) atTwo++
          expect(Math.abs(found.among.f / exact.f - 1)).toBeLessThan(1e-5)
        }
      }
      expect(compared).toBeGreaterThan(60)
      expect(atTwo).toBeGreaterThan(count === 2 ? 3 : 6)
    },
  )

  it('with readings lost, no F is below zero or without degrees of freedom, and one function is t²', () => {
    let looked = 0
    for (const sizes of SIZES) {
      for (const count of [0, 1, 2])
        for (let seed = 1; seed <= 5; seed++) {
          let found: Tests
          try {
            found = tested(
              readings(sizes, lostOf(count, sizes[0] * sizes[1] * sizes[2], seed), 'reading', 17 * seed + count, seed % 3),
              sizes,
            )
          } catch {
            continue
          }
          looked++
          for (const test of [found.among, found.visits, found.both]) {
            expect(test.f).toBeGreaterThanOrEqual(0)
            expect(test.denominatorDf).toBeGreaterThan(0.3)
            expect(test.denominatorDf).toBeLessThan(sizes[0] * sizes[1] * sizes[2])
          }
          const dfs = found.single.map((each) => each.df)
          // Of all together neither fewer than of any of them, by much, nor more: F is not thrown away where each t is kept.
          expect(found.among.denominatorDf).toBeGreaterThan(0.75 * Math.min(...dfs))
          expect(found.among.denominatorDf).toBeLessThan(1.35 * Math.max(...dfs))
          const largest = Math.max(...found.single.map((each) => each.t ** 2))
          expect(found.among.f * found.single.length).toBeGreaterThan(0.5 * largest)
          if (found.single.length === 1) {
            expect(found.among.f / found.single[0]!.t ** 2).toBeCloseTo(1, 9)
            expect(found.among.denominatorDf / found.single[0]!.df).toBeCloseTo(1, 9)
          }
        }
    }
    expect(looked).toBeGreaterThan(330)
  })

  it('of two pairs with a plot lost treatments cannot be judged: refused, not claimed by what plots differ in between visits', () => {
    for (let seed = 1; seed <= 10; seed++)
      expect(() => tested(readings([2, 2, 3], new Set([seed % 4]), 'plot', seed, 1), [2, 2, 3])).toThrow(
        /nothing of one of the variances|not positive definite/,
      )
  })
})
