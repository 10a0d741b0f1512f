export { knownAt, workedSheet, worksheetsFor, type PassWorksheet } from './worksheet.ts'
export {
  calculationOf,
  calculations,
  reckon,
  type Calculation,
  type CalculationInput,
  type RawInputs,
  type Reckoned,
} from './calculation/index.ts'
export { applicationCautions, calculationCautions } from './cautions.ts'
export { differsInWords, nutrientFactor, productRate } from './nutrient.ts'
export { actualRates, asWentOut, contradiction, emptiedShare, type ActualRate } from './actual.ts'
export { swathsOf } from './calculation/best-swath.ts'
export { balanceTreatments, matchSources, type Balanced, type Matched } from './balance.ts'
export {
  doseAmounts,
  isDry,
  leading,
  sizeOf,
  workedDose,
  type DoseRow,
  type Dosed,
  type Quantities,
  type UnitSize,
} from './dose-amounts.ts'
export { dosesOf, factorOf, getsIt, productOf, recipientsOf } from './doses.ts'
export { genericProducts } from './generic-products.ts'
export { nonNegativeLeastSquares } from './least-squares.ts'
export { cleanOut, forUnits, givenIn, mixingOrder, passesOf, together, type Lesser, type Mix, type Pass, type Turn } from './passes.ts'
export { leftOf, type Left, type Remaining } from './remaining.ts'
export { parseRate, rateBasis, rateInWords, typedRate, type ParsedRate } from './rate.ts'
export {
  SPREADABLE,
  tooSmallDry,
  doseCautions,
  handlingCautions,
  missingOfLabel,
  plannedVisits,
  stopsOf,
  type PlannedVisit,
} from './stops.ts'
export { sheetStops, stopsEverywhere, type SheetStops } from './pass-stops.ts'
export { waterPlan, waterSheets, type WaterPlan, type WaterTotal, type WaterTurn } from './water-plan.ts'
export { treatmentTotals, type Totals, type TreatmentTotal } from './totals.ts'
