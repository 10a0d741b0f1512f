import { convert } from './unit.ts'

/** How a person reads and types quantities; everything is stored in the metric unit. */
export type UnitSystem = 'metric' | 'us'

/** The US customary unit used at input and output for each stored metric unit of the trade. */
const US: Readonly<Record<string, string>> = {
  m: 'ft',
  cm: 'in',
  mm: 'in',
  'm²': 'ft²',
  ha: 'ac',
  g: 'oz',
  kg: 'lb',
  t: 'ton',
  'kg/ha': 'lb/ac',
  't/ha': 'ton/ac',
  'money/t': 'money/ton',
  'money/kg': 'money/lb',
  'money/ha': 'money/ac',
  'money/L': 'money/gal',
  L: 'gal',
  mL: 'fl oz',
  'L/ha': 'gal/ac',
  'g/L': 'oz/gal',
  'g/m': 'oz/1000 ft',
  'mL/m': 'fl oz/1000 ft',
  'mL/kg': 'fl oz/cwt',
  '/m²': '/ft²',
  '/m': '/ft',
  '/ha': '/ac',
  '/kg': '/lb',
  'L/m²': 'gal/100 ft²',
  'mL/ha': 'fl oz/ac',
  'g/ha': 'oz/ac',
  'kg/L': 'lb/gal',
  'kg/hL': 'lb/bu',
  'mL/L': 'fl oz/gal',
  'km/h': 'mph',
  'mm/h': 'in/h',
  'mm/d': 'in/d',
  'L/min': 'gal/min',
  'mL/min': 'fl oz/min',
  'L/h': 'gal/h',
  kPa: 'psi',
  'm³': 'ac in',
  '°C': '°F',
  '°C d': '°F d',
}

/** The unit a person of this system sees for a stored unit. */
export function shownUnit(stored: string, system: UnitSystem): string {
  return system === 'us' ? (US[stored] ?? stored) : stored
}

/** A stored number as a person of this system sees it, with its unit. */
export function shown(value: number, stored: string, system: UnitSystem): { value: number; unit: string } {
  const unit = shownUnit(stored, system)
  return { value: convert(value, stored, unit), unit }
}
