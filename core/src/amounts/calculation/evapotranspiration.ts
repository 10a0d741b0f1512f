import { times, workedBy, workedProduct, type Worked } from '../../quantity/index.ts'
import type { Calculation } from './calculation.ts'

/** Vapour pressure at saturation, kPa, of air at a temperature in °C (FAO 56, equation 11). */
function saturation(temperature: number): number {
  return 0.6108 * Math.exp((17.27 * temperature) / (temperature + 237.3))
}

/** One day's weather: °C, %, m/s at a height in m, hours of sun; where in degrees (south below nought) and m above the sea; day of the year. */
interface DayOfWeather {
  readonly highest: number
  readonly lowest: number
  readonly dampest: number
  readonly driest: number
  readonly wind: number
  readonly height: number
  readonly sun: number
  readonly latitude: number
  readonly altitude: number
  readonly day: number
}

/** Reference evapotranspiration of a day and what it is made of (R. G. Allen and others, FAO Irrigation and Drainage Paper 56, 1998; equation numbers are of it). */
function referenceEvapotranspiration(of: DayOfWeather) {
  const mean = (of.highest + of.lowest) / 2
  const pressure = 101.3 * ((293 - 0.0065 * of.altitude) / 293) ** 5.26 // 7
  const gamma = 0.665e-3 * pressure // 8
  const es = (saturation(of.highest) + saturation(of.lowest)) / 2 // 12
  const slope = (4098 * saturation(mean)) / (mean + 237.3) ** 2 // 13
  const ea = (saturation(of.lowest) * of.dampest + saturation(of.highest) * of.driest) / 200 // 17
  const angle = (2 * Math.PI * of.day) / 365
  const nearness = 1 + 0.033 * Math.cos(angle) // 23
  const declination = 0.409 * Math.sin(angle - 1.39) // 24
  const latitude = (of.latitude * Math.PI) / 180
  // Beyond the polar circles the sun does not set, or does not rise.
  const sunset = Math.acos(Math.min(1, Math.max(-1, -Math.tan(latitude) * Math.tan(declination)))) // 25
  const ra =
    ((24 * 60) / Math.PI) *
    0.082 *
    nearness *
    (sunset * Math.sin(latitude) * Math.sin(declination) + Math.cos(latitude) * Math.cos(declination) * Math.sin(sunset)) // 21 // prettier-ignore
  const daylight = (24 * sunset) / Math.PI // 34
  const rs = (0.25 + (0.5 * of.sun) / daylight) * ra // 35
  const rso = (0.75 + 2e-5 * of.altitude) * ra // 37
  const kelvin = (temperature: number): number => (temperature + 273.16) ** 4
  const rnl =
    ((4.903e-9 * (kelvin(of.highest) + kelvin(of.lowest))) / 2) * (0.34 - 0.14 * Math.sqrt(ea)) * (1.35 * Math.min(1, rs / rso) - 0.35) // 39 // prettier-ignore
  const rn = 0.77 * rs - rnl // 38, 40
  const u2 = (of.wind * 4.87) / Math.log(67.8 * of.height - 5.42) // 47
  const reference = (0.408 * slope * rn + (gamma * 900 * u2 * (es - ea)) / (mean + 273)) / (slope + gamma * (1 + 0.34 * u2)) // 6
  const byTemperature = 0.0023 * (mean + 17.8) * Math.sqrt(of.highest - of.lowest) * 0.408 * ra // 52
  return { pressure, gamma, slope, es, ea, ra, daylight, rs, rso, rnl, rn, u2, reference, byTemperature, deficit: es - ea }
}

export const evapotranspiration: Calculation = {
  key: 'evapotranspiration',
  name: 'Reference evapotranspiration of a day',
  group: 'weather',
  about: 'Water that a short green cover would use on a day, from its weather; and by a crop coefficient what the crop uses.',
  inputs: [
    { key: 'highest', name: 'Highest', unit: '°C', low: -60, high: 60, example: '21.5' },
    { key: 'lowest', name: 'Lowest', unit: '°C', low: -60, high: 60, example: '12.3' },
    { key: 'dampest', name: 'Highest relative humidity', unit: '%', high: 100, example: '84' },
    { key: 'driest', name: 'Lowest relative humidity', unit: '%', high: 100, example: '63' },
    { key: 'wind', name: 'Wind', unit: 'm/s', high: 60, example: '2.8' },
    { key: 'height', name: 'Wind taken at', unit: 'm', low: 0.5, usual: 2, example: '10' },
    { key: 'sun', name: 'Hours of sun', unit: 'h', high: 24, example: '9.25' },
    { key: 'latitude', name: 'Latitude, degrees, south below nought', unit: '', low: -90, high: 90, example: '50.8' },
    { key: 'altitude', name: 'Altitude', unit: 'm', low: -450, high: 6000, example: '100' },
    { key: 'day', name: 'Day of the year', unit: '', low: 1, high: 366, example: '187' },
    { key: 'coefficient', name: 'Crop coefficient', unit: '', usual: 1, high: 2, example: '1.05' },
  ],
  cautions: [],
  applies: false,
  work: (from) => {
    const read = Object.fromEntries(['highest', 'lowest', 'dampest', 'driest', 'wind', 'height', 'sun', 'latitude', 'altitude', 'day'].map((key) => [key, from.number(key)])) as unknown as DayOfWeather // prettier-ignore
    if (read.highest < read.lowest) throw new RangeError('The highest temperature is below the lowest: were they taken for each other?')
    if (read.dampest < read.driest) throw new RangeError('The highest humidity is below the lowest: were they taken for each other?')
    const found = referenceEvapotranspiration(read)
    if (read.sun > found.daylight + 0.1)
      throw new RangeError(`There are ${found.daylight.toFixed(1)} h of day then, and more hours of sun.`)
    const asGiven = (label: string, value: number, unit: string, how: string): Worked => workedBy(label, value, unit, how)
    const reference = asGiven('Reference evapotranspiration', found.reference, 'mm/d', 'FAO Penman–Monteith')
    return {
      reference,
      crop: workedProduct('Used by the crop', 'mm/d', [times(reference), times(from.of('coefficient'))]),
      'by-temperature': asGiven('By temperature alone', found.byTemperature, 'mm/d', 'Hargreaves'),
      pressure: asGiven('Air pressure', found.pressure, 'kPa', 'from the altitude'),
      'saturation-pressure': asGiven('Vapour pressure at saturation', found.es, 'kPa', 'mean of highest and lowest'),
      'vapour-pressure': asGiven('Vapour pressure', found.ea, 'kPa', 'from the humidities'),
      'pressure-deficit': asGiven('Vapour pressure deficit', found.deficit, 'kPa', 'saturation less vapour pressure'),
      gamma: asGiven('Psychrometric constant, kPa/°C', found.gamma, '', 'from the air pressure'),
      slope: asGiven('Slope of the vapour pressure curve, kPa/°C', found.slope, '', 'at the mean temperature'),
      'extraterrestrial-radiation': asGiven('Radiation above the air', found.ra, 'MJ/m²/d', 'from latitude and day'),
      daylight: asGiven('Daylight', found.daylight, 'h', 'from latitude and day'),
      'solar-radiation': asGiven('Solar radiation', found.rs, 'MJ/m²/d', 'from the hours of sun'),
      'clear-sky-radiation': asGiven('Under a clear sky', found.rso, 'MJ/m²/d', 'from the altitude'),
      'net-longwave': asGiven('Net outgoing longwave', found.rnl, 'MJ/m²/d', 'from temperatures, vapour and sun'),
      'net-radiation': asGiven('Net radiation', found.rn, 'MJ/m²/d', 'taken up less given off'),
      'wind-at-2-m': asGiven('Wind at 2 m', found.u2, 'm/s', 'logarithmic profile'),
    }
  },
}
