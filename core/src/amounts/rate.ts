import { findUnit, formatPlain, parseQuantity, sameMeasure, withUnit } from '../quantity/index.ts'
import { Nutrient, type Dose } from '../trial/index.ts'

/** What a rate is by: which decides how it becomes an amount for one plot or pot. */
export type RateBasis = 'area' | 'row' | 'seed' | 'solution' | 'unit'

/** One way a rate can be measured. */
interface RateMeasure {
  readonly like: string
  readonly basis: RateBasis
  /** What it is an amount of. */
  readonly gives: 'mass' | 'volume' | 'count'
  readonly example: string
}

/** All ways; adding one is a line here. What is a share is of the seed, or of the solution where there is one. */
const MEASURES: readonly RateMeasure[] = [
  { like: 'kg/ha', basis: 'area', gives: 'mass', example: '120 kg/ha' },
  { like: 'mm', basis: 'area', gives: 'volume', example: '2 L/ha or 20 mm' },
  { like: '/m²', basis: 'area', gives: 'count', example: '300 seeds/m²' },
  { like: 'g/m', basis: 'row', gives: 'mass', example: '5 g/m of row' },
  { like: 'mL/m', basis: 'row', gives: 'volume', example: '2 mL/m of row' },
  { like: '/m', basis: 'row', gives: 'count', example: '12 seeds/m' },
  { like: 'mL/kg', basis: 'seed', gives: 'volume', example: '4 mL/kg seed' },
  { like: 'mg/L', basis: 'solution', gives: 'mass', example: '15 ppm' },
  { like: 'g', basis: 'unit', gives: 'mass', example: '5 g/plant' },
  { like: 'mL', basis: 'unit', gives: 'volume', example: '50 mL/pot' },
]

/** How a measure becomes an amount. Of a share it depends on whether there is a solution it is a share of. */
export function rateBasis({ measure, carrier }: Pick<Dose, 'measure' | 'carrier'>): Pick<RateMeasure, 'basis' | 'gives'> | null {
  if (sameMeasure(measure, '%'))
    return carrier
      ? { basis: 'solution', gives: 'volume' }
      : measure === ''
        ? { basis: 'unit', gives: 'count' }
        : { basis: 'seed', gives: 'mass' }
  return MEASURES.find(({ like }) => sameMeasure(like, measure)) ?? null
}

/** Whether it is so much for each plant, pot or plot, and no rate by area, row or seed. */
export function byEach({ measure, carrier }: Pick<Dose, 'measure' | 'carrier'>): boolean {
  const basis = rateBasis({ measure, carrier })?.basis
  return basis === 'unit' || (basis === 'solution' && rateBasis({ measure: carrier!.measure, carrier: null })?.basis === 'unit')
}

export type ParsedRate =
  { ok: true; amount: number; measure: string; per: Dose['per']; of: Nutrient | null } | { ok: false; problem: string }

const EACH = /\s*(?:\/|\bper\b|\ba\b)\s*(plant|tree|pot|plot|bed|tray|container|unit)s?\s*$/i
const COUNTED = /^\s*(seeds?|plants?|bulbs?|tubers?|corms?|cuttings?|packs?|tablets?|pellets?)\b/i
const SEED = /(\/\s*(?:kg|t|100 lb|cwt))\s*(?:of\s+)?seeds?\s*$/i
const NAMED = /^([\d\s.,+\u2212-]+\s*\S+?)\s+(n|p|k|s|mg|ca|zn|b|fe|mn|cu|na|cl)\s*\//i

/**
 * A rate as a person types it: `40 kg P/ha`, `120 lb/ac`, `3 oz per 100 sq ft`, `15 ppm`, `5 g/plant`,
 * `300 seeds/m²`, `4 mL/kg seed`. It is kept in the measure it was typed in.
 */
export function parseRate(text: string, assumed = ''): ParsedRate {
  const each = EACH.exec(text)
  const bare = (each ? text.slice(0, each.index) : text).replace(SEED, '$1').trim()
  const number = /^[+\u2212-]?[\d\s\u00a0\u202f]*(?:[.,]\d+)?(?:e[+\u2212-]?\d+)?/i.exec(bare)?.[0] ?? ''
  const rest = bare.slice(number.length).trim()
  // A nutrient inside a rate says what it is of; one counts seeds and plants by name.
  const plain = rest.replace(/\s+(n|p|k|s|mg|ca|zn|b|fe|mn|cu|na|cl)\s*(?=\/)/i, '')
  const counted = each && COUNTED.test(plain) ? '' : plain
  const unit = counted === '' ? (each ? { symbol: '' } : { symbol: assumed }) : (findUnit(counted, '/m²') ?? findUnit(counted))
  const parsed = parseQuantity(each && COUNTED.test(plain) ? number : bare, unit?.symbol ?? 'kg/ha')
  if (!parsed.ok) return parsed
  if (parsed.value < 0) return { ok: false, problem: 'A rate cannot be negative.' }
  const measure = unit!.symbol
  if (!rateBasis({ measure, carrier: null }) || (measure === '' && !each))
    return { ok: false, problem: `A rate says for what it is: ${MEASURES.map((each) => each.example).join(', ')}.` }
  const named = NAMED.exec(text)?.[2]?.toLowerCase()
  return {
    ok: true,
    amount: parsed.value,
    measure,
    per: each && /plant|tree/i.test(each[1]!) ? 'plant' : 'unit',
    of: Nutrient.options.find((symbol) => symbol.toLowerCase() === named) ?? null,
  }
}

/** A rate as it is read: `5 g a plant`, `40 kg P/ha`. */
export function rateInWords({
  amount,
  measure,
  per,
  of,
  carrier,
}: Pick<Dose, 'measure' | 'per' | 'of' | 'carrier'> & { readonly amount: number }): string {
  const basis = rateBasis({ measure, carrier })?.basis
  const told = withUnit(formatPlain(amount, 6), measure, Nutrient.safeParse(of).success ? of : undefined)
  return basis === 'unit' ? `${told} a ${per === 'plant' ? 'plant' : 'unit'}` : basis === 'seed' ? `${told} of seed` : told
}

/** A rate as it can be typed again, and is understood as the same: `5 g/plant`. */
export function typedRate({
  amount,
  measure,
  per,
  carrier,
}: Pick<Dose, 'measure' | 'per' | 'carrier'> & { readonly amount: number }): string {
  const each = rateBasis({ measure, carrier })?.basis === 'unit' ? `/${per === 'plant' ? 'plant' : 'plot'}` : ''
  return `${formatPlain(amount, 9)} ${measure}${each}`
}
