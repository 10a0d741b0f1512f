import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'
import { analyse, evidenceOf, sentencesFor, type Analysis } from '../src/analysis/index.ts'
import { chanceFrom } from '../src/design/index.ts'
import type { Layout, Structure, Unit } from '../src/trial/index.ts'
import { trialWith } from './build.ts'

const folder = new URL('../fixtures/reference/', import.meta.url)

/** A reference case as Canter would hold it: units in blocks, and a structure that says what was dealt out in what. */
function fromCase(name: string) {
  const read = (file: string) => readFileSync(new URL(`${name}/${file}`, folder), 'utf8')
  const rows = Papa.parse<Record<string, string>>(read('data.csv').trim(), { header: true }).data
  const info = JSON.parse(read('case.json')) as {
    response: string
    factors: string[]
    block: string | null
    levels: Record<string, string[]>
  }
  const expected = new Map(
    (JSON.parse(read('expected.json')) as { values: { name: string; value: number }[] }).values.map((each) => [each.name, each.value]),
  )
  const factor = info.factors[0]!
  const unit = (kind: Unit['kind'], id: string, within: string[], got: Record<string, string> = {}): Unit => ({
    id,
    kind,
    code: id,
    in: within,
    planned: got,
    received: got,
    change: 'none',
    place: null,
    walk: null,
  })
  const blocks = info.block ? [...new Set(rows.map((row) => row[info.block!]!))] : []
  const units = [
    unit('site', 'site', []),
    ...blocks.map((block) => unit('block', `block ${block}`, ['site'])),
    ...rows.map((row, i) => unit('plot', `plot ${i}`, [info.block ? `block ${row[info.block]}` : 'site'], { [factor]: row[factor]! })),
  ]
  const structure: Structure = {
    schema: 1,
    kinds: [
      { kind: 'site', in: [] },
      ...(info.block ? [{ kind: 'block' as const, in: ['site' as const] }] : []),
      { kind: 'plot', in: [info.block ? 'block' : 'site'] },
    ],
    factors: [{ factor, appliedTo: 'plot', within: info.block ? 'block' : null, how: 'randomised' }],
    controls: [],
    seed: null,
    occasions: [],
  }
  const values = new Map(rows.flatMap((row, i) => (row[info.response] === '' ? [] : [[`plot ${i}`, Number(row[info.response])] as const])))
  const levels = info.levels[factor]!.map((key, i) => ({ key, control: i === 0 }))
  return { layout: { structure, units }, values, levels, expected, factor }
}

const analyseCase = (of: ReturnType<typeof fromCase>): Analysis =>
  analyse({
    layout: of.layout,
    levels: of.levels,
    values: of.values,
    leftOut: new Set(),
    significance: 0.05,
    trait: { key: 'y', name: 'Yield', unit: 't/ha' },
  })

describe('the model follows from the structure', () => {
  it.each(['rcbd-missing-oat', 'rcbd-oat-screening', 'crd-plantgrowth'])(
    '%s: tests, means and differences from the layout alone',
    (name) => {
      const of = fromCase(name)
      const result = analyseCase(of)
      const prefix = name === 'rcbd-missing-oat' ? 'typeI' : 'anova'
      const test = result.anova.at(-1)!
      expect(result.model.symbols).toBe(
        name === 'crd-plantgrowth' ? 'y = mean + group + residual' : 'y = mean + block + variety + residual',
      )
      expect(test.f).toBeCloseTo(of.expected.get(`${prefix}.${of.factor}.F`)!, 8)
      expect(test.p).toBeCloseTo(of.expected.get(`${prefix}.${of.factor}.p`)!, 8)
      for (const mean of result.means) expect(mean.mean).toBeCloseTo(of.expected.get(`emm.${of.factor}.${mean.level}.mean`)!, 8)
      for (const pair of result.comparisons.lsd) {
        const at = `pair.${of.factor}.${pair.a}-${pair.b}`
        expect(pair.sed).toBeCloseTo(of.expected.get(`${at}.sed`)!, 8)
        expect(pair.threshold).toBeCloseTo(of.expected.get(`${at}.lsd`)!, 8)
      }
    },
  )

  it('offsets 10¹² times the effect cost no more than the data have lost', () => {
    const of = fromCase('rcbd-oat-screening')
    const shifted = { ...of, values: new Map([...of.values].map(([id, value]) => [id, value + 1e9])) }
    const [plain, moved] = [analyseCase(of), analyseCase(shifted)]
    expect(moved.anova.at(-1)!.f).toBeCloseTo(plain.anova.at(-1)!.f, 4)
  })
})

describe('what can be said', () => {
  const of = fromCase('rcbd-missing-oat')
  const only = (keep: (unit: Unit) => boolean) =>
    new Map([...of.values].filter(([id]) => keep(of.layout.units.find((unit) => unit.id === id)!)))

  it('one replicate is described and not tested', () => {
    const result = analyseCase({ ...of, values: only((unit) => unit.in[0] === 'block 1') })
    expect(result.kind).toBe('described')
    expect(result.anova).toEqual([])
    expect(result.cautions[0]).toMatch(/described, not tested/)
  })

  it('says why there is nothing to analyse', () => {
    expect(() => analyseCase({ ...of, values: new Map() })).toThrow(/No plot has a value/)
  })

  it('constant or exactly additive values are not tested', () => {
    expect(analyseCase({ ...of, values: new Map([...of.values.keys()].map((id) => [id, 5])) }).kind).toBe('described')
  })

  it('evidence is a trial only when randomised and repeated, as received', () => {
    const units: Unit[] = of.layout.units.filter((unit) => unit.kind === 'plot')
    const evidence = (structure = of.layout.structure, plots = units) => evidenceOf(structure, plots, 'variety', 'line01', 'line02').kind
    expect(evidence()).toBe('trial')
    const systematic = {
      ...of.layout.structure,
      factors: of.layout.structure.factors.map((each) => ({ ...each, how: 'systematic' as const })),
    }
    expect(evidence(systematic)).toBe('compare')
    const first = units.find((unit) => unit.received['variety'] === 'line01')!
    expect(
      evidence(
        undefined,
        units.map((unit) => (unit === first ? { ...unit, change: 'misapplied' } : unit)),
      ),
    ).toBe('compare')
    expect(
      evidence(
        undefined,
        units.map((unit) => (unit === first ? { ...unit, change: 'label corrected' } : unit)),
      ),
    ).toBe('trial')
    expect(evidence(undefined, [first, ...units.filter((unit) => unit.received['variety'] === 'line02')])).toBe('look')
  })
})

describe('sentences', () => {
  const tell = (analysis: Analysis) =>
    sentencesFor({
      analysis,
      factor: trialWith(4, 4).factors[0]!,
      better: 'more',
      smallest: { value: 0.5, unit: 't/ha' },
      system: 'metric',
    })

  /** A small trial of four rates with given means and noise. */
  function simulated(effects: readonly number[], noise: number, seed: number): Analysis {
    const chance = chanceFrom(seed)
    const units: Unit[] = []
    const values = new Map<string, number>()
    for (let block = 0; block < 4; block++) {
      units.push({
        id: `b${block}`,
        kind: 'block',
        code: `${block}`,
        in: [],
        planned: {},
        received: {},
        change: 'none',
        place: null,
        walk: null,
      })
      effects.forEach((effect, i) => {
        const got = { 'factor-1': `l${i}` }
        units.push({
          id: `p${block}-${i}`,
          kind: 'plot',
          code: `${block}${i}`,
          in: [`b${block}`],
          planned: got,
          received: got,
          change: 'none',
          place: null,
          walk: 1,
        })
        values.set(`p${block}-${i}`, effect + noise * (chance.below(2001) / 1000 - 1))
      })
    }
    const layout: Pick<Layout, 'structure' | 'units'> = {
      units,
      structure: {
        schema: 1,
        kinds: [
          { kind: 'block', in: [] },
          { kind: 'plot', in: ['block'] },
        ],
        factors: [{ factor: 'factor-1', appliedTo: 'plot', within: 'block', how: 'randomised' }],
        controls: [],
        seed: 1,
        occasions: [],
      },
    }
    return analyse({
      layout,
      levels: trialWith(4, 4).factors[0]!.levels,
      values,
      leftOut: new Set(),
      significance: 0.05,
      trait: { key: 'y', name: 'Sugar yield', unit: 't/ha' },
    })
  }

  it('lead with the gain over the control and say where it ends', () => {
    const [lead, beyond, worth] = tell(simulated([8, 10, 11, 11.05], 0.15, 3))
    expect(lead!.text).toMatch(
      /^(80|120) kg N\/ha gave 3\.\d t\/ha more sugar yield than no nitrogen \(95 % interval \d\.\d to \d\.\d t\/ha\)\.$/,
    )
    expect(beyond!.text).toMatch(/^Beyond 80 kg N\/ha the trial saw no further gain; it could have missed one of up to 0\.\d+ t\/ha\.$/)
    expect(worth!.text).toMatch(/sharp enough/)
    expect(lead!.evidence).toBe('trial')
  })

  it('never claim that treatments are the same, nor show what is not a number', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 20, noNaN: true }), { minLength: 4, maxLength: 4 }),
        fc.double({ min: 0, max: 5, noNaN: true }),
        fc.nat(),
        (effects, noise, seed) => {
          const text = tell(simulated(effects, noise, seed))
            .map((each) => each.text)
            .join(' ')
          expect(text).not.toMatch(/no difference|the same as|NaN|Infinity|undefined|–/)
          expect(text.length).toBeGreaterThan(40)
        },
      ),
      { numRuns: 25 },
    )
  })
})
