import { describe, expect, it } from 'vitest'
import { AnalysisOptions, spoken } from '../src/analysis/index.ts'
import { applyPatch, changeTreatment, checkTrial, lockedChanges, refusalInWords, sectionKeys, valueInWords } from '../src/document/index.ts'
import { layOut } from '../src/ground/index.ts'
import { forCrop, newTrialDraft, traitSets, traitsOf } from '../src/numbers/index.ts'
import {
  bareProduct,
  Dose,
  isCrossing,
  levelsFromText,
  treatmentWith,
  withFactors,
  type Layout,
  type TrialDraft,
  emptyFactor,
  treatmentsOf,
} from '../src/trial/index.ts'
import { asTrial, countingIds, designed, ladder, trialWith, twoFactors } from './build.ts'
import { evidenceTable, weakest } from '../src/analysis/evidence.ts'
import { crossing, layoutFrame } from '../src/analysis/layout.ts'
import { asRequest } from './plan-case.ts'

const told = (trial: unknown, layouts: Layout[] = []): string =>
  checkTrial(trial, layouts)
    .map(({ path, message }) => `${path}: ${message}`)
    .join('\n')

describe('one validator judges a trial, wherever it comes from', () => {
  it('takes every set of traits that is offered', () => {
    for (const set of traitSets) expect(told({ ...trialWith(3, 4), traits: traitsOf(set) })).toBe('')
  })

  const draft = trialWith(4, 3)
  const [site] = draft.sites
  const [factor] = draft.treatments.factors
  const patched = (section: keyof TrialDraft, patch: object): unknown => ({ ...draft, [section]: { ...draft[section], ...patch } })
  const atSite = (patch: object): unknown => ({ ...draft, sites: [{ ...site, ...patch }] })
  const withLevels = (change: (level: object, i: number) => object): unknown =>
    patched('treatments', { factors: [{ ...factor, levels: factor!.levels.map((level, i) => ({ ...level, ...change(level, i) })) }] })

  it.each<[string, unknown, RegExp]>([
    ['no title', patched('question', { title: '  ' }), /question\.title: Title is empty/],
    ['a season that is none', patched('question', { season: 20260 }), /question\.season: The season is a year/],
    [
      'two untreated controls',
      patched('treatments', { list: draft.treatments.list.map((each) => ({ ...each, role: 'untreated control' })) }),
      /Only one treatment can be the untreated control/,
    ],
    ['one code twice', withLevels(() => ({ code: 'N0' })), /levels\.1\.code: The code “N0” is used twice/],
    ['a code too long for a stake', withLevels((_, i) => ({ code: `NITROGEN${i}` })), /at most 8 characters/],
    ['a rate without an amount', withLevels(() => ({ amount: null })), /needs an amount in kg\/ha/],
    ['a negative rate', withLevels(() => ({ amount: -1 })), /cannot be negative/],
    ['a rate without a measure', patched('treatments', { factors: [{ ...factor, measure: '' }] }), /Rates need a measure/],
    ['kinds with amounts', patched('treatments', { factors: [{ ...factor, kind: 'kind', of: null }] }), /These levels are no amounts/],
    [
      'a treatment of a level that is none',
      patched('treatments', { list: [{ ...draft.treatments.list[0], levels: { 'factor-1': 'l9' } }] }),
      /the level “l9”, which factor-1 does not have/,
    ],
    ['a factor called as a kind of unit', patched('treatments', { factors: [{ ...factor, key: 'plot' }] }), /names something else/],
    ['a response that is no trait', patched('traits', { response: 'height' }), /response that matters is not among the traits/],
    [
      'a derived value of nothing',
      patched('traits', { observed: draft.traits.observed.slice(0, 1) }),
      /needs “dirt-tare”, which is not a trait before it/,
    ],
    [
      'a derived value whose measures do not fit',
      patched('traits', { derived: draft.traits.derived.map((each) => ({ ...each, unit: 'm' })) }),
      /traits\.derived\.0: .*do not make m/,
    ],
    [
      'a trait at no visit',
      patched('traits', { observed: draft.traits.observed.map((each) => ({ ...each, visits: ['spring'] })) }),
      /taken at “spring”, which is no visit/,
    ],
    [
      'an unknown measure',
      withLevels(() => ({})) && patched('treatments', { factors: [{ ...factor, measure: 'bags' }] }),
      /Unknown measure/,
    ],
    ['too many replicates', atSite({ design: { ...site!.design, replicates: 51 } }), /At most 50 replicates/],
    ['a design that is none', atSite({ design: { ...site!.design, key: 'spiral' } }), /There is no design “spiral”/],
    [
      'a factor on two sizes of unit',
      atSite({ design: { ...site!.design, placed: { row: ['factor-1'], column: ['factor-1'] } } }),
      /stands on two sizes/,
    ],
    ['two sites of one key', { ...draft, sites: [site, site] }, /Two sites have the key “site-1”/],
    ['ground that cannot be', atSite({ ground: { ...site!.ground, harvestWidth: 99 } }), /harvested width is wider/],
    ['a difference of nothing', patched('traits', { smallestDifference: { value: 0, unit: 't/ha' } }), /above zero/],
    ['a reference nobody grew', patched('prices', { reference: 'l9' }), /held against is not a treatment/],
  ])('%s', (_, trial, message) => {
    expect(told(trial)).toMatch(message)
  })

  const layout = layOut(draft, 'site-1', 4, countingIds())
  const changed = (i: number, change: (unit: Layout['units'][number], units: Layout['units']) => object): Layout => ({
    ...layout,
    units: layout.units.map((unit, at) => (at === i ? { ...unit, ...change(unit, layout.units) } : unit)),
  })
  const plot = layout.units.findIndex((unit) => unit.kind === 'plot')
  const block = layout.units.findIndex((unit) => unit.kind === 'block')
  it.each<[string, Layout[], RegExp]>([
    [
      'blocks that lie in each other',
      [changed(block, (unit, units) => ({ in: [units.find((each) => each.kind === 'block' && each !== unit)!.id] }))],
      /lies in block/,
    ],
    ['a unit that lies in itself', [changed(block, (unit) => ({ at: { in: unit.id, column: 0, row: null } }))], /lies in itself/],
    [
      'a unit in one that is not there',
      [changed(plot, () => ({ in: ['00000000-0000-7000-8000-00000000dead'] }))],
      /a unit that is not listed/,
    ],
    ['a level nobody has', [changed(plot, () => ({ received: { 'factor-1': 'gold' } }))], /“gold” of “factor-1”/],
    ['two plots on one ground', [changed(plot, (_, units) => ({ place: units[plot + 1]!.place }))], /lie on the same ground/],
    ['two turns alike', [changed(plot, () => ({ walk: 2 }))], /same turn in walking order/],
    ['two plots of one name', [changed(plot, () => ({ code: '102' }))], /Two units are called plot 102/],
    ['a site that is none', [{ ...layout, siteKey: 'moon' }], /site “moon”, which is not part/],
    ['two layouts of one site', [layout, layout], /has two layouts/],
    [
      'a factor nobody varies',
      [{ ...layout, structure: { ...layout.structure, factors: [{ ...layout.structure.factors[0]!, factor: 'light' }] } }],
      /deals out “light”/,
    ],
  ])('layouts: %s', (_, layouts, message) => {
    expect(told(draft, layouts)).toMatch(message)
  })
})

describe('what is begun follows from what is known', () => {
  it('a new trial has no words of another, and naming the crop brings what is usual for it', () => {
    const draft = newTrialDraft(2026)
    expect([draft.question.title, draft.question.crop, draft.treatments.factors[0]!.name, draft.treatments.factors[0]!.levels]).toEqual([
      '',
      '',
      '',
      [],
    ])
    const carrots = forCrop(draft, 'Carrots')
    expect(carrots.traits.response).toBe('marketable-yield')
    expect(forCrop(draft, 'Pelargonium').sites[0]!.design).toMatchObject({ unit: 'pot', plants: 3 })
    expect(forCrop(draft, 'Moon rock').traits).toEqual(draft.traits)
  })

  it('levels typed in one line: amounts with or without their measure, names, and what is neither', () => {
    const rate = { ...emptyFactor('f'), of: { what: 'nutrient' as const, nutrient: 'N' as const } }
    const read = (typed: string, system: 'metric' | 'us' = 'metric') => {
      const found = levelsFromText(rate, typed, system)
      return found.ok ? found.levels.map((level) => `${level.code}=${level.amount}`).join(' ') : found.problem
    }
    expect(read('0 60 120')).toBe('N0=0 N60=60 N120=120')
    expect(read('0, 30, 62.5 kg/ha')).toBe('N0=0 N30=30 N62.5=62.5')
    expect(read('100', 'us')).toMatch(/^N112\.1=112\.08/)
    expect(read('0 60 60')).toMatch(/stands there twice/)
    expect(read('some')).toMatch(/not a number/)
    const kinds = levelsFromText(emptyFactor('f', 'kind'), 'early cultivar, main cultivar, late', 'metric')
    expect(kinds.ok && kinds.levels.map((level) => level.code)).toEqual(['EC', 'MC', 'LATE'])
  })

  it('treatments follow their factors: roles and colours stay, what was dropped stays dropped, what stands outside stays outside', () => {
    const { factors, list } = twoFactors()
    const untreated = { key: 'nil', code: 'NIL', name: 'nothing', colour: null, role: 'untreated control' as const, levels: {} }
    const standing = treatmentsOf(factors, [{ ...list[0]!, colour: '#112233' }, ...list.slice(1, 5), untreated])
    const [water, cultivar] = factors
    const longer = { ...cultivar!, levels: [...cultivar!.levels, { key: 'c', code: 'C', name: 'Cultivar C', amount: null }] }
    const next = withFactors(standing, [water!, longer])
    expect(next.list.filter((each) => each.key === 'nil')).toEqual([untreated])
    expect(next.list.find((each) => each.key === list[0]!.key)!.colour).toBe('#112233')
    expect(treatmentWith({ water: 'wet', cultivar: 'b' }, next)).toBeUndefined()
    expect(next.list).toHaveLength(9)
    expect(isCrossing(twoFactors())).toBe(true)
    expect(withFactors(treatmentsOf([], []), ladder(3).factors).list.map((each) => each.role)).toEqual([
      'untreated control',
      'none',
      'none',
    ])
  })
})

describe('edits of sections', () => {
  const trial = asTrial(trialWith(4, 3))
  const layouts = [layOut(trial, 'site-1', 4, countingIds())]
  const standing = {
    onGround: new Set(['site-1']),
    sitesWithRecords: new Set(['site-1']),
    traits: new Set(['gross-weight']),
    visits: new Set(['harvest']),
    halves: new Set<string>(),
    halvedFrom: new Set<string>(),
  }
  const edit = (section: string, patch: Record<string, unknown>) => applyPatch({ trial, layouts }, section, patch)
  const locks = (section: string, patch: Record<string, unknown>) =>
    lockedChanges(trial, edit(section, patch).trial, standing).map((each) => `${each.code} ${each.how}`)

  it('change what they name and nothing else, each section with its own version', () => {
    const { trial: next, what, before } = edit('question', { title: 'Another', crop: 'Mangel' })
    expect([next.version, next.versions['question'], next.versions['traits']]).toEqual([2, 2, 1])
    expect({ ...next, question: trial.question, version: 1, versions: trial.versions }).toEqual(trial)
    expect([what, before]).toEqual(['Question: title, crop changed', { patch: { title: 'Test', crop: 'Beet' } }])
    expect(sectionKeys(trial)).toContain('site:site-1')
  })

  it('of what went out already need a reason; its days, its label and what it costs do not', () => {
    const product = { ...bareProduct('Urea'), key: 'urea', analysis: { N: 46 } }
    const dose = Dose.parse({ key: 'd', to: null, product: 'urea', of: 'N', amount: 40, measure: 'kg/ha', per: 'unit', carrier: null, carrierToAll: false, placement: 'broadcast', depth: null, band: null, parts: [{ when: '', on: null, share: 100 }], reason: '' }) // prettier-ignore
    const supply = { ...bareProduct('Nitrate'), analysis: { N: 27 }, applications: 2, overMaximumReason: '' }
    const out = (key: string) => ({ key: `out-${key}`, site: 'site-1', dose: key, part: 0, level: null, share: 95, how: 'emptied' as const, on: null, note: '', sheet: null }) // prettier-ignore
    const put = (actual: string[]) => ({
      ...trial,
      amounts: { ...trial.amounts, supply, products: [product], doses: [dose], actual: actual.map(out) },
    })
    const asked = (actual: string[], patch: Record<string, unknown>) => {
      const stands = put(actual)
      return lockedChanges(stands, applyPatch({ trial: stands, layouts }, 'amounts', patch).trial, standing).map((each) => `${each.code} ${each.how} ${each.name}`) // prettier-ignore
    }
    const more = { doses: [{ ...dose, amount: 50 }] }
    expect([asked([], more), asked(['d'], more)]).toEqual([[], ['went out reason Urea']])
    expect(asked(['d'], { products: [{ ...product, analysis: { N: 40 } }] })).toEqual(['went out reason Urea'])
    expect(asked(['d'], { doses: [] })).toEqual(['went out reason Urea'])
    expect(asked(['d', 'supply'], { supply: { ...supply, applications: 3 } })).toEqual(['went out reason Nitrate'])
    // A day, a label, a price; and the same two halves written out.
    const dated = [50, 50].map((share, i) => ({ when: '', on: `2026-05-0${i + 1}`, share }))
    const main = { ...dose, key: 'supply', product: 'supply', to: { factor: trial.treatments.factors[0]!.key, level: null }, amount: null, parts: dated } // prettier-ignore
    expect(asked(['d', 'supply'], { doses: [main, { ...dose, parts: [{ when: '', on: '2026-05-01', share: 100 }] }], products: [{ ...product, labelMaximumPerSeason: 300, price: { amount: 1, per: 'kg' } }] })).toEqual([]) // prettier-ignore
  })

  it('are refused for what is no section, no field, or no trial', () => {
    expect(() => edit('weather', { rain: 1 })).toThrow(/no section “weather”/)
    expect(() => edit('question', { constructor: 1 })).toThrow(/no field “constructor”/)
    expect(() => edit('site:moon', { name: 'x' })).toThrow(/no section/)
    expect(() => edit('question', { season: 'soon' })).toThrow(/season/)
    expect(() => edit('site:site-1', { 'ground.harvestWidth': 50 })).toThrow(/wider than the plot/)
  })

  it('plots follow their ground; another design or other treatments take the layout off, and say so', () => {
    expect(edit('site:site-1', { 'ground.plotWidth': 4 }).layouts[0]!.units.find((unit) => unit.walk === 1)!.place!.width).toBe(4)
    expect(edit('question', { title: 'Another' }).layouts).toEqual(layouts)
    const fewer = edit('site:site-1', { 'design.replicates': 5 })
    expect([fewer.layouts, fewer.before.layouts]).toEqual([[], { 'site-1': layouts[0] }])
    expect(fewer.what).toMatch(/replicates changed; the layout was taken off/)
  })

  it('locks are codes: what is refused and what needs a reason once a trial stands on the ground', () => {
    const [factor] = trial.treatments.factors
    expect(locks('question', { title: 'Another', why: 'because' })).toEqual([])
    expect(locks('site:site-1', { 'design.replicates': 4 })).toEqual(['design refused'])
    expect(locks('site:site-1', { 'ground.plotWidth': 4 })).toEqual(['ground reason'])
    const fewer = ladder(3)
    expect(locks('treatments', { factors: fewer.factors, list: fewer.list })).toEqual(['treatments refused'])
    expect(locks('treatments', { factors: [{ ...factor!, name: 'N' }] })).toEqual(['treatment words reason'])
    expect(locks('question', { significance: 0.1 })).toEqual(['significance reason'])
    const without = trial.traits.observed.filter((each) => each.key !== 'leaf-health')
    expect(locks('traits', { observed: without })).toEqual([])
    const inGrams = trial.traits.observed.map((each) => (each.key === 'gross-weight' ? { ...each, unit: 'g' } : each))
    expect(locks('traits', { observed: inGrams })).toEqual(['trait changed refused'])
    expect(locks('traits', { visits: [{ key: 'later', name: 'Later', on: null }] })).toEqual(['visit removed refused'])
    expect(refusalInWords([{ code: 'design', how: 'refused', name: 'Hazel Bank' }])).toMatch(
      /the design of Hazel Bank\. Correct single units instead/,
    )
  })

  it('values are shown side by side in words, never as keys or brackets', () => {
    for (const value of [
      trial.treatments.factors,
      trial.treatments.list,
      trial.traits.visits,
      trial.traits.smallestDifference,
      trial.sites[0],
      4,
      null,
      true,
      ['a', 'b'],
    ])
      expect(valueInWords(value)).not.toMatch(/[{}[\]"]|undefined|object/)
    expect(valueInWords(trial.treatments.factors)).toBe('Nitrogen (0 kg N/ha, 40 kg N/ha, 80 kg N/ha, 120 kg N/ha)')
  })
})

describe('what a unit received is kept per factor', () => {
  const draft = designed({ ...trialWith(2, 3), treatments: twoFactors(3, 2) }, { key: 'split-plot', placed: { 'main plot': ['water'] } })
  const trial = asTrial(draft)
  const layouts = [layOut(trial, 'site-1', 9, countingIds())]
  const unitOf = (kind: string) => layouts[0]!.units.find((unit) => unit.kind === kind)!
  const wrong = (kind: string, factor: string, levels: string[]) => {
    const unit = unitOf(kind)
    const other = levels.find((level) => level !== unit.received[factor])!
    return changeTreatment({ trial, layouts }, unit.id, { received: { ...unit.received, [factor]: other }, change: 'misapplied' })
  }

  it('a mistake on a main plot or a subplot lowers the class of that factor and of no other', () => {
    const classes = (layout: Layout): Record<string, string> => {
      const request = asRequest({
        ...layout,
        factors: draft.treatments.factors.map(({ key, levels }) => ({ key, levels: levels.map((level) => level.key) })),
        trait: { key: 'y', name: 'yield', unit: 't/ha', kind: 'continuous' },
        values: new Map(layout.units.flatMap((unit, i) => (unit.kind === 'plot' ? [[unit.id, 5 + ((i * 7) % 11) / 5] as const] : []))),
        options: AnalysisOptions.parse({}),
      })
      const laid = layoutFrame(request)
      const frame = { ...laid, y: laid.raw }
      return Object.fromEntries(
        ['water', 'cultivar'].map((factor) => {
          const cells = crossing([factor], frame.factors)
          const judge = evidenceTable(frame, [factor], cells)
          return [factor, weakest(cells.levels.flatMap((_, a) => cells.levels.flatMap((_other, b) => (a < b ? [judge(a, b)] : [])))).kind]
        }),
      )
    }
    expect(classes(layouts[0]!)).toEqual({ water: 'trial', cultivar: 'trial' })
    const main = wrong('main plot', 'water', ['dry', 'mid', 'wet']).layouts[0]!
    expect(classes(main)).toMatchObject({ water: 'compare', cultivar: 'trial' })
    const sub = wrong('plot', 'cultivar', ['a', 'b']).layouts[0]!
    expect(classes(sub)).toMatchObject({ water: 'trial', cultivar: 'compare' })
  })

  it('is changed on the unit it was put on, and put back without a trace of a change', () => {
    const unit = unitOf('plot')
    expect(() =>
      changeTreatment({ trial, layouts }, unit.id, { received: { ...unit.received, water: 'dry' }, change: 'misapplied' }),
    ).toThrow(/correct it on the unit it was put on/)
    const once = wrong('plot', 'cultivar', ['a', 'b'])
    expect(once.what).toMatch(/^plot 101: [AB] became [AB] \(misapplied\)$/)
    const back = changeTreatment(once, unit.id, { received: unit.received, change: 'misapplied' })
    expect(back.layouts).toEqual(layouts)
  })
})

describe('words', () => {
  const { treatments } = trialWith(3, 4)
  const [factor] = treatments.factors
  it('levels are spoken of by what they are', () => {
    expect(spoken(factor!, 'l0', 'metric')).toBe('no nitrogen')
    expect(spoken(factor!, 'l1', 'metric')).toBe('40 kg N/ha')
    expect(spoken(factor!, 'l1', 'us')).toBe('35.7 lb N/ac')
    expect(spoken({ ...factor!, kind: 'practice', measure: '', of: null }, 'l1', 'metric')).toBe('40 kg N/ha')
  })
})
