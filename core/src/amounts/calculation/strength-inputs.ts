import type { CalculationInput } from './calculation.ts'

export const strength: CalculationInput = { key: 'strength', name: 'Strength wanted', unit: 'mg/L', example: '40 ppm' }
export const byVolume: CalculationInput = { key: 'label', name: 'Active ingredient on the label', unit: '% w/v', high: 100, aboveNought: true, example: '5 % w/v, or 50 g/L' } // prettier-ignore
export const volume: CalculationInput = { key: 'volume', name: 'Spray to make', unit: 'L', aboveNought: true, example: '6' }
export const NARROW =
  'Between too little and too much lies little with growth regulators: measure with a syringe or pipette, and never by eye.'
