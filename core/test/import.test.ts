import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { designs } from '../src/design/index.ts'
import { checkTrial } from '../src/document/index.ts'
import {
  fileFormats,
  importedContents,
  packTrial,
  proposeRoles,
  readSource,
  saidOf,
  textSource,
  understand,
  unpackTrial,
  type ImportSaid,
  type Source,
  type Understood,
} from '../src/exchange/index.ts'
import { layOut } from '../src/ground/index.ts'
import { TrialBook } from '../src/numbers/index.ts'
import { marksOn, treatmentOn, type FieldRecord, type Layout, type Trial, type Unit } from '../src/trial/index.ts'
import { asTrial, countingIds, PERSON, readingOf, trialFor } from './build.ts'

const signed = { person: { id: PERSON, name: 'Somebody' }, at: '2026-11-01T08:00:00.000Z', device: 'desk', source: 'table.csv' }
const read = (text: string, more: Partial<ImportSaid> = {}): Understood => {
  const source = textSource('table.csv', text)
  return understand(source, { ...saidOf(proposeRoles(source), 2026), title: 'Oats', crop: 'Oats', ...more }, countingIds())
}
const codes = (found: Understood, treatmentOf = treatmentOn): string[] =>
  found.layouts.flatMap(({ units }) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return units.flatMap((unit) => (unit.walk === null ? [] : [`${unit.code} ${treatmentOf(unit, index, found.draft.treatments)?.code}`]))
  })

/** As somebody kept it: a title above, a mean below, odd spellings, a comma, a gap, a value in words. */
const ODD = `Oat nitrogen trial 2026;;;;
;;;;
Plot;Rep;N rate (kg/ha);Variety;Yield (t/ha);Remarks
101;1;0;Bracken;5,2;
102;1;80;Bracken;6,9;
103;1;80;Sedge;6,4;edge
104;1;0;Sedge;4,8;
201;2;80;bracken ;7,1;
202;2;0;Sedge;5,0;
203;2;0;Bracken;-;lodged
204;2;80,0;Sedge;eaten by hares;
301;3;0;Bracken;5,4;
302;3;0;Sedge;4,9;
303;3;80;Brackn;7,0;
304;3;80;Sedge;6,6;
301;3;80;Sedge;6,0;
Mean;;;;6,0;
`

describe('a spreadsheet begun elsewhere', () => {
  it('columns are proposed, odd rows shown, slips asked about, and nothing is taken that was not understood', () => {
    const source = textSource('table.csv', ODD)
    expect(proposeRoles(source).map((each) => [each.role, each.name, each.unit])).toEqual([
      ['plot', 'Plot', ''],
      ['block', 'Rep', ''],
      ['factor', 'Nitrogen', 'kg/ha'],
      ['factor', 'Variety', ''],
      ['trait', 'Yield', 't/ha'],
      ['note', 'Remarks', ''],
    ])
    const first = read(ODD)
    expect(first.likely).toEqual([{ column: 'Variety', value: 'Brackn', like: 'Bracken', count: 1 }])
    const found = read(ODD, { same: { Variety: { Brackn: 'Bracken' } } })
    expect(found.problems).toEqual([])
    expect(found.odd.map((each) => [each.line, each.effect])).toEqual([
      [8, 'read as'],
      [11, 'read as'],
      [11, 'missing'],
      [14, 'read as'],
      [16, 'left out'],
      [17, 'left out'],
    ])
    expect(codes(found)).toHaveLength(12)
    expect(found.draft.treatments.list.map((each) => each.code)).toEqual(['N0·Bracken', 'N0·Sedge', 'N80·Bracken', 'N80·Sedge'])
    expect(found.values).toHaveLength(10)
    expect(found.notes.map((each) => each.text)).toEqual(['edge', 'lodged'])
    expect(found.sentences).toContain('Nitrogen, 2 levels (N0, N80), varies from plot to plot within each block.')
    expect(found.sentences).toContain('3 blocks: each holds every treatment once.')
  })

  it('is analysed as the same plots laid out here would be', () => {
    const found = read(ODD, { same: { Variety: { Brackn: 'Bracken' } } })
    const contents = importedContents(found, { ...signed, newId: countingIds() })
    expect(checkTrial(contents.trial, contents.layouts)).toEqual([])
    const again = unpackTrial(packTrial(contents))
    const book = new TrialBook(again.trial, again.layouts, again.records)
    const { without } = analyseTrait(again.trial, again.layouts, book.observations('yield', 'measured'), 'yield')
    expect(without.kind).toBe('tested')
    expect(without.missing).toBe(2)
    // By hand: of the plots that have a value, block by block.
    const means = without.terms['nitrogen']!.means
    expect(means.map((mean) => mean.level)).toEqual(found.draft.treatments.factors[0]!.levels.map((level) => level.key))
    expect(means[1]!.mean - means[0]!.mean).toBeCloseTo(1.8, 0)
    expect(without.contrasts).toEqual([])
  })

  it('what lies side by side in each block is asked about: main plots, or chance', () => {
    const text = ['plot,block,water,cultivar,height (cm)']
    let n = 100
    for (const [b, waters] of [
      ['1', ['DRY', 'WET']],
      ['2', ['WET', 'DRY']],
      ['3', ['DRY', 'WET']],
    ] as const)
      // prettier-ignore
      for (const water of waters) for (const cultivar of b === '2' ? ['B', 'A', 'C'] : ['A', 'C', 'B']) text.push(`${++n},${b},${water},${cultivar},${30 + (n % 7)}`)
    const found = read(text.join('\n'))
    expect(found.asked.find((each) => each.key === 'runs')!.text).toContain('all plots of one Water stand side by side')
    expect(found.layouts[0]!.structure.factors.map((each) => [each.factor, each.appliedTo, each.within])).toEqual([
      ['water', 'main plot', 'block'],
      ['cultivar', 'plot', 'main plot'],
    ])
    expect(found.sentences).toContain('Water, 2 levels (DRY, WET), was put on whole main plots within each block.')
    const plain = read(text.join('\n'), { runs: [] })
    expect(plain.layouts[0]!.structure.factors.every((each) => each.appliedTo === 'plot' && each.within === 'block')).toBe(true)
  })

  it('sites have what stands there, benches hold pots, days and yes are seen and not given', () => {
    const sites = read(
      'site,plot,block,variety,yield\nN,1,1,A,50\nN,2,1,B,60\nN,3,2,B,61\nN,4,2,A,52\nS,1,1,A,40\nS,2,1,B,41\nS,3,1,C,45\nS,4,2,C,46\nS,5,2,A,42\nS,6,2,B,44',
    )
    expect(sites.draft.sites.map((site) => site.without.length)).toEqual([1, 0])
    expect(sites.sentences).toContain('2 blocks: each holds every treatment once.')
    const pots = read(
      'Pot no.,Bench,Regulator (mg/L),Height (cm),flower,alive\n1,1,0,30,2026-05-01,yes\n2,1,5,25,2026-05-04,no\n3,2,5,26,2026-05-04,yes\n4,2,0,31,2026-05-02,yes',
      { kind: 'pot' },
    )
    expect(pots.layouts[0]!.structure.kinds.map((each) => each.kind)).toEqual(['site', 'bench', 'pot'])
    expect(pots.draft.traits.observed.map((trait) => [trait.name, trait.kind, trait.unit])).toEqual([
      ['Height', 'number', 'cm'],
      ['Flower', 'date', ''],
      ['Alive', 'yes/no', ''],
    ])
  })

  it('a square is seen from rows and columns; a fixed order is called systematic; rows of one plot are samples', () => {
    const square = ['row,column,treatment,yield']
    for (let r = 0; r < 4; r++) for (let c = 0; c < 4; c++) square.push(`${r + 1},${c + 1},${'ABCD'[(r + c) % 4]},${5 + r}`)
    const latin = read(square.join('\n'))
    expect(latin.draft.sites[0]!.design.key).toBe('latin-square')
    expect(latin.layouts[0]!.structure.kinds.at(-1)).toEqual({ kind: 'plot', in: ['row', 'column'] })
    const strips = [
      'plot,block,treatment,yield',
      ...[1, 2, 3].flatMap((b) => ['A', 'B', 'C'].map((t, i) => `${b}0${i + 1},${b},${t},${b + i}`)),
    ]
    const fixed = read(strips.join('\n'))
    expect(fixed.asked.find((each) => each.key === 'how')!.proposed).toBe('systematic')
    expect(fixed.layouts[0]!.structure.factors[0]!.how).toBe('systematic')
    // Nobody can see chance in a table: until it is said, nothing was randomised.
    expect(latin.layouts[0]!.structure.factors[0]!.how).toBe('not randomised')
    expect(read(square.join('\n'), { how: 'randomised' }).layouts[0]!.structure.factors[0]!.how).toBe('randomised')
    const samples = ['plot,block,treatment,yield', ...[1, 2, 3].flatMap((b) => ['A', 'B'].flatMap((t, i) => [1, 2].map((s) => `${b}0${i + 1},${b},${t},${b + i + s}`)))] // prettier-ignore
    const sampled = read(samples.join('\n'))
    expect(codes(sampled)).toHaveLength(6)
    expect(sampled.draft.traits.observed[0]!.samples).toBe(2)
    expect(new Set(sampled.values.map((each) => each.sample))).toEqual(new Set([1, 2]))
  })

  it.each([
    ['', /empty/],
    ['a,b\n', /no row/],
    ['name\nA\nB', /no table/],
    ['plot,"block\n1,2', /quotation mark/],
  ])('“%s” is refused with where and why', async (text, told) => {
    await expect(readSource('odd.csv', new TextEncoder().encode(text))).rejects.toThrow(told)
  })

  it('long names that begin alike, names taken away and endless cells are made to fit', () => {
    const long = 'a very long name of what was varied in this trial of ours'
    const columns = ['plot', `${long} one`, `${long} two`, 'yield']
    const cell = 'x'.repeat(400)
    const rows = [['1', cell, 'A', '5'], ['2', 'B', 'B', '6'], ['3', cell, 'B', '6'], ['4', 'B', 'A', '5']].map((cells, i) => ({ line: i + 2, cells })) // prettier-ignore
    for (const names of [columns, ['', '', '', '']]) {
      const roles = ['plot', 'factor', 'factor', 'trait'] as const
      const matched = roles.map((role, c) => ({ role, name: names[c]!, unit: '' }))
      const found = understand({ name: 'long', columns, rows }, { ...saidOf(matched, 2026), title: 'T', crop: 'C' }, countingIds())
      expect(found.problems).toEqual([])
      const contents = importedContents(found, { ...signed, newId: countingIds() })
      expect(unpackTrial(packTrial(contents)).layouts).toEqual(contents.layouts)
    }
  })

  it('no table, however odd, makes it fail otherwise than by saying so', () => {
    const cell = fc.oneof(
      fc.constantFrom('', 'A', 'B', ' a', '1', '2', '2,5', '-', 'x y', '<3', '2026-01-02', 'block 1; row 2'),
      fc.string({ maxLength: 6 }),
    )
    const header = fc.constantFrom('plot', 'block', 'rep', 'treatment', 'variety', 'rate (kg/ha)', 'row', 'column', 'yield', 'lies_in', 'x [m]', 'y [m]', 'walk', 'site', 'visit', 'main plot', 'treatment_planned') // prettier-ignore
    fc.assert(
      fc.property(
        fc.uniqueArray(header, { minLength: 2, maxLength: 9 }),
        fc.array(fc.array(cell, { minLength: 9, maxLength: 9 }), { minLength: 1, maxLength: 14 }),
        (columns, rows) => {
          const source: Source = {
            name: 'odd',
            columns,
            rows: rows.map((cells, i) => ({ line: i + 2, cells: cells.slice(0, columns.length) })),
          }
          const found = understand(source, { ...saidOf(proposeRoles(source), 2026), title: 'T', crop: 'C' }, countingIds())
          if (found.problems.length > 0) return
          const contents = importedContents(found, { ...signed, newId: countingIds() })
          for (const problem of checkTrial(contents.trial, contents.layouts)) expect(problem.message).toMatch(/\S.*\.$/)
        },
      ),
      { numRuns: 300 },
    )
  })
})

it('tabs below a title are tabs', () => {
  const source = textSource('pasted', 'Oats, 2026\n\nplot\tblock\ttreatment\tyield\n1\t1\tA\t5,2\n2\t1\tB\t5,4\n')
  expect([source.columns, source.rows.length]).toEqual([['plot', 'block', 'treatment', 'yield'], 2])
})

describe('a plan that was exported comes back equal', () => {
  const exported = (key: string): { trial: Trial; layouts: Layout[]; records: FieldRecord[] } => {
    const trial = asTrial({ ...trialFor(key, 2) })
    const layouts = [layOut(trial, 'site-1', 17, countingIds())]
    const kind = trial.sites[0]!.design.unit
    const records = layouts[0]!.units
      .filter((unit) => unit.kind === kind)
      .map((unit, i) => readingOf(unit.id, 'gross-weight', 60 + ((7 * i) % 11) / 10))
    return { trial, layouts, records }
  }
  /** What a plan is, whatever its units are called inside: where each plot stands, in what, with what. */
  const told = (trial: Pick<Trial, 'treatments'>, layouts: readonly Layout[], places: boolean) =>
    layouts.map(({ units, structure }) => {
      const index = new Map(units.map((unit) => [unit.id, unit]))
      const above = (unit: Unit): string[] => unit.in.flatMap((id) => (index.get(id) && index.get(id)!.kind !== 'site' ? [`${index.get(id)!.kind} ${index.get(id)!.code}`, ...above(index.get(id)!)] : [])) // prettier-ignore
      return {
        plots: units
          .filter((unit) => unit.walk !== null)
          .map((unit) => {
            const marks = marksOn(unit, index, 'planned')
            const level = (factor: Trial['treatments']['factors'][number]) =>
              factor.levels.find((each) => each.key === marks[factor.key])?.code
            return {
              code: unit.code,
              in: [...new Set(above(unit))].sort(),
              treatment: treatmentOn(unit, index, trial.treatments)?.code,
              levels: trial.treatments.factors.map(level),
              ...(places
                ? {
                    place: [unit.place!.x, unit.place!.y, unit.place!.width, unit.place!.length].map(
                      (each) => Math.round(each * 1e3) / 1e3,
                    ),
                  }
                : {}),
              walk: unit.walk,
            }
          })
          .sort((a, b) => (a.code < b.code ? -1 : 1)),
        factors: structure.factors.map((each) => [each.appliedTo, each.within]),
      }
    })
  // Of what stands in the list only once at a site the table cannot tell what it was applied to within.
  const keys = designs.map((design) => design.key)

  it.each(keys)('%s, as CSV and as a workbook', async (key) => {
    const { trial, layouts, records } = exported(key)
    for (const format of ['plots', 'workbook'] as const) {
      const made = await fileFormats.find((each) => each.key === format)!.make({ trial, layouts, records, events: [], people: [] })
      const bytes = typeof made === 'string' ? new TextEncoder().encode(made) : made
      const source = await readSource(`plan.${format === 'plots' ? 'csv' : 'xlsx'}`, bytes)
      const found = understand(
        source,
        { ...saidOf(proposeRoles(source), 2026), title: 'T', crop: 'C', kind: trial.sites[0]!.design.unit },
        countingIds(),
      )
      expect(found.problems).toEqual([])
      expect(found.odd).toEqual([])
      expect(told(found.draft, found.layouts, true).map((each) => each.plots)).toEqual(told(trial, layouts, true).map((each) => each.plots))
      expect(told(found.draft, found.layouts, true)[0]!.factors.map(([kind]) => kind)).toEqual(told(trial, layouts, true)[0]!.factors.map(([kind]) => kind)) // prettier-ignore
      expect(found.values).toHaveLength(records.length)
      expect(checkTrial(importedContents(found, { ...signed, newId: countingIds() }).trial, found.layouts)).toEqual([])
    }
  })

  it.each([null, 6.1, 179.9999])('GeoJSON, anchored at a longitude of %s', async (longitude) => {
    const anchored = longitude !== null
    const { trial, layouts, records } = exported('randomised-block')
    const lying = { ...trial.sites[0]!.ground, ...(anchored ? { anchor: { latitude: 51.2, longitude }, bearing: 33 } : {}) }
    const placed = { ...trial, sites: [{ ...trial.sites[0]!, ground: lying }] }
    const made = (await fileFormats
      .find((each) => each.key === 'map')!
      .make({ trial: placed, layouts, records, events: [], people: [] })) as string
    // Beyond 180° east it goes on from 180° west.
    const degrees = [...made.matchAll(/\[\s*(-?[\d.]+),\s*-?[\d.]+\s*\]/g)].map((each) => Number(each[1]))
    if (anchored) for (const each of degrees) expect(Math.abs(each)).toBeLessThanOrEqual(180)
    if (longitude === 179.9999) expect(new Set(degrees.map(Math.sign))).toEqual(new Set([1, -1]))
    const source = await readSource('plan.geojson', new TextEncoder().encode(made))
    const found = understand(source, { ...saidOf(proposeRoles(source), 2026), title: 'T', crop: 'C' }, countingIds())
    expect(found.problems).toEqual([])
    expect(told(found.draft, found.layouts, !anchored).map((each) => each.plots.map(({ levels: _, ...plot }) => plot))).toEqual(
      told(placed, layouts, !anchored).map((each) => each.plots.map(({ levels: _, ...plot }) => plot)),
    )
    // Degrees are of millimetres; where it lies in the world is not the plan's: only how plots lie to each other.
    const apart = (of: readonly Layout[]): number[] => {
      const plots = of[0]!.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
      return plots.slice(1).map((plot) => Math.hypot(plot.place!.x - plots[0]!.place!.x, plot.place!.y - plots[0]!.place!.y))
    }
    apart(found.layouts).forEach((metres, i) => expect(metres).toBeCloseTo(apart(layouts)[i]!, 1))
  })
})
