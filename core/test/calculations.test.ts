import { describe, expect, it } from 'vitest'
import { calculationOf, reckon, type RawInputs } from '../src/amounts/index.ts'
import { convert } from '../src/quantity/index.ts'
import { expectAgreement, referenceCase } from './fixture.ts'

/** Units as the reference names them. */
const UNITS: Readonly<Record<string, string>> = {
  m2: 'm²',
  'US_ton/ac': 'ton/ac',
  'fl_oz/ac': 'fl oz/ac',
  fl_oz: 'fl oz',
  ft2: 'ft²',
  'lb/1000ft2': 'lb/1000 ft²',
  acre_inch: 'ac in',
  m3: 'm³',
  'plants/ac': '/ac',
  'plants/ha': '/ha', // prettier-ignore
  'bu/ac_barley': 'bu/ac of barley',
  'bu/ac_wheat': 'bu/ac of wheat',
  'bu/ac_lentil': 'bu/ac of lentils',
  'bu/ac_maize': 'bu/ac of maize',
  'bu/ac_oat': 'bu/ac of oats', // prettier-ignore
}
const unit = (name: string): string => UNITS[name] ?? name

type Inputs = Readonly<Record<string, string>>
interface Mapped {
  readonly calculation: string
  /** What each input is here, of what the reference gives. */
  readonly given: (from: Inputs) => RawInputs
  /** Figure and unit by the output of the reference. */
  readonly figures: Readonly<Record<string, readonly [figure: string, unit: string]>>
}

/** The reference's fertilizer analyses are N, P2O5, K2O and S. */
const analysis = (text: string): RawInputs => {
  const [N, P2O5, K2O, S] = text.split(' ')
  return { N: N!, P2O5: P2O5!, K2O: K2O!, S: S! }
}

const KINDS: Readonly<Record<string, Mapped>> = {
  temperature: {
    calculation: 'temperature',
    given: (from) => ({ temperature: `${from['fahrenheit']} °F`, 'degree-days': `${from['degree_days_f']} °F d` }),
    figures: { celsius: ['temperature', '°C'], degree_days_c: ['degree-days', '°C d'] },
  },
  moisture: {
    calculation: 'moisture',
    given: ({ weight, moisture, standard }) => ({ weight: weight!, moisture: moisture!, standard: standard! }),
    figures: { adjusted: ['adjusted', 'kg'], dry: ['dry', 'kg'], shrink_pct: ['shrink', '%'], moisture_dry_basis: ['dry-basis', '%'] },
  },
  plot_yield: {
    calculation: 'plot-yield',
    given: (from) => ({ weight: from['plot_kg']!, moisture: from['moisture']!, standard: from['standard']!, rows: from['rows']!, 'row-spacing': from['row_spacing_cm']!, length: from['length_m']! }), // prettier-ignore
    figures: { area: ['area', 'm²'], plot_kg_adjusted: ['adjusted', 'kg'], kg_per_ha: ['yield', 'kg/ha'], t_per_ha: ['yield', 't/ha'], lb_per_ac: ['yield', 'lb/ac'], bu_per_ac: ['yield', 'bushels'] }, // prettier-ignore
  },
  test_weight: {
    calculation: 'test-weight',
    given: (from) => ({ weight: from['grams']!, cup: from['cup_ml']!, 'kernel-sample': from['kernel_g']!, kernels: from['kernels']!, moisture: from['moisture']!, standard: from['standard']! }), // prettier-ignore
    figures: { kg_per_hl: ['test-weight', 'kg/hL'], lb_per_bu: ['test-weight', 'lb/bu'], tkw: ['kernel-weight', 'g'], tkw_standard: ['kernel-weight-at-standard', 'g'] }, // prettier-ignore
  },
  subsample: {
    calculation: 'subsample',
    given: (from) => ({ found: from['found']!, keep: from['keep']!, passes: from['passes']!, area: from['area_m2']!, weight: from['subsample_kg']! }), // prettier-ignore
    figures: { fraction: ['fraction', ''], total: ['total', ''], per_m2: ['per-square-metre', '/m²'], per_kg: ['per-kilogram', '/kg'], plot_kg_from_subsample: ['whole', 'kg'] }, // prettier-ignore
  },
  dry_matter: {
    calculation: 'dry-matter',
    given: (from) => ({ fresh: from['plot_fresh_kg']!, 'sample-fresh': from['sub_fresh_g']!, 'sample-dry': from['sub_dry_g']!, area: from['area_m2']!, grain: from['grain_kg']!, 'grain-moisture': from['grain_moisture']! }), // prettier-ignore
    figures: { dm_pct: ['share', '%'], dry_t_ha: ['dry', 't/ha'], grain_dry_t_ha: ['grain', 't/ha'], harvest_index: ['harvest-index', ''] },
  },
  seeding: {
    calculation: 'seeding',
    given: (from) => ({ stand: from['plants_m2']!, germination: from['germination']!, establishment: from['establishment']!, 'kernel-weight': from['tkw_g']!, purity: from['purity']!, rows: from['rows']!, 'row-spacing': from['row_spacing_cm']!, length: from['length_m']! }), // prettier-ignore
    figures: { seeds_m2: ['seeds', '/m²'], kg_ha: ['rate', 'kg/ha'], lb_ac: ['rate', 'lb/ac'], kg_ha_seed_lot: ['rate-of-lot', 'kg/ha'], g_plot: ['per-plot', 'g'], seeds_plot: ['number-per-plot', ''], g_row: ['per-row', 'g'], seeds_row_metre: ['per-metre', '/m'], in_row_spacing_cm: ['apart', 'cm'], seeds_ac: ['seeds', '/ac'] }, // prettier-ignore
  },
  stand: {
    calculation: 'stand',
    given: (from) => ({ counts: from['counts']!, 'row-length': from['row_metres']!, 'row-spacing': from['row_spacing_cm']!, target: from['target_m2']!, seeds: from['seeds_m2']!, germination: from['germination']! }), // prettier-ignore
    figures: { mean_count: ['mean-count', ''], plants_m2: ['plants', '/m²'], plants_ha: ['plants', '/ha'], plants_ac: ['plants', '/ac'], pct_of_target: ['of-target', '%'], emergence_pct: ['emergence', '%'], cv_pct: ['variation', '%'] }, // prettier-ignore
  },
  oxide: {
    calculation: 'oxide',
    given: (from) => ({ P2O5: from['p2o5']!, P: from['p']!, K2O: from['k2o']!, K: from['k']! }),
    figures: { p_from_p2o5: ['P-from-P2O5', 'kg'], p2o5_from_p: ['P2O5-from-P', 'kg'], k_from_k2o: ['K-from-K2O', 'kg'], k2o_from_k: ['K2O-from-K', 'kg'] }, // prettier-ignore
  },
  fertiliser: {
    calculation: 'fertiliser',
    given: (from) => ({ target: from['target_kg_ha']!, of: from['matched_on']!, area: from['area_m2']!, ...analysis(from['analysis']!) }),
    figures: { product_kg_ha: ['product', 'kg/ha'], product_lb_ac: ['product', 'lb/ac'], product_g_plot: ['per-plot', 'g'], product_g_m2: ['per-square-metre', 'g/m²'], supplied_n: ['supplied-N', 'kg/ha'], supplied_p2o5: ['supplied-P2O5', 'kg/ha'], supplied_k2o: ['supplied-K2O', 'kg/ha'], supplied_s: ['supplied-S', 'kg/ha'] }, // prettier-ignore
  },
  fertiliser_top_up: {
    calculation: 'top-up',
    given: (from) => {
      const { N, P2O5 } = analysis(from['analysis1']!)
      return { 'first-target': from['p2o5_target']!, 'second-target': from['n_target']!, 'first-share': P2O5!, 'other-share': N!, 'second-share': from['n_pct2']!, area: from['area_m2']! } // prettier-ignore
    },
    figures: { product1_kg_ha: ['first', 'kg/ha'], n_from_product1: ['brought', 'kg/ha'], product2_kg_ha: ['second', 'kg/ha'], product1_g_plot: ['first-per-plot', 'g'], product2_g_plot: ['second-per-plot', 'g'] }, // prettier-ignore
  },
  liquid_fertiliser: {
    calculation: 'liquid-fertiliser',
    given: (from) => ({ target: from['target_kg_ha']!, share: from['pct']!, density: from['density']!, area: from['area_m2']! }),
    figures: { l_ha: ['rate', 'L/ha'], gal_ac: ['rate', 'gal/ac'], ml_plot: ['per-plot', 'mL'] },
  },
  ppm_wv: {
    calculation: 'ppm-by-volume',
    given: (from) => ({ strength: from['ppm']!, volume: from['litres']!, label: from['pct_wv']! }),
    figures: { ai_mg: ['active', 'mg'], product_ml: ['product', 'mL'], water_ml: ['water', 'mL'], product_ml_per_l: ['per-litre', 'mL/L'], product_fl_oz_per_gal: ['per-litre', 'fl oz/gal'] }, // prettier-ignore
  },
  ppm_ww: {
    calculation: 'ppm-by-weight',
    given: (from) => ({ strength: from['ppm']!, volume: from['litres']!, label: from['pct_ww']!, density: from['density']! }),
    figures: { product_g: ['product', 'g'], product_ml: ['by-volume', 'mL'], ai_g_per_l_product: ['active-in-product', 'g/L'] },
  },
  dilution: {
    calculation: 'dilution',
    given: (from) => ({ from: from['c1']!, to: from['c2']!, volume: from['v2_ml']!, fed: from['ppm']!, ratio: from['ratio']!, share: from['pct']! }), // prettier-ignore
    figures: { stock_ml: ['stock', 'mL'], diluent_ml: ['diluent', 'mL'], stock_ppm: ['stock-strength', 'mg/L'], fertiliser_g_per_l: ['fertiliser', 'g/L'], stock_g_per_l: ['stock-fertiliser', 'g/L'] }, // prettier-ignore
  },
  bench_spray: {
    calculation: 'bench-spray',
    given: (from) => ({ benches: from['benches']!, length: from['length_m']!, width: from['width_m']!, rate: from['l_per_m2']!, extra: from['extra_pct']!, strength: from['ppm']!, label: from['pct_wv']!, pots: from['pots']! }), // prettier-ignore
    figures: { area: ['area', 'm²'], litres: ['spray', 'L'], product_ml: ['product', 'mL'], mg_ai_per_pot: ['active-per-pot', 'mg'], mg_ai_per_m2: ['active-per-square-metre', 'mg/m²'], gal_per_100_ft2: ['rate', 'gal/100 ft²'] }, // prettier-ignore
  },
  drench: {
    calculation: 'drench',
    given: (from) => ({ pots: from['pots']!, each: from['ml_per_pot']!, dead: from['dead_l']!, strength: from['ppm']!, label: from['pct_wv']!, dose: from['target_mg']! }), // prettier-ignore
    figures: { litres: ['solution', 'L'], mg_ai_per_pot: ['per-pot', 'mg'], product_ml: ['product', 'mL'], ppm_for_mg_per_pot: ['strength-for-dose', 'mg/L'] }, // prettier-ignore
  },
  sprayer: {
    calculation: 'sprayer',
    given: (from) => ({ distance: from['distance_m']!, times: from['seconds']!, catches: from['ml_min']!, spacing: from['spacing_cm']!, tank: from['tank_l']!, area: from['area_ha']!, product: from['product_l_ha']!, plot: from['plot_m2']!, 'plot-length': from['plot_length_m']!, target: from['target_l_ha']! }), // prettier-ignore
    figures: { speed_kmh: ['speed', 'km/h'], speed_mph: ['speed', 'mph'], flow_l_min: ['flow', 'L/min'], flow_cv_pct: ['flow-variation', '%'], l_ha: ['volume', 'L/ha'], gal_ac: ['volume', 'gal/ac'], ha_per_tank: ['area-per-tank', 'ha'], tank_loads: ['tank-loads', ''], product_per_tank_l: ['product-per-tank', 'L'], product_total_l: ['product-total', 'L'], mix_ml_plot: ['mix-per-plot', 'mL'], seconds_per_plot: ['time-per-plot', 's'], flow_for_target: ['flow-for-target', 'L/min'], speed_for_target: ['speed-for-target', 'km/h'] }, // prettier-ignore
  },
  sprayer_us: {
    calculation: 'sprayer',
    // A run of one mile, as long as the speed says.
    given: (from) => ({ distance: '5280 ft', times: String(3600 / Number(from['mph'])), catches: `${Number(from['gpm']) * 128} fl oz/min`, spacing: `${from['inches']} in` }), // prettier-ignore
    figures: { gal_ac: ['volume', 'gal/ac'], l_ha: ['volume', 'L/ha'] },
  },
  spreader: {
    calculation: 'spreader',
    given: (from) => ({ trays: from['pan_g']!, 'tray-area': from['pan_m2']!, collected: from['collected_kg']!, distance: from['distance_m']!, swath: from['swath_m']!, target: from['target_kg_ha']!, area: from['area_ha']! }), // prettier-ignore
    figures: { mean_kg_ha: ['mean', 'kg/ha'], cv_pct: ['variation', '%'], centre_kg_ha: ['centre', 'kg/ha'], delivered_kg_ha: ['delivered', 'kg/ha'], adjust_factor: ['factor', ''], kg_for_area: ['needed', 'kg'] }, // prettier-ignore
  },
  irrigation: {
    calculation: 'irrigation',
    given: (from) => ({ depth: from['mm']!, area: from['area_m2']!, efficiency: from['efficiency']!, flow: from['flow_l_min']!, emitter: from['emitter_l_h']!, 'emitter-spacing': from['emitter_spacing_m']!, 'line-spacing': from['line_spacing_m']!, given: from['litres_given']! }), // prettier-ignore
    figures: { litres: ['water', 'L'], m3: ['water', 'm³'], gallons: ['water', 'gal'], acre_inches: ['water', 'ac in'], minutes: ['run-time', 'min'], drip_mm_h: ['drip-rate', 'mm/h'], drip_hours: ['drip-time', 'h'], mm_from_litres: ['depth-given', 'mm'] }, // prettier-ignore
  },
  growing_degree_days: {
    calculation: 'degree-days',
    given: (from) => ({ highest: from['tmax']!, lowest: from['tmin']!, base: from['base']!, upper: from['upper']! }),
    figures: Object.fromEntries([
      ...['average', 'average_upper', 'clipped', 'sine', 'sine_upper'].map((key) => [key, [key.replace('_', '-'), '°C d']] as const),
      ...[1, 2, 3, 4, 5, 6].flatMap((day) => ['sine', 'sine_upper'].map((key) => [`day${day}_${key}`, [`day${day}-${key.replace('_', '-')}`, '°C d']] as const)), // prettier-ignore
    ]),
  },
  et0: {
    calculation: 'evapotranspiration',
    given: (from) => ({ highest: from['tmax']!, lowest: from['tmin']!, dampest: from['rhmax']!, driest: from['rhmin']!, wind: from['wind_m_s']!, height: from['wind_height_m']!, sun: from['sun_h']!, latitude: from['latitude_deg']!, altitude: from['altitude_m']!, day: from['day']!, coefficient: from['kc']! }), // prettier-ignore
    figures: { pressure: ['pressure', 'kPa'], gamma: ['gamma', ''], slope: ['slope', ''], es: ['saturation-pressure', 'kPa'], ea: ['vapour-pressure', 'kPa'], ra: ['extraterrestrial-radiation', 'MJ/m²/d'], daylight_hours: ['daylight', 'h'], rs: ['solar-radiation', 'MJ/m²/d'], rso: ['clear-sky-radiation', 'MJ/m²/d'], rnl: ['net-longwave', 'MJ/m²/d'], rn: ['net-radiation', 'MJ/m²/d'], u2: ['wind-at-2-m', 'm/s'], et0_penman_monteith: ['reference', 'mm/d'], et0_hargreaves: ['by-temperature', 'mm/d'], etc: ['crop', 'mm/d'], vpd: ['pressure-deficit', 'kPa'] }, // prettier-ignore
  },
  n_removed: {
    calculation: 'nitrogen-removed',
    given: (from) => ({ yield: from['t_ha']!, protein: from['protein']!, factor: from['factor']!, 'control-yield': from['t_ha_control']!, 'control-protein': from['protein_control']!, rate: from['n_rate']!, moisture: from['moisture']! }), // prettier-ignore
    figures: { n_kg_ha: ['nitrogen', 'kg/ha'], n_lb_ac: ['nitrogen', 'lb/ac'], n_control: ['control', 'kg/ha'], recovery_pct: ['recovery', '%'], agronomic_efficiency: ['efficiency', ''], protein_dry_basis: ['protein-dry', '%'], protein_kg_ha: ['protein', 'kg/ha'] }, // prettier-ignore
  },
  relative_to_control: {
    calculation: 'relative-to-control',
    given: (from) => ({ treated: from['treated']!, control: from['control']!, 'treated-before': from['treated_before']!, 'control-before': from['control_before']!, 'treated-dead': from['treated_mort']!, 'control-dead': from['control_mort']! }), // prettier-ignore
    figures: { pct_of_control: ['reduced-to', '%'], reduction_pct: ['reduced-by', '%'], abbott_efficacy: ['efficacy', '%'], abbott_mortality: ['mortality', '%'], henderson_tilton: ['efficacy-before-after', '%'] }, // prettier-ignore
  },
  progress_curve: {
    calculation: 'progress-curve',
    given: (from) => ({ days: from['days']!, shares: from['percent']! }),
    figures: { area: ['area', ''], standardised: ['standardised', ''], relative: ['relative', ''], logit_rate: ['rate', ''] },
  },
  growth: {
    calculation: 'growth',
    given: (from) => ({ first: from['first']!, second: from['second']!, on: from['date1']!, until: from['date2']! }),
    figures: { days: ['days', ''], per_day: ['per-day', ''], relative_growth_rate: ['relative-rate', ''], doubling_days: ['doubling', ''], day_of_year1: ['day-of-year', ''] }, // prettier-ignore
  },
  soil: {
    calculation: 'soil',
    given: (from) => ({ 'bulk-density': from['bulk']!, depth: from['depth_cm']!, test: from['ppm']!, wet: from['wet_g']!, dry: from['dry_g']! }), // prettier-ignore
    figures: { kg_ha: ['amount', 'kg/ha'], lb_ac: ['amount', 'lb/ac'], gravimetric: ['by-weight', ''], volumetric: ['by-volume', ''], water_mm: ['water', 'mm'] }, // prettier-ignore
  },
  budget: {
    calculation: 'budget',
    given: (from) => ({ yield: from['t_ha']!, 'base-yield': from['t_ha_base']!, price: from['price']!, cost: from['cost']!, 'base-cost': from['cost_base']!, premium: from['premium']!, handling: from['handling']! }), // prettier-ignore
    figures: { net: ['net', 'money/ha'], net_base: ['base-net', 'money/ha'], delta_net: ['more-net', 'money/ha'], delta_cost: ['more-cost', 'money/ha'], marginal_rate_of_return_pct: ['rate-of-return', '%'], break_even_response: ['break-even-response', 't/ha'], net_premium: ['net-with-premium', 'money/ha'], delta_net_premium: ['more-net-with-premium', 'money/ha'], marginal_rate_of_return_premium_pct: ['rate-of-return-with-premium', '%'], break_even_response_premium: ['break-even-response-with-premium', 't/ha'], break_even_price: ['break-even-price', 'money/t'], benefit_cost_ratio: ['benefit-cost', ''] }, // prettier-ignore
  },
}

describe('calculations of field and nursery', () => {
  it('agree with every worked value of the reference', () => {
    const { rows, expected } = referenceCase('m-derived')
    const items = new Map<string, { kind: string; inputs: Record<string, string> }>()
    for (const { item, kind, input, value } of rows) {
      const known = items.get(item!) ?? { kind: kind!, inputs: {} }
      known.inputs[input!] = value!
      items.set(item!, known)
    }
    const got = new Map<string, number>()
    for (const [item, { kind, inputs }] of items) {
      if (kind === 'unit') {
        got.set(`${item}.result`, convert(Number(inputs['value']), unit(inputs['from']!), unit(inputs['to']!)))
        continue
      }
      const mapped = KINDS[kind]!
      const reckoned = reckon(calculationOf(mapped.calculation)!, mapped.given(inputs))
      if (!reckoned.ok) throw new Error(`${item}: ${reckoned.problems.map((each) => each.problem).join(' ')}`)
      for (const [output, [figure, measure]] of Object.entries(mapped.figures)) {
        const known = reckoned.understood[figure]
        const worked = reckoned.figures[figure] ?? (typeof known === 'object' && 'value' in known ? known : undefined)
        if (!worked) continue
        const crop = item.split('_').at(-1)!
        const as = measure === 'bushels' ? unit(`bu/ac_${crop}`) : measure
        got.set(`${item}.${output}`, convert(worked.value, worked.unit, as))
      }
    }
    expect(got.size).toBe(expected.length)
    expectAgreement(expected, got)
  })
})
