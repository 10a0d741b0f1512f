import type { CalculationInput } from './calculation.ts'

export const moistureOf: CalculationInput = { key: 'moisture', name: 'Moisture', unit: '%', high: 99.9, example: '14.6' }
export const standard: CalculationInput = { key: 'standard', name: 'Standard moisture', unit: '%', high: 99.9, example: '13.5' }
