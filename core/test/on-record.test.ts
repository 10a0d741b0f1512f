import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { analyseTrait } from '../src/analysis/index.ts'
import { addExtra, applyPatch, changeTreatment, layByHand, undoEvent, type Change, type Document } from '../src/document/index.ts'
import { layOut, unitsNamed } from '../src/ground/index.ts'
import { layersOf, TrialBook } from '../src/numbers/index.ts'
import { asOf, identities, isExtra, treatmentOn, type FieldRecord, type TrialEvent, type Unit } from '../src/trial/index.ts'
import { asTrial, countingIds, designed, ladder, PERSON, readingOf, trialFor, trialWith, kindsOf } from './build.ts'
import { designs } from '../src/design/index.ts'
import { treatmentsOf } from '../src/trial/index.ts'

function standing(treatments = ladder(4), replicates = 4): Document {
  const trial = asTrial({ ...designed(trialWith(4, replicates), {}), treatments })
  return { trial, layouts: [layOut(trial, 'site-1', 11, countingIds())] }
}
const plotsOf = ({ layouts }: Document): Unit[] => layouts[0]!.units.filter((unit) => unit.kind === 'plot')
const eventOf = (change: Change, kind: TrialEvent['kind'] = 'edited'): TrialEvent => ({
  id: '00000000-0000-7000-8000-00000000e000',
  at: '2026-06-01T00:00:00Z',
  person: PERSON,
  kind,
  section: change.section,
  reason: '',
  what: change.what,
  before: change.before,
  after: change.after,
  undoes: null, // prettier-ignore
})
const planned = ({ layouts }: Document) => layouts.map(({ units }) => units.map(({ id, planned: own }) => [id, own]))
const readings = (document: Document, value: (plot: Unit, i: number) => number): FieldRecord[] =>
  plotsOf(document).map((plot, i) => readingOf(plot.id, 'gross-weight', value(plot, i)))

describe('a practice laid later by hand', () => {
  const document = standing()
  const plots = plotsOf(document)
  const tilled = plots.filter((plot) => Number(plot.code) % 100 <= 2)
  const asked = (units: readonly Unit[] = tilled) => ({
    seed: 0,
    name: 'Second tillage',
    levels: [
      { code: 'ONE', name: 'tilled once' },
      { code: 'TWO', name: 'tilled twice' },
    ],
    on: '2026-05-10',
    treatments: [],
    sites: [],
    byHand: units.map(({ id }) => ({ unit: id, way: 1 })),
  })
  const records = readings(document, (plot, i) => 60 + (tilled.includes(plot) ? 5 : 0) + ((3 * i) % 7))

  it('is a factor of its own on its own units, not randomised; what was read before is as if it had never been', () => {
    const { change, taken } = layByHand(document, asked(), false)
    expect(taken).toBeNull()
    const factor = change.trial.treatments.factors.at(-1)!
    const way = (unit: Unit): string | undefined => change.layouts[0]!.units.find((each) => each.id === unit.id)!.received[factor.key]
    for (const plot of plots) expect(way(plot)).toBe(tilled.includes(plot) ? 'way-1' : 'as-before')
    expect(change.layouts[0]!.structure.factors.at(-1)).toMatchObject({ factor: factor.key, how: 'not randomised', appliedTo: 'plot' })
    const book = new TrialBook(change.trial, change.layouts, records)
    const after = analyseTrait(change.trial, change.layouts, book.observations('gross-weight', 'harvest'), 'gross-weight')
    const contrast = after.without.contrasts.find((each) => each.name.startsWith('Second tillage'))!
    expect(contrast.evidence.kind).toBe('compare')
    const early = { ...change.trial, traits: { ...change.trial.traits, visits: [{ ...change.trial.traits.visits[0]!, on: '2026-05-01' }] } }
    const before = analyseTrait(early, change.layouts, new TrialBook(early, change.layouts, records).observations('gross-weight', 'harvest'), 'gross-weight') // prettier-ignore
    const never = analyseTrait(document.trial, document.layouts, new TrialBook(document.trial, document.layouts, records).observations('gross-weight', 'harvest'), 'gross-weight') // prettier-ignore
    expect(before.without.terms).toEqual(never.without.terms)
    expect(planned(undoEvent(change, eventOf(change, 'drawn')))).toEqual(planned(document))
  })

  it('says so before it takes away the only control, and refuses what it cannot do', () => {
    const control = plots.filter((plot) => plot.received['factor-1'] === 'l0')
    expect(layByHand(document, asked(control), false).taken).toContain('no unit of N0 (0 kg N/ha), the only control as it was')
    expect(layByHand(document, asked(control.slice(1)), false).taken).toBeNull()
    const blocks = plots.filter((plot) => Number(plot.code) < 300)
    expect(layByHand(document, asked(blocks), false).taken).toContain('cannot be told from what the blocks do')
    const block = document.layouts[0]!.units.find((unit) => unit.kind === 'block')!
    expect(() => layByHand(document, asked([block]), false)).toThrow(/name the plots/)
    expect(() => layByHand(document, { ...asked(), byHand: [{ unit: PERSON, way: 1 }] }, false)).toThrow(/not part of a layout/)
  })

  it('units are named by their numbers', () => {
    const codes = (text: string): string[] | string => {
      const found = unitsNamed(text, document.layouts[0]!.units)
      return found.ok ? found.units.map((unit) => unit.code).sort() : found.problem
    }
    expect(codes('101-103, 204')).toEqual(['101', '102', '103', '204'])
    expect(codes('103 to 101')).toEqual(['101', '102', '103'])
    expect(codes('101-999')).toBe('“999” is no number here.')
    expect(codes(' ')).toMatch(/^Name some/)
  })
})

describe('a plot without a plan', () => {
  it.each(designs.map((design) => design.key))(
    '%s: stands beside, is read, is compared with none, and is taken off without a trace',
    (key) => {
      const trial = asTrial(trialFor(key, 2))
      const document = { trial, layouts: [layOut(trial, 'site-1', 5, countingIds())] }
      let n = 0
      const newId = (): string => `00000000-0000-7000-8000-0000000a${String(++n).padStart(4, '0')}`
      const given = trial.treatments.list[1]!.key
      const first = addExtra(document, 'site-1', given, newId)
      const two = addExtra(first, 'site-1', null, newId)
      const index = new Map(two.layouts[0]!.units.map((unit) => [unit.id, unit]))
      const extra = two.layouts[0]!.units.filter((unit) => unit.walk !== null && isExtra(unit, index))
      expect(extra.map((unit) => unit.code)).toEqual(['X1', 'X2'])
      expect(extra.map((unit) => treatmentOn(unit, index, trial.treatments)?.key)).toEqual([given, undefined])
      expect(extra.every((unit) => unit.place !== null)).toBe(true)
      // All that was planned stays where it was and as it was.
      for (const unit of document.layouts[0]!.units) expect(index.get(unit.id)).toMatchObject({ planned: unit.planned, place: unit.place })
      const walked = (units: readonly Unit[]) => units.filter((unit) => unit.walk !== null && unit.kind === trial.sites[0]!.design.unit)
      const records = walked(two.layouts[0]!.units).map((unit, i) => readingOf(unit.id, 'gross-weight', 50 + ((7 * i) % 11)))
      const told = (of: Document) => analyseTrait(of.trial, of.layouts, new TrialBook(of.trial, of.layouts, records).observations('gross-weight', 'harvest'), 'gross-weight') // prettier-ignore
      expect(told(two).without.terms).toEqual(told(document).without.terms)
      expect(told(two).without.cautions.some((each) => each.text.includes('Plots X1 and X2 stand beside the trial'))).toBe(true)
      const back = undoEvent(undoEvent(two, eventOf(two, 'added')), eventOf(first, 'added'))
      expect(back.layouts).toEqual(document.layouts)
      const again = undoEvent(back, { ...eventOf(undoEvent(first, eventOf(first, 'added')), 'undone') })
      expect(again.layouts[0]!.units).toEqual(first.layouts[0]!.units)
    },
  )
})

describe('identity known later', () => {
  const kinds = treatmentsOf([kindsOf('product', 'Product', ['A', 'B', 'C'])])
  const document = standing(kinds, 5)
  const records = readings(document, (plot, i) => 60 + (plot.received['product'] === 'c' ? 6 : 0) + ((3 * i) % 7))
  const identified = (identity: object, name?: string): Change => {
    const [factor] = document.trial.treatments.factors
    const levels = factor!.levels.map((level) => (level.key === 'b' ? { ...level, ...(name ? { name } : {}), identity } : level))
    return applyPatch(document, 'treatments', { factors: [{ ...factor!, levels }] })
  }
  const told = (of: Document) => analyseTrait(of.trial, of.layouts, new TrialBook(of.trial, of.layouts, records).observations('gross-weight', 'harvest'), 'gross-weight') // prettier-ignore

  it('two levels that turn out to be one are read as one, with what was said before; what was dealt out stays', () => {
    const change = identified({ on: '2026-08-03', was: 'Product B', same: 'a' })
    expect(change.layouts).toEqual(document.layouts)
    const answer = told(change)
    const means = answer.without.terms['product']!.means
    expect(means.map((mean) => [mean.level, mean.n])).toEqual([
      ['a', 10],
      ['c', 5],
    ])
    // Ten plots of one and five of another, as if there had been no B.
    const merged = document.layouts.map((layout) => ({
      ...layout,
      units: layout.units.map((unit) =>
        unit.planned['product'] === 'b' ? { ...unit, planned: { product: 'a' }, received: { product: 'a' } } : unit,
      ),
    }))
    expect(means[0]!.mean).toBeCloseTo(told({ trial: change.trial, layouts: merged }).without.terms['product']!.means[0]!.mean, 10)
    expect(answer.without.cautions.find((each) => each.kind === 'identity')!.text).toContain(
      'Product B turned out to be the same as Product A, found on 3 August 2026',
    )
    expect(answer.others[0]!.about).toBe('As it was told before 3 August 2026, with Product B apart from Product A')
    expect(answer.others[0]!.analysis!.terms['product']!.means).toEqual(told(document).without.terms['product']!.means)
    expect(
      asOf(undoEvent(change, eventOf(change)).trial.treatments && { treatments: document.trial.treatments, layouts: [] }, null).treatments,
    ).toEqual(kinds)
  })

  it('a name that is revealed is said with its day; levels that would leave nothing to compare are refused', () => {
    const change = identified({ on: '2026-08-03', was: 'Product B', same: null }, 'Zinc chelate')
    expect(identities(change.trial.treatments)).toMatchObject([{ level: { name: 'Zinc chelate', identity: { was: 'Product B' } } }])
    expect(told(change).without.cautions.map((each) => each.text)).toContain(
      'What was called Product B turned out to be Zinc chelate, found on 3 August 2026: what was said of it before that day is said of Zinc chelate.',
    )
    expect(() => identified({ on: '2026-08-03', was: 'B', same: 'x' })).toThrow(/no level that stands for itself/)
    const two = standing(treatmentsOf([kindsOf('product', 'Product', ['A', 'B'])]))
    const [factor] = two.trial.treatments.factors
    const levels = factor!.levels.map((level) =>
      level.key === 'b' ? { ...level, identity: { on: '2026-08-03', was: 'B', same: 'a' } } : level,
    )
    expect(() => applyPatch(two, 'treatments', { factors: [{ ...factor!, levels }] })).toThrow(/nothing left to compare/)
  })
})

describe('what a piece of ground got', () => {
  const document = standing()
  const [plot] = plotsOf(document)
  const other = ['l0', 'l1', 'l2', 'l3'].find((level) => level !== plot!.received['factor-1'])!
  const on = { from: '2026-05-20', to: '2026-05-20', typed: '20 May' }
  const change = changeTreatment(document, plot!.id, { received: { 'factor-1': other }, change: 'misapplied', on })
  const operation = (kind: 'planted' | 'applied', day: string): FieldRecord => ({ type: 'operation', id: `00000000-0000-7000-8000-0000000b${day.slice(5, 7)}${day.slice(8)}`, at: `${day}T08:00:00Z`, person: PERSON, device: 'tablet', kind, siteKey: 'site-1', on: day, text: '' }) // prettier-ignore
  const fate: FieldRecord = { type: 'fate', id: '00000000-0000-7000-8000-0000000c0001', at: '2026-06-03T08:00:00Z', person: PERSON, device: 'tablet', unit: plot!.id, kind: 'partly treated', on: { from: '2026-06-03', to: '2026-06-03', typed: '' }, share: 0.4, factor: 'factor-1', amount: null, to: null, place: 'north half', parts: null, reason: 'ran out' } // prettier-ignore
  const site = {
    ...change.trial.sites[0]!,
    facts: { place: '', history: '', troubles: '', soilTests: [], crops: [{ season: 2025, crop: 'winter wheat' }] },
  }
  const trial = { ...change.trial, sites: [site], amounts: { supply: null, common: [{ what: 'Starter', amount: '30 kg N/ha', when: 'first week of April' }, { what: 'Manure', amount: '20 t/ha', when: 'some time' }] } } // prettier-ignore
  const book = new TrialBook(trial, change.layouts, [operation('planted', '2026-04-12'), operation('applied', '2026-05-02'), fate])
  const layers = (day: string): string[] =>
    layersOf({ trial, layouts: change.layouts, events: [eventOf(change, 'treatment changed')], operations: book.records.operations(), fatesOf: (unit) => book.allFates(unit) }, plot!.id, day).map(({ what }) => what) // prettier-ignore

  it('layer by layer as of a day, a pass that covered a part as that part', () => {
    const named = (level: string): string => document.trial.treatments.factors[0]!.levels.find((each) => each.key === level)!.name
    expect(layers('2026-03-01')).toEqual(['winter wheat grew there', 'Manure, 20 t/ha, as every plot'])
    expect(layers('2026-04-30')).toContain('Starter, 30 kg N/ha, as every plot')
    expect(layers('2026-05-19').some((each) => each.startsWith('Nitrogen'))).toBe(false)
    expect(layers('2026-05-20')).toContain(`Nitrogen: ${named(other)} (planned: ${named(plot!.planned['factor-1']!)})`)
    expect(layers('2026-06-02').some((each) => each.includes('north half'))).toBe(false)
    expect(layers('2026-06-03').at(-2)).toContain('got its nitrogen on 40 % of it (north half)')
  })

  it('as planned is never altered by anything put on record', () => {
    const steps = [
      (of: Document): Document => changeTreatment(of, plotsOf(of)[2]!.id, { received: { 'factor-1': 'l1' }, change: 'label corrected' }),
      (of: Document): Document => addExtra(of, 'site-1', null, countingIdsFrom(of)),
      (of: Document): Document => changeTreatment(of, plotsOf(of)[7]!.id, { received: { 'factor-1': 'l3' }, change: 'misapplied' }),
      (of: Document): Document => applyPatch(of, 'treatments', { factors: of.trial.treatments.factors.map((factor) => ({ ...factor, levels: factor.levels.map((level) => (level.key === 'l3' ? { ...level, identity: { on: '2026-08-01', was: level.name, same: 'l2' } } : level)) })) }), // prettier-ignore
    ]
    const own = new Set(document.layouts[0]!.units.map((unit) => unit.id))
    fc.assert(
      fc.property(fc.shuffledSubarray(steps, { minLength: 1 }), (taken) => {
        const after = taken.reduce<Document>((of, step) => step(of), document)
        expect(planned(after).map((units) => units.filter(([id]) => own.has(id as string)))).toEqual(planned(document))
      }),
    )
  })
})

function countingIdsFrom(of: Document): () => string {
  let n = of.layouts[0]!.units.length
  return () => `00000000-0000-7000-8000-0000000d${String(++n).padStart(4, '0')}`
}
