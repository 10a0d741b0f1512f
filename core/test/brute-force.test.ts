import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { AnalysisOptions, type Analysis } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import type { Structure, Unit, UnitKind } from '../src/trial/index.ts'
import { analyse } from './plan-case.ts'

// Every F held against one worked out in the plainest way: dummy columns, Gram–Schmidt, and the drop in the residual sum of squares.

type Row = Record<string, string>

/** Residual sum of squares and rank of y on dummies of each crossing (keys joined), by modified Gram–Schmidt twice over. */
function rest(rows: readonly Row[], y: readonly number[], terms: readonly (readonly string[])[]): { ss: number; rank: number } {
  const columns = [
    y.map(() => 1),
    ...terms.flatMap((term) => {
      const cell = rows.map((row) => term.map((key) => row[key]).join('|'))
      return [...new Set(cell)].map((level) => cell.map((each) => (each === level ? 1 : 0)))
    }),
  ]
  const basis: number[][] = []
  const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((sum, each, i) => sum + each * b[i]!, 0)
  const cleared = (column: readonly number[]): number[] => {
    let left = [...column]
    for (let pass = 0; pass < 2; pass++)
      for (const each of basis) {
        const along = dot(left, each)
        left = left.map((value, i) => value - along * each[i]!)
      }
    return left
  }
  for (const column of columns) {
    const left = cleared(column)
    const size = Math.sqrt(dot(left, left))
    if (size > 1e-8) basis.push(left.map((each) => each / size))
  }
  const left = cleared(y)
  return { ss: dot(left, left), rank: basis.length }
}

interface Plain {
  readonly kinds: Structure['kinds']
  /** Factor and the kind it was applied to, in the order of the model. */
  readonly factors: readonly { readonly factor: string; readonly appliedTo: UnitKind }[]
}

/** Rows and columns that cross in each block. */
const CROSSED: Plain['kinds'] = [
  { kind: 'block', in: [] },
  { kind: 'row', in: ['block'] },
  { kind: 'column', in: ['block'] },
  { kind: 'plot', in: ['row', 'column'] },
]

/** Units out of rows that name each kind within what holds it. */
function request(rows: readonly Row[], y: readonly number[], { kinds, factors }: Plain, options: object = {}) {
  const units = new Map<string, Unit>()
  const place = (row: Row, i: number, kind: UnitKind): Unit => {
    const held = kinds.find((each) => each.kind === kind)!.in.map((above) => place(row, i, above))
    const id = [...held.map((each) => each.id), `${kind} ${row[kind] ?? i}`].join('/')
    if (!units.has(id)) {
      const got = Object.fromEntries(factors.filter((each) => each.appliedTo === kind).map(({ factor }) => [factor, row[factor]!]))
      const code = String(units.size)
      units.set(id, {
        id,
        kind,
        code,
        in: held.map((each) => each.id),
        planned: got,
        received: got,
        changes: {},
        at: null,
        place: null,
        walk: null,
      })
    }
    return units.get(id)!
  }
  const finest = kinds.at(-1)!.kind
  const values = new Map(rows.map((row, i) => [place(row, i, finest).id, y[i]!]))
  return {
    structure: {
      schema: 1 as const,
      kinds: [...kinds],
      factors: factors.map((each) => ({ ...each, within: null, how: 'randomised' as const })),
      controls: [],
      seed: null,
    },
    units: [...units.values()],
    factors: factors.map(({ factor }) => ({ key: factor, levels: [...new Set(rows.map((row) => row[factor]!))] })),
    trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous' as const },
    values,
    options: AnalysisOptions.parse({ method: 'lsd', ...options }),
  }
}

const fOf = (analysis: Analysis, term: string) => analysis.tests.find((test) => test.term === term)!
const near = (got: number, wanted: number): void => expect(Math.abs(got - wanted)).toBeLessThanOrEqual(1e-7 * Math.max(1, Math.abs(wanted)))
const times = (of: number): string[] => Array.from({ length: of }, (_, i) => `l${i}`)
const noise = (seed: number): (() => number) => {
  const chance = chanceFrom(seed)
  return () => 10 + chance.below(100000) / 20000
}
const few = fc.integer({ min: 2, max: 4 })
const seeds = fc.integer({ min: 1, max: 1e6 })

describe('F by brute force', () => {
  it('two factors in blocks with plots lost anywhere, Type I, II and III', () => {
    fc.assert(
      fc.property(few, few, fc.integer({ min: 2, max: 5 }), seeds, fc.integer({ min: 0, max: 4 }), (a, b, blocks, seed, lost) => {
        const value = noise(seed)
        const all = times(blocks).flatMap((block) => times(a).flatMap((p) => times(b).map((q) => ({ block, p, q }))))
        const gone = new Set(Array.from({ length: lost }, (_, i) => (seed * (i + 7)) % all.length))
        const rows = all.filter((_, i) => !gone.has(i))
        // A combination lost from every block leaves an interaction without its full degrees of freedom.
        fc.pre(new Set(rows.map((row) => `${row.p} ${row.q}`)).size === a * b)
        const y = rows.map(value)
        const layout: Plain = {
          kinds: [
            { kind: 'block', in: [] },
            { kind: 'plot', in: ['block'] },
          ],
          factors: ['p', 'q'].map((factor) => ({ factor, appliedTo: 'plot' as const })),
        }
        const full = rest(rows, y, [['block'], ['p', 'q']])
        const df = rows.length - full.rank
        fc.pre(df > 0)
        const ms = full.ss / df
        const drop = (without: string[][], with_: string[][]): number => {
          const [less, more] = [rest(rows, y, without), rest(rows, y, with_)]
          return (less.ss - more.ss) / (more.rank - less.rank) / ms
        }
        const first = analyse(request(rows, y, layout))
        near(fOf(first, 'q').f, drop([['block'], ['p']], [['block'], ['p'], ['q']]))
        near(fOf(first, 'p:q').f, drop([['block'], ['p'], ['q']], [['block'], ['p', 'q']]))
        expect(fOf(first, 'q').errorDf).toBe(df)
        const second = analyse(request(rows, y, layout, { tests: 'II' }))
        near(fOf(second, 'p').f, drop([['block'], ['q']], [['block'], ['p'], ['q']]))
        // Type III is the test of equal adjusted means: for two levels the square of their t.
        const third = analyse(request(rows, y, layout, { tests: 'III' }))
        if (a === 2) near(fOf(third, 'p').f, third.terms['p']!.comparisons.lsd![0]!.t ** 2)
      }),
      { numRuns: 60 },
    )
  })

  it('split-split-plots of any size: each term against the units it was applied to', () => {
    fc.assert(
      fc.property(few, few, few, fc.integer({ min: 2, max: 4 }), seeds, fc.boolean(), (a, b, c, blocks, seed, inBlocks) => {
        const value = noise(seed)
        const main = noise(seed + 1)
        const rows = times(blocks).flatMap((block) =>
          times(a).flatMap((p) =>
            times(b).flatMap((q) => times(c).map((r) => ({ block, 'main plot': `${block}${p}`, subplot: `${block}${p}${q}`, p, q, r }))),
          ),
        )
        const ofMain = new Map([...new Set(rows.map((row) => row['main plot']))].map((each) => [each, main()]))
        const y = rows.map((row) => value() + 2 * ofMain.get(row['main plot'])!)
        const above = inBlocks ? [['block']] : []
        const analysis = analyse(
          request(rows, y, {
            kinds: [
              ...(inBlocks ? [{ kind: 'block' as const, in: [] }] : []),
              { kind: 'main plot', in: inBlocks ? ['block'] : [] },
              { kind: 'subplot', in: ['main plot'] },
              { kind: 'plot', in: ['subplot'] },
            ],
            factors: [
              { factor: 'p', appliedTo: 'main plot' },
              { factor: 'q', appliedTo: 'subplot' },
              { factor: 'r', appliedTo: 'plot' },
            ],
          }),
        )
        /** Terms of one stratum in turn; `before`: the larger units; `units`: those the stratum is made of, null for the rows. */
        const stratum = (before: string[][], terms: string[][], units: string[] | null): void => {
          const explained = rest(rows, y, [...before, ...terms])
          const saturated = units ? rest(rows, y, [units]) : { ss: 0, rank: rows.length }
          const errorDf = saturated.rank - explained.rank
          if (errorDf === 0) return
          const ms = (explained.ss - saturated.ss) / errorDf
          terms.forEach((term, i) => {
            const [less, more] = [rest(rows, y, [...before, ...terms.slice(0, i)]), rest(rows, y, [...before, ...terms.slice(0, i + 1)])]
            const test = fOf(analysis, term.join(':'))
            near(test.f, (less.ss - more.ss) / (more.rank - less.rank) / ms)
            expect([test.df, test.errorDf]).toEqual([more.rank - less.rank, errorDf])
          })
        }
        stratum(above, [['p']], ['main plot'])
        stratum([['main plot']], [['q'], ['p', 'q']], ['subplot'])
        stratum([['subplot']], [['r'], ['p', 'r'], ['q', 'r'], ['p', 'q', 'r']], null)
      }),
      { numRuns: 25 },
    )
  })

  it('strips that cross, and squares that stand in blocks', () => {
    fc.assert(
      fc.property(few, few, fc.integer({ min: 3, max: 5 }), seeds, (a, b, blocks, seed) => {
        const value = noise(seed)
        const rows = times(blocks).flatMap((block) => times(a).flatMap((p) => times(b).map((q) => ({ block, row: p, column: q, p, q }))))
        const y = rows.map(value)
        const analysis = analyse(
          request(rows, y, {
            kinds: CROSSED,
            factors: [
              { factor: 'p', appliedTo: 'row' },
              { factor: 'q', appliedTo: 'column' },
            ],
          }),
        )
        const ss = (terms: string[][]): number => rest(rows, y, terms).ss
        const msOf = (less: string[][], more: string[][]): number => {
          const [x, z] = [rest(rows, y, less), rest(rows, y, more)]
          return (x.ss - z.ss) / (z.rank - x.rank)
        }
        const plain = [['block'], ['p'], ['q']]
        near(fOf(analysis, 'p').f, msOf([['block']], [['block'], ['p']]) / msOf(plain, [...plain, ['block', 'p']]))
        near(fOf(analysis, 'q').f, msOf([['block']], [['block'], ['q']]) / msOf(plain, [...plain, ['block', 'q']]))
        const strips = [
          ['block', 'p'],
          ['block', 'q'],
        ]
        const left = ss([...strips, ['p', 'q']]) / ((a - 1) * (b - 1) * (blocks - 1))
        near(fOf(analysis, 'p:q').f, msOf(strips, [...strips, ['p', 'q']]) / left)
      }),
      { numRuns: 30 },
    )
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 5 }), fc.integer({ min: 1, max: 3 }), seeds, (size, squares, seed) => {
        const value = noise(seed)
        const rows = times(squares).flatMap((block, s) =>
          times(size).flatMap((row, i) =>
            times(size).map((column, j) => ({ block, row, column, t: `t${(i + j * (s % 2 === 0 ? 1 : size - 1) + s) % size}` })),
          ),
        )
        const y = rows.map(value)
        const analysis = analyse(
          request(rows, y, {
            kinds: CROSSED,
            factors: [{ factor: 't', appliedTo: 'plot' }],
          }),
        )
        const lines = [
          ['block', 'row'],
          ['block', 'column'],
        ]
        const [less, full] = [rest(rows, y, lines), rest(rows, y, [...lines, ['t']])]
        near(fOf(analysis, 't').f, (less.ss - full.ss) / (size - 1) / (full.ss / (rows.length - full.rank)))
        expect(fOf(analysis, 't').errorDf).toBe(rows.length - full.rank)
      }),
      { numRuns: 20 },
    )
  })

  it('sites with blocks of their own, fixed or a sample of many', () => {
    fc.assert(
      fc.property(few, few, fc.integer({ min: 2, max: 3 }), seeds, (treatments, sites, blocks, seed) => {
        const value = noise(seed)
        const rows = times(sites).flatMap((site) => times(blocks).flatMap((block) => times(treatments).map((t) => ({ site, block, t }))))
        const y = rows.map(value)
        const layout: Plain = {
          kinds: [
            { kind: 'site', in: [] },
            { kind: 'block', in: ['site'] },
            { kind: 'plot', in: ['block'] },
          ],
          factors: [{ factor: 't', appliedTo: 'plot' }],
        }
        const [ground, plain, full] = [
          [['site', 'block']],
          [['site', 'block'], ['t']],
          [
            ['site', 'block'],
            ['site', 't'],
          ],
        ].map((terms) => rest(rows, y, terms)) as [Rest, Rest, Rest]
        const ms = (less: Rest, more: Rest): number => (less.ss - more.ss) / (more.rank - less.rank)
        const residual = full.ss / (rows.length - full.rank)
        const fixed = analyse(request(rows, y, layout))
        near(fOf(fixed, 't').f, ms(ground, plain) / residual)
        near(fOf(fixed, 'site:t').f, ms(plain, full) / residual)
        const sampled = fOf(analyse(request(rows, y, layout, { random: ['site'] })), 't').f
        // What sites differ in less than plots do is no variance: then chance between plots judges too, and less is claimed.
        if (ms(plain, full) > residual) near(sampled, ms(ground, plain) / ms(plain, full))
        else expect(sampled).toBeLessThanOrEqual((ms(ground, plain) / ms(plain, full)) * (1 + 1e-6))
      }),
      { numRuns: 30 },
    )
  })
})

type Rest = ReturnType<typeof rest>
