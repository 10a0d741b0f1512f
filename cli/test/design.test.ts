import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { Analysis } from '@canter/core/analysis'
import { chanceFrom, designs } from '@canter/core/design'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { analyseTableCommand } from '../src/analyse-table.ts'
import { designCommand } from '../src/design.ts'

interface Request {
  design: string
  replicates: number
  factors: Record<string, string[]>
}

interface Told {
  seed: number | null
  units: number
  times: Record<string, number>
  errors: { unit: string; df: number }[]
  efficiency: number | null
  bound: number | null
}

const page = readFileSync(fileURLToPath(new URL('../../docs/design-request.md', import.meta.url)), 'utf8')
const examples = [...page.matchAll(/```json\n([\s\S]*?)\n```/g)].map((found) => JSON.parse(found[1]!) as Request)

let folder: string
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'canter-design-'))))
afterEach(() => rmSync(folder, { recursive: true }))

const run = (request: unknown, more: readonly string[] = []): string => {
  const path = join(folder, 'request.json')
  writeFileSync(path, typeof request === 'string' ? request : JSON.stringify(request))
  return designCommand([
    '--request',
    path,
    '--table',
    join(folder, 'plots.csv'),
    '--plan',
    join(folder, 'plan.json'),
    '--seed',
    '7',
    ...more,
  ])
}

describe('canter design', () => {
  it('has an example of every design', () => {
    expect(examples.map((each) => each.design).sort()).toEqual(designs.map((each) => each.key).sort())
  })

  it.each(examples.map((each) => [each.design, each] as const))(
    '%s: a table and a plan that canter analyse takes as they are',
    (_, request) => {
      const told = JSON.parse(run(request, ['--json'])) as Told
      const [header, ...rows] = readFileSync(join(folder, 'plots.csv'), 'utf8').trim().split(/\r?\n/)
      expect(rows).toHaveLength(told.units)
      expect(Object.values(told.times).reduce((sum, each) => sum + each, 0)).toBe(told.units)
      const chance = chanceFrom(3)
      const data = join(folder, 'measured.csv')
      writeFileSync(data, [`${header!},yield`, ...rows.map((row) => `${row},${5 + chance.below(1000) / 500}`)].join('\n'))
      const analysis = JSON.parse(
        analyseTableCommand(['--data', data, '--plan', join(folder, 'plan.json'), '--trait', 'yield', '--json']),
      ) as Analysis
      expect(analysis.kind).toBe('tested')
      const errors = Object.fromEntries(analysis.errors.filter((each) => each.stratum !== 'block').map((each) => [each.stratum, each.df]))
      expect(errors).toEqual(Object.fromEntries(told.errors.map((each) => [each.unit, each.df])))
    },
  )

  it('makes the same files from the same seed, never writes over one, and says the seed and what to do next', () => {
    const request = examples.find((each) => each.design === 'incomplete-latin-square')!
    const text = run(request)
    expect(text).toMatch(/Seed 7: the same seed makes the same plan again/)
    expect(text).toMatch(/Average efficiency factor 0\.8\d/)
    const first = readFileSync(join(folder, 'plots.csv'), 'utf8')
    expect(() => run(request)).toThrow(/is there already/)
    rmSync(join(folder, 'plots.csv'))
    rmSync(join(folder, 'plan.json'))
    run(request)
    expect(readFileSync(join(folder, 'plots.csv'), 'utf8')).toBe(first)
  })

  it('makes a plan of an older version again by its draw, and keeps in the plan file by which it was made', () => {
    const request = examples.find((each) => each.design === 'randomised-block')!
    const drawn = (...more: string[]): [string, { structure: { draw?: number } }] => {
      run(request, more)
      const made = [readFileSync(join(folder, 'plots.csv'), 'utf8'), JSON.parse(readFileSync(join(folder, 'plan.json'), 'utf8'))]
      for (const file of ['plots.csv', 'plan.json']) rmSync(join(folder, file))
      return made as [string, { structure: { draw?: number } }]
    }
    const [[newest, plan], [older, olderPlan]] = [drawn(), drawn('--draw', '1')]
    expect([plan.structure.draw, olderPlan.structure.draw]).toEqual([2, undefined])
    expect(older).not.toBe(newest)
    expect(drawn('--draw', '2')[0]).toBe(newest)
    expect(() => run(request, ['--draw', '3'])).toThrow(/from 1 to 2/)
  })

  it.each([
    ['{', /not JSON/],
    [{ canterDesign: 2 }, /canterDesign.*must be 1/],
    [{ canterDesign: 1, design: 'circle', replicates: 2, factors: { a: ['x', 'y'] } }, /no design “circle”. Known: randomised-block/],
    [{ canterDesign: 1, design: 'latin-square', replicates: 1, factors: { a: ['x', 'x'] } }, /“x” is listed twice/],
    [
      { canterDesign: 1, design: 'randomised-block', replicates: 2, factors: { a: ['x', 'y'] }, settings: { size: 3 } },
      /asks nothing called “size”/,
    ],
    [{ canterDesign: 1, design: 'randomised-block', replicates: 2, factors: { a: ['x', 'y'] }, checks: ['z'] }, /“z” is no treatment/],
    [{ canterDesign: 1, design: 'randomised-block', replicates: 2, factors: { a: ['x', 'y'] }, ground: { width: 3 } }, /no field “width”/],
    [
      { canterDesign: 1, design: 'split-plot', replicates: 2, factors: { a: ['x', 'y'], b: ['1', '2'] } },
      /which factor goes on the main plots/,
    ],
    [
      {
        canterDesign: 1,
        design: 'incomplete-blocks',
        replicates: 4,
        factors: { a: ['1', '2', '3', '4', '5', '6', '7'] },
        settings: { blockSize: 3 },
      },
      /do not fill blocks of 3: take 3 of each/,
    ],
  ])('says what is wrong with %j', (request, message) => {
    expect(() => run(request)).toThrow(message)
  })

  it('puts nothing on units that the design does not have: a split-plot that was meant is not laid out as plain blocks', () => {
    const factors = { water: ['dry', 'wet'], cultivar: ['A', 'B', 'C'] }
    const placed = { 'main plot': ['water'] }
    expect(() => run({ canterDesign: 1, design: 'randomised-block', replicates: 3, factors, placed })).toThrow(
      /water is put on “main plot”, which “Complete blocks” does not have\./,
    )
    expect(() => run({ canterDesign: 1, design: 'split-plot', replicates: 3, factors, placed: { mainplot: ['water'] } })).toThrow(
      /water is put on “mainplot”, which “Split plots” does not have: it has main plot\./,
    )
    expect(run({ canterDesign: 1, design: 'split-plot', replicates: 3, factors, placed })).toMatch(/Split plots/)
  })

  it.each(['block', 'Plot', 'x', 'walk', 'main plot', 'Block '])(
    'a factor called “%s” would make a column twice and is refused',
    (name) => {
      expect(() => run({ canterDesign: 1, design: 'randomised-block', replicates: 3, factors: { [name]: ['A', 'B'] } })).toThrow(
        new RegExp(`factors\\.${name.trim()}: the table has a column “${name.trim().toLowerCase()}” of its own`),
      )
    },
  )

  it('blanks at the ends tell nothing apart: neither levels nor factors, nor what is named by them', () => {
    const request = { canterDesign: 1, design: 'randomised-block', replicates: 3 }
    expect(() => run({ ...request, factors: { mix: ['a', 'a '] } })).toThrow(/factors\.mix: “a” is listed twice/)
    expect(() => run({ ...request, factors: { mix: ['a', 'b'], 'mix ': ['c', 'd'] } })).toThrow(/“mix” is there twice/)
    run({ ...request, factors: { ' mix': ['a ', 'b'], lime: ['yes', ' no'] }, control: 'a : no ' })
    const [header, first] = readFileSync(join(folder, 'plots.csv'), 'utf8').split(/\r?\n/)
    expect(header).toBe('block,plot,x,y,walk,mix,lime')
    expect(first).toMatch(/,(a|b),(yes|no)$/)
  })

  it('what is given up is named as in the request, in any order, and a sound plan is not called worthless', () => {
    const factors = { lime: ['no', 'yes'], potash: ['no', 'yes'], sulphur: ['no', 'yes'] }
    const request = { canterDesign: 1, design: 'confounded', replicates: 2, factors }
    for (const givenUp of ['lime×potash', 'potash × lime', 'f1×f2']) {
      const text = run({ ...request, settings: { givenUp } })
      expect(text).toMatch(/What is given up to the blocks: (lime ?× ?potash|potash × lime)\./)
      expect(text).not.toMatch(/efficiency/)
      rmSync(join(folder, 'plots.csv'))
      rmSync(join(folder, 'plan.json'))
    }
    expect(() => run({ ...request, settings: { givenUp: 'lime' } })).toThrow(
      /given up to the blocks: lime × potash × sulphur; lime × potash;/,
    )
    expect((JSON.parse(run(request, ['--json'])) as Told).efficiency).toBeNull()
  })
})
