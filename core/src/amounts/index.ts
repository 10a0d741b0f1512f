export { applicationCautions, sheetRefusal } from './cautions.ts'
export { nutrientAmounts, type AmountsOutcome, type LevelAmounts, type TrialAmounts } from './nutrient.ts'
