import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { designs } from '../src/design/index.ts'
import {
  acrossGradient,
  alongGradient,
  carriedWith,
  areaWithin,
  cornersOf,
  edgesOf,
  extentOf,
  fitOf,
  fits,
  LABEL_SHEETS,
  labelAt,
  layOut,
  misfitInWords,
  middleOf,
  movableGroups,
  movesWith,
  edgesOver,
  otherLies,
  overlap,
  PAPERS,
  placedAnew,
  putBack,
  SCALES,
  sheetsOf,
  shifted,
  snapped,
  spotAt,
  turnedBy,
  turnsOf,
  usableArea,
  type Rectangle,
} from '../src/ground/index.ts'
import {
  bareGround,
  NUMBERINGS,
  CORNERS,
  Ground,
  type Layout,
  type Point,
  type Site,
  turned,
  type TrialDraft,
  type Unit,
} from '../src/trial/index.ts'
import { countingIds, ladder, trialFor, trialWith } from './build.ts'

const laid = (trial: TrialDraft, seed = 1): Layout => layOut(trial, trial.sites[0]!.key, seed, countingIds())
const walkedOf = (units: readonly Unit[]): Unit[] => units.filter((unit) => unit.walk !== null && unit.place !== null)
const onGround = (site: Site, more: Partial<Ground>): Site => ({ ...site, ground: Ground.parse({ ...site.ground, ...more }) })

it('any spot is told: the plot it lies in, turned or not, a guard, a path, ground to avoid', () => {
  const trial = trialWith(4, 2)
  const site = onGround(trial.sites[0]!, {
    guardPlots: 1,
    plotGap: 1,
    moved: { 'block 2': { x: 3, y: 4, turn: 20 } },
    avoid: [{ name: 'pond', corners: [[-20, -20], [-10, -20], [-10, -10]] }], // prettier-ignore
  })
  const { units } = placedAnew(laid(trial), site, [site])
  for (const unit of walkedOf(units)) {
    const { x, y, width, length } = unit.place!
    expect(spotAt(units, site.ground, [x + width / 2, y + length / 2])).toEqual({ kind: 'unit', unit })
  }
  const first = walkedOf(units).find((unit) => !unit.place!.turn)!.place!
  const besides = [first.x + first.width + 0.5, first.x - 0.5].map((x) => spotAt(units, site.ground, [x, first.y + 1]).kind)
  expect(besides.every((kind) => kind === 'path')).toBe(true)
  expect(
    edgesOf(units, site.ground).map((edge) => spotAt(units, site.ground, [edge.x + edge.width / 2, edge.y + edge.length / 2]).kind),
  ).toContain('guard')
  expect(spotAt(units, site.ground, [-11, -15])).toEqual({ kind: 'avoided', name: 'pond' })
  expect(spotAt(units, { ...site.ground, outline: [[0, 0], [90, 0], [90, 90], [0, 90]] }, [-5, 5]).kind).toBe('outside') // prettier-ignore
})

it('guards of a block that is set over another are told', () => {
  const trial = trialWith(4, 2)
  const at = (y: number): number => {
    const site = onGround(trial.sites[0]!, {
      guardRows: 1,
      guardPlots: 1,
      blockAlley: 2,
      moved: y === 0 ? {} : { 'block 2': { x: 0, y, turn: 0 } },
    })
    const { units } = placedAnew(laid(trial), site, [site])
    return edgesOver(units, edgesOf(units, site.ground)).length
  }
  expect(at(0)).toBe(0)
  expect(at(-6)).toBeGreaterThan(3)
})

it('a strip is as wide as so many passes of the machine, and of nothing else', () => {
  const [site] = trialWith(4, 3).sites
  expect(onGround(site!, { plotWidth: 12, harvestWidth: 6, machine: { width: 6, passes: 2 } }).ground.machine).toEqual({
    width: 6,
    passes: 2,
  })
  expect(() => onGround(site!, { plotWidth: 11, harvestWidth: 6, machine: { width: 6, passes: 2 } })).toThrow(
    /2 passes of 6 m are not the plot width of 11 m/,
  )
  expect(() => onGround(site!, { plotWidth: 12, harvestWidth: 6, machine: { width: 6, passes: 2 }, rows: { count: 24, spacing: 0.5, plants: null } })).toThrow(/choose one/) // prettier-ignore
})
const anew = (layout: Layout, site: Site, more: Partial<Ground>): Layout => placedAnew(layout, onGround(site, more), [site])

function clashes(places: readonly Rectangle[]): [Rectangle, Rectangle] | null {
  for (let a = 0; a < places.length; a++) for (let b = 0; b < a; b++) if (overlap(places[a]!, places[b]!)) return [places[a]!, places[b]!]
  return null
}

const lie = fc.record({
  guardPlots: fc.integer({ min: 0, max: 2 }),
  guardRows: fc.integer({ min: 0, max: 1 }),
  fillers: fc.boolean(),
  offset: fc.boolean(),
  pathEvery: fc.constantFrom(0, 2, 3),
  pathWidth: fc.constantFrom(0.5, 1.2),
  turn: fc.constantFrom(0, 17, 90, -30, 180),
})

describe('units on the ground', () => {
  it.each(designs.map((design) => design.key))('%s: with guards, paths, rows aside and turned, nothing lies on anything else', (key) => {
    const trial = trialFor(key, 3)
    const [site] = trial.sites as [Site]
    const before = laid(trial)
    fc.assert(
      fc.property(lie, ({ turn, ...more }) => {
        const root = movableGroups(before.units, site.ground).find(({ unit }) => unit.at === null)!
        const ground = Ground.parse({ ...site.ground, ...more, moved: { [root.ref]: { x: 3, y: -2, turn } } })
        const after = placedAnew(before, { ...site, ground }, [site])
        const edges = edgesOf(after.units, ground)
        const places = walkedOf(after.units).map((unit) => unit.place!)
        expect(clashes([...places, ...edges])).toBeNull()
        // Areas are those that were set, however the group is turned.
        if (site.design.walked === 'unit')
          for (const place of places) expect(areaWithin(cornersOf(place))).toBeCloseTo(ground.plotWidth * ground.plotLength, 6)
        const { x, y, width, length } = extentOf(after.units, ground.border)
        for (const [px, py] of places.flatMap(cornersOf)) {
          expect(px).toBeGreaterThanOrEqual(x - 1e-9)
          expect(px).toBeLessThanOrEqual(x + width + 1e-9)
          expect(py).toBeGreaterThanOrEqual(y - 1e-9)
          expect(py).toBeLessThanOrEqual(y + length + 1e-9)
        }
        // What was dealt out is what was dealt out, and turns are had once.
        expect(after.units.map((unit) => unit.planned)).toEqual(before.units.map((unit) => unit.planned))
        const turns = walkedOf(after.units).map((unit) => unit.walk!)
        expect(new Set(turns).size).toBe(turns.length)
        // Put back, it is as it was.
        expect(anew(after, site, {})).toEqual(before)
      }),
      { numRuns: 12 },
    )
  })

  it('plots in blocks flow round what is to be avoided, and lie in the ground', () => {
    const corner = fc.tuple(fc.double({ min: 0, max: 24, noNaN: true }), fc.double({ min: 0, max: 60, noNaN: true }))
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 9 }),
        fc.integer({ min: 2, max: 4 }),
        fc.array(fc.tuple(corner, corner, corner), { maxLength: 3 }),
        fc.constantFrom(0, 20, -75),
        (treatments, replicates, triangles, turn) => {
          const flat = triangles.filter((points) => areaWithin(points as Point[]) > 0.5)
          const avoid = flat.map((points, i) => ({ name: `wet ${i}`, corners: points }))
          const trial = trialWith(treatments, replicates, {
            across: { plot: 4, block: 1 },
            avoid,
            moved: { 'block 1': { x: 0, y: 0, turn } },
          })
          const layout = laid(trial)
          const { ground } = trial.sites[0]!
          expect(fitOf(layout.units, ground).avoided).toEqual([])
          const byBlock = new Map<string, Rectangle[]>()
          for (const unit of walkedOf(layout.units)) byBlock.set(unit.in[0]!, [...(byBlock.get(unit.in[0]!) ?? []), unit.place!])
          for (const places of byBlock.values()) expect(clashes(places)).toBeNull()
          if (turn === 0) expect(clashes([...byBlock.values()].flat())).toBeNull()
        },
      ),
      { numRuns: 60 },
    )
  })

  it('a grid that keeps its rows and columns goes on behind what lies in its way', () => {
    const trial = trialFor('latin-square', 4)
    const [site] = trial.sites as [Site]
    const first = laid(trial)
    const wet = walkedOf(first.units)[0]!.place!
    const after = anew(first, site, { avoid: [{ name: 'well', corners: cornersOf(wet) }] })
    expect(fitOf(after.units, onGround(site, { avoid: [{ name: 'well', corners: cornersOf(wet) }] }).ground).avoided).toEqual([])
    const shift = new Set(walkedOf(after.units).map((unit, i) => (unit.place!.y - walkedOf(first.units)[i]!.place!.y).toFixed(6)))
    expect(shift.size).toBe(1)
  })

  it('guards stand around each block, and fillers in the places no plot needs', () => {
    const trial = trialWith(5, 2, { across: { plot: 3, block: 1 }, guardPlots: 1, guardRows: 1, fillers: true })
    const edges = edgesOf(laid(trial).units, trial.sites[0]!.ground)
    // Two rows of three with one place empty; each row two guards, each block two rows of five.
    expect(edges.filter((edge) => edge.kind === 'filler')).toHaveLength(2)
    expect(edges.filter((edge) => edge.kind === 'guard')).toHaveLength(2 * (2 * 2 + 2 * 5))
  })
})

describe('groups moved by hand', () => {
  it('keep what is in them as it lies, and go back where they were', () => {
    const trial = trialWith(5, 3, { across: { plot: 3, block: 1 } })
    const [site] = trial.sites as [Site]
    const before = laid(trial)
    const { ground } = site
    const step = fc.oneof(
      fc.record({ kind: fc.constant('shift' as const), by: fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: -9, max: 9 })) }),
      fc.record({ kind: fc.constant('turn' as const), by: fc.integer({ min: -180, max: 180 }) }),
    )
    const apartOf = (units: readonly Unit[], block: string): number[] => {
      const middles = walkedOf(units).filter((unit) => unit.in.includes(block)).map((unit) => middleOf(unit.place!)) // prettier-ignore
      return middles.map(([x, y]) => Math.hypot(x - middles[0]![0], y - middles[0]![1]))
    }
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 6 }), fc.boolean(), (steps, asPart) => {
        const refs = asPart ? movesWith('block 1', { parts: [{ key: 'p', name: 'Part', groups: ['block 1', 'block 3'] }] }) : ['block 1']
        let moved = ground.moved
        const first = (units: readonly Unit[]): Point => middleOf(walkedOf(units)[0]!.place!)
        const about: Point = [4, 7]
        let at = first(before.units)
        for (const each of steps) {
          if (each.kind === 'shift') {
            moved = shifted(moved, refs, each.by)
            at = [at[0] + each.by[0], at[1] + each.by[1]]
          } else {
            moved = turnedBy(before.units, { ...ground, moved }, refs, about, each.by)
            const [x, y] = turned([at[0] - about[0], at[1] - about[1]], each.by)
            at = [about[0] + x, about[1] + y]
          }
        }
        const after = anew(before, site, { moved }).units
        for (const block of before.units.filter((unit) => unit.kind === 'block')) {
          // Rounded to the millimetre at each step.
          apartOf(after, block.id).forEach((each, i) => expect(each).toBeCloseTo(apartOf(before.units, block.id)[i]!, 1))
        }
        expect(first(after)[0]).toBeCloseTo(at[0], 1)
        expect(first(after)[1]).toBeCloseTo(at[1], 1)
        // A point seen before it all goes with its group.
        const carried = carriedWith(before.units, 'block 1', ground, { ...ground, moved }, first(before.units))
        expect(carried[0]).toBeCloseTo(at[0], 1)
        expect(carried[1]).toBeCloseTo(at[1], 1)
        expect(putBack(moved, refs)).toEqual({})
      }),
      { numRuns: 60 },
    )
  })

  it('fall in line with an edge that is near, else on a tenth of a metre', () => {
    const own = { x: 0, y: 0, width: 4, length: 4 }
    const other = { x: 10, y: 20, width: 4, length: 4 }
    expect(snapped([own], [other], [9.7, 3.33], 0.5)).toEqual([10, 3.3])
    expect(snapped([own], [other], [6.2, 15.8], 0.5)).toEqual([6, 16])
    expect(snapped([own], [], [6.24, 15.81], 0.5)).toEqual([6.2, 15.8])
  })
})

describe('whether it fits', () => {
  const trial = trialWith(6, 4, { plotWidth: 2, plotLength: 5, harvestWidth: 1, harvestLength: 4, plotGap: 0, rowAlley: 0, blockAlley: 1, border: 0, across: { plot: 6, block: 1 } }) // prettier-ignore
  const [site] = trial.sites as [Site]
  const units = laid(trial).units

  it('is told with how much is over and what would do', () => {
    // 12 m wide and 23 m deep on ground of 30 by 12.
    const outline: Point[] = [[0, 0], [30, 0], [30, 12], [0, 12]] // prettier-ignore
    const ground = { ...site.ground, outline }
    const fit = fitOf(units, ground)
    // Beyond 12 m lie the third block (12 to 17) and the fourth.
    expect(fit.outside).toHaveLength(12)
    expect(misfitInWords(fit, 'plot', 'metric')).toEqual([
      '12 plots lie beyond the edge of the ground by 120 m² together: the trial reaches 11.0 m beyond the back.',
    ])
    const lies = otherLies(units, ground)
    expect(lies.length).toBeGreaterThan(0)
    for (const { across } of lies)
      expect(fits(fitOf(anew({ siteKey: site.key, structure: laid(trial).structure, units }, site, { across }).units, ground))).toBe(true)
    expect(otherLies(units, { ...ground, outline: outline.map(([x, y]) => [x / 4, y / 4]) })).toEqual([])
  })

  it('counts the ground there is less what is avoided', () => {
    const outline: Point[] = [[0, 0], [10, 0], [10, 10], [0, 10]] // prettier-ignore
    const half: Point[] = [[5, -5], [20, -5], [20, 20], [5, 20]] // prettier-ignore
    expect(usableArea({ outline, avoid: [{ name: 'track', corners: half }] })).toBeCloseTo(50, 9)
    expect(usableArea({ outline: null, avoid: [] })).toBeNull()
  })
})

describe('an arrow along which the ground changes', () => {
  it.each([
    ['away from the front', [5, 0], [5, 40]],
    ['along the front', [0, 5], [40, 5]],
  ] as const)('%s: blocks are laid across it', (_, from, to) => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 12 }), fc.integer({ min: 2, max: 6 }), (treatments, replicates) => {
        const gradient = { what: 'slope' as const, from: [...from] as Point, to: [...to] as Point }
        const trial = trialWith(treatments, replicates, { gradient })
        const [site] = trial.sites as [Site]
        const { units, structure } = laid(trial)
        const found = acrossGradient(units, site.ground)!
        const placed = anew({ siteKey: site.key, structure, units }, site, { across: found.across }).units
        expect(alongGradient(placed, gradient)).toEqual(found.lies)
        // No block is stretched along the arrow more than one row of plots needs.
        expect(found.lies.within).toBeCloseTo(0, 9)
        expect(found.lies.whole).toBeGreaterThan(0)
      }),
      { numRuns: 30 },
    )
  })

  it('is nothing to lay across where there are no blocks', () => {
    const trial = trialFor('completely-randomised', 4)
    const gradient = { what: 'light' as const, from: [0, 0] as Point, to: [0, 9] as Point }
    expect(acrossGradient(laid(trial).units, { ...trial.sites[0]!.ground, gradient })).toBeNull()
  })
})

describe('numbers on the stakes', () => {
  it('are had once under every scheme, and gone back on without a trace', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...designs.map((design) => design.key)),
        fc.record({
          scheme: fc.constantFrom(...NUMBERINGS),
          from: fc.constantFrom(...CORNERS),
          toAndFro: fc.boolean(),
          siteThousands: fc.boolean(),
          own: fc.constant({}),
        }),
        fc.constantFrom(0, 33),
        (key, numbering, turn) => {
          const trial = trialFor(key, 3)
          const [site] = trial.sites as [Site]
          const before = laid(trial)
          const after = anew(before, site, { numbering, moved: turn === 0 ? {} : { 'block 1': { x: -40, y: 0, turn } } })
          const codes = after.units.map((unit) => `${unit.kind} ${unit.code}`)
          expect(new Set(codes).size).toBe(codes.length)
          expect(anew(after, site, {})).toEqual(before)
        },
      ),
      { numRuns: 80 },
    )
  })

  it('count as they say', () => {
    const trial = trialWith(4, 2, { across: { plot: 2, block: 1 }, serpentine: false })
    const [site] = trial.sites as [Site]
    const before = laid(trial)
    const codes = (numbering: Partial<Ground['numbering']>): string[] =>
      walkedOf(anew(before, site, { numbering: { ...bareGround.numbering, ...numbering } }).units)
        .sort((a, b) => a.place!.y - b.place!.y || a.place!.x - b.place!.x)
        .map((unit) => unit.code)
    expect(codes({ scheme: 'running' })).toEqual(['1', '2', '3', '4', '5', '6', '7', '8'])
    expect(codes({ scheme: 'running', toAndFro: true, from: 'back right' })).toEqual(['7', '8', '6', '5', '3', '4', '2', '1'])
    expect(codes({ scheme: 'row and column' })).toEqual(['101', '102', '201', '202', '301', '302', '401', '402'])
    expect(codes({ scheme: 'block hundreds', from: 'back left' })).toEqual(['103', '104', '101', '102', '203', '204', '201', '202'])
    expect(codes({ scheme: 'block hundreds', siteThousands: true })[0]).toBe('1101')
    expect(codes({ own: { 'plot 101': 'A7' } })[0]).toBe('A7')
  })
})

describe('rounds', () => {
  it('go over every plot once, what must come first before the rest', () => {
    const trial = trialWith(4, 3, { across: { plot: 2, block: 1 } })
    const layout = laid(trial)
    const { orders } = trial.sites[0]!.ground
    const dealt = (first: Ground['orders']['treat']['first']): string[] => {
      const turns = turnsOf(layout, { ...orders.treat, first }, trial.treatments)
      expect([...turns.values()].sort((a, b) => a - b)).toEqual(Array.from({ length: 12 }, (_, i) => i + 1))
      const index = new Map(layout.units.map((unit) => [unit.id, unit]))
      return [...turns].sort((a, b) => a[1] - b[1]).map(([id]) => index.get(id)!.planned['factor-1']!)
    }
    expect(dealt('low to high')).toEqual(['l0', 'l1', 'l2', 'l3'].flatMap((level) => [level, level, level]))
    expect(dealt('untreated first').slice(0, 3)).toEqual(['l0', 'l0', 'l0'])
    expect(dealt('untreated first').slice(3)).not.toContain('l0')
    // Columns from the back right: one walks forward along the right side first.
    const turns = turnsOf(layout, { along: 'columns', toAndFro: true, from: 'back right', by: 'site', first: 'as they lie' }, ladder(4))
    const path = [...turns].sort((a, b) => a[1] - b[1]).map(([id]) => layout.units.find((unit) => unit.id === id)!.place!)
    expect(path[0]!.y).toBe(Math.max(...path.map((place) => place.y)))
    expect(path.slice(0, 6).every((place) => place.x === Math.max(...path.map((each) => each.x)))).toBe(true)
    expect(path[6]!.y).toBe(path[5]!.y)
  })
})

describe('on paper', () => {
  it('every label lies on its sheet and on no other, used ones left out', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...LABEL_SHEETS),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 0, max: 80 }),
        (sheet, count, used) => {
          const { width, height } = PAPERS[sheet.paper]
          const places = Array.from({ length: count }, (_, n) => labelAt(sheet, n, used))
          for (const { x, y } of places) {
            expect(x).toBeGreaterThanOrEqual(0)
            expect(y).toBeGreaterThanOrEqual(0)
            expect(x + sheet.width).toBeLessThanOrEqual(width + 1e-9)
            expect(y + sheet.height).toBeLessThanOrEqual(height + 1e-9)
          }
          const rectangles = places.map(({ page, x, y }) => ({ x, y: y + page * 1000, width: sheet.width, length: sheet.height }))
          expect(clashes(rectangles)).toBeNull()
        },
      ),
    )
  })

  it('a plan over several sheets shows all of the ground, and every plot whole on one', () => {
    const size = fc.double({ min: 1, max: 60, noNaN: true })
    fc.assert(
      fc.property(
        size,
        size,
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 9 }),
        fc.constantFrom(...SCALES),
        (wide, deep, columns, rows, scale) => {
          const extent = { x: -3, y: 2, width: wide * columns, length: deep * rows }
          const room = { width: 180, height: 210 }
          // A plot that is larger than half a sheet is not promised.
          fc.pre(wide <= (room.width * scale) / 2000 && deep <= (room.height * scale) / 2000)
          const { windows } = sheetsOf(extent, room, scale, { width: wide, length: deep })
          for (let i = 0; i < columns * rows; i++) {
            const [x, y] = [extent.x + (i % columns) * wide, extent.y + Math.floor(i / columns) * deep]
            expect(windows.some((window) => x >= window.x - 1e-6 && y >= window.y - 1e-6 && x + wide <= window.x + window.width + 1e-6 && y + deep <= window.y + window.length + 1e-6)).toBe(true) // prettier-ignore
          }
          for (const window of windows) expect((window.width * 1000) / scale).toBeLessThanOrEqual(room.width + 1e-6)
        },
      ),
    )
  })
})
