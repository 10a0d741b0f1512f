export { knownAt, workedSheet } from './worksheet.ts'
export {
  calculationOf,
  calculations,
  reckon,
  type Calculation,
  type CalculationInput,
  type RawInputs,
  type Reckoned,
} from './calculation/index.ts'
export { applicationCautions, calculationCautions, sheetRefusal } from './cautions.ts'
export {
  differsInWords,
  nutrientAmounts,
  nutrientFactor,
  productRate,
  type AmountsOutcome,
  type LevelAmounts,
  type SiteAmounts,
} from './nutrient.ts'
