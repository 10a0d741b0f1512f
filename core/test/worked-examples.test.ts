import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { calculationOf, calculations, reckon, type RawInputs } from '../src/amounts/index.ts'
import { convert, parseQuantity } from '../src/quantity/index.ts'

const ask = (key: string, given: RawInputs) => reckon(calculationOf(key)!, given)
function figureOf(key: string, given: RawInputs, figure: string, unit: string): number {
  const reckoned = ask(key, given)
  if (!reckoned.ok) throw new Error(reckoned.problems.map((each) => `${each.input} ${each.problem}`).join(' '))
  const found = reckoned.figures[figure]
  if (!found) throw new Error(`${key} has no ${figure}; it has ${Object.keys(reckoned.figures).join(', ')}`)
  return convert(found.value, found.unit, unit)
}

const plot = { of: 'N', area: '18 m²', N: '27 %' }
const drench = { pots: 240, each: '60 mL', dead: '1.2 L', strength: '4 ppm', label: '0.4 % w/v' }
const seed = { stand: '100 /m²', germination: '80 %', establishment: '50 %', 'kernel-weight': '40 g', rows: 4, 'row-spacing': '25 cm', length: '5 m' } // prettier-ignore
const sprayer = { distance: '50 m', times: '30', catches: '500 500', spacing: '50 cm' }
const boron = { rate: '1 kg/ha', share: '20 %', area: '10 m²', plots: 4, carrier: '1000 L/ha', division: '0.1 g' }
const water = { depth: '10 mm', area: '50 m²', efficiency: '80 %' }

/** Each worked by hand as its text says; three digits or more stand in it. */
const EXAMPLES: readonly (readonly [by: string, calculation: string, given: RawInputs, figure: string, unit: string, value: number])[] = [
  // 0.8 × 5 = 4 mm a day: 6, 10, 14 − 8 = 6, 10, 14, 18, 22 mm.
  ['2 + 7 × 4 − 8 = 22 mm', 'water-balance', { reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, 'give-100', 'mm', 22], // prettier-ignore
  ['at half: 4, 6, 8 − 8 = 0, then 4 × 2 = 8 mm', 'water-balance', { reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, 'give-50', 'mm', 8], // prettier-ignore
  ['day 3 at half: nothing missing', 'water-balance', { reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, 'deficit-50-3', 'mm', 0], // prettier-ignore
  ['22 − 8 = 14 mm × 27 m² = 378 L saved', 'water-balance', { reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, 'saved-water-50', 'L', 378], // prettier-ignore
  ['22 mm ÷ 4 mm/h = 330 min', 'water-balance', { reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, 'time-100', 'min', 330], // prettier-ignore
  ['6 + 4 − 12 is 2 below nothing missing: 2 mm run through', 'water-balance', { ...{ reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, rain: '0 12 0 0 0 0 0' }, 'drained-100', 'mm', 2], // prettier-ignore
  ['never more missing than is held: 20 mm', 'water-balance', { ...{ reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, rain: '0 0 0 0 0 0 0', holds: 20 }, 'give-100', 'mm', 20], // prettier-ignore
  ['0.2 in a day for 7 days is 35.56 mm × 0.8 = 28.448, + 2 = 30.448', 'water-balance', { ...{ reference: '5 5 5 5 5 5 5', rain: '0 0 8 0 0 0 0', coefficient: 0.8, shares: '100 50', start: 2, holds: 60, area: '27 m²', rate: '4 mm/h' }, reference: '0.2 0.2 0.2 0.2 0.2 0.2 0.2 in/d', rain: '0 0 0 0 0 0 0' }, 'give-100', 'mm', 30.448], // prettier-ignore
  ['20 × 1.85 × 1.5 = 55.5 m²: 412 g is 74.234 kg/ha', 'drill', { collected: 412, turns: 20, circumference: 1.85, width: 1.5, target: 80, setting: 34 }, 'rate', 'kg/ha', 74.2342], // prettier-ignore
  ['34 × 80 ÷ 74.234 = 36.64', 'drill', { collected: 412, turns: 20, circumference: 1.85, width: 1.5, target: 80, setting: 34 }, 'new-setting', '', 36.64078], // prettier-ignore
  ['with 4 % slip 412 g fall on 57.8125 m²: 71.265', 'drill', { ...{ collected: 412, turns: 20, circumference: 1.85, width: 1.5, target: 80, setting: 34 }, slip: 4 }, 'rate', 'kg/ha', 71.26486], // prettier-ignore
  ['200 g × 5 g/kg = 1 g; × 10 × 1.1 = 11 g', 'inoculant', { seed: '200 g', plots: 10, dose: '5 g/kg', pack: '8 g', spare: 10, count: '1e9', 'kernel-weight': '50 g' }, 'all', 'g', 11], // prettier-ignore
  ['11 ÷ 8 = 1.4: two packs', 'inoculant', { seed: '200 g', plots: 10, dose: '5 g/kg', pack: '8 g', spare: 10, count: '1e9', 'kernel-weight': '50 g' }, 'packs', '', 2], // prettier-ignore
  ['50 mg × 5 g/kg = 0.25 mg × 1e9 a gram = 250 000 on a seed', 'inoculant', { seed: '200 g', plots: 10, dose: '5 g/kg', pack: '8 g', spare: 10, count: '1e9', 'kernel-weight': '50 g' }, 'per-seed', '', 250000], // prettier-ignore
  ['0.8 × √(200 ÷ 300) = 0.6532 L/min ÷ 9 m² = 4.3546 mm/h', 'irrigation', { depth: '10 mm', area: '9 m²', efficiency: 100, nozzle: 0.8, 'chart-pressure': '300 kPa', pressure: '200 kPa', 'nozzle-spacing': 3, 'nozzle-lines': 3 }, 'nozzle-rate', 'mm/h', 4.354648], // prettier-ignore
  ['120 kg N/ha ÷ 0.27 = 444.44 kg/ha', 'fertiliser', { ...plot, target: '120 kg/ha' }, 'product', 'kg/ha', 444.4444],
  ['444.44 kg/ha × 18 m² = 444.44 × 18 ÷ 10 g = 800 g', 'fertiliser', { ...plot, target: '120 kg/ha' }, 'per-plot', 'g', 800],
  ['zero rate: nothing to weigh', 'fertiliser', { ...plot, target: 0 }, 'per-plot', 'g', 0],
  ['107.0615 lb/ac is 120 kg/ha: 800 g again', 'fertiliser', { ...plot, target: '107.0614946 lb/ac' }, 'per-plot', 'g', 800],
  ['a product of 100 %: 50 kg/ha of it', 'fertiliser', { ...plot, N: '100 %', target: '50 kg/ha' }, 'product', 'kg/ha', 50],
  ['half the plot lost: 9 m² take 400 g', 'fertiliser', { ...plot, area: '9 m²', target: '120 kg/ha' }, 'per-plot', 'g', 400],
  [
    '194 sq ft × 0.09290304 = 18.0232 m²: × 44.4444 = 801.031 g',
    'fertiliser',
    { ...plot, area: '194 sq ft', target: '120 kg/ha' },
    'per-plot',
    'g',
    801.0307,
  ],
  ['45 kg P2O5/ha ÷ 0.46 = 97.826 kg/ha', 'fertiliser', { of: 'P2O5', P2O5: '46 %', target: '45 kg/ha', area: 10 }, 'product', 'kg/ha', 97.8261], // prettier-ignore
  ['with it 97.826 × 0.18 = 17.609 kg N/ha', 'fertiliser', { of: 'P2O5', P2O5: '46 %', N: '18 %', target: '45 kg/ha', area: 10 }, 'supplied-N', 'kg/ha', 17.6087], // prettier-ignore
  ['100 kg K2O is 83.01 kg K (78.1966 of 94.1956)', 'oxide', { K2O: '100 kg' }, 'K-from-K2O', 'kg', 83.0151],
  ['100 kg P2O5 is 43.64 kg P (61.9475 of 141.9425)', 'oxide', { P2O5: '100 kg' }, 'P-from-P2O5', 'kg', 43.6427],
  ['43.6427 kg P is 100 kg P2O5', 'oxide', { P: '43.6427 kg' }, 'P2O5-from-P', 'kg', 100],
  ['80 kg SO3 is 32.03 kg S (32.06 of 80.057)', 'oxide', { SO3: '80 kg' }, 'S-from-SO3', 'kg', 32.0372],
  ['220.462 lb K2O is 100 kg: 83.01 kg K', 'oxide', { K2O: '220.462262 lb' }, 'K-from-K2O', 'kg', 83.0151],
  ['100 kg MgO is 60.30 kg Mg (24.305 of 40.304)', 'oxide', { MgO: '100 kg' }, 'Mg-from-MgO', 'kg', 60.3042],
  ['50 ÷ 0.46 = 108.70; × 0.18 = 19.565 of 90: 70.435 ÷ 0.46 = 153.12', 'top-up', { 'first-target': 50, 'second-target': 90, 'first-share': '46 %', 'other-share': '18 %', 'second-share': '46 %', area: 10.5 }, 'second', 'kg/ha', 153.119], // prettier-ignore
  ['the first brings 30 of 20: no second', 'top-up', { 'first-target': 50, 'second-target': 20, 'first-share': '50 %', 'other-share': '30 %', 'second-share': '46 %', area: 10 }, 'second', 'kg/ha', 0], // prettier-ignore
  ['80 ÷ 0.28 ÷ 1.28 = 223.21 L/ha', 'liquid-fertiliser', { target: 80, share: '28 %', density: '1.28 kg/L', area: 18 }, 'rate', 'L/ha', 223.2143], // prettier-ignore
  ['half strength by weight: (28 × 1.28) ÷ (14 × 1.14) = 2.2456 times the volume', 'liquid-fertiliser', { target: 80, share: '28 %', density: '1.28 kg/L', area: 18, 'weaker-share': '14 %', 'weaker-density': '1.14 kg/L' }, 'times-the-volume', '', 2.245614], // prettier-ignore
  ['10.68 lb/gal is 1.28 kg/L: 223.2 L/ha', 'liquid-fertiliser', { target: 80, share: '28 %', density: '10.6821747 lb/gal', area: 18 }, 'rate', 'L/ha', 223.2143], // prettier-ignore
  ['12.5 mg/kg × 1.32 × 30 ÷ 10 = 49.5 kg/ha', 'soil', { test: 12.5, 'bulk-density': 1.32, depth: '30 cm' }, 'amount', 'kg/ha', 49.5],
  [
    '(120 − 100) ÷ 100 × 1.3 × 200 mm = 52 mm',
    'soil',
    { wet: '120 g', dry: '100 g', 'bulk-density': 1.3, depth: '20 cm' },
    'water',
    'mm',
    52,
  ],
  [
    '40 mg/L × 6 L = 240 mg; ÷ 50 mg/mL = 4.8 mL',
    'ppm-by-volume',
    { strength: '40 ppm', volume: '6 L', label: '5 % w/v' },
    'product',
    'mL',
    4.8,
  ],
  ['the same label as 50 g/L', 'ppm-by-volume', { strength: '40 ppm', volume: '6 L', label: '50 g/L' }, 'product', 'mL', 4.8],
  ['0.4 lb/gal is 47.93 g/L: 240 ÷ 47.93 = 5.007 mL', 'ppm-by-volume', { strength: '40 ppm', volume: '6 L', label: '0.4 lb/gal' }, 'product', 'mL', 5.0072], // prettier-ignore
  ['no strength: no product', 'ppm-by-volume', { strength: 0, volume: '6 L', label: '5 % w/v' }, 'product', 'mL', 0],
  ['6000 − 4.8 = 5995.2 mL of water', 'ppm-by-volume', { strength: '40 ppm', volume: '6 L', label: '5 % w/v' }, 'water', 'mL', 5995.2],
  ['2500 × 3.5 ÷ 118 = 74.153 g', 'ppm-by-weight', { strength: '2500 ppm', volume: '3.5 L', label: '11.8 %' }, 'product', 'g', 74.1525],
  ['74.153 g ÷ 1.06 = 69.955 mL', 'ppm-by-weight', { strength: '2500 ppm', volume: '3.5 L', label: '11.8 %', density: 1.06 }, 'by-volume', 'mL', 69.9552], // prettier-ignore
  ['2 L × 150 ÷ 20000 = 15 mL', 'dilution', { from: 20000, to: 150, volume: '2 L' }, 'stock', 'mL', 15],
  ['as strong as it is: all of it and no water', 'dilution', { from: 150, to: 150, volume: '2 L' }, 'diluent', 'mL', 0],
  ['200 mg/L × 100 = 20 000 mg/L', 'dilution', { fed: 200, ratio: 100 }, 'stock-strength', 'mg/L', 20000],
  [
    '200 ppm of a 20 % fertilizer: 1 g/L, in stock 100 g/L',
    'dilution',
    { fed: 200, ratio: 100, share: '20 %' },
    'stock-fertiliser',
    'g/L',
    100,
  ],
  ['240 × 60 mL + 1.2 L = 15.6 L', 'drench', drench, 'solution', 'L', 15.6],
  ['4 mg/L × 15.6 L ÷ 4 mg/mL = 15.6 mL', 'drench', drench, 'product', 'mL', 15.6],
  ['4 mg/L × 0.06 L = 0.24 mg', 'drench', drench, 'per-pot', 'mg', 0.24],
  ['0.25 mg in 60 mL is 4.1667 mg/L', 'drench', { ...drench, dose: '0.25 mg' }, 'strength-for-dose', 'mg/L', 4.166667],
  ['2 fl oz is 59.147 mL: 240 × that + 1.2 L = 15.395 L', 'drench', { ...drench, each: '2 fl oz' }, 'solution', 'L', 15.3953],
  ['27 m² × 0.2 L × 1.15 = 6.21 L', 'bench-spray', { benches: 3, length: 6, width: 1.5, rate: '0.2 L/m²', extra: '15 %', strength: 40, label: '5 % w/v' }, 'spray', 'L', 6.21], // prettier-ignore
  ['half a gallon (1.892706 L) on 100 sq ft (9.290304 m²) is 0.2037292 L/m²: 27 × that = 5.500688 L', 'bench-spray', { benches: 3, length: 6, width: 1.5, rate: '0.5 gal/100 sq ft', extra: 0, strength: 40, label: '5 % w/v' }, 'spray', 'L', 5.500688], // prettier-ignore
  ['10 g/ha… 1 kg/ha ÷ 0.2 = 5 kg/ha = 0.5 g/m²: 5 g a plot', 'small-dose', boron, 'per-plot', 'g', 5],
  ['5 g in 1 L (1000 L/ha × 10 m²) is 5 g/L', 'small-dose', boron, 'concentration', 'g/L', 5],
  ['0.1 g of 5 g is 2 %', 'small-dose', boron, 'error-dry', '%', 2],
  ['four plots of 5 g take 20 g, which the balance tells to 0.5 %', 'small-dose', boron, 'error-stock', '%', 0.5],
  ['0.05 g for all: 5 g in a litre of stock, so that 0.1 g is 2 %', 'small-dose', { ...boron, rate: '2.5 g/ha' }, 'stock-product', 'g', 5],
  ['of it 1000 × 0.05 ÷ 5 = 10 mL, where 1 mL is 10 %: weakened tenfold 100 mL', 'small-dose', { ...boron, rate: '2.5 g/ha' }, 'stock-taken', 'mL', 100], // prettier-ignore
  ['100 ÷ 0.8 ÷ 0.5 = 250 seeds on the square metre', 'seeding', seed, 'seeds', '/m²', 250],
  ['250 × 40 mg = 10 g/m² = 100 kg/ha', 'seeding', seed, 'rate', 'kg/ha', 100],
  ['4 rows × 0.25 m × 5 m = 5 m²: 50 g', 'seeding', seed, 'per-plot', 'g', 50],
  ['250 × 0.25 m = 62.5 in a metre of row: 1.6 cm apart', 'seeding', seed, 'apart', 'cm', 1.6],
  ['two sown for each kept: 500', 'seeding', { ...seed, 'thinned-from': 2 }, 'seeds', '/m²', 500],
  ['all germinate and come up: as many as wanted', 'seeding', { ...seed, germination: '100 %', establishment: '100 %' }, 'seeds', '/m²', 100], // prettier-ignore
  ['1 000 000 plants/ha is 100 on the square metre', 'seeding', { ...seed, stand: '1000000 plants/ha' }, 'per-plot', 'g', 50],
  ['15 in 0.5 m of rows 25 cm apart is 120 on the square metre', 'stand', { counts: '14 16', 'row-length': '0.5 m', 'row-spacing': '25 cm' }, 'plants', '/m²', 120], // prettier-ignore
  ['lacking 50 ÷ 0.9 ÷ 0.8 = 69.44; × 20 m² × 40 mg = 55.56 g', 'replant', { stand: 60, target: 110, germination: '90 %', establishment: '80 %', 'kernel-weight': '40 g', area: 20 }, 'supplement-weight', 'g', 55.5556], // prettier-ignore
  ['50 of 110 lacking: 45.45 % of the full rate', 'replant', { stand: 60, target: 110, germination: '90 %', establishment: '80 %', 'kernel-weight': '40 g', area: 20 }, 'supplement-share', '%', 45.4545], // prettier-ignore
  ['10 mm on 50 m² ÷ 0.8 = 625 L', 'irrigation', water, 'water', 'L', 625],
  ['625 L at 25 L/min: 25 min', 'irrigation', { ...water, flow: '25 L/min' }, 'run-time', 'min', 25],
  ['2 L/h every 0.5 m, lines 1 m: 4 mm/h', 'irrigation', { ...water, emitter: '2 L/h', 'emitter-spacing': '0.5 m', 'line-spacing': '1 m' }, 'drip-rate', 'mm/h', 4], // prettier-ignore
  ['10 mm at 4 mm/h ÷ 0.8: 3.125 h', 'irrigation', { ...water, emitter: '2 L/h', 'emitter-spacing': '0.5 m', 'line-spacing': '1 m' }, 'drip-time', 'h', 3.125], // prettier-ignore
  ['an inch on an acre is 102.79 m³', 'irrigation', { depth: '1 in', area: '1 ac' }, 'water', 'm³', 102.790153],
  ['lowest two of eight 10 and 10, mean 12.625: 79.21 %', 'catch-cans', { cans: '12 14 10 15 13 12 10 15' }, 'evenness', '%', 79.2079],
  ['50 m in 30 s is 6 km/h', 'sprayer', sprayer, 'speed', 'km/h', 6],
  ['600 × 0.5 ÷ (6 × 0.5) = 100 L/ha', 'sprayer', sprayer, 'volume', 'L/ha', 100],
  [
    'for 120 L/ha 1.2 times the flow, 1.44 times the pressure',
    'sprayer',
    { ...sprayer, target: '120 L/ha' },
    'pressure-for-target',
    '',
    1.44,
  ],
  ['100 of 120 wanted: 83.33 %', 'sprayer', { ...sprayer, target: '120 L/ha' }, 'deviation', '%', 83.3333],
  ['0.2 gal/min, 3.2 mph, 20 in: 5940 × 0.2 ÷ 64 = 18.5625 gal/ac', 'sprayer', { distance: '4.6933333333 ft', times: '1', catches: '25.6 fl oz/min', spacing: '20 in' }, 'volume', 'gal/ac', 18.5625], // prettier-ignore
  ['2 kg over 40 m × 5 m = 200 m²: 100 kg/ha', 'spreader', { trays: '1 2 1', 'tray-area': 0.1, collected: '2 kg', distance: 40, swath: 5, target: 150 }, 'delivered', 'kg/ha', 100], // prettier-ignore
  ['100 for 150: to be opened 1.5 times', 'spreader', { trays: '1 2 1', 'tray-area': 0.1, collected: '2 kg', distance: 40, swath: 5, target: 150 }, 'factor', '', 1.5], // prettier-ignore
  [
    '10 kg at 20 % on 14 %: 10 × 80 ÷ 86 = 9.302 kg',
    'moisture',
    { weight: 10, moisture: '20 %', standard: '14 %' },
    'adjusted',
    'kg',
    9.302326,
  ],
  ['86 °F is 30 °C', 'temperature', { temperature: '86 °F' }, 'temperature', '°C', 30],
  ['−40 °F is −40 °C', 'temperature', { temperature: '-40 °F' }, 'temperature', '°C', -40],
]

describe('worked examples', () => {
  it('are enough of them, metric and US', () => {
    expect(EXAMPLES.length).toBeGreaterThanOrEqual(60)
  })

  it.each(EXAMPLES)('%s', (_, key, given, figure, unit, value) => {
    expect(figureOf(key, given, figure, unit)).toBeCloseTo(
      value,
      value === 0 ? 9 : Math.max(0, 4 - Math.floor(Math.log10(Math.abs(value)))),
    )
  })

  it('an area twice as large takes twice as much; US and metric come to the same', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 500, noNaN: true }),
        fc.double({ min: 1, max: 100, noNaN: true }),
        fc.double({ min: 0.5, max: 5000, noNaN: true }),
        (target, share, area) => {
          const at = (given: RawInputs): number => figureOf('fertiliser', { of: 'N', N: share, target, area, ...given }, 'per-plot', 'g')
          expect(at({ area: 2 * area }) / at({})).toBeCloseTo(2, 9)
          expect(
            at({ target: `${convert(target, 'kg/ha', 'lb/ac')} lb/ac`, area: `${convert(area, 'm²', 'ft²')} ft²` }) / at({}),
          ).toBeCloseTo(1, 9)
          expect(at({ target: `${convert(target, 'kg/ha', 'oz/100 ft²')} oz per 100 sq. ft.` }) / at({})).toBeCloseTo(1, 9)
        },
      ),
    )
  })

  it('a small dose put on by its stock is the dose, within one division, and never takes less than can be told', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.0005, max: 20, noNaN: true }),
        fc.double({ min: 1, max: 100, noNaN: true }),
        fc.integer({ min: 1, max: 40 }),
        fc.constantFrom(0.001, 0.01, 0.1, 1),
        (rate, share, plots, division) => {
          const reckoned = ask('small-dose', { rate, share, area: 10, plots, division, pipette: 1, carrier: 100_000 })
          if (!reckoned.ok) throw new Error('not worked out')
          const { figures } = reckoned
          const needed = figures['for-all']!.value
          const [stock, taken, tenfold] = [
            figures['stock-product']!.value,
            figures['stock-taken']?.value ?? 1000,
            figures['tenfold']?.value ?? 0,
          ]
          // Grams in what is taken: of a litre of stock, weakened tenfold so often.
          expect((stock * (taken / 1000)) / 10 ** tenfold).toBeCloseTo(figures['stock-taken'] ? needed : stock, 6)
          expect(stock).toBeGreaterThanOrEqual(needed - 1e-9)
          expect(Math.abs(stock / division - Math.round(stock / division))).toBeLessThan(1e-6)
          expect(figures['error-stock']!.value).toBeLessThanOrEqual(2 + 1e-6)
          if (figures['error-volume'] && tenfold < 4) expect(figures['error-volume'].value).toBeLessThanOrEqual(2 + 1e-6)
        },
      ),
    )
  })

  it('whatever is typed is told where and why, and never worked out to what is no number', () => {
    const junk = fc.oneof(
      fc.string({ maxLength: 12 }),
      fc.double(),
      fc.constantFrom('', '1 tsp', '2 handfuls', '-5', '0', '1e400', '5 kg', '10 L/ha', '12 13 x'),
    )
    fc.assert(
      fc.property(fc.constantFrom(...calculations), fc.infiniteStream(junk), (calculation, typed) => {
        const given = Object.fromEntries(calculation.inputs.map((input) => [input.key, typed.next().value as string | number]))
        const reckoned = reckon(calculation, given)
        if (reckoned.ok) for (const each of Object.values(reckoned.figures)) expect(Number.isFinite(each.value), each.label).toBe(true)
        else for (const each of reckoned.problems) expect(each.problem).toMatch(/\w.*\.$/s)
      }),
      { numRuns: 400 },
    )
    for (const calculation of calculations) {
      // The examples that are shown can be typed as they are.
      const given = Object.fromEntries(
        calculation.inputs.filter((each) => !each.optional).map((each) => [each.key, each.example.split(',')[0]!]),
      )
      const reckoned = reckon(calculation, given)
      for (const each of reckoned.ok ? [] : reckoned.problems) expect(each.input, `${calculation.key}: ${each.problem}`).toBe('')
      expect(new Set(calculation.inputs.map((each) => each.key)).size).toBe(calculation.inputs.length)
    }
  })

  it('measures taken by eye are refused with the reason; others are read as people write them', () => {
    for (const typed of ['1 tsp', '2 cups', '3 handfuls', '1 scoop']) {
      const read = parseQuantity(typed, 'g')
      expect(read.ok ? '' : read.problem).toMatch(/Weigh it, or measure its volume/)
    }
    for (const [typed, stored, value] of [
      ['120 lb/ac', 'kg/ha', 134.5021],
      ['3 oz per 100 sq ft', 'kg/ha', 91.5455],
      ['2 pt/ac', 'L/ha', 2.33849],
      ['2 lb per acre', 'kg/ha', 2.2417],
      ['5 gal/1000 sq ft', 'L/m²', 0.203728],
      ['12 /ha', 'money/ha', 12],
      ['12 /ha', '/ha', 12],
    ] as const) {
      const read = parseQuantity(typed, stored)
      expect(read.ok ? read.value : read.problem, typed).toBeCloseTo(value, 3)
    }
  })

  it('an amount of an oxide is no amount of the element: it is said what it is', () => {
    const said = (typed: string, stored = 'kg/ha'): string => {
      const read = parseQuantity(typed, stored)
      return read.ok ? String(read.value) : read.problem
    }
    expect(said('60 kg P2O5/ha')).toBe('Amounts here are of the element: 60 kg P2O5/ha is 26.19 kg P/ha. Type that.')
    expect(said('100 lb k2o/ac')).toMatch(/100 lb K2O\/ac is 83.02 lb K\/ac/)
    expect(said('26.19 kg P/ha')).toBe('26.19')
    expect(said('2 kg B/ha')).toBe('2')
  })

  it('asks back where figures contradict each other or are doubtful', () => {
    const problem = (key: string, given: RawInputs): string => {
      const reckoned = ask(key, given)
      return reckoned.ok ? reckoned.doubts.join(' ') : reckoned.problems.map((each) => each.problem).join(' ')
    }
    expect(problem('dilution', { from: 100, to: 200, volume: 5 })).toMatch(/weaker than what it is made from/)
    expect(problem('fertiliser', { of: 'P', N: 27, target: 10, area: 1 })).toMatch(/has no P/)
    expect(problem('soil', { wet: 100, dry: 120, 'bulk-density': 1, depth: 10 })).toMatch(/taken for each other/)
    expect(problem('sprayer', { ...sprayer, catches: '500 505 700' })).toMatch(/nozzle 3 \(700 mL\/min\)/)
    expect(problem('sprayer', { ...sprayer, target: '300 L/ha' })).toMatch(/more than twofold/)
    expect(problem('small-dose', boron)).toMatch(/below the 5 g\/m² that can be spread evenly dry/)
    expect(problem('spreader', { trays: '1 9 1', 'tray-area': 0.1, collected: 2, distance: 40, swath: 5, target: 150 })).toMatch(/unevenly/)
    expect(problem('catch-cans', { cans: '1 10 10 10' })).toMatch(/Uneven/)
    expect(problem('evapotranspiration', { highest: 10, lowest: 20, dampest: 80, driest: 60, wind: 2, sun: 5, latitude: 50, altitude: 0, day: 100 })).toMatch(/taken for each other/) // prettier-ignore
    expect(problem('drench', { ...drench, spoon: 3 })).toMatch(/asks nothing called “spoon”/)
  })
})
