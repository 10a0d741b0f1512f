export { applicationCautions, sheetRefusal } from './cautions.ts'
export { nutrientAmounts, nutrientFactor, productRate, type AmountsOutcome, type LevelAmounts, type SiteAmounts } from './nutrient.ts'
