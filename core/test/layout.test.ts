import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { chanceFrom, designOf, designs, uneven } from '../src/design/index.ts'
import { checkTrial } from '../src/document/index.ts'
import { packTrial, unpackTrial } from '../src/exchange/index.ts'
import { extentOf, layOut, layoutFigures, layoutProblems, outline, placedAnew, stakesOf } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { DRAW, isInside, marksOn, treatmentOn, treatmentsOf, type Layout, type TrialDraft } from '../src/trial/index.ts'
import { asTrial, countingIds, designed, kindsOf, ladder, PERSON, readingOf, trialFor, trialWith, twoFactors } from './build.ts'

const treated = (layout: Layout) => layout.units.filter((unit) => unit.kind === 'plot' || unit.kind === 'pot')
const laid = (trial: TrialDraft, seed: number, site = trial.sites[0]!.key) => layOut(trial, site, seed, countingIds())

const apart = (layout: Layout): void => {
  const placed = layout.units.filter((unit) => unit.walk !== null).map((unit) => unit.place!)
  for (const [i, a] of placed.entries()) {
    for (const b of placed.slice(i + 1)) {
      const free =
        a.x + a.width <= b.x + 1e-9 || b.x + b.width <= a.x + 1e-9 || a.y + a.length <= b.y + 1e-9 || b.y + b.length <= a.y + 1e-9
      expect(free).toBe(true)
    }
  }
}

describe.each(designs.map((design) => [design.key, design] as const))('every design: %s', (key, design) => {
  it('previews, randomises, places, walks, packs, comes back and is analysed with the errors it promised', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 4 }),
        fc.nat(),
        fc.constantFrom(0, 3),
        fc.constantFrom('plot', 'pot'),
        (replicates, seed, plants, unit) => {
          const draft = trialFor(key, replicates, { unit: unit as 'plot', plants })
          expect(layoutProblems(draft, 'site-1')).toEqual([])
          const sketch = outline(draft, 'site-1')
          const layout = laid(draft, seed)
          // The outline is the same ground: as many units of each kind, in the same places.
          expect(sketch.map(({ kind, code, place, walk }) => ({ kind, code, place, walk }))).toEqual(
            layout.units.map(({ kind, code, place, walk }) => ({ kind, code, place, walk })),
          )
          expect(checkTrial(draft, [layout])).toEqual([])
          const walked = layout.units.filter((each) => each.walk !== null).sort((a, b) => a.walk! - b.walk!)
          expect(walked.map((each) => each.walk)).toEqual(walked.map((_, i) => i + 1))
          apart(layout)
          const index = new Map(layout.units.map((each) => [each.id, each]))
          const counts = new Map<string, number>()
          for (const plot of treated(layout)) {
            const treatment = treatmentOn(plot, index, draft.treatments, 'planned')!
            counts.set(treatment.key, (counts.get(treatment.key) ?? 0) + 1)
          }
          const { errors: promised, units, times } = layoutFigures(draft, 'site-1')!
          expect(draft.treatments.list.map((each) => counts.get(each.key))).toEqual(times)
          expect(units).toBe(treated(layout).length)

          const chance = chanceFrom(seed + 1)
          const records = treated(layout).flatMap((plot) => [
            readingOf(plot.id, 'gross-weight', 50 + chance.below(1000) / 50),
            readingOf(plot.id, 'dirt-tare', 8),
            readingOf(plot.id, 'sugar-content', 17),
          ])
          const contents = { trial: asTrial(draft), layouts: [layout], records, events: [], people: [{ id: PERSON, name: 'Crew' }] }
          const bytes = packTrial(contents)
          const back = unpackTrial(bytes)
          expect(back.layouts).toEqual([layout])
          expect(packTrial(back)).toEqual(bytes)
          const book = new TrialBook(back.trial, back.layouts, back.records)
          const { without } = analyseTrait(back.trial, back.layouts, book.observations('sugar-yield', 'harvest'), 'sugar-yield')
          const told = Object.fromEntries(
            without.errors.filter((error) => error.stratum !== 'block').map((error) => [error.stratum, error.df]),
          )
          if (without.kind === 'tested') {
            expect(told).toEqual(Object.fromEntries(promised.map((error) => [error.unit, error.df])))
            for (const { unit: stratum, factors } of promised)
              for (const factor of factors) expect(without.tests.find((test) => test.term === factor)!.stratum).toBe(stratum)
          } else expect(promised.some((error) => error.df <= 0)).toBe(true)
        },
      ),
      { numRuns: design.searched ? 4 : 12 },
    )
  })

  it('says in words what it needs, and keeps units on the ground that stay the same', () => {
    const alone = designed({ ...trialWith(1, 2), treatments: ladder(1) }, { key })
    expect(design.problems({ treatments: alone.treatments, choice: alone.sites[0]!.design }).length).toBeGreaterThan(0)
    const draft = trialFor(key, 3)
    const ids = countingIds()
    const first = layOut(draft, 'site-1', 5, ids)
    const again = layOut(draft, 'site-1', 6, ids, first)
    expect(again.units.map((unit) => unit.id)).toEqual(first.units.map((unit) => unit.id))
    if (first.structure.seed !== null) expect(again.units.map((unit) => unit.planned)).not.toEqual(first.units.map((unit) => unit.planned))
    const wider = { ...draft.sites[0]!, ground: { ...draft.sites[0]!.ground, plotWidth: 5 } }
    const moved = placedAnew(first, wider, [wider])
    apart(moved)
    expect(moved.units.map((unit) => unit.planned)).toEqual(first.units.map((unit) => unit.planned))
  })
})

describe('what each design promises', () => {
  it('makes the golden plans of a seed by the first draw, now and always', () => {
    const told = (draft: TrialDraft) => {
      const layout = layOut(draft, draft.sites[0]!.key, 41, countingIds(), null, null, 1)
      expect(layout.structure.draw).toBeUndefined()
      const index = new Map(layout.units.map((unit) => [unit.id, unit]))
      return treated(layout)
        .map((plot) => `${plot.code}:${Object.values(marksOn(plot, index, 'planned')).join('+')}`)
        .join(' ')
    }
    expect(told(trialWith(5, 3))).toMatchInlineSnapshot(
      `"101:l3 102:l2 103:l4 104:l0 105:l1 201:l0 202:l4 203:l3 204:l2 205:l1 301:l0 302:l2 303:l1 304:l3 305:l4"`,
    )
    expect(told(trialFor('completely-randomised', 2))).toMatchInlineSnapshot(`"01:l0 02:l3 03:l1 04:l2 05:l3 06:l0 07:l1 08:l2"`)
    expect(told(trialFor('latin-square', 1))).toMatchInlineSnapshot(
      `"101:l3 102:l0 103:l2 104:l1 201:l0 202:l3 203:l1 204:l2 301:l1 302:l2 303:l3 304:l0 401:l2 402:l1 403:l0 404:l3"`,
    )
    expect(told(trialFor('split-plot', 2))).toMatchInlineSnapshot(
      `"101:b+mid 102:a+mid 103:a+dry 104:b+dry 105:b+wet 106:a+wet 201:a+dry 202:b+dry 203:b+wet 204:a+wet 205:a+mid 206:b+mid"`,
    )
    expect(told(trialFor('strip-plot', 2))).toMatchInlineSnapshot(
      `"101:mid+b 102:mid+a 103:dry+b 104:dry+a 105:wet+b 106:wet+a 201:mid+b 202:mid+a 203:dry+b 204:dry+a 205:wet+b 206:wet+a"`,
    )
  })

  const withApart = designs.filter((each) => each.settings.some((one) => one.key === 'apart')).map((each) => each.key)
  const goldenPlans = (keys: readonly string[], draw: number, settings: Record<string, boolean> = {}): Record<string, string> => {
    const plans = keys.map((key) => {
      const draft = trialFor(key, 2, { settings })
      const layout = layOut(draft, 'site-1', 41, countingIds(), null, null, draw)
      expect(layout.structure.draw).toBe(draw === 1 || layout.structure.seed === null ? undefined : draw)
      const index = new Map(layout.units.map((unit) => [unit.id, unit]))
      return [
        key,
        treated(layout)
          .map((plot) => Object.values(marksOn(plot, index, 'planned')).join('+'))
          .join(' '),
      ]
    })
    return Object.fromEntries(plans) as Record<string, string>
  }

  it('makes the golden plans of every design by the newest draw, now and always', () => {
    expect(
      goldenPlans(
        designs.map((each) => each.key),
        DRAW,
      ),
    ).toMatchInlineSnapshot(`
      {
        "alpha-lattice": "l0 l3 l1 l2 l2 l0 l1 l3",
        "augmented": "l6 l1 l4 l3 l0 l7 l5 l1 l2 l0 l8",
        "check-strips": "l0 l1 l3 l0 l2 l0 l0 l1 l2 l0 l3 l0",
        "completely-randomised": "l2 l3 l3 l0 l0 l2 l1 l1",
        "confounded": "a+a+a a+b+b b+a+b b+b+a a+b+a b+a+a b+b+b a+a+b b+b+a a+b+b a+a+a b+a+b a+b+a a+a+b b+b+b b+a+a",
        "incomplete-blocks": "l0 l2 l3 l0 l1 l3 l1 l2",
        "incomplete-latin-square": "l2 l5 l6 l0 l1 l4 l3 l4 l2 l0 l5 l3 l1 l6 l3 l6 l1 l4 l5 l2 l0",
        "latin-square": "l3 l0 l2 l1 l2 l3 l1 l0 l0 l1 l3 l2 l1 l2 l0 l3 l1 l0 l3 l2 l0 l1 l2 l3 l3 l2 l0 l1 l2 l3 l1 l0",
        "paired-strips": "l0 l1 l0 l1",
        "partially-replicated": "l2 l6 l11 l0 l3 l4 l1 l10 l0 l3 l7 l1 l2 l5 l8 l9",
        "randomised-block": "l3 l2 l0 l1 l3 l0 l2 l1",
        "row-column": "l10 l4 l9 l5 l11 l6 l3 l2 l8 l1 l0 l7 l9 l5 l6 l8 l11 l1 l0 l2 l7 l3 l10 l4",
        "split-plot": "b+dry a+dry a+wet b+wet b+mid a+mid a+mid b+mid b+wet a+wet b+dry a+dry",
        "split-split-plot": "b+a+a a+a+a a+b+a b+b+a b+b+b a+b+b b+a+b a+a+b b+b+a a+b+a a+a+a b+a+a b+b+b a+b+b b+a+b a+a+b",
        "strip-plot": "dry+b dry+a wet+b wet+a mid+b mid+a mid+b mid+a dry+b dry+a wet+b wet+a",
        "systematic": "l0 l1 l2 l3 l0 l1 l2 l3",
      }
    `)
  })

  it('makes the golden plans of the other designs by the first draw, searched ones too', () => {
    const others = designs
      .map((each) => each.key)
      .filter((key) => !['randomised-block', 'completely-randomised', 'latin-square', 'split-plot', 'strip-plot'].includes(key))
    expect(goldenPlans(others, 1)).toMatchInlineSnapshot(`
      {
        "alpha-lattice": "l0 l1 l2 l3 l1 l2 l0 l3",
        "augmented": "l5 l6 l1 l0 l7 l3 l0 l4 l2 l1 l8",
        "check-strips": "l0 l2 l1 l0 l3 l0 l0 l1 l3 l0 l2 l0",
        "confounded": "b+b+b b+a+a a+b+a a+a+b a+a+a b+b+a a+b+b b+a+b b+b+a b+a+b a+b+b a+a+a a+a+b b+a+a b+b+b a+b+a",
        "incomplete-blocks": "l3 l2 l2 l1 l3 l0 l0 l1",
        "incomplete-latin-square": "l0 l2 l6 l5 l3 l1 l4 l5 l4 l2 l6 l1 l0 l3 l2 l1 l3 l4 l5 l6 l0",
        "paired-strips": "l1 l0 l1 l0",
        "partially-replicated": "l2 l3 l0 l8 l10 l11 l4 l1 l5 l7 l9 l6 l1 l0 l3 l2",
        "row-column": "l8 l0 l9 l1 l2 l10 l6 l3 l11 l7 l4 l5 l0 l6 l5 l11 l3 l8 l9 l10 l4 l7 l2 l1",
        "split-split-plot": "b+b+b a+b+b a+a+b b+a+b b+b+a a+b+a a+a+a b+a+a a+b+a b+b+a a+a+a b+a+a a+a+b b+a+b a+b+b b+b+b",
        "systematic": "l0 l1 l2 l3 l0 l1 l2 l3",
      }
    `)
  })

  it('makes the golden plans of what was kept apart by the first draw, which knew nothing of blocks side by side', () => {
    expect(goldenPlans(withApart, 1, { apart: true })).toMatchInlineSnapshot(`
      {
        "augmented": "l5 l6 l1 l0 l7 l3 l0 l4 l2 l1 l8",
        "completely-randomised": "l0 l3 l1 l2 l3 l0 l1 l2",
        "confounded": "b+b+b b+a+a a+b+a a+a+b a+a+a b+b+a a+b+b b+a+b a+b+b a+a+a b+a+b b+b+a b+b+b b+a+a a+a+b a+b+a",
        "incomplete-blocks": "l3 l2 l2 l1 l3 l0 l0 l1",
        "partially-replicated": "l2 l3 l0 l8 l10 l11 l4 l1 l5 l7 l9 l6 l1 l0 l3 l2",
        "randomised-block": "l1 l3 l0 l2 l0 l2 l1 l3",
        "split-plot": "b+mid a+mid a+dry b+dry b+wet a+wet a+dry b+dry b+wet a+wet a+mid b+mid",
        "split-split-plot": "b+b+b a+b+b a+a+b b+a+b b+a+a a+a+a a+b+a b+b+a b+b+a a+b+a a+a+a b+a+a b+a+b a+a+b a+b+b b+b+b",
        "strip-plot": "mid+b mid+a dry+b dry+a wet+b wet+a dry+a dry+b wet+a wet+b mid+a mid+b",
      }
    `)
    const inRows = designed(trialWith(7, 3, { across: { plot: 4, block: 2 }, serpentine: true }), { settings: { apart: true } })
    const long = designed(trialWith(3, 20), { key: 'completely-randomised', settings: { apart: true } })
    expect(
      [inRows, long].map((draft) =>
        treated(layOut(draft, 'site-1', 41, countingIds(), null, null, 1))
          .map((plot) => plot.planned['factor-1']!.slice(1))
          .join(''),
      ),
    ).toMatchInlineSnapshot(`
      [
        "453160206452131420536",
        "010120102012021201020121010201210201201212102020210212121201",
      ]
    `)
  })

  it('a constraint is kept, whatever the seed, drawn evenly among what fits, and marked in the structure', () => {
    const constrained = (t: number, settings: Record<string, boolean>) => designed(trialWith(t, 4), { settings })
    const orders = (layout: Layout) =>
      layout.units
        .filter((unit) => unit.kind === 'block')
        .map((block) => treated(layout).filter((plot) => plot.in.includes(block.id)).map((plot) => plot.planned['factor-1']!)) // prettier-ignore
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 12 }), fc.nat(), (t, seed) => {
        const layout = laid(constrained(t, { apart: true }), seed)
        const blocks = orders(layout)
        blocks.slice(1).forEach((order, b) => {
          expect(order.some((each, i) => each === blocks[b]![i])).toBe(false)
          expect(order[0]).not.toBe(blocks[b]!.at(-1))
        })
        expect(layout.structure.factors.map((each) => each.how)).toEqual(['constrained'])
        const first = orders(laid(constrained(t, { firstInOrder: true }), seed))
        expect(first[0]).toEqual(ladder(t).list.map((each) => each.levels['factor-1']))
      }),
      { numRuns: 60 },
    )
    expect(laid(constrained(4, {}), 3).structure.factors[0]!.how).toBe('randomised')
    // Of four, the second block has 9 orders that stand apart from the first, less those that begin with its last: each as often.
    const counts = new Map<string, number>()
    for (let seed = 0; seed < 900; seed++) {
      const [a, b] = orders(laid(constrained(4, { apart: true }), seed))
      const relative = b!.map((each) => a!.indexOf(each)).join('')
      counts.set(relative, (counts.get(relative) ?? 0) + 1)
    }
    const expected = 900 / counts.size
    const chi = [...counts.values()].reduce((sum, count) => sum + (count - expected) ** 2 / expected, 0)
    expect(counts.size).toBe(6)
    expect(chi).toBeLessThan(20.5)
  })

  it.each(withApart)('what %s deals out next to each other is apart where that is asked, in order where that is, and marked so', (key) => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 4 }), fc.nat(), (replicates, seed) => {
        const draft = trialFor(key, replicates)
        const runsOf = (layout: Layout, kind: string): string[][] => {
          const runs = new Map<string, string[]>()
          for (const unit of layout.units.filter((each) => each.kind === kind)) {
            const holder = unit.at?.in ?? unit.in.join()
            runs.set(holder, [...(runs.get(holder) ?? []), JSON.stringify(unit.planned)])
          }
          return [...runs.values()]
        }
        const layout = laid(designed(draft, { settings: { apart: true } }), seed)
        for (const { appliedTo, how } of layout.structure.factors) {
          expect(how).toBe('constrained')
          const runs = runsOf(layout, appliedTo)
          runs.forEach((run, r) => {
            expect(run.slice(1).some((each, i) => each === run[i])).toBe(false)
            expect(run.some((each, i) => each === runs[r - 1]?.[i])).toBe(false)
            if (run.length > 2) expect(run[0]).not.toBe(runs[r - 1]?.at(-1))
          })
        }
        if (!designOf(key)!.settings.some((each) => each.key === 'firstInOrder')) return
        const inOrder = laid(designed(draft, { settings: { firstInOrder: true } }), seed)
        const sketch = outline(draft, 'site-1')
        for (const { appliedTo, how } of inOrder.structure.factors) {
          expect(how).toBe('constrained')
          expect(runsOf(inOrder, appliedTo)[0]).toEqual(runsOf({ ...inOrder, units: sketch }, appliedTo)[0])
        }
      }),
      { numRuns: 12 },
    )
  })

  it.each(withApart)(
    'apart is apart on the ground, with %s: beside and behind, to and fro or not, blocks behind or beside each other',
    (key) => {
      fc.assert(
        fc.property(
          fc.option(fc.integer({ min: 2, max: 7 }), { nil: undefined }),
          fc.option(fc.integer({ min: 1, max: 4 }), { nil: undefined }),
          fc.boolean(),
          fc.nat(),
          (plot, block, serpentine, seed) => {
            const base = key === 'randomised-block' ? trialWith(5, 4) : trialFor(key, 4)
            const site = base.sites[0]!
            const across = { ...(plot ? { plot } : {}), ...(block ? { block } : {}) }
            const draft = {
              ...designed(base, { settings: { apart: true } }),
              sites: [{ ...site, design: { ...site.design, settings: { apart: true } }, ground: { ...site.ground, across, serpentine } }],
            }
            const layout = laid(draft, seed)
            const index = new Map(layout.units.map((unit) => [unit.id, unit]))
            const plots = treated(layout)
            const [xs, ys] = (['x', 'y'] as const).map((axis) => [...new Set(plots.map((each) => each.place![axis]))].sort((a, b) => a - b)) as [number[], number[]] // prettier-ignore
            const at = (each: (typeof plots)[number]): [number, number] => [xs.indexOf(each.place!.x), ys.indexOf(each.place!.y)]
            for (const a of plots) {
              const [x, y] = at(a)
              for (const b of plots) {
                const [dx, dy] = [at(b)[0] - x, at(b)[1] - y]
                if ((dx === 1 && dy === 0) || (dx === 0 && dy === 1))
                  expect(marksOn(a, index, 'planned'), `${a.code} ${b.code}`).not.toEqual(marksOn(b, index, 'planned'))
              }
            }
          },
        ),
        { numRuns: designOf(key)!.searched ? 5 : 25 },
      )
    },
  )

  it('a long run in which hardly an order fits is mended, and every treatment ends up anywhere', () => {
    const draft = designed(trialWith(3, 20), { key: 'completely-randomised', settings: { apart: true } })
    const places = new Map<string, number>()
    for (let seed = 0; seed < 60; seed++) {
      const run = treated(laid(draft, seed)).map((plot) => plot.planned['factor-1']!)
      expect(run.slice(1).some((each, i) => each === run[i])).toBe(false)
      for (const half of [0, 1])
        for (const each of run.slice(half * 30, half * 30 + 30)) places.set(`${half} ${each}`, (places.get(`${half} ${each}`) ?? 0) + 1)
    }
    for (const count of places.values()) expect(Math.abs(count - 600)).toBeLessThan(60)
  })

  it.each(designs.map((each) => each.key))('stakes of %s stand once for every treated unit, in the order asked for', (key) => {
    const draft = trialFor(key, 3)
    const layout = laid(draft, 9)
    const walk = stakesOf(layout, draft.treatments, 'walk', draft.sites[0]!.ground.orders)
    expect(walk.map((each) => each.unit.walk)).toEqual(treated(layout).map((_, i) => i + 1))
    expect(walk.every((each) => each.treatment !== undefined && each.within.every((above) => above.kind !== 'site'))).toBe(true)
    const [first] = draft.treatments.factors
    const by = stakesOf(layout, draft.treatments, first!.key, draft.sites[0]!.ground.orders)
    const places = by.map((each) => first!.levels.findIndex((level) => level.key === each.treatment!.levels[first!.key]))
    expect(places).toEqual([...places].sort((a, b) => a - b))
    for (const [i, stake] of by.entries()) if (places[i] === places[i - 1]) expect(stake.unit.walk!).toBeGreaterThan(by[i - 1]!.unit.walk!)
    expect(new Set(by.map((each) => each.unit.id)).size).toBe(layoutFigures(draft, 'site-1')!.units)
  })

  it('a draw that may mislead is told, and a random one seldom: sides, ends, neighbours', () => {
    const rows = { across: { plot: 8, block: 1 } }
    const textsOf = (draft: TrialDraft, seed: number) => uneven(laid(draft, seed), draft.treatments).map((each) => each.text)
    const listed = textsOf(designed(trialWith(8, 6, rows), { key: 'systematic' }), 1)
    expect(listed.join()).toMatch(/N0 gathers at the left side of its blocks/)
    expect(listed.join()).toMatch(/N0 stands at an end of its row 6 times of 6/)
    expect(listed.join()).toMatch(/lie side by side 6 times/)
    const fair = trialWith(8, 4, rows)
    const told = Array.from({ length: 200 }, (_, seed) => textsOf(fair, seed)).filter((texts) => texts.length > 0)
    expect(told.length).toBeLessThan(60)
    for (const { key } of designs) expect(() => textsOf(trialFor(key, 2), 5)).not.toThrow()
  })

  it('a Latin square has every treatment once in each row and each column', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 8 }), fc.integer({ min: 1, max: 3 }), fc.nat(), (t, squares, seed) => {
        const layout = laid(designed(trialWith(t, squares), { key: 'latin-square' }), seed)
        for (const line of layout.units.filter((unit) => unit.kind === 'row' || unit.kind === 'column')) {
          const own = treated(layout).filter((plot) => plot.in.includes(line.id))
          expect(new Set(own.map((plot) => plot.planned['factor-1'])).size).toBe(t)
          // A row is a line on the ground.
          expect(new Set(own.map((plot) => (line.kind === 'row' ? plot.place!.y : plot.place!.x))).size).toBe(1)
        }
      }),
      { numRuns: 30 },
    )
  })

  it('blocks give each treatment each position about equally often', () => {
    const counts = new Map<string, number>()
    for (let seed = 0; seed < 600; seed++) {
      const first = treated(laid(trialWith(4, 1), seed))[0]!.planned['factor-1']!
      counts.set(first, (counts.get(first) ?? 0) + 1)
    }
    // 150 expected, standard deviation 10.6: five of them either way.
    for (const count of counts.values()) expect(Math.abs(count - 150)).toBeLessThan(53)
  })

  it('treatments outside the crossing are dealt out in blocks, and refused on units of several sizes', () => {
    const { factors, list } = twoFactors()
    const untreated = { key: 'none', code: 'NIL', name: 'Nothing', colour: null, role: 'untreated control' as const, levels: {} }
    const draft = { ...trialWith(2, 3), treatments: treatmentsOf(factors, [...list, untreated]) }
    const layout = laid(draft, 4)
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const got = treated(layout).map((plot) => treatmentOn(plot, index, draft.treatments)!)
    expect(got.filter((each) => each.key === 'none')).toHaveLength(3)
    expect(got.filter((each) => isInside(each, factors))).toHaveLength(18)
    expect(layoutProblems(designed(draft, { key: 'split-plot', placed: { 'main plot': ['water'] } }), 'site-1').join()).toMatch(
      /every combination/,
    )
  })

  it('one replicate leaves nothing to judge by, and sites are numbered apart', () => {
    expect(layoutFigures(trialWith(4, 1), 'site-1')!.errors[0]!.df).toBe(0)
    const two = trialWith(3, 2)
    const draft = { ...two, sites: [two.sites[0]!, { ...two.sites[0]!, key: 'site-2', name: 'Site 2' }] }
    const codes = [...treated(laid(draft, 1)), ...treated(laid(draft, 1, 'site-2'))].map((plot) => plot.code)
    expect(new Set(codes).size).toBe(12)
    expect(codes).toContain('2101')
  })

  it('too much for one site is said with a count', () => {
    const many = kindsOf(
      'line',
      'Line',
      Array.from({ length: 120 }, (_, i) => `L${i}`),
    )
    const treatments = treatmentsOf([many])
    const draft = designed({ ...trialWith(2, 2), treatments }, { replicates: 50 })
    expect(
      layoutProblems({ ...draft, sites: [{ ...draft.sites[0]!, design: { ...draft.sites[0]!.design, replicates: 51 } }] }, 'site-1')[0],
    ).toMatch(/6120 plots/)
  })
})

describe('ground', () => {
  const anyTrial = fc
    .record({
      levels: fc.integer({ min: 2, max: 12 }),
      replicates: fc.integer({ min: 1, max: 6 }),
      plot: fc.integer({ min: 1, max: 14 }),
      block: fc.integer({ min: 1, max: 4 }),
      plotGap: fc.constantFrom(0, 0.4),
      serpentine: fc.boolean(),
    })
    .map(({ levels, replicates, plot, block, ...ground }) => trialWith(levels, replicates, { ...ground, across: { plot, block } }))

  it('keeps plots inside the border and walks block by block', () => {
    fc.assert(
      fc.property(anyTrial, (trial) => {
        const layout = laid(trial, 7)
        const { border } = trial.sites[0]!.ground
        const extent = extentOf(layout.units, border)
        apart(layout)
        for (const { place } of treated(layout)) {
          expect(place!.x).toBeGreaterThanOrEqual(border - 1e-9)
          expect(place!.x + place!.width).toBeLessThanOrEqual(extent.width - border + 1e-9)
          expect(place!.y + place!.length).toBeLessThanOrEqual(extent.length - border + 1e-9)
        }
        const blocks = treated(layout)
          .sort((a, b) => a.walk! - b.walk!)
          .map((plot) => plot.in[0]!)
        expect(new Set(blocks).size).toBe(blocks.filter((block, i) => block !== blocks[i - 1]).length)
      }),
      { numRuns: 40 },
    )
  })

  it('numbers plots by block and position, to and fro when asked', () => {
    const layout = laid(trialWith(4, 2, { across: { plot: 2 }, serpentine: true }), 1)
    const at = (code: string) => treated(layout).find((plot) => plot.code === code)!.place!
    expect(treated(layout).map((plot) => plot.code)).toEqual(['101', '102', '103', '104', '201', '202', '203', '204'])
    expect(at('103').x).toBe(at('102').x)
    expect(at('104').x).toBe(at('101').x)
  })

  it('plants share the area of their pot, and may be what one walks to', () => {
    const layout = laid(designed(trialWith(2, 2), { unit: 'pot', plants: 3, walked: 'plant' }), 3)
    const pot = layout.units.find((unit) => unit.kind === 'pot')!
    const plants = layout.units.filter((unit) => unit.kind === 'plant' && unit.in.includes(pot.id))
    expect(plants.map((plant) => plant.code)).toEqual([`${pot.code}.1`, `${pot.code}.2`, `${pot.code}.3`])
    const area = plants.reduce((sum, plant) => sum + plant.place!.width * plant.place!.length, 0)
    expect(area).toBeCloseTo(pot.place!.width * pot.place!.length, 9)
    expect(layout.units.filter((unit) => unit.walk !== null).every((unit) => unit.kind === 'plant')).toBe(true)
  })
})
