import { shown, type UnitSystem } from './system.ts'

const THIN_SPACE = '\u202f'
const MINUS = '\u2212'

/**
 * A number for reading: `digits` significant figures, a power of ten only where zeros would be counted,
 * thousands set apart by a thin space, a true minus sign. Not finite numbers read as a dash.
 */
export function formatNumber(value: number, digits = 3): string {
  if (!Number.isFinite(value)) return '–'
  if (value === 0) return '0'
  const size = Math.abs(value)
  if (size < 1e-9 || size >= 1e15) return formatScientific(value, digits)
  const before = Math.floor(Math.log10(size)) + 1
  return formatFixed(value, Math.min(11, Math.max(0, digits - before)))
}

/** An estimate to the place where its standard error has its third figure, as that is shown beside it. */
export function formatByError(value: number, se: number): string {
  if (!Number.isFinite(value) || !(se > 0) || !Number.isFinite(se)) return formatNumber(value, 4)
  const decimals = 2 - Math.floor(Math.log10(se))
  if (decimals > 9 || Math.abs(value) >= 1e15)
    return formatScientific(value, Math.max(1, Math.floor(Math.log10(Math.abs(value) || se)) + decimals + 1))
  return decimals >= 0 ? formatFixed(value, decimals) : formatFixed(Math.round(value * 10 ** decimals) / 10 ** decimals, 0)
}

const RAISED = '⁰¹²³⁴⁵⁶⁷⁸⁹'

/** `3.2 × 10⁻⁹`. */
function formatScientific(value: number, digits: number): string {
  const [figures = '0', power = '0'] = Math.abs(value)
    .toExponential(Math.min(16, Math.max(0, digits - 1)))
    .split('e')
  return `${value < 0 ? MINUS : ''}${figures} × 10${inRaised(Number(power))}`
}

/** A number with a fixed count of decimals, in the same typography as `formatNumber`. */
export function formatFixed(value: number, decimals: number): string {
  if (!Number.isFinite(value)) return '–'
  const text = Math.abs(value).toFixed(decimals)
  const [whole = '0', fraction] = text.split('.')
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, THIN_SPACE) : whole
  const sign = value < 0 && Number(text) !== 0 ? MINUS : ''
  return sign + grouped + (fraction ? `.${fraction}` : '')
}

/** Shortest plain form of a number as typed: up to `digits` significant figures, no padding zeros; what stands before the point is never rounded away. */
export function formatPlain(value: number, digits = 6): string {
  if (!Number.isFinite(value)) return '–'
  const before = Math.min(15, Math.floor(Math.log10(Math.abs(value) || 1)) + 1)
  return String(Number(value.toPrecision(Math.max(digits, before)))).replace('-', MINUS)
}

/** `%` and currency units close up or lead; all others follow the number after a blank. */
export function withUnit(text: string, unit: string, of?: string, currency = '€'): string {
  if (unit === '' || unit === 'score') return text
  if (unit.startsWith('money')) return `${currency}${text}${unit.slice('money'.length)}`
  const named = of ? unit.replace(/^(\w+)/, `$1 ${of}`) : unit
  return unit === '%' ? `${text} %` : `${text} ${named}`
}

/** A stored quantity as a person of this system reads it, e.g. `1.25 t/ha` or `0.558 ton/ac`. */
export function formatQuantity(
  value: number,
  stored: string,
  system: UnitSystem,
  options: { digits?: number; of?: string; currency?: string; plain?: boolean } = {},
): string {
  const out = shown(value, stored, system)
  // A figure somebody set is read as it was set; a computed one to the digits it is worth.
  const text = options.plain ? formatPlain(out.value, options.digits ?? 5) : formatNumber(out.value, options.digits ?? 3)
  return withUnit(text, out.unit, options.of, options.currency)
}

/** Levels people set: a p that only rounding puts on one of them is read further. */
const USUAL_LEVELS = [0.001, 0.01, 0.025, 0.05, 0.1]

/**
 * A p value as it is read: three decimals, `< 0.001` and `> 0.999` at the ends, and so many more where
 * rounding would put it on a usual level it does not have: 0.0499 and 0.0501 are not one figure.
 */
export function formatP(p: number): string {
  if (!Number.isFinite(p)) return '–'
  if (p < 0.001) return '< 0.001'
  if (p > 0.9995) return '> 0.999'
  for (let decimals = 3; decimals < 9; decimals++) {
    const text = p.toFixed(decimals)
    if (!USUAL_LEVELS.includes(Number(text)) || Number(text) === p) return text
  }
  return p.toFixed(9)
}

/** A level as per cent of confidence: 95, 97.5, 99.9. */
export function formatConfidence(level: number): string {
  return formatPlain(100 * (1 - level), 6)
}

/**
 * Numbers that stand together, all to the place their standard error tells: where it has its second
 * figure if that begins with 1 or 2 after rounding, else its first. A power of ten where zeros would be
 * counted. Without an error, four significant figures of the largest.
 */
export function formatTogether(values: readonly number[], se: number): string[] {
  const known = values.filter(Number.isFinite)
  const largest = Math.max(0, ...known.map(Math.abs))
  // An error that is no more than rounding tells no place.
  const decimals = se > 1e-9 * largest && Number.isFinite(se) ? placeOf(se) : largest > 0 ? 3 - Math.floor(Math.log10(largest)) : 0
  if (decimals > 7 || largest >= 1e9) {
    const exponent = largest > 0 ? Math.floor(Math.log10(largest)) : 0
    const places = Math.min(12, Math.max(0, decimals + exponent))
    const raised = inRaised(exponent)
    return values.map((value) =>
      Number.isFinite(value) ? (value === 0 ? '0' : `${formatFixed(value / 10 ** exponent, places)} × 10${raised}`) : '–',
    )
  }
  const round = 10 ** Math.min(0, decimals)
  return values.map((value) => formatFixed(decimals < 0 ? Math.round(value * round) / round : value, Math.max(0, decimals)))
}

/** Decimals an estimate is worth beside its standard error. */
function placeOf(se: number): number {
  const rounded = Number(se.toPrecision(2))
  const power = Math.floor(Math.log10(rounded) + 1e-9)
  return (rounded / 10 ** power < 2.95 ? 1 : 0) - power
}

function inRaised(power: number): string {
  return `${power < 0 ? '⁻' : ''}${[...String(Math.abs(power))].map((each) => RAISED[Number(each)]).join('')}`
}
