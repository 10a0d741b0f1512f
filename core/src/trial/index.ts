import './plain-errors.ts'
export { codesOnly } from './blinded.ts'
export { treatmentShapes, type TreatmentShape } from './shapes.ts'
export { PlannedComparison, type ComparisonOf } from './comparison.ts'
export { day, id, instant, key, line } from './text.ts'
export { dayAfter, dayInWords, dayNumber } from './day.ts'
export { agesInWords, daysBetween, readSpan, Span, spanInWords, type KnownDay, type SpanRead } from './span.ts'
export { fateInWords, fateKind, fateKinds, levelOfAmount, type FateField, type FateKind, type FateNames, type FateSaid } from './fate.ts'
export { identities } from './identity.ts'
export { asVisited, HALF, halvedSince, halvedUnits, halvesOf, INSIDE, isHalved, treatedUnits } from './halves.ts'
export { asOf, layoutWithoutDraw, withoutDraw } from './later.ts'
export { Nutrient, nutrientName } from './nutrient.ts'
export { Person, PersonSettings } from './person.ts'
export { AmountOf, Factor, emptyFactor, factorKind, factorKinds, Level, nutrientOf, RESERVED, type FactorKind } from './factor.ts'
export {
  controlLevel,
  crossFactors,
  isCrossing,
  holesOf,
  shownOf,
  treatmentsAt,
  treatmentsDealt,
  withCell,
  treatmentsOf,
  withList,
  isInside,
  marksOf,
  marksOn,
  OUTSIDE,
  Treatment,
  treatmentOn,
  Treatments,
  treatmentWith,
} from './treatment.ts'
export { hasGivenName, levelsFromText, levelsNamed, nameAmount, withFactors, type TypedLevels } from './edit-treatments.ts'
export { ReadingValue, readingInWords } from './reading-value.ts'
export { DerivationTerm, DerivedTrait, Trait, Visit } from './trait.ts'
export { Traits, visitsOf } from './traits.ts'
export { dayOfYear, traitKind, traitKinds, type Choice, type Reduced, type TraitKind } from './trait-kind/index.ts'
export { holdersOf, isExtra, unitAround } from './holder.ts'
export { inOwnAxes, turned } from './place.ts'
export {
  bareGround,
  CORNERS,
  GRADIENTS,
  Ground,
  NUMBERINGS,
  ROUNDS,
  type Corner,
  type Move,
  type Numbering,
  type Order,
  type Point,
  type Round,
} from './ground.ts'
export { bareSite, DesignChoice, Site, type SiteFacts } from './site.ts'
export { defaultAcross, slotOf } from './slots.ts'
export { DRAW, Layout, Structure, Unit, UnitKind } from './structure.ts'
export {
  Fate,
  FieldRecord,
  FLAGS,
  Note,
  numberIn,
  Operation,
  Reading,
  recordKind,
  recordKinds,
  Retraction,
  StoredRecord,
  type RecordFrame,
  type RecordKind,
} from './record-kind/index.ts'
export { Actual, Dose, placementOf, placements, type PlacementKey } from './dose.ts'
export {
  bareProduct,
  changedFields,
  formOf,
  hygieneClasses,
  Product,
  productForms,
  TrialProduct,
  type FormKey,
  type HygieneClass,
} from './product.ts'
export { Amounts, CommonOperation, Prices, Question, Supply, SUPPLY, Trial, TrialDraft, TrialEvent, TrialFile, Worksheet } from './trial.ts'
export { cellKey, readingKey, RecordSet, type Changed } from './record-set.ts'
export { holding, NOTHING_HELD, type HeldMark } from './held.ts'
export { Progress, Stage, Tally } from './progress.ts'
export { ShelfItem, ShelfItemDraft, ShelfPatch } from './shelf.ts'
export {
  api,
  ExtraUnit,
  LaterDraw,
  LayoutRequest,
  Problem,
  RecordBatch,
  RecordOutcome,
  RecordsReply,
  SectionEdit,
  Swap,
  TreatmentChange,
  TrialSummary,
  VersionedRequest,
  type Route,
} from './api.ts'
