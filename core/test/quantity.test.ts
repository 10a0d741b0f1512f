import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  convert,
  formatNumber,
  formatPlain,
  formatQuantity,
  given,
  over,
  parseQuantity,
  times,
  timesRest,
  workedProduct,
  workingChain,
  workingLine,
} from '../src/quantity/index.ts'

describe('parsing what people type', () => {
  it.each([
    ['120', 'kg/ha', 'kg/ha', 120],
    ['120 kg N/ha', 'kg/ha', 'kg/ha', 120],
    ['120 lb/ac', 'kg/ha', 'kg/ha', 134.502],
    ['107', 'kg/ha', 'lb/ac', 119.9309],
    ['1,5', 't/ha', 't/ha', 1.5],
    ['12 345.5 g', 'kg', 'kg', 12.3455],
    ['8 ft', 'm', 'm', 2.4384],
    ['−2', 'm', 'm', -2],
    ['< 3', 'm', 'm', null],
    ['', 'm', 'm', null],
    ['3 kg', 'm', 'm', null],
    ['3 furlongs', 'm', 'm', null],
    ['1e999', 'm', 'm', null],
    ['12.3.4', 'm', 'm', null],
  ])('%s for a field in %s shown in %s', (text, stored, assumed, value) => {
    const parsed = parseQuantity(text, stored, assumed)
    if (value === null) {
      expect(parsed.ok).toBe(false)
      expect(!parsed.ok && parsed.problem.length).toBeGreaterThan(5)
    } else expect(parsed.ok && parsed.value).toBeCloseTo(value, 3)
  })

  it('never throws and never lets through what is not a finite number', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const parsed = parseQuantity(text, 'kg/ha', 'lb/ac')
        return !parsed.ok || Number.isFinite(parsed.value)
      }),
    )
  })

  it('reads a figure as it is shown, however small, large or below nought', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e12, max: 1e12, noNaN: true }), fc.integer({ min: -12, max: 0 }), (value, power) => {
        const shown = formatPlain(value * 10 ** power, 7)
        const parsed = parseQuantity(shown, 'kg/ha')
        expect(parsed.ok, shown).toBe(true)
        if (parsed.ok) expect(Math.abs(parsed.value - value * 10 ** power)).toBeLessThanOrEqual(1e-6 * Math.abs(value * 10 ** power))
      }),
    )
  })

  it('reads back what it would show, in both unit systems', () => {
    const pairs = [
      ['kg/ha', 'lb/ac'],
      ['t/ha', 'ton/ac'],
      ['m', 'ft'],
      ['g', 'oz'],
      ['kg', 'lb'],
      ['money/t', 'money/ton'],
    ] as const
    fc.assert(
      fc.property(fc.constantFrom(...pairs), fc.double({ min: 1e-3, max: 1e6, noNaN: true }), ([metric, us], value) => {
        expect(convert(convert(value, metric, us), us, metric)).toBeCloseTo(value, 6)
      }),
    )
  })
})

describe('worked figures', () => {
  const weight = given('Gross weight', 62.4, 'kg')
  const tare = given('Dirt tare', 8, '%')
  const area = workedProduct('Harvested area', 'm²', [times(given('Width', 1.35, 'm')), times(given('Length', 10, 'm'))])

  it('multiply through units and show their chain', () => {
    const clean = workedProduct('Clean yield', 't/ha', [times(weight), timesRest(tare), over(area)])
    expect(clean.value).toBeCloseTo(((62.4 * 0.92) / 13.5) * 10, 10)
    expect(workingLine(clean)).toBe('62.4 kg × (1 − 8 %) ÷ 13.50 m² = 42.52 t/ha')
    expect(workingChain(clean).at(-2)).toBe('Harvested area: 1.35 m × 10 m = 13.50 m²')
    expect(workingLine(clean, 'us')).toContain('lb')
  })

  it('refuse terms that do not make the unit', () => {
    expect(() => workedProduct('Nonsense', 't/ha', [times(weight), times(area)])).toThrow(/do not make/)
  })
})

it('formats for reading: no exponents, thin thousands, dashes for what is not a number', () => {
  expect(formatNumber(0.000123)).toBe('0.000123')
  expect(formatNumber(1234567, 3)).toBe('1\u202f234\u202f567')
  expect(formatNumber(-0.5, 2)).toBe('−0.50')
  expect(formatNumber(NaN)).toBe('–')
  expect(formatQuantity(120, 'kg/ha', 'metric', { of: 'N' })).toBe('120 kg N/ha')
  expect(formatQuantity(38, 'money/t', 'us', { plain: true, digits: 4 })).toBe('€34.47/ton')
})
