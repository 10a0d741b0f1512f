/**
 * The units of the trade. Every unit has an exact factor to SI base units and the
 * exponents of mass, length, time and money that make its dimension, so a product of
 * quantities can be checked before it is believed.
 *
 * Factors are exact by definition: international foot 0.3048 m, avoirdupois pound
 * 0.45359237 kg, acre 43 560 ft², US short ton 2 000 lb, US liquid gallon 231 in³.
 */
export type Dimension = readonly [mass: number, length: number, time: number, money: number]

export interface Unit {
  readonly symbol: string
  /** Multiply a number in this unit by this to reach SI base units (kg, m, s; money as itself). */
  readonly factor: number
  readonly dimension: Dimension
  /** Other ways people type it, lower case. */
  readonly aliases: readonly string[]
}

const foot = 0.3048
const inch = foot / 12
const pound = 0.45359237
const acre = 43560 * foot * foot
const gallon = 231 * inch ** 3
const hectare = 10000

const NONE: Dimension = [0, 0, 0, 0]
const LENGTH: Dimension = [0, 1, 0, 0]
const AREA: Dimension = [0, 2, 0, 0]
const VOLUME: Dimension = [0, 3, 0, 0]
const MASS: Dimension = [1, 0, 0, 0]
const MASS_PER_AREA: Dimension = [1, -2, 0, 0]
const MONEY: Dimension = [0, 0, 0, 1]
const MONEY_PER_MASS: Dimension = [-1, 0, 0, 1]
const MONEY_PER_AREA: Dimension = [0, -2, 0, 1]
const TIME: Dimension = [0, 0, 1, 0]
const MASS_PER_VOLUME: Dimension = [1, -3, 0, 0]
const PER_AREA: Dimension = [0, -2, 0, 0]
const PER_LENGTH: Dimension = [0, -1, 0, 0]
const DAY = 86400

function unit(symbol: string, factor: number, dimension: Dimension, aliases: string[] = []): Unit {
  return { symbol, factor, dimension, aliases: [symbol.toLowerCase(), ...aliases] }
}

const UNITS: readonly Unit[] = [
  unit('', 1, NONE),
  unit('%', 0.01, NONE, ['percent', 'per cent', 'pct']),
  unit('score', 1, NONE, ['points']),
  unit('mg/kg', 1e-6, NONE),
  unit('g/kg', 1e-3, NONE),
  unit('mm', 0.001, LENGTH, ['millimetre', 'millimetres', 'millimeter', 'millimeters']),
  unit('cm', 0.01, LENGTH, ['centimetre', 'centimetres', 'centimeter', 'centimeters']),
  unit('m', 1, LENGTH, ['metre', 'metres', 'meter', 'meters']),
  unit('in', inch, LENGTH, ['inch', 'inches', '"']),
  unit('ft', foot, LENGTH, ['foot', 'feet', "'"]),
  unit('m²', 1, AREA, ['m2', 'm^2', 'sqm', 'sq m', 'square metres', 'square meters']),
  unit('ha', hectare, AREA, ['hectare', 'hectares']),
  unit('ft²', foot * foot, AREA, ['ft2', 'ft^2', 'sqft', 'sq ft', 'square feet']),
  unit('ac', acre, AREA, ['acre', 'acres']),
  unit('L', 0.001, VOLUME, ['l', 'litre', 'litres', 'liter', 'liters']),
  unit('mL', 1e-6, VOLUME, ['ml', 'millilitre', 'millilitres', 'milliliter', 'milliliters']),
  unit('gal', gallon, VOLUME, ['gallon', 'gallons']),
  unit('fl oz', gallon / 128, VOLUME, ['fluid ounce', 'fluid ounces']),
  unit('d', DAY, TIME, ['day', 'days']),
  unit('wk', 7 * DAY, TIME, ['week', 'weeks']),
  unit('h', 3600, TIME, ['hour', 'hours']),
  unit('mg/L', 0.001, MASS_PER_VOLUME, ['mg/litre', 'ppm']),
  unit('g/L', 1, MASS_PER_VOLUME, ['g/litre']),
  unit('oz/gal', pound / 16 / gallon, MASS_PER_VOLUME),
  unit('/m²', 1, PER_AREA, ['/m2', 'plants/m2', 'seeds/m2', 'plants/m²', 'seeds/m²']),
  unit('/ft²', 1 / (foot * foot), PER_AREA, ['/ft2', 'plants/ft2', 'seeds/ft2']),
  unit('/m', 1, PER_LENGTH, ['plants/m', 'seeds/m']),
  unit('/ft', 1 / foot, PER_LENGTH, ['plants/ft', 'seeds/ft']),
  unit('L/ha', 0.001 / hectare, LENGTH, ['l/ha', 'litres/ha']),
  unit('gal/ac', gallon / acre, LENGTH, ['gal/acre', 'gpa']),
  unit('mg', 1e-6, MASS),
  unit('g', 0.001, MASS, ['gram', 'grams']),
  unit('kg', 1, MASS, ['kilogram', 'kilograms', 'kilo', 'kilos']),
  unit('t', 1000, MASS, ['tonne', 'tonnes']),
  unit('oz', pound / 16, MASS, ['ounce', 'ounces']),
  unit('lb', pound, MASS, ['lbs', 'pound', 'pounds']),
  unit('ton', 2000 * pound, MASS, ['tons', 'short ton', 'short tons']),
  unit('g/m²', 0.001, MASS_PER_AREA, ['g/m2', 'g/sqm']),
  unit('kg/ha', 1 / hectare, MASS_PER_AREA, ['kg ha-1', 'kg/hectare', 'kgha']),
  unit('t/ha', 1000 / hectare, MASS_PER_AREA, ['t ha-1', 'tonnes/ha', 'tonne/ha']),
  unit('lb/ac', pound / acre, MASS_PER_AREA, ['lb/acre', 'lbs/ac', 'lbs/acre', 'lb ac-1']),
  unit('ton/ac', (2000 * pound) / acre, MASS_PER_AREA, ['ton/acre', 'tons/ac', 'tons/acre']),
  unit('money', 1, MONEY),
  unit('money/t', 1 / 1000, MONEY_PER_MASS, ['/t']),
  unit('money/kg', 1, MONEY_PER_MASS, ['/kg']),
  unit('money/ton', 1 / (2000 * pound), MONEY_PER_MASS, ['/ton']),
  unit('money/lb', 1 / pound, MONEY_PER_MASS, ['/lb']),
  unit('money/ha', 1 / hectare, MONEY_PER_AREA, ['/ha']),
  unit('money/ac', 1 / acre, MONEY_PER_AREA, ['/ac', '/acre']),
]

const bySymbol = new Map(UNITS.map((each) => [each.symbol, each]))
const byAlias = new Map(UNITS.flatMap((each) => each.aliases.map((alias) => [alias, each] as const)))

/** The unit with this symbol. Throws RangeError when there is none: a programming or file error. */
export function unitOf(symbol: string): Unit {
  const found = bySymbol.get(symbol)
  if (!found) throw new RangeError(`Unknown unit "${symbol}"`)
  return found
}

export function isUnit(symbol: string): boolean {
  return bySymbol.has(symbol)
}

/** The unit a person meant by what they typed, or undefined. Case and blanks do not matter. */
export function findUnit(typed: string): Unit | undefined {
  const text = typed.trim()
  return bySymbol.get(text) ?? byAlias.get(text.toLowerCase().replace(/\s+/g, ' '))
}

export function sameDimension(a: Dimension, b: Dimension): boolean {
  return a.every((exponent, i) => exponent === b[i])
}

/** Converts a number between units of one dimension. Throws RangeError when they differ. */
export function convert(value: number, from: string, to: string): number {
  if (from === to) return value
  const a = unitOf(from)
  const b = unitOf(to)
  if (!sameDimension(a.dimension, b.dimension)) throw new RangeError(`Cannot convert ${from} to ${to}`)
  return (value * a.factor) / b.factor
}

/** Whether two units measure the same thing, so that one can be converted to the other. */
export function sameMeasure(a: string, b: string): boolean {
  return isUnit(a) && isUnit(b) && sameDimension(unitOf(a).dimension, unitOf(b).dimension)
}
