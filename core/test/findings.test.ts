import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AnalysisOptions, findings } from '../src/analysis/index.ts'
import { neighbours } from '../src/analysis/neighbours.ts'
import { chanceFrom, shuffled } from '../src/design/index.ts'
import type { Unit } from '../src/trial/index.ts'
import { analyse, asRequest, unitOf, type ValueRequest } from './plan-case.ts'

const LEVELS = ['a', 'b', 'c', 'd', 'e', 'f']

interface Ground {
  readonly blocks?: number
  readonly sites?: number
  readonly levels?: readonly string[]
  /** Whether plots know their place and turn. */
  readonly placed?: boolean
  readonly options?: object
  readonly trait?: Partial<ValueRequest['trait']>
}

/** Blocks side by side, six plots deep; the value of each plot by its level and its place. */
function trial(
  valueOf: (at: { level: string; block: number; row: number; noise: number; site: number }) => number | null,
  ground: Ground = {},
) {
  const { blocks = 6, sites = 1, levels = LEVELS, placed = true, options = {}, trait = {} } = ground
  const chance = chanceFrom(11)
  const units: Unit[] = []
  const values = new Map<string, number>()
  for (let site = 0; site < sites; site++) {
    if (sites > 1) units.push(unitOf('site', `s${site}`))
    for (let block = 0; block < blocks; block++) {
      const within = `s${site}b${block}`
      units.push(unitOf('block', within, sites > 1 ? [`s${site}`] : []))
      shuffled(levels, chance).forEach((level, row) => {
        const place = placed ? { x: block * 3, y: row * 10, width: 3, length: 10 } : null
        const id = `${within}.${row}`
        units.push({ ...unitOf('plot', id, [within], { rate: level }), place, walk: placed ? block * levels.length + row + 1 : null })
        const value = valueOf({ level, block, row, site, noise: chance.below(1000) / 1000 - 0.5 })
        if (value !== null) values.set(id, value)
      })
    }
  }
  const request: ValueRequest = {
    structure: {
      schema: 1,
      kinds: [
        ...(sites > 1 ? [{ kind: 'site' as const, in: [] }] : []),
        { kind: 'block', in: sites > 1 ? ['site'] : [] },
        { kind: 'plot', in: ['block'] },
      ],
      factors: [{ factor: 'rate', appliedTo: 'plot', within: 'block', how: 'randomised' }],
      controls: [],
      seed: null,
    },
    units,
    factors: [{ key: 'rate', levels }],
    trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous', ...trait },
    values,
    options: AnalysisOptions.parse(options),
  }
  return request
}

const found = (request: ValueRequest): string => findings(asRequest(request), analyse(request)).join('\n')
const step = (level: string): number => 5 + 0.4 * LEVELS.indexOf(level)

describe('what is odd in the data', () => {
  it('says nothing of data that are as they should be', () => {
    expect(found(trial(({ level, block, noise }) => step(level) + 0.2 * block + noise))).toBe('')
  })

  it('a decimal that slipped, and not a treatment that is ten times another', () => {
    const slip = found(trial(({ level, block, noise }) => (step(level) + noise) * (level === 'b' && block === 2 ? 10 : 1)))
    expect(slip).toMatch(/^plot s0b2\.\d: [\d.]+ t\/ha is about ten times the others of b \([\d.]+\): has the decimal point slipped\?/)
    const tenth = found(trial(({ level, block, noise }) => (step(level) + noise) / (level === 'b' && block === 2 ? 10 : 1)))
    expect(tenth).toMatch(/is about a tenth of the others of b/)
    expect(found(trial(({ level, noise }) => (level === 'a' ? 50 : 5) + noise))).not.toMatch(/slipped/)
  })

  it('a value far from the rest, with its size in the unit, or without one on another scale', () => {
    const far = ({ level, block, noise }: { level: string; block: number; noise: number }) =>
      step(level) + noise * 0.3 + (level === 'c' && block === 1 ? 3 : 0)
    expect(found(trial(far))).toMatch(
      /lies far from what its treatment and blocks explain: 2\.\d t\/ha above \(t \d+(\.\d+)?, p < 0\.001 for the largest of all\)/,
    )
    expect(found(trial(far, { options: { scale: 'log' } }))).toMatch(/explain: 0\.\d+ on the log scale above/)
    const bare = trial(far, { placed: false })
    const loose = bare.units.filter((unit) => unit.kind === 'plot').map((unit) => ({ ...unit, in: [] }))
    const crd = { ...bare, units: loose, structure: { ...bare.structure, kinds: [{ kind: 'plot' as const, in: [] }] } }
    expect(found(crd)).toMatch(/from what its treatment explains: /)
  })

  it('copied values in walking order, but not of counts', () => {
    const copied = ({ level, block, row, noise }: { level: string; block: number; row: number; noise: number }) =>
      block === 1 && row < 5 ? 7.25 : step(level) + noise
    expect(found(trial(copied))).toMatch(
      /5 plots one after another \(s0b1\.0 to s0b1\.4\) have the same value, 7\.25 t\/ha: were they copied\?/,
    )
    expect(found(trial(copied, { trait: { kind: 'count' } }))).not.toMatch(/copied/)
  })

  it('readings coarser than the error', () => {
    const coarse = found(trial(({ level, noise }) => Math.round((step(level) + noise * 0.4) * 2) / 2))
    expect(coarse).toMatch(/Values come in steps of 0\.50 t\/ha, coarser than the error/)
  })

  it('uneven replication, and levels that are one by mistake', () => {
    const lost = found(trial(({ level, block, noise }) => (level === 'd' && block < 3 ? null : step(level) + noise)))
    expect(lost).toMatch(/Replication is uneven: from 3 to 6 plots of a treatment\./)
    const alike = trial(({ level, noise }) => (LEVELS.includes(level) ? step(level) : 5) + noise, { levels: ['a', 'A ', 'b', 'c'] })
    expect(found(alike)).toMatch(/Levels of rate that may be one: “a”, “A ”\./)
  })

  it('edges of the plan by site: plots of two sites at one place are not side by side', () => {
    const poor = ({ level, block, row, noise }: { level: string; block: number; row: number; noise: number }) =>
      step(level) + noise * 0.5 - (block === 0 || block === 5 || row === 0 || row === 5 ? 1.2 : 0)
    for (const sites of [1, 2])
      expect(found(trial(poor, { sites }))).toMatch(/Plots at the edge of the plan lie [\d.]+ t\/ha below those inside \(p < 0\.001\)/)
    expect(found(trial(poor, { placed: false }))).not.toMatch(/edge/)
  })

  it('a scale that fits better, and treatments in proportion to the blocks', () => {
    const grows = found(trial(({ level, block, noise }) => Math.exp(0.5 * LEVELS.indexOf(level) + 0.5 * block + 0.4 * noise)))
    expect(grows).toMatch(/Treatments act in proportion to the blocks, not on top of them/)
    expect(grows).toMatch(/Another scale fits better: power .* the logarithm is among them/)
    const levelled = found(
      trial(({ level, block, noise }) => Math.exp(0.5 * LEVELS.indexOf(level) + 0.5 * block + 0.4 * noise), { options: { scale: 'log' } }),
    )
    expect(levelled).not.toMatch(/proportion/)
  })

  it('never names a figure that is none, whatever the values', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e9, max: 1e9, noNaN: true }), { minLength: 36, maxLength: 36 }), (drawn) => {
        let i = 0
        const request = trial(() => drawn[i++]!)
        fc.pre(new Set(drawn).size > 1)
        expect(found(request)).not.toMatch(/NaN|Infinity|undefined/)
      }),
      { numRuns: 60 },
    )
  })
})

describe('neighbours on the plan', () => {
  const grid = (columns: number, rows: number, width: number, length: number, alley: number) =>
    Array.from({ length: columns * rows }, (_, i) => ({
      x: (i % columns) * (width + alley),
      y: Math.floor(i / columns) * (length + alley),
      width,
      length,
      site: 0,
    }))

  it('are those side by side and end to end, across alleys too, and never across a corner', () => {
    const size = fc.integer({ min: 1, max: 8 })
    fc.assert(
      fc.property(
        size,
        size,
        fc.double({ min: 0.5, max: 5, noNaN: true }),
        fc.double({ min: 0.5, max: 20, noNaN: true }),
        fc.double({ min: 0, max: 0.7, noNaN: true }),
        (columns, rows, width, length, share) => {
          const plots = grid(columns, rows, width, length, share * Math.min(width, length))
          const pairs = neighbours(plots)
          expect(pairs).toHaveLength(rows * (columns - 1) + columns * (rows - 1))
          for (const [a, b] of pairs) {
            expect(a).toBeLessThan(b)
            const [across, along] = [(b % columns) - (a % columns), Math.floor(b / columns) - Math.floor(a / columns)]
            expect(Math.abs(across) + Math.abs(along)).toBe(1)
          }
          // Listed in another order they are the same pairs.
          const order = plots.map((_, i) => (i * 7 + 3) % plots.length)
          fc.pre(new Set(order).size === plots.length)
          const again = neighbours(order.map((i) => plots[i]!)).map(([a, b]) => [order[a]!, order[b]!].sort((p, q) => p - q).join())
          expect(again.sort()).toEqual(pairs.map((pair) => pair.join()).sort())
        },
      ),
    )
  })

  it('end where the gap is wider than most of a plot, and at the next site', () => {
    expect(neighbours(grid(2, 1, 3, 10, 2.2))).toHaveLength(1)
    expect(neighbours(grid(2, 1, 3, 10, 2.4))).toHaveLength(0)
    expect(neighbours(grid(3, 1, 3, 10, 0).map((plot, site) => ({ ...plot, site })))).toHaveLength(0)
    expect(neighbours([])).toEqual([])
  })
})

describe('over sites and at the ends of a row', () => {
  it('a plot is named with its site, and the p of the one that stands out is its own', () => {
    const request = trial(({ site, block, row, noise }) => 5 + noise * 0.2 + (site === 1 && block === 2 && row === 3 ? 6 : 0), {
      sites: 3,
      placed: false,
    })
    const coded = { ...request, units: request.units.map((unit) => (unit.kind === 'plot' ? { ...unit, code: unit.id.slice(2) } : unit)) }
    const far = findings(asRequest(coded), analyse(coded)).filter((each) => each.includes('lies far'))
    expect(far).toHaveLength(1)
    expect(far[0]).toMatch(/^plot b2\.3 at s1 lies far .*for the largest of all/)
  })

  it('a control that does otherwise at one site is told, and one that adds up is not', () => {
    const odd = (by: number) => {
      const request = trial(
        ({ site, level, noise }) => 5 + site + LEVELS.indexOf(level) * 0.3 + noise * 0.2 + (site === 2 && level === 'a' ? by : 0),
        { sites: 4, blocks: 3 },
      )
      const withControl = { ...request, factors: [{ ...request.factors[0]!, control: 'a' }] }
      return findings(asRequest(withControl), analyse(withControl)).filter((each) => each.includes('is odd at'))
    }
    expect(odd(4)).toEqual([
      expect.stringMatching(
        /^The control \(rate “a”\) is odd at s2: its mean there lies [\d.]+ t\/ha above .* and every difference from it there with it/,
      ),
    ])
    expect(odd(0)).toEqual([])
  })

  it('failing ends are found where all plots lie in one row', () => {
    const row = trial(({ noise }) => 5 + noise * 0.2, { blocks: 5 })
    const plots = row.units.filter((unit) => unit.kind === 'plot')
    const units = row.units.map((unit) =>
      unit.kind === 'plot' ? { ...unit, place: { x: plots.indexOf(unit) * 3, y: 0, width: 3, length: 10 } } : unit,
    )
    const values = new Map([...row.values].map(([id, value]) => [id, [plots[0]!.id, plots.at(-1)!.id].includes(id) ? value - 3 : value]))
    const found = findings(asRequest({ ...row, units, values }), analyse({ ...row, units, values }))
    expect(found.join(' ')).toMatch(/Plots at the edge of the plan lie [\d.]+ t\/ha below those inside/)
    expect(findings(asRequest({ ...row, units }), analyse({ ...row, units })).join(' ')).not.toMatch(/edge/)
  })

  it('nothing is named with hardly a degree of freedom; samples lost inside plots are counted', () => {
    const small = trial(({ level, noise }) => (level === 'a' ? 50 : 5) + noise, { blocks: 2, levels: ['a', 'b', 'c'], placed: false })
    expect(analyse(small).checks.outlier).toBeNull()
    const base = trial(() => null, { blocks: 3, placed: false })
    const samples = base.units
      .filter((unit) => unit.kind === 'plot')
      .flatMap((plot) => [1, 2, 3].map((n) => unitOf('sample', `${plot.id} ${n}`, [plot.id])))
    const structure = { ...base.structure, kinds: [...base.structure.kinds, { kind: 'sample' as const, in: ['plot' as const] }] }
    const chance = chanceFrom(4)
    const values = new Map(samples.filter((_, i) => i % 3 !== 1).map((unit) => [unit.id, 5 + chance.below(100) / 100]))
    const found = analyse({ ...base, structure, units: [...base.units, ...samples], values })
    expect(found.cautions.map((each) => each.text).join(' ')).toMatch(/18 of 54 samples have no value/)
  })
})
