import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  actualRates,
  asWentOut,
  balanceTreatments,
  cleanOut,
  contradiction,
  doseAmounts,
  doseCautions,
  emptiedShare,
  genericProducts,
  givenIn,
  leftOf,
  handlingCautions,
  leading,
  matchSources,
  mixingOrder,
  nonNegativeLeastSquares,
  parseRate,
  passesOf,
  sheetStops,
  sizeOf,
  swathsOf,
  stopsEverywhere,
  stopsOf,
  treatmentTotals,
  typedRate,
  type DoseRow,
  tooSmallDry,
  waterPlan,
  waterSheets,
  worksheetsFor,
} from '../src/amounts/index.ts'
import { checkTrial } from '../src/document/index.ts'
import { layOut } from '../src/ground/index.ts'
import { remaining } from '../src/numbers/index.ts'
import { convert, workingLine } from '../src/quantity/index.ts'
import {
  Amounts,
  bareProduct,
  treatmentsOf,
  Dose,
  type Fate,
  type Product,
  type Site,
  type Supply,
  type TrialDraft,
} from '../src/trial/index.ts'
import { countingIds, kindsOf, trialWith } from './build.ts'

const generic = (name: string): Product => genericProducts.find((each) => each.product === name)!
const SUPPLY: Supply = { ...generic('Ammonium nitrate with lime'), applications: 2, labelMaximumPerApplication: 250, preHarvestDays: 60, protection: 'gloves', overMaximumReason: '' } // prettier-ignore
const LABEL = { labelMaximumPerApplication: 900, labelMaximumPerSeason: 900, reentryHours: 0, preHarvestDays: 0, protection: 'gloves' }

/** A plot of 3 m × 9 m, 6 rows of 50 cm, plants 20 cm apart. */
const base = trialWith(4, 3)
const SITE: Site = { ...base.sites[0]!, ground: { ...base.sites[0]!.ground, plotWidth: 3, plotLength: 9, rows: { count: 6, spacing: 0.5, plants: 0.2 } } } // prettier-ignore
const POTS: Site = { ...SITE, ground: { ...SITE.ground, rows: null, plotWidth: 0.2, plotLength: 0.2, harvestWidth: 0.2, harvestLength: 0.2, stretches: null }, design: { ...SITE.design, unit: 'pot' } } // prettier-ignore

const dose = (over: Partial<Dose>): Dose => ({ key: 'd', to: null, product: 'p', of: 'product', amount: 1, measure: 'kg/ha', per: 'unit', carrier: null, carrierToAll: false, placement: 'broadcast', depth: null, band: null, parts: [{ when: '', on: null, share: 100 }], reason: '', ...over }) // prettier-ignore
const amounts = (products: Readonly<Record<string, Product>>, doses: readonly Dose[], supply: Supply | null = null): Amounts => Amounts.parse({ supply, common: [], products: Object.entries(products).map(([key, each]) => ({ ...each, key })), doses }) // prettier-ignore
const sources = treatmentsOf([kindsOf('source', 'Source', ['NONE', 'TSP', 'DAP'])])
const to = (level: string) => ({ factor: 'source', level })

/** One dose, typed as people type it, of one product on one kind of plot. */
function rowsFor(
  typed: string,
  product: Product,
  over: Partial<Dose> = {},
  site: Site = SITE,
  more: { products?: Record<string, Product>; doses?: Dose[] } = {},
) {
  const parsed = parseRate(typed)
  if (!parsed.ok) throw new Error(parsed.problem)
  const { amount, measure, per, of } = parsed
  return doseAmounts(sources, amounts({ p: product, ...more.products }, [...(more.doses ?? []), dose({ amount, measure, per, of: of ?? 'product', ...over })]), site, []) // prettier-ignore
}
function one(...args: Parameters<typeof rowsFor>): DoseRow {
  const { rows, problems } = rowsFor(...args)
  expect(problems).toEqual([])
  return rows.at(-1)!
}
const { mass, volume, count } = { mass: 'mass', volume: 'volume', count: 'count' } as const

describe('a rate becomes what one plot or pot gets', () => {
  const seed: Product = { ...generic('Seed'), seed: { kernelWeight: 40, germination: 80 } }
  const regulator = generic('Growth regulator, 4 g/L')
  const liquid = generic('Urea and ammonium nitrate solution')
  /** By hand, on 27 m²; 54 m of row; 270 plants. */
  const examples: readonly (readonly [
    typed: string,
    Product,
    Partial<Dose>,
    Site,
    kind: 'mass' | 'volume' | 'count',
    expected: number,
    hand: string,
  ])[] = [
    ['40 kg P/ha', generic('Triple superphosphate'), {}, SITE, mass, 540, '40 ÷ 0.20 = 200 kg/ha = 20 g/m² × 27 m²'],
    ['120 lb/ac', generic('Urea'), {}, SITE, mass, 363.159, '120 lb/ac = 134.503 kg/ha = 13.4503 g/m² × 27'],
    ['3 oz per 100 sq ft', generic('Urea'), {}, SITE, mass, 247.17, '85.0486 g on 9.290304 m² = 9.15456 g/m² × 27'],
    ['2 pt/ac', regulator, {}, SITE, volume, 6.3139, '946.353 mL on 4046.856 m² × 27'],
    ['2 L/ha', regulator, {}, SITE, volume, 5.4, '0.2 mL/m² × 27'],
    ['0 kg N/ha', generic('Urea'), {}, SITE, mass, 0, 'nothing is nothing'],
    ['56 kg N/ha', liquid, {}, SITE, mass, 540, '56 ÷ 0.28 = 200 kg/ha'],
    ['56 kg N/ha', liquid, {}, SITE, volume, 421.875, '540 g ÷ 1.28 kg/L'],
    ['56 kg N/ha', { ...liquid, analysisBy: 'volume' }, {}, SITE, volume, 540, '56 kg ÷ 280 g/L = 200 L/ha = 20 mL/m² × 27'],
    ['56 kg N/ha', { ...liquid, analysisBy: 'volume' }, {}, SITE, mass, 691.2, '540 mL × 1.28 kg/L'],
    ['0.5 kg/ha', regulator, { of: 'active ingredient' }, SITE, volume, 337.5, '0.05 g/m² × 27 = 1.35 g ÷ 4 g/L'],
    ['5 g/m of row', generic('Urea'), {}, SITE, mass, 270, '5 × 54 m'],
    ['2 mL/m', regulator, {}, SITE, volume, 108, '2 × 54 m'],
    ['5 g/plant', generic('Urea'), {}, SITE, mass, 1350, '5 × 270 plants'],
    ['20 g/plot', generic('Urea'), {}, SITE, mass, 20, 'as it says'],
    ['300 seeds/m²', seed, { of: 'seeds' }, SITE, count, 10125, '300 × 27 = 8100 ÷ 0.8'],
    ['300 seeds/m²', seed, { of: 'seeds' }, SITE, mass, 405, '10 125 × 40 mg'],
    ['12 seeds/m', seed, { of: 'seeds' }, SITE, mass, 32.4, '12 × 54 = 648 ÷ 0.8 = 810 × 40 mg'],
    ['90000 plants/ha', seed, { of: 'seeds' }, SITE, count, 303.75, '9 × 27 = 243 ÷ 0.8'],
    ['20 mm', generic('Water'), {}, SITE, volume, 540_000, '20 L/m² × 27'],
    ['1 in', generic('Water'), {}, SITE, volume, 685_800, '25.4 L/m² × 27'],
    ['3 tablets/pot', bareProduct('Tablets'), {}, POTS, count, 3, 'as it says'],
    ['50 mL/pot', regulator, {}, POTS, volume, 50, 'as it says'],
    [
      '15 ppm',
      regulator,
      { of: 'active ingredient', carrier: { amount: 60, measure: 'mL' } },
      POTS,
      volume,
      0.225,
      '15 mg/L × 60 mL = 0.9 mg ÷ 4 mg/mL',
    ],
    [
      '15 ppm',
      regulator,
      { of: 'active ingredient', carrier: { amount: 2, measure: 'fl oz' } },
      POTS,
      volume,
      0.221802,
      '15 × 59.1471 mL = 0.887206 mg ÷ 4',
    ],
    ['0.5 %', regulator, { carrier: { amount: 400, measure: 'L/ha' } }, SITE, volume, 5.4, '0.005 × 1080 mL'],
    ['2 mL/L', regulator, { carrier: { amount: 400, measure: 'L/ha' } }, SITE, volume, 2.16, '0.002 × 1080 mL'],
  ]

  it.each(examples)('%s of $1.product: %#', (typed, product, over, site, kind, expected) => {
    const row = one(typed, product, over, site)
    expect(convert(row.season[kind]!.value, row.season[kind]!.unit, { mass: 'g', volume: 'mL', count: '' }[kind])).toBeCloseTo(
      expected,
      expected > 100 ? 1 : 4,
    )
  })

  it('on seed: by the weight of seed that the plot gets from another dose', () => {
    // 150 kg/ha of seed on 27 m² is 405 g; 4 mL/kg of it 1.62 mL, and 2 g/kg 0.81 g.
    const more = { products: { s: seed }, doses: [dose({ key: 'sown', product: 's', amount: 150, measure: 'kg/ha' })] }
    const inoculant = generic('Root-nodule bacteria in peat')
    expect(one('4 mL/kg seed', inoculant, {}, SITE, more).season.volume!.value).toBeCloseTo(1.62, 9)
    expect(one('0.2 %', inoculant, {}, SITE, more).season.mass!.value).toBeCloseTo(0.81, 9)
    expect(rowsFor('4 mL/kg seed', inoculant).problems[0]!.problem).toMatch(/say what of seed goes on every plot/)
  })

  it('says what is missing instead of guessing, and refuses spoons', () => {
    const told = (...args: Parameters<typeof rowsFor>): string => rowsFor(...args).problems[0]!.problem
    expect(told('40 kg N/ha', generic('Triple superphosphate'))).toBe('Triple superphosphate states no N: type its analysis in % N.')
    expect(told('15 ppm', regulator, { of: 'active ingredient' }, POTS)).toMatch(/A strength needs the volume/)
    expect(told('5 g/m', generic('Urea'), {}, POTS)).toMatch(/needs the rows/)
    expect(told('300 seeds/m²', generic('Seed'), { of: 'seeds' })).toMatch(/what a kernel weighs and how many of a hundred germinate/)
    expect(told('2 L/ha', generic('Urea'), { of: 'N' })).toMatch(/a rate of nitrogen is a weight/i)
    expect(parseRate('1 tsp')).toMatchObject({ ok: false, problem: expect.stringContaining('Weigh it') as string })
    expect(parseRate('60 kg P2O5/ha')).toMatchObject({ ok: false, problem: expect.stringContaining('26.19 kg P/ha') as string })
    expect(parseRate('12')).toMatchObject({ ok: false, problem: expect.stringContaining('says for what it is') as string })
  })

  it('in proportion to the plot, whatever the rate is by area; and the same in US measures as in metric', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 500, noNaN: true }), fc.double({ min: 0.2, max: 9, noNaN: true }), (rate, times) => {
        const wider: Site = { ...SITE, ground: { ...SITE.ground, plotWidth: 3 * times } }
        const [narrow, wide] = [SITE, wider].map((site) => one(`${rate} kg/ha`, generic('Urea'), {}, site).season.mass!.value)
        expect(wide! / narrow!).toBeCloseTo(times, 9)
        const pounds = convert(rate, 'kg/ha', 'lb/ac')
        expect(one(`${pounds} lb/ac`, generic('Urea')).season.mass!.value / narrow!).toBeCloseTo(1, 9)
      }),
    )
  })

  it('is typed again as it was kept, whatever its measure', () => {
    const measures = [
      'kg/ha',
      'lb/ac',
      'L/ha',
      'pt/ac',
      'mm',
      'in',
      '/m²',
      '/ha',
      'g/m',
      'mL/m',
      '/m',
      'mL/kg',
      '%',
      'mg/L',
      'g',
      'oz',
      'mL',
      '',
    ] as const
    fc.assert(
      fc.property(
        fc.constantFrom(...measures),
        fc.constantFrom('unit' as const, 'plant' as const),
        fc.integer({ min: 0, max: 1e6 }),
        (measure, per, thousandths) => {
          const amount = thousandths / 1000
          const read = parseRate(typedRate({ amount, measure, per, carrier: null }))
          expect(read).toMatchObject({ ok: true, amount, measure })
          if (read.ok && ['g', 'oz', 'mL', ''].includes(measure)) expect(read.per).toBe(per)
        },
      ),
    )
  })

  it('in parts: each pass its share, a strength its whole strength each time, the season their sum', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 20 }), { minLength: 1, maxLength: 6 }), (weights) => {
        const sum = weights.reduce((a, b) => a + b)
        const parts = weights.map((each) => ({ when: '', on: null, share: (100 * each) / sum }))
        const row = one('60 kg N/ha', generic('Urea'), { parts })
        expect(row.passes.reduce((all, each) => all + each.mass!.value, 0)).toBeCloseTo(row.season.mass!.value, 6)
        const drench = one('15 ppm', regulator, { of: 'active ingredient', carrier: { amount: 60, measure: 'mL' }, parts }, POTS)
        expect(drench.passes.every((each) => Math.abs(each.volume!.value - 0.225) < 1e-12)).toBe(true)
        expect(drench.season.volume!.value).toBeCloseTo(0.225 * parts.length, 9)
      }),
    )
  })
})

const tsp: Product = { ...generic('Triple superphosphate'), ...LABEL }
const dap: Product = { ...generic('Diammonium phosphate'), ...LABEL }
const matched = amounts({ tsp, dap }, [
  dose({ key: 'a', product: 'tsp', to: to('tsp'), of: 'P', amount: 40 }),
  dose({ key: 'b', product: 'dap', to: to('dap'), of: 'P', amount: 40 }),
])

describe('what a treatment gets in all', () => {
  it('two sources matched on P: what comes with each stands beside, the control’s too', () => {
    // 40 kg P/ha ÷ 20 % = 200 kg/ha of either: with it 28 kg Ca/ha, or 36 kg N/ha.
    const { totals, differsAlsoIn, flags } = treatmentTotals(sources, matched, SITE)
    const table = totals.map(({ treatment, nutrients }) => [
      treatment.code,
      ...(['N', 'P', 'Ca'] as const).map((each) => nutrients.get(each)?.value ?? 0),
    ])
    expect(table).toEqual([
      ['NONE', 0, 0, 0],
      ['TSP', 0, expect.closeTo(40, 9), expect.closeTo(28, 9)],
      ['DAP', expect.closeTo(36, 9), expect.closeTo(40, 9), 0],
    ])
    expect(differsAlsoIn).toEqual(['N', 'Ca'])
    expect(flags).toEqual([])
    const short = { ...matched, doses: [matched.doses![0]!, { ...matched.doses![1]!, amount: 35 }] }
    expect(treatmentTotals(sources, short, SITE).flags[0]).toMatch(/^Source TSP and Source DAP are not matched on phosphorus/)
    // What every plot gets counts for the control too, and takes nothing off the difference.
    const withBase = { ...matched, products: [...matched.products!, { ...generic('Urea'), key: 'urea' }], doses: [...matched.doses!, dose({ key: 'base', product: 'urea', of: 'N', amount: 50 })] } // prettier-ignore
    expect(treatmentTotals(sources, withBase, SITE).totals.map((each) => each.nutrients.get('N')!.value)).toEqual(
      [50, 50, 86].map((each) => expect.closeTo(each, 9) as number),
    )
  })

  it('half, whole and double of each source; one without the nutrient is none', () => {
    const [a, b, ...rest] = matchSources([tsp, dap, generic('Gypsum')], 'P', 40)
    expect(rest).toEqual([])
    expect(a!.rates.map((each) => each.value)).toEqual([expect.closeTo(100, 9), expect.closeTo(200, 9), expect.closeTo(400, 9)])
    expect(b!.others.map((each) => [each.nutrient, each.rate.value])).toEqual([['N', expect.closeTo(36, 9)]])
  })

  it('is balanced by further products: exactly where they can, and told where they cannot', () => {
    // The control and TSP lack 36 kg N/ha: 78.26 kg/ha of urea. The control and DAP lack 28 kg Ca/ha, which urea cannot bring.
    const [none, a, b] = balanceTreatments(sources, matched, SITE, [generic('Urea')])
    expect(none!.add[0]!.value).toBeCloseTo(36 / 0.46, 6)
    expect([a!.exact, b!.exact, b!.add[0]!.value]).toEqual([true, false, 0])
    expect(b!.nutrients.find((each) => each.nutrient === 'Ca')).toMatchObject({ wanted: expect.closeTo(28, 9) as number, comes: 0 })
    const lime = balanceTreatments(sources, matched, SITE, [generic('Urea'), generic('Ground limestone')])
    expect(lime.map((each) => each.exact)).toEqual([true, true, true])
    expect(lime[2]!.add.map((each) => each.value)).toEqual([0, expect.closeTo(28 / 0.38, 6)])
    // What is varied stays as it is: a product that brings P too is used as little as that allows.
    const both = balanceTreatments(sources, matched, SITE, [generic('Diammonium phosphate')])
    expect(both[1]!.exact).toBe(false)
  })

  it('least squares: never below nought, no better at any neighbour, and exact where that is possible', () => {
    const entry = fc.double({ min: 0, max: 1, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.array(entry, { minLength: 4, maxLength: 4 }), { minLength: 1, maxLength: 5 }),
        fc.array(fc.double({ min: -5, max: 50, noNaN: true }), { minLength: 4, maxLength: 4 }),
        (columns, b) => {
          const x = nonNegativeLeastSquares(columns, b)
          const left = (at: readonly number[]): number =>
            b.reduce((sum, value, i) => sum + (value - columns.reduce((all, column, j) => all + column[i]! * at[j]!, 0)) ** 2, 0)
          expect(x.every((each) => each >= 0)).toBe(true)
          const best = left(x)
          for (let j = 0; j < x.length; j++)
            for (const step of [1e-3, -1e-3]) {
              const moved = x.map((each, k) => (k === j ? each + step : each))
              if (moved[j]! >= 0) expect(left(moved)).toBeGreaterThanOrEqual(best - 1e-7 * (1 + best))
            }
          const made = [0, 1, 2, 3].map((i) => columns.reduce((sum, column) => sum + 3 * column[i]!, 0))
          expect(
            nonNegativeLeastSquares(columns, made).reduce((sum, each, j) => sum + each * columns[j]!.reduce((a, c) => a + c, 0), 0),
          ).toBeCloseTo(
            made.reduce((a, c) => a + c, 0),
            4,
          )
        },
      ),
    )
  })

  it('tells the water, the wetter and the form that some get and others do not', () => {
    const spray = dose({
      key: 'a',
      product: 'uan',
      to: to('tsp'),
      of: 'N',
      amount: 40,
      carrier: { amount: 400, measure: 'L/ha' },
      placement: 'foliar',
    })
    const products = { uan: generic('Urea and ammonium nitrate solution'), urea: generic('Urea'), wetter: generic('Wetter') }
    const others = [
      dose({ key: 'b', product: 'urea', to: to('dap'), of: 'N', amount: 40 }),
      dose({ key: 'c', product: 'wetter', to: to('tsp'), amount: 0.1, measure: '%', carrier: { amount: 400, measure: 'L/ha' } }),
    ]
    const found = treatmentTotals(sources, amounts(products, [spray, ...others]), SITE)
    expect(found.flags.join('\n')).toMatch(/Not all get the water that carries .*0\.080 mm of rain/)
    expect(found.flags.join('\n')).toMatch(/Wetter goes with Source TSP and not with all/)
    expect(found.flags.join('\n')).toMatch(/Source comes in solution here, dry there/)
    const even = treatmentTotals(sources, amounts(products, [{ ...spray, carrierToAll: true }, others[0]!]), SITE)
    expect(even.watersDiffer).toBe(false)
    expect(even.totals.map((each) => each.water!.value)).toEqual([0.04, 0.04, 0.04].map((each) => expect.closeTo(each, 9) as number))
  })
})

describe('passes and sheets', () => {
  const trial: TrialDraft = { ...base, sites: [SITE], amounts: amounts({}, [], SUPPLY) }
  const layout = layOut(trial, SITE.key, 5, countingIds())

  it('a rate of a nutrient goes on in as many passes as it has applications, untreated first, then low to high', () => {
    const { rows } = doseAmounts(trial.treatments, trial.amounts, SITE, layout.units)
    // 120 kg N/ha ÷ 0.27 = 444.44 kg/ha; half of it on 27 m² is 600 g.
    expect(rows[3]!.passes[0]!.mass!.value).toBeCloseTo(600, 9)
    expect(workingLine(rows[3]!.perArea!)).toBe('120 kg N/ha ÷ 27 % = 444.4 kg/ha')
    expect(workingLine(rows[3]!.passes[0]!.mass!)).toBe('222.2 kg/ha × 27.00 m² = 600.0 g')
    const passes = passesOf(rows, SITE, layout.units)
    expect(passes.map((each) => [each.alike, ...each.turns.map((turn) => turn.name)])).toEqual([
      [2, 'Untreated', '40 kg N/ha', '80 kg N/ha', '120 kg N/ha'],
    ])
    const dated = rows.map((row) => ({ ...row, dose: { ...rows[0]!.dose, parts: row.dose.parts.map((part, i) => ({ ...part, on: `2026-0${6 - i}-01` })) } })) // prettier-ignore
    expect(passesOf(dated.map((row) => ({ ...row, dose: dated[0]!.dose })), SITE, layout.units).map((each) => [each.part, each.on])).toEqual([[1, '2026-05-01'], [0, '2026-06-01']]) // prettier-ignore
    expect(passes[0]!.turns.map((turn) => turn.units.length)).toEqual([3, 3, 3, 3])
    expect(passes[0]!.all.value).toBeCloseTo(3 * (0.2 + 0.4 + 0.6), 9)
  })

  it('nothing is measured out for what is gone, and of what is partly lost for what remains', () => {
    const unitsOf = (level: number) => doseAmounts(trial.treatments, trial.amounts, SITE, layout.units).rows[level]!.units
    const [gone, partly] = unitsOf(3)
    const [blank] = unitsOf(0)
    const fate = (unit: string, kind: Fate['kind'], share: number | null): Fate => ({ type: 'fate', id: `fate-${unit}`, person: 'p', device: 'd', at: '2026-05-02T08:00:00Z', unit, kind, share, on: { from: '2026-05-01', to: '2026-05-01', typed: '1 May 2026' }, factor: null, amount: null, to: null, place: '', parts: null, reason: 'washed out' }) // prettier-ignore
    const fates = [fate(gone!.id, 'lost', null), fate(partly!.id, 'partly lost', 0.6), fate(partly!.id, 'partly lost', 0.4), fate(blank!.id, 'partly lost', 0.25)] // prettier-ignore
    const left = remaining(layout.units, (id) => fates.filter((each) => each.unit === id))
    const on = (day: string | null) => [gone, partly, blank].map((unit) => leftOf(left, unit!.id, day))
    // What is lost on a day was there on that day; half of it washed out is gone from that day on.
    expect([on(null), on('2026-05-02'), on('2026-05-01'), on('2026-04-30')]).toEqual([[0, 0.4, 0.25], [0, 0.4, 0.25], [1, 0.4, 0.25], [1, 1, 1]]) // prettier-ignore
    // 600 g a plot and pass: one plot whole, one of which 40 % remains, one gone: 600 + 240 g.
    const sprayed = { ...SUPPLY, applications: 2 }
    const inWater = dose({ to: { factor: 'factor-1', level: null }, product: 'supply', of: 'N', amount: null, carrier: { amount: 1000, measure: 'L/ha' }, carrierToAll: true, parts: [50, 50].map((share) => ({ when: '', on: null, share })) }) // prettier-ignore
    const asked = amounts({}, [inWater], sprayed)
    const { rows } = doseAmounts(trial.treatments, asked, SITE, layout.units, left)
    expect([rows[3]!.units.length, rows[3]!.wholes]).toEqual([3, 1.4])
    const [pass] = passesOf(rows, SITE, layout.units, left)
    const high = pass!.turns.at(-1)!
    expect(high.all!.value).toBeCloseTo(0.84, 12)
    expect(high.lesser.map((each) => [each.unit.id, each.each!.value, each.carrier!.value])).toEqual([[partly!.id, expect.closeTo(240, 9), expect.closeTo(1080, 9)]]) // prettier-ignore
    // 2.7 L on a plot: 1.4 of them are 3.78 L with 840 g in them.
    expect([high.mix!.volume.value, high.mix!.product!.value]).toEqual([expect.closeTo(3.78, 12), expect.closeTo(840, 9)])
    // What gets water alone gets it by what remains too: 2.25 plots of 2.7 L.
    expect([pass!.turns[0]!.name, pass!.turns[0]!.mix!.volume.value]).toEqual(['Carrier alone', expect.closeTo(6.075, 12)])
    // A pass that went out before it happened stands as it went out.
    const early = {
      ...asked,
      doses: [{ ...inWater, parts: ['2026-04-10', '2026-05-10'].map((day) => ({ when: '', on: day, share: 50 })) }],
    }
    const dated = passesOf(doseAmounts(trial.treatments, early, SITE, layout.units, left).rows, SITE, layout.units, left)
    expect(dated.map((each) => [each.turns.at(-1)!.units.length, each.turns.at(-1)!.all!.value])).toEqual([[3, expect.closeTo(1.8, 12)], [2, expect.closeTo(0.84, 12)]]) // prettier-ignore
    const gets = givenIn(pass!)
    expect([gone, partly, blank].map((unit) => gets.get(unit!.id)?.value)).toEqual([undefined, expect.closeTo(240, 9), expect.closeTo(675, 9)]) // prettier-ignore
    // So much for each plot, whatever is left of it, stays that.
    const each = doseAmounts(trial.treatments, amounts({ p: generic('Wetter') }, [dose({ amount: 5, measure: 'mL' })]), SITE, layout.units, left).rows // prettier-ignore
    expect([each[0]!.wholes, passesOf(each, SITE, layout.units, left)[0]!.turns[0]!.lesser]).toEqual([11, []])
    // A tenth of the area of every plot makes a tenth of all.
    const tenth = new Map(layout.units.map((unit) => [unit.id, [{ from: 0, share: 0.1 }]]))
    const small = passesOf(doseAmounts(trial.treatments, asked, SITE, layout.units, tenth).rows, SITE, layout.units, tenth)[0]!
    const whole = passesOf(doseAmounts(trial.treatments, asked, SITE, layout.units).rows, SITE, layout.units)[0]!
    expect([small.all.value * 10, small.carrier!.value * 10]).toEqual([expect.closeTo(whole.all.value, 9), expect.closeTo(whole.carrier!.value, 9)]) // prettier-ignore
  })

  it('a tank: what stays in the lines is mixed too, full tanks and the rest, with product by its strength', () => {
    const herbicide = generic('Herbicide, 500 g/L')
    const sprayed = dose({ amount: 2, measure: 'L/ha', carrier: { amount: 400, measure: 'L/ha' }, tank: { holds: 5, dead: 1 } })
    const { rows } = doseAmounts(trial.treatments, amounts({ p: herbicide }, [sprayed]), SITE, layout.units)
    const [turn] = passesOf(rows, SITE, layout.units)[0]!.turns
    // 12 plots × 1.08 L = 12.96 L and 1 L in the lines: two tanks of 5 L and 3.96 L; 5 mL product in a litre.
    const { mix } = turn!
    expect([mix!.volume.value, mix!.full, mix!.last.value]).toEqual([expect.closeTo(13.96, 9), 2, expect.closeTo(3.96, 9)])
    expect([mix!.perFull!.value, mix!.perLast!.value]).toEqual([expect.closeTo(25, 9), expect.closeTo(19.8, 9)])
    expect(mix!.perFull!.value * mix!.full + mix!.perLast!.value).toBeCloseTo(mix!.product!.value, 9)
    expect(mixingOrder([generic('Wetter'), herbicide, generic('Zinc sulphate'), generic('Water'), generic('Urea')]).map((each) => each.product)).toEqual(['Water', 'Zinc sulphate', 'Herbicide, 500 g/L', 'Wetter']) // prettier-ignore
  })

  it('a calibration of a pass is begun with what is known of it, once where its levels are alike, else for each', () => {
    const herbicide = generic('Herbicide, 500 g/L')
    const sprayed = dose({ amount: 2, measure: 'L/ha', carrier: { amount: 400, measure: 'L/ha' }, tank: { holds: 5, dead: 1 } })
    const seed = dose({ key: 's', product: 'seed', amount: 180, measure: 'kg/ha' })
    const asked = amounts({ p: herbicide, seed: generic('Seed') }, [sprayed, seed], SUPPLY)
    const { rows } = doseAmounts(trial.treatments, asked, SITE, layout.units)
    const offered = passesOf(rows, SITE, layout.units).map((pass) => worksheetsFor(pass, SITE, 'metric', null).map(({ calculation, given, pass: { level } }) => [calculation.key, level, given])) // prettier-ignore
    // 12 plots of 27 m² are 0.0324 ha. Of the nitrogen half goes on at each pass: 40 kg N/ha ÷ 27 % ÷ 2 = 74.07 kg/ha, on 3 plots.
    expect(offered[1]).toEqual([['sprayer', null, { tank: '5', area: '0.0324', product: '2', plot: '27', 'plot-length': '9', target: '400' }]]) // prettier-ignore
    expect(offered[2]).toEqual([['drill', null, { target: '180', plot: '27' }]])
    expect(offered[0]!.map((each) => each.slice(0, 2))).toEqual(['l1', 'l2', 'l3'].map((level) => ['spreader', level]))
    expect(offered[0]![0]![2]).toEqual({ target: '74.07407', area: '0.0081' })
    // 7.4 g/m² can be spread here; where that takes 10 g/m² the least rate is put on in solution instead.
    const [first] = worksheetsFor(passesOf(rows, SITE, layout.units)[0]!, SITE, 'metric', 10)
    expect([first!.calculation.key, first!.level, first!.given]).toEqual(['small-dose', '40 kg N/ha', { rate: '74.07407', area: '27', plots: '3', threshold: '10' }]) // prettier-ignore
    // What is lost by then is counted no more: two plots of 27 m².
    const lost = new Map([[rows[1]!.units[0]!.id, [{ from: 0, share: 0 }]]])
    const less = worksheetsFor(passesOf(rows, SITE, layout.units, lost)[0]!, SITE, 'metric', 10)
    expect([less[0]!.given['plots'], less.find((each) => each.calculation.key === 'spreader')!.given['area']]).toEqual(['2', '0.0054'])
    // In pounds and acres for who thinks in those: 400 L/ha ÷ 9.35396 = 42.763 gal/ac.
    const [us] = worksheetsFor(passesOf(rows, SITE, layout.units)[1]!, SITE, 'us', null)
    expect(Number(us!.given['target'])).toBeCloseTo(42.763, 2)
    expect(us!.pass).toEqual({ dose: 'd', part: 0, level: null })
  })

  it('from how little on a dry product is not spread is set by who does it', () => {
    const powder = { ...generic('Zinc sulphate'), form: 'powder' as const }
    const at = (typed: string, spreadable: number | null, parts = [100]) =>
      tooSmallDry(one(typed, powder, { parts: parts.map((share) => ({ when: '', on: null, share })) }), spreadable)
    expect(at('40 kg/ha', null)).toBeCloseTo(4, 12)
    expect([at('40 kg/ha', 4), at('50 kg/ha', null), at('0 kg/ha', null)]).toEqual([null, null, null])
    // 80 kg/ha are 8 g/m², but its smallest part, a quarter, is 2 g/m².
    expect(at('80 kg/ha', null, [75, 25])).toBeCloseTo(2, 12)
    expect(tooSmallDry(one('40 kg/ha', powder, { placement: 'furrow' }), null)).toBeNull()
    expect(tooSmallDry(one('2 kg/ha', powder, { carrier: { amount: 400, measure: 'L/ha' } }), null)).toBeNull()
  })

  it('a water plan: litres and run time of each level, by the drip lines, with what is lost, and what each saves', () => {
    const treatments = treatmentsOf([kindsOf('water', 'Water', ['none', 'half', 'full'])])
    const level = (key: string, mm: number, times_: number) => dose({ key, to: { factor: 'water', level: key }, product: 'w', amount: mm, measure: 'mm', parts: Array.from({ length: times_ }, () => ({ when: '', on: null, share: 100 / times_ })) }) // prettier-ignore
    const asked = amounts({ w: generic('Water') }, [level('half', 30, 3), level('full', 60, 3)])
    const watered = layOut({ ...trial, treatments }, SITE.key, 5, countingIds())
    const { rows } = doseAmounts(treatments, asked, SITE, watered.units)
    const passes = passesOf(rows, SITE, watered.units)
    // Emitters of 1.6 L/h every 0.3 m on lines 0.9 m apart give 5.926 mm/h; of what is given 80 % reach the plants.
    const sheet = { key: 'k', calculation: 'irrigation', title: 'Drip', site: SITE.key, on: null, given: { depth: '9', area: '1', efficiency: '80', emitter: '1.6', 'emitter-spacing': '0.3', 'line-spacing': '0.9' }, system: 'metric' as const, note: '' } // prettier-ignore
    expect(waterSheets([sheet, { ...sheet, given: { depth: '9', area: '1' } }, { ...sheet, site: 'other' }], SITE)).toEqual([sheet])
    const { turns, totals } = waterPlan(passes, treatments, SITE, sheet)
    // 10 mm on 27 m² are 270 L, of which 337.5 L are let out in 10 ÷ 5.926 ÷ 0.8 = 2.109 h.
    expect(
      turns.map((turn) => [
        turn.name,
        turn.pass.alike,
        turn.depth.value,
        turn.each.value,
        turn.all.value,
        turn.runs.map((run) => run.value),
      ]),
    ).toEqual([
      // prettier-ignore
      ['Water half', 3, expect.closeTo(10, 9), expect.closeTo(337.5, 9), expect.closeTo(1012.5, 9), [expect.closeTo(2.109375, 9)]],
      ['Water full', 3, expect.closeTo(20, 9), expect.closeTo(675, 9), expect.closeTo(2025, 9), [expect.closeTo(4.21875, 9)]],
    ])
    expect(
      totals.map(({ depth, each, saved }) => [depth.value, each.value, saved?.depth.value, saved?.each.value, saved?.share.value]),
    ).toEqual([
      // prettier-ignore
      [0, 0, expect.closeTo(60, 9), expect.closeTo(2025, 9), expect.closeTo(100, 9)],
      [expect.closeTo(30, 9), expect.closeTo(1012.5, 9), expect.closeTo(30, 9), expect.closeTo(1012.5, 9), expect.closeTo(50, 9)],
      [expect.closeTo(60, 9), expect.closeTo(2025, 9), undefined, undefined, undefined],
    ])
    // Said level by level, it is one watering: what gets the half does not stand as if the full got nothing.
    expect(passes.map((pass) => [pass.doses.map(({ key }) => key), pass.turns.map((turn) => turn.name)])).toEqual([[['half', 'full'], ['Without it', 'Water half', 'Water full']]]) // prettier-ignore
    const other = (over: Partial<Dose>) => {
      const parted = amounts({ w: generic('Water') }, [level('half', 30, 3), { ...level('full', 60, 3), ...over }])
      return passesOf(doseAmounts(treatments, parted, SITE, watered.units).rows, SITE, watered.units).length
    }
    expect([other({}), other({ placement: 'sprench' }), other({ parts: [{ when: '', on: '2026-06-01', share: 100 }] }), other({ to: { factor: 'water', level: 'half' } })]).toEqual([1, 2, 2, 2]) // prettier-ignore
    // What is weighed for one level and poured for another, its density not known, is no one pass.
    const liquid = { ...generic('Herbicide, 500 g/L'), density: null }
    const mixed = amounts({ w: liquid }, [
      { ...level('half', 2, 1), measure: 'kg/ha' },
      { ...level('full', 2, 1), measure: 'L/ha' },
    ])
    expect(passesOf(doseAmounts(treatments, mixed, SITE, watered.units).rows, SITE, watered.units).map((pass) => pass.all.unit)).toEqual(['g', 'mL']) // prettier-ignore
    // Without a worksheet: what reaches the plants, and no run time.
    const bare = waterPlan(passes, treatments, SITE, null).turns[0]!
    expect([bare.each.value, bare.runs]).toEqual([expect.closeTo(270, 9), []])
    expect(waterPlan(passesOf(doseAmounts(trial.treatments, trial.amounts, SITE, layout.units).rows, SITE, layout.units), trial.treatments, SITE, sheet)).toEqual({ turns: [], totals: [] }) // prettier-ignore
  })

  it('between kinds of product that carry over everything is cleaned', () => {
    expect(cleanOut(generic('Growth regulator, 4 g/L'), generic('Urea'))).toMatch(/^After Growth regulator.* clean out everything/)
    expect(cleanOut(generic('Urea'), generic('Root fungus on granules'))).toMatch(/living inoculant: with tools of its own/)
    expect(cleanOut(generic('Urea'), generic('Gypsum'))).toBeNull()
    expect(cleanOut(null, generic('Herbicide, 500 g/L'))).toBeNull()
  })

  it('stop over a stated maximum, within an interval, past a day, or where the label is not looked up', () => {
    const size = sizeOf(SITE)
    const visits = [{ name: 'Harvest', on: '2026-07-01', harvest: true }, { name: 'Count', on: '2026-06-01', harvest: false }] // prettier-ignore
    const stops = (typed: string, product: Product, over: Partial<Dose> = {}) => stopsOf(one(typed, product, over), size, visits)
    const known = {
      ...generic('Urea'),
      ...LABEL,
      labelMaximumPerApplication: 100,
      labelMaximumPerSeason: 180,
      preHarvestDays: 40,
      reentryHours: 48,
    }
    expect(stops('80 kg/ha', known)).toEqual([])
    expect(stops('200 kg/ha', known)).toHaveLength(2)
    const halves = [0, 1].map(() => ({ when: '', on: null, share: 50 }))
    expect(stops('180 kg/ha', known, { parts: halves })).toEqual([])
    expect(stops('180 kg/ha', { ...known, labelMaximumPerApplication: 89 }, { parts: halves })[0]).toMatch(/90 kg\/ha of product for one application; the stated maximum is 89 kg\/ha/) // prettier-ignore
    const on = (day: string): Partial<Dose> => ({ parts: [{ when: '', on: day, share: 100 }] })
    expect(stops('80 kg/ha', known, on('2026-05-30'))).toEqual([expect.stringContaining('32 days before Harvest')])
    expect(stops('80 kg/ha', known, on('2026-05-31'))[1]).toMatch(/^Count on 2026-06-01 falls within the 48 h/)
    expect(stops('80 kg/ha', { ...known, live: { perGram: 1e9, keepBelow: 8, useBy: '2026-04-30', openHours: 24 } }, on('2026-05-01'))).toEqual([expect.stringContaining('good until 2026-04-30')]) // prettier-ignore
    expect(stops('80 kg/ha', generic('Urea'))).toEqual(['The label of Urea is not looked up: the maximum for one application, the maximum for the season, when people may go back in, the days before harvest, what to wear.']) // prettier-ignore
    expect(stops('0 kg/ha', generic('Urea'))).toEqual([])
    expect(stops('20 mm', generic('Water'))).toEqual([])
    // A liquid's maximum in L/ha, and one that states its weight by its density.
    const liquid = {
      ...generic('Herbicide, 500 g/L'),
      ...LABEL,
      labelMeasure: 'L/ha' as const,
      labelMaximumPerApplication: 2,
      labelMaximumPerSeason: 2,
    }
    expect(stops('2 L/ha', liquid)).toEqual([])
    expect(stops('2.2 kg/ha', liquid)).toHaveLength(2)
  })

  it('a reason answers what it was given for, at every site, and not what comes up since', () => {
    const known = { ...generic('Urea'), ...LABEL, labelMaximumPerApplication: 100, labelMaximumPerSeason: 300 }
    const wide = { ...SITE, key: 'wide', ground: { ...SITE.ground, plotWidth: 6 } }
    const at = (over: Partial<Dose>, product: Product = known) => {
      const trial = { treatments: sources, amounts: amounts({ p: product }, [dose({ amount: 150, measure: 'kg/ha', ...over })]), sites: [SITE, wide], traits: base.traits } // prettier-ignore
      const found = trial.sites.map((site) => sheetStops(doseAmounts(sources, trial.amounts, site, []).rows, trial, site))
      return { found, everywhere: stopsEverywhere(trial, 'd') }
    }
    const asked = at({})
    expect(asked.found[0]!.refusal).toMatch(/not printed yet.*the stated maximum is 100 kg\/ha/)
    // By the plant its plots are not alike at both sites, and neither are the two maxima passed.
    const planted = at({ amount: 20, measure: 'g', per: 'plant' })
    expect(planted.everywhere).toHaveLength(4)
    const answered = { reason: 'permit 7', answered: planted.everywhere }
    expect(at({ amount: 20, measure: 'g', per: 'plant', ...answered }).found.map((each) => [each.refusal, each.reasons])).toEqual([[null, ['permit 7']], [null, ['permit 7']]]) // prettier-ignore
    // A higher rate, and a label that is not looked up any more, are asked about again; what was answered stays so.
    const given_ = { reason: 'permit 7', answered: asked.everywhere }
    expect(at(given_).found[0]!.refusal).toBeNull()
    expect(at({ ...given_, amount: 160 }).found[0]!.by[0]!.open).toEqual([expect.stringContaining('comes to 160 kg/ha')])
    expect(at(given_, { ...known, reentryHours: null }).found[0]!.by[0]!.open).toEqual([
      expect.stringContaining('when people may go back in'),
    ])
    // Of sixty rates at twenty unlike sites each is told, and all are kept.
    expect(Dose.safeParse({ ...dose({}), answered: Array.from({ length: 60 * 20 * 3 }, (_, i) => `stop ${i}`) }).success).toBe(true)
    // Packages of before say nothing of what was answered: all of it; and without a reason nothing is.
    expect([at({ reason: 'permit 7' }).found[0]!.refusal, at({ answered: asked.everywhere }).found[0]!.refusal]).toEqual([null, expect.stringContaining('not printed')]) // prettier-ignore
  })

  it('carry the cautions of how it is put on: bands, depth, too little to spread, the margin, what is alive', () => {
    const told = (...args: Parameters<typeof one>): string =>
      [...doseCautions(one(...args), null), ...handlingCautions(one(...args))].join('\n')
    // 200 kg/ha in bands of 10 cm, 50 cm apart: five times as much there.
    expect(told('200 kg/ha', tsp, { placement: 'band', band: { width: 10, spacing: 50 } })).toMatch(
      /as if 1 ?000 kg\/ha of product were spread: 5 times/,
    )
    expect(told('200 kg/ha', tsp, { placement: 'incorporated', depth: 10 })).toMatch(/10 cm deep: 200 mg of product in a litre of soil/)
    expect(told('2 kg B/ha', generic('Sodium borate'))).not.toMatch(/below the 5 g\/m²/)
    expect(told('2 kg/ha', { ...generic('Zinc sulphate'), form: 'powder' })).toMatch(/0\.2 g\/m² is below the 5 g\/m²/)
    const drench = { of: 'active ingredient' as const, carrier: { amount: 60, measure: 'mL' } }
    const regulator = generic('Growth regulator, 4 g/L')
    expect(told('15 ppm', { ...regulator, harmAbove: 20 }, drench, POTS)).toMatch(/leaves a margin of 1\.3 times/)
    expect(told('15 ppm', { ...regulator, harmAbove: 12 }, drench, POTS)).toMatch(/above the 12 mg\/L at which it harms/)
    expect(told('1 kg/ha', generic('Root-nodule bacteria in peat'))).toMatch(/keep it below 10 °C and out of the sun.*within 24 h/)
    expect(told('0 kg/ha', tsp)).toBe('')
  })
})

describe('what really went out', () => {
  const trial = { ...base, sites: [SITE] }
  const own = (actual: Amounts['actual']): Amounts => Amounts.parse({ supply: SUPPLY, common: [], actual })
  const record = (over: object) => ({ key: 'a1', site: SITE.key, dose: 'supply', part: 0, level: null, share: 90, how: 'emptied', on: null, note: '', sheet: null, ...over }) // prettier-ignore

  it('is the planned rate times what of each pass went out; what is not on record went out as planned', () => {
    // Two passes of a half each; at the first 90 % of it: 95 % of the season.
    const rates = actualRates(trial.treatments, own([record({})] as Amounts['actual']), [SITE.key])
    expect(rates.map((each) => [each.level.code, each.actual.value, each.deviation])).toEqual([
      ['N40', expect.closeTo(38, 9), expect.closeTo(-5, 9)],
      ['N80', expect.closeTo(76, 9), expect.closeTo(-5, 9)],
      ['N120', expect.closeTo(114, 9), expect.closeTo(-5, 9)],
    ])
    const one_ = actualRates(
      trial.treatments,
      own([record({}), record({ key: 'a2', level: 'l2', share: 120, part: 1 })] as Amounts['actual']),
      [SITE.key, 'other'],
    )
    expect(one_.find((each) => each.level.key === 'l2')!.deviation).toBeCloseTo((0.5 * -10 + 0.5 * 20) / 2, 9)
    expect(asWentOut({ ...trial, amounts: own([record({})] as Amounts['actual']) }, [SITE.key]).treatments.factors[0]!.levels.map((each) => each.amount)).toEqual([0, expect.closeTo(38, 9), expect.closeTo(76, 9), expect.closeTo(114, 9)]) // prettier-ignore
    expect(actualRates(trial.treatments, own(null), [SITE.key])).toEqual([])
  })

  it('emptied against calibrated: asked about where they contradict each other', () => {
    expect(emptiedShare(20, 2, 15)).toBeCloseTo(120, 9)
    expect(emptiedShare(2, 20, 15)).toBeNull()
    expect(contradiction(100, 104)).toBeNull()
    expect(contradiction(100, 120)).toMatch(/not known/)
  })
})

describe('the best swath of a spreader', () => {
  it('by hand: a flat pattern is even at its own width, one that falls off evenly at half of it', () => {
    const variation = (pattern: readonly number[], trays: number): number =>
      swathsOf(pattern).find((each) => each.trays === trays)!.variation
    expect(variation([3, 3, 3, 3, 3, 3], 6)).toBe(0)
    // 1 2 3 4 4 3 2 1, four trays on: 3 + 2, 4 + 1, 4 + 1, 3 + 2 are all 5.
    expect(variation([1, 2, 3, 4, 4, 3, 2, 1], 4)).toBeCloseTo(0, 9)
    expect(variation([1, 2, 3, 4, 4, 3, 2, 1], 8)).toBeGreaterThan(40)
    // One that throws to the left only is no even swath until runs to and fro make up for it.
    expect(variation([4, 4, 0, 0], 3)).toBeGreaterThan(20)
  })
})

describe('a trial that says what is put on', () => {
  it('is one whole: doses of products it has, parts that come to all, bands that fit', () => {
    const draft = { ...base, amounts: matched }
    expect(checkTrial(draft)).toEqual([])
    const wrong = (over: Partial<Dose>) =>
      checkTrial({ ...base, amounts: { ...matched, doses: [{ ...matched.doses![0]!, ...over }] } }).map((each) => each.message)
    expect(wrong({ product: 'gone' })).toEqual(['It is of “gone”, which is no product of this trial.'])
    expect(wrong({ parts: [{ when: '', on: null, share: 60 }] })).toEqual(['The parts come to 60 %, not to 100 %.'])
    expect(wrong({ band: { width: 10, spacing: 50 } })).toEqual(['A band is of what is put on in bands or furrows.'])
    expect(wrong({ amount: null })).toEqual(['Give the amount.'])
    // A level that is no longer varied gets nothing, and nothing is lost.
    expect(doseAmounts(base.treatments, matched, SITE, []).rows).toEqual([])
    expect(
      genericProducts.every((each) => Amounts.safeParse({ supply: null, common: [], products: [{ ...each, key: 'x' }] }).success),
    ).toBe(true)
    expect(leading(one('5 g/plot', tsp).season, tsp).value).toBe(5)
  })
})
