export { convert, findUnit, isUnit, sameMeasure, unitOf, type Unit } from './unit.ts'
export { shown, shownUnit, type UnitSystem } from './system.ts'
export {
  formatByError,
  formatConfidence,
  formatFixed,
  formatNumber,
  formatP,
  formatPlain,
  formatQuantity,
  formatTogether,
  withUnit,
} from './format.ts'
export { OXIDES, oxideOf } from './oxides.ts'
export { parseQuantity, type ParsedQuantity } from './parse.ts'
export {
  figure,
  given,
  over,
  times,
  timesRest,
  workedBy,
  workedProduct,
  workedSum,
  workingChain,
  workingLine,
  type Worked,
  type WorkedTerm,
} from './worked.ts'
export { counted, plural } from './plural.ts'
