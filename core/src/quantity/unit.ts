/**
 * The units of the trade. Every unit has an exact factor to SI base units and the
 * exponents of mass, length, time, money and temperature that make its dimension, so a product of
 * quantities can be checked before it is believed.
 *
 * Factors are exact by definition: international foot 0.3048 m, avoirdupois pound
 * 0.45359237 kg, acre 43 560 ft², US short ton 2 000 lb, US liquid gallon 231 in³.
 */
export type Dimension = readonly [mass: number, length: number, time: number, money: number, temperature: number]

export interface Unit {
  readonly symbol: string
  /** Multiply a number in this unit by this to reach SI base units (kg, m, s; money as itself). */
  readonly factor: number
  /** Of a scale that does not begin at nought: what is added then, in SI base units. */
  readonly offset?: number
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

const NONE: Dimension = [0, 0, 0, 0, 0]
const LENGTH: Dimension = [0, 1, 0, 0, 0]
const AREA: Dimension = [0, 2, 0, 0, 0]
const VOLUME: Dimension = [0, 3, 0, 0, 0]
const MASS: Dimension = [1, 0, 0, 0, 0]
const MASS_PER_AREA: Dimension = [1, -2, 0, 0, 0]
const MONEY: Dimension = [0, 0, 0, 1, 0]
const MONEY_PER_MASS: Dimension = [-1, 0, 0, 1, 0]
const MONEY_PER_VOLUME: Dimension = [0, -3, 0, 1, 0]
const MONEY_PER_AREA: Dimension = [0, -2, 0, 1, 0]
const TIME: Dimension = [0, 0, 1, 0, 0]
const MASS_PER_VOLUME: Dimension = [1, -3, 0, 0, 0]
const MASS_PER_LENGTH: Dimension = [1, -1, 0, 0, 0]
const VOLUME_PER_MASS: Dimension = [-1, 3, 0, 0, 0]
const PER_AREA: Dimension = [0, -2, 0, 0, 0]
const PER_LENGTH: Dimension = [0, -1, 0, 0, 0]
const PER_MASS: Dimension = [-1, 0, 0, 0, 0]
const SPEED: Dimension = [0, 1, -1, 0, 0]
const FLOW: Dimension = [0, 3, -1, 0, 0]
const PRESSURE: Dimension = [1, -1, -2, 0, 0]
const TEMPERATURE: Dimension = [0, 0, 0, 0, 1]
const WARMTH: Dimension = [0, 0, 1, 0, 1]
const ENERGY_PER_AREA_AND_TIME: Dimension = [1, 0, -3, 0, 0]
const DAY = 86400
const bushel = 2150.42 * inch ** 3
const mile = 5280 * foot
/** Pounds of a bushel of each crop, by custom of trade. */
const BUSHELS: readonly (readonly [crop: string, pounds: number])[] = [
  ['barley', 48],
  ['wheat', 60],
  ['lentils', 60],
  ['maize', 56],
  ['oats', 32],
]

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
  unit('m³', 1, VOLUME, ['m3', 'cubic metres', 'cubic meters']),
  unit('ac in', acre * inch, VOLUME, ['acre inch', 'acre inches', 'acre-inch', 'acre-inches']),
  unit('bu', bushel, VOLUME, ['bushel', 'bushels']),
  unit('qt', gallon / 4, VOLUME, ['quart', 'quarts']),
  unit('pt', gallon / 8, VOLUME, ['pint', 'pints']),
  unit('gal', gallon, VOLUME, ['gallon', 'gallons']),
  unit('fl oz', gallon / 128, VOLUME, ['fluid ounce', 'fluid ounces']),
  unit('d', DAY, TIME, ['day', 'days']),
  unit('wk', 7 * DAY, TIME, ['week', 'weeks']),
  unit('h', 3600, TIME, ['hour', 'hours']),
  unit('min', 60, TIME, ['minute', 'minutes']),
  unit('s', 1, TIME, ['second', 'seconds', 'sec']),
  unit('km/h', 1 / 3.6, SPEED, ['kph', 'kmh']),
  unit('m/s', 1, SPEED),
  unit('mph', mile / 3600, SPEED, ['miles/hour', 'miles/h']),
  unit('mm/h', 0.001 / 3600, SPEED),
  unit('in/h', inch / 3600, SPEED),
  unit('mm/d', 0.001 / DAY, SPEED),
  unit('in/d', inch / DAY, SPEED),
  unit('L/min', 0.001 / 60, FLOW, ['l/min']),
  unit('mL/min', 1e-6 / 60, FLOW, ['ml/min']),
  unit('L/h', 0.001 / 3600, FLOW, ['l/h']),
  unit('gal/min', gallon / 60, FLOW, ['gpm']),
  unit('gal/h', gallon / 3600, FLOW, ['gph']),
  unit('fl oz/min', gallon / 128 / 60, FLOW),
  unit('kPa', 1000, PRESSURE),
  unit('bar', 100000, PRESSURE, ['bars']),
  unit('psi', (pound * 9.80665) / (inch * inch), PRESSURE),
  unit('°C', 1, TEMPERATURE, ['c', 'degc', 'celsius']),
  { ...unit('°F', 5 / 9, TEMPERATURE, ['f', 'degf', 'fahrenheit']), offset: -160 / 9 },
  unit('°C d', DAY, WARMTH),
  unit('°F d', (5 / 9) * DAY, WARMTH),
  unit('MJ/m²/d', 1e6 / DAY, ENERGY_PER_AREA_AND_TIME),
  unit('mg/L', 0.001, MASS_PER_VOLUME, ['mg/litre', 'ppm']),
  unit('g/L', 1, MASS_PER_VOLUME, ['g/litre']),
  unit('kg/L', 1000, MASS_PER_VOLUME, ['kg/l', 'g/ml']),
  unit('% w/v', 10, MASS_PER_VOLUME, ['%w/v', 'g/100 ml', 'g/100ml']),
  unit('lb/gal', pound / gallon, MASS_PER_VOLUME),
  unit('kg/hL', 10, MASS_PER_VOLUME, ['kg/hl']),
  unit('lb/bu', pound / bushel, MASS_PER_VOLUME, ['lb/bushel']),
  unit('mL/L', 0.001, NONE, ['ml/l']),
  unit('fl oz/gal', 1 / 128, NONE),
  unit('g/m', 0.001, MASS_PER_LENGTH, ['g/m of row', 'g/metre', 'g/meter']),
  unit('oz/1000 ft', pound / 16 / (1000 * foot), MASS_PER_LENGTH, ['oz/1000 ft of row', 'oz/1000 row ft']),
  unit('mL/m', 1e-6, AREA, ['ml/m', 'ml/m of row', 'ml/metre', 'ml/meter']),
  unit('fl oz/1000 ft', gallon / 128 / (1000 * foot), AREA, ['fl oz/1000 ft of row', 'fl oz/1000 row ft']),
  unit('mL/kg', 1e-6, VOLUME_PER_MASS, ['ml/kg']),
  unit('L/t', 1e-6, VOLUME_PER_MASS, ['l/t']),
  unit('fl oz/cwt', gallon / 128 / (100 * pound), VOLUME_PER_MASS, ['fl oz/100 lb']),
  unit('oz/cwt', 1 / 1600, NONE, ['oz/100 lb']),
  unit('/kg', 1, PER_MASS),
  unit('/lb', 1 / pound, PER_MASS),
  unit('oz/gal', pound / 16 / gallon, MASS_PER_VOLUME),
  unit('/m²', 1, PER_AREA, ['/m2', 'plants/m2', 'seeds/m2', 'plants/m²', 'seeds/m²']),
  unit('/ft²', 1 / (foot * foot), PER_AREA, ['/ft2', 'plants/ft2', 'seeds/ft2']),
  unit('/m', 1, PER_LENGTH, ['plants/m', 'seeds/m']),
  unit('/ft', 1 / foot, PER_LENGTH, ['plants/ft', 'seeds/ft']),
  unit('/ha', 1 / hectare, PER_AREA, ['plants/ha', 'seeds/ha']),
  unit('/ac', 1 / acre, PER_AREA, ['plants/ac', 'seeds/ac', 'plants/acre', 'seeds/acre']),
  unit('L/m²', 0.001, LENGTH, ['l/m2', 'l/m²']),
  unit('mL/ha', 1e-6 / hectare, LENGTH, ['ml/ha']),
  unit('fl oz/ac', gallon / 128 / acre, LENGTH, ['fl oz/acre']),
  unit('pt/ac', gallon / 8 / acre, LENGTH, ['pt/acre']),
  unit('qt/ac', gallon / 4 / acre, LENGTH, ['qt/acre']),
  unit('gal/100 ft²', gallon / (100 * foot * foot), LENGTH, ['gal/100 ft2', 'gal/100 sq ft']),
  unit('gal/1000 ft²', gallon / (1000 * foot * foot), LENGTH, ['gal/1000 ft2', 'gal/1000 sq ft']),
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
  unit('mg/m²', 1e-6, MASS_PER_AREA, ['mg/m2']),
  unit('g/ha', 0.001 / hectare, MASS_PER_AREA, ['g/hectare']),
  unit('oz/ac', pound / 16 / acre, MASS_PER_AREA, ['oz/acre']),
  unit('cwt/ac', (100 * pound) / acre, MASS_PER_AREA, ['cwt/acre']),
  unit('oz/100 ft²', pound / 16 / (100 * foot * foot), MASS_PER_AREA, ['oz/100 ft2', 'oz/100 sq ft', 'oz per 100 sq ft']),
  unit('lb/100 ft²', pound / (100 * foot * foot), MASS_PER_AREA, ['lb/100 ft2', 'lb/100 sq ft', 'lb per 100 sq ft']),
  unit('lb/1000 ft²', pound / (1000 * foot * foot), MASS_PER_AREA, ['lb/1000 ft2', 'lb/1000 sq ft', 'lb per 1000 sq ft']),
  unit('kg/ha', 1 / hectare, MASS_PER_AREA, ['kg ha-1', 'kg/hectare', 'kgha']),
  unit('t/ha', 1000 / hectare, MASS_PER_AREA, ['t ha-1', 'tonnes/ha', 'tonne/ha']),
  unit('lb/ac', pound / acre, MASS_PER_AREA, ['lb/acre', 'lbs/ac', 'lbs/acre', 'lb ac-1']),
  unit('ton/ac', (2000 * pound) / acre, MASS_PER_AREA, ['ton/acre', 'tons/ac', 'tons/acre']),
  unit('money', 1, MONEY),
  unit('money/t', 1 / 1000, MONEY_PER_MASS, ['/t']),
  unit('money/kg', 1, MONEY_PER_MASS, ['/kg']),
  unit('money/L', 1000, MONEY_PER_VOLUME, ['/l']),
  unit('money/gal', 1 / gallon, MONEY_PER_VOLUME, ['/gal']),
  unit('money/m³', 1, MONEY_PER_VOLUME, ['/m³', '/m3']),
  unit('money/ton', 1 / (2000 * pound), MONEY_PER_MASS, ['/ton']),
  unit('money/lb', 1 / pound, MONEY_PER_MASS, ['/lb']),
  unit('money/ha', 1 / hectare, MONEY_PER_AREA, ['/ha']),
  ...BUSHELS.map(([crop, pounds]) => unit(`bu/ac of ${crop}`, (pounds * pound) / acre, MASS_PER_AREA, [`bu/acre of ${crop}`])),
  unit('money/ac', 1 / acre, MONEY_PER_AREA, ['/ac', '/acre']),
]

const bySymbol = new Map(UNITS.map((each) => [each.symbol, each]))
const byAlias = new Map<string, Unit[]>()
for (const each of UNITS) for (const alias of each.aliases) byAlias.set(alias, [...(byAlias.get(alias) ?? []), each])

/** The unit with this symbol. Throws RangeError when there is none: a programming or file error. */
export function unitOf(symbol: string): Unit {
  const found = bySymbol.get(symbol)
  if (!found) throw new RangeError(`Unknown unit "${symbol}"`)
  return found
}

export function isUnit(symbol: string): boolean {
  return bySymbol.has(symbol)
}

/**
 * The unit a person meant by what they typed, or undefined. Case and blanks do not matter. What is said of
 * several (`/ha`: of money, or of plants) is the one that measures what `like` does.
 */
export function findUnit(typed: string, like?: string): Unit | undefined {
  const text = typed.trim()
  const plain = text.toLowerCase().replace(/\s+/g, ' ')
  // “oz per 100 sq. ft.” is oz/100 ft².
  const brief = plain
    .replace(/ ?\bper\b ?/g, '/')
    .replace(/ ?\/ ?/g, '/')
    .replace(/\b(sq\.? ?(ft|feet|foot)\.?|square (feet|foot))/g, 'ft2')
    .replace(/\bacres?\b/g, 'ac')
  const found = byAlias.get(plain) ?? byAlias.get(brief) ?? []
  const fitting = like === undefined ? undefined : found.find((each) => sameMeasure(each.symbol, like))
  return fitting ?? bySymbol.get(text) ?? found[0]
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
  return (value * a.factor + (a.offset ?? 0) - (b.offset ?? 0)) / b.factor
}

/** Whether two units measure the same thing, so that one can be converted to the other. */
export function sameMeasure(a: string, b: string): boolean {
  return isUnit(a) && isUnit(b) && sameDimension(unitOf(a).dimension, unitOf(b).dimension)
}
