import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { randomisedBlock } from '../src/design/index.ts'
import { layOut, siteExtent } from '../src/ground/index.ts'
import type { Layout } from '../src/trial/index.ts'
import { countingIds, trialWith } from './build.ts'

const plots = (layout: Layout) => layout.units.filter((unit) => unit.kind === 'plot')

const anyTrial = fc
  .record({
    levels: fc.integer({ min: 2, max: 12 }),
    replicates: fc.integer({ min: 1, max: 6 }),
    columnsPerBlock: fc.integer({ min: 1, max: 14 }),
    blocksAcross: fc.integer({ min: 1, max: 4 }),
    plotGap: fc.constantFrom(0, 0.4),
    serpentine: fc.boolean(),
  })
  .map(({ levels, replicates, ...ground }) => trialWith(levels, replicates, ground))

describe('randomised complete blocks', () => {
  it('makes the golden plan of a seed, now and always', () => {
    const layout = layOut(trialWith(5, 3), 41, countingIds())
    expect(
      plots(layout)
        .map((plot) => `${plot.code}:${plot.planned['factor-1']}`)
        .join(' '),
    ).toMatchInlineSnapshot(`"101:l3 102:l2 103:l4 104:l0 105:l1 201:l0 202:l4 203:l3 204:l2 205:l1 301:l0 302:l2 303:l1 304:l3 305:l4"`)
  })

  it('puts every level once into every block, whatever the seed', () => {
    fc.assert(
      fc.property(anyTrial, fc.nat(), (trial, seed) => {
        const layout = layOut(trial, seed, countingIds())
        const levels = trial.factors[0]!.levels.map((level) => level.key).sort()
        for (const block of layout.units.filter((unit) => unit.kind === 'block')) {
          const inBlock = plots(layout).filter((plot) => plot.in.includes(block.id))
          expect(inBlock.map((plot) => plot.received['factor-1']!).sort()).toEqual(levels)
        }
      }),
    )
  })

  it('gives each treatment each position about equally often', () => {
    const counts = new Map<string, number>()
    for (let seed = 0; seed < 600; seed++) {
      const first = plots(layOut(trialWith(4, 1), seed, countingIds()))[0]!
      counts.set(first.planned['factor-1']!, (counts.get(first.planned['factor-1']!) ?? 0) + 1)
    }
    // 150 expected, standard deviation 10.6: five of them either way.
    for (const count of counts.values()) expect(Math.abs(count - 150)).toBeLessThan(53)
  })

  it('says what keeps it from being laid out', () => {
    expect(randomisedBlock.problems({ factors: trialWith(1, 4).factors, replicates: 4 })[0]).toMatch(/two levels/)
    expect(randomisedBlock.problems({ factors: trialWith(100, 4).factors, replicates: 61 })[0]).toMatch(/6000/)
  })
})

describe('ground', () => {
  it('keeps plots apart, inside the border, and blocks in one piece', () => {
    fc.assert(
      fc.property(anyTrial, (trial) => {
        const layout = layOut(trial, 7, countingIds())
        const extent = siteExtent(trial.replicates, trial.factors[0]!.levels.length, trial.sites[0]!.ground)
        const { border } = trial.sites[0]!.ground
        const placed = plots(layout).map((plot) => plot.place!)
        for (const [i, a] of placed.entries()) {
          expect(a.x).toBeGreaterThanOrEqual(border - 1e-9)
          expect(a.x + a.width).toBeLessThanOrEqual(extent.width - border + 1e-9)
          expect(a.y + a.length).toBeLessThanOrEqual(extent.length - border + 1e-9)
          for (const b of placed.slice(i + 1)) {
            const apart =
              a.x + a.width <= b.x + 1e-9 || b.x + b.width <= a.x + 1e-9 || a.y + a.length <= b.y + 1e-9 || b.y + b.length <= a.y + 1e-9
            expect(apart).toBe(true)
          }
        }
      }),
      { numRuns: 40 },
    )
  })

  it('walks every plot once, block by block', () => {
    fc.assert(
      fc.property(anyTrial, (trial) => {
        const walked = plots(layOut(trial, 3, countingIds())).sort((a, b) => a.walk! - b.walk!)
        expect(walked.map((plot) => plot.walk)).toEqual(walked.map((_, i) => i + 1))
        const blocks = walked.map((plot) => plot.in[0]!)
        expect(new Set(blocks).size).toBe(blocks.filter((block, i) => block !== blocks[i - 1]).length)
      }),
    )
  })

  it('numbers plots by block and position, to and fro when asked', () => {
    const layout = layOut(trialWith(4, 2, { columnsPerBlock: 2, serpentine: true }), 1, countingIds())
    const at = (code: string) => plots(layout).find((plot) => plot.code === code)!.place!
    expect(plots(layout).map((plot) => plot.code)).toEqual(['101', '102', '103', '104', '201', '202', '203', '204'])
    expect(at('103').x).toBe(at('102').x)
    expect(at('104').x).toBe(at('101').x)
  })
})
