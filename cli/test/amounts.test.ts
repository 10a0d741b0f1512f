import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { calculations } from '@canter/core/amounts'
import { packTrial } from '@canter/core/exchange'
import type { Fate } from '@canter/core/trial'
import { sugarBeet } from '@canter/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { analyseCommand } from '../src/analyse.ts'
import { amountsCommand } from '../src/amounts.ts'

let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'canter-amounts-'))
})
afterAll(() => rmSync(folder, { recursive: true }))

const written = (name: string, content: unknown): string => {
  const file = join(folder, name)
  writeFileSync(file, typeof content === 'string' ? content : JSON.stringify(content))
  return file
}
const request = (...items: object[]): string => written('request.json', { canterAmounts: 1, items })
interface Told {
  readonly items: readonly { figures: Record<string, { value: number; unit: string }>; doubts: string[]; cautions: string[] }[]
}

describe('canter amounts', () => {
  const doc = readFileSync(new URL('../../docs/amounts-request.md', import.meta.url), 'utf8')
  const examples = [...doc.matchAll(/^## (\S+)\n([^\n]+)\n\n```json\n(.+)\n```/gm)].map(([, key, about, json]) => ({ key: key!, about: about!, json: json! })) // prettier-ignore

  it('has in its document an example of every calculation, which runs as it stands', () => {
    expect(examples.map((each) => [each.key, each.about])).toEqual(calculations.map((each) => [each.key, each.about]))
    for (const { key, json } of examples) {
      const text = amountsCommand([written('example.json', json)])
      expect(text, key).toMatch(/ = |\d/)
      expect(text, key).not.toMatch(/NaN|undefined|Infinity/)
      const told = JSON.parse(amountsCommand([written('example.json', json), '--json'])) as Told
      expect(Object.keys(told.items[0]!.figures).length, key).toBeGreaterThan(0)
    }
    const list = amountsCommand(['--list'])
    for (const { key, inputs } of calculations) for (const each of [key, ...inputs.map((input) => input.key)]) expect(list).toContain(each)
  })

  it('shows the working and the cautions, in the reader’s units', () => {
    const file = request({ calculation: 'drench', title: 'Bench 2', given: { pots: 240, each: '60 mL', dead: '1.2 L', strength: '4 ppm', label: '4 g/L' } }) // prettier-ignore
    const text = amountsCommand([file])
    expect(text).toMatch(/^Bench 2\n {2}Solution to make +15\.60 L/)
    expect(text).toContain('Drench on the pots: 240 × 60 mL = 14.40 L')
    expect(text).toContain('Caution: The product label, local rules and licensed practice come first.')
    expect(amountsCommand([file, '--units', 'us'])).toMatch(/Solution to make +4\.121 gal/)
  })

  it('of a package: what each plot needs, and the worksheets kept with the trial', () => {
    const contents = sugarBeet()
    const sheet = { key: 'sheet-1', calculation: 'irrigation', title: 'After sowing', site: null, on: null, given: { depth: '1', area: '1000' }, system: 'us' as const, note: '' } // prettier-ignore
    const trial = { ...contents.trial, amounts: { ...contents.trial.amounts, sheets: [sheet] } }
    const file = join(folder, 'beet.zip')
    writeFileSync(file, packTrial({ ...contents, trial }))
    const text = amountsCommand([file])
    expect(text).toMatch(/treatment +the season +a plot +carrier +in all +plots/)
    // 160 kg N/ha ÷ 27 % = 592.6 kg/ha in two passes on 27 m²: 800 g, on four plots 3.2 kg.
    expect(text).toMatch(/160 kg N\/ha +160 kg N\/ha +800.0 g +– +3.200 kg +4/)
    // An inch on 1000 ft²: 25.4 mm × 92.903 m² = 2360 L.
    expect(text).toMatch(/After sowing\n {2}Water to give +2360 L/)
    // The same as fields; a plot of which a quarter remains takes a quarter of 800 g, and the site 3.25 plots.
    const plot = contents.layouts[0]!.units.find((unit) => unit.kind === 'plot' && Object.values(unit.received).includes('r160'))!
    const fate: Fate = { type: 'fate', id: contents.trial.id.replace(/.{4}$/, 'fa7e'), person: contents.people[0]!.id, at: '2026-05-01T08:00:00.000Z', device: 'test', unit: plot.id, kind: 'partly lost', on: { from: '2026-05-01', to: '2026-05-01', typed: '1 May 2026' }, share: 0.25, factor: null, amount: null, to: null, place: '', parts: null, reason: 'hail' } // prettier-ignore
    writeFileSync(file, packTrial({ ...contents, trial, records: [...contents.records, fate] }))
    const told = JSON.parse(amountsCommand([file, '--json'])) as { items: unknown[]; sites: { passes: { product: string; alike: number; turns: { treatment: string | null; each: { value: number } | null; all: { value: number } | null; units: string[]; less: unknown[] }[] }[]; totals: { treatment: string; nutrients: Record<string, { value: number }> }[] }[] } // prettier-ignore
    expect(told.items).toMatchObject([{ title: 'After sowing', figures: { water: { unit: 'L' } } }])
    const pass = told.sites[0]!.passes.find((each) => each.turns.some((turn) => turn.treatment === 'N160'))!
    expect([pass.alike, pass.turns.find((turn) => turn.treatment === 'N160')]).toMatchObject([2, { treatment: 'N160', each: { value: expect.closeTo(800, 6) as number, unit: 'g' }, all: { value: expect.closeTo(2.6, 9) as number, unit: 'kg' }, less: [{ unit: plot.code, left: 0.25, each: { value: expect.closeTo(200, 6) as number } }] }]) // prettier-ignore
    expect(told.sites[0]!.totals.find((each) => each.treatment === 'N160')!.nutrients['N']!.value).toBeCloseTo(160, 9)
    expect(amountsCommand([file])).toMatch(new RegExp(`plot ${plot.code}, of which 25 % remains: 200.0 g`))
  })

  it('of a package: rates as they went out are what a trend is told by, and the tests of treatments are the same', () => {
    const contents = sugarBeet()
    const actual = [{ key: 'o1', site: 'hazel-bank', dose: 'supply', part: 0, level: null, share: 80, how: 'emptied' as const, on: null, note: '', sheet: null }] // prettier-ignore
    const file = join(folder, 'out.zip')
    writeFileSync(file, packTrial({ ...contents, trial: { ...contents.trial, amounts: { ...contents.trial.amounts, actual } } }))
    const [planned, out] = [[], ['--as-went-out']].map((more) => analyseCommand([file, ...more]))
    // One of two passes at 80 %: nine tenths of 160 kg N/ha over the season.
    expect(planned).toContain('160 kg N/ha')
    expect(out).toContain('144 kg N/ha')
    expect(out).not.toContain('160 kg N/ha')
    const f = (text: string): string => /^Nitrogen .*$/m.exec(text)![0]
    expect(f(out!)).toBe(f(planned!))
    const bare = join(folder, 'bare.zip')
    writeFileSync(bare, packTrial(contents))
    expect(() => analyseCommand([bare, '--as-went-out'])).toThrow('Nothing is on record of what went out')
  })

  it.each([
    [() => [], /Name a request/],
    [() => ['--units', 'roman', 'x.json'], /metric or us/],
    [() => ['--what'], /Unknown option/],
    [() => ['/no/such/file.zip'], /cannot be read \(ENOENT\)/],
    [() => [written('no.json', 'no')], /no\.json: it is not JSON/],
    [() => [written('old.json', { canterAmounts: 2, items: [] })], /“canterAmounts” must be 1/],
    [() => [request({ calculation: 'magic', given: {} })], /items\.0\.calculation: there is no calculation “magic”\. Known: fertiliser/],
    [() => [request({ calculation: 'drench', given: { pots: 3, each: '1 cup' } })], /items\.0\.given\.each: “cup” is no measure here/],
    [() => [request({ calculation: 'drench', given: { pots: 3 } })], /items\.0\.given\.strength: Strength wanted is missing/],
  ])('says what is wrong, and where: %#', (args, message) => {
    expect(() => amountsCommand(args())).toThrow(message)
  })
})
