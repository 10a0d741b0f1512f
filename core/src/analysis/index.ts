export { analyse, analyseOnce } from './analyse.ts'
export {
  AnalysisError,
  AnalysisOptions,
  SCALES,
  TraitKind,
  type AnalysedFactor,
  type AnalysedTrait,
  type AnalysisRequest,
  type Observed,
  type Method,
  type Progress,
} from './request.ts'
export type {
  Analysis,
  ComparisonRow,
  ContrastRow,
  CovariateRow,
  MeanRow,
  MixedParameter,
  NotTested,
  ResidualRow,
  Sentence,
  Spread,
  TermResult,
  TestRow,
} from './result.ts'
export { spread } from './term-result.ts'
export type { Checks } from './checks.ts'
export { checkReadings, type CheckReading } from './check-readings.ts'
export { type Evidence, type EvidenceClass } from './evidence.ts'
export { coefficientsOf } from './comparison-coefficients.ts'
export { proposeComparisons, type ComparisonProposal } from './propose-comparisons.ts'
export { shownAnswers } from './shown-words.ts'
export { SEASON } from './seasons.ts'
export { plannedAnswers, type PlannedAnswer } from './planned-words.ts'
export { differenceKinds, type DifferenceKind } from './difference-kinds.ts'
export { classAnswers, classRows, type ClassRow } from './classes.ts'
export { withinLimits, type Limited } from './within-limits.ts'
export { findings } from './findings.ts'
export { capital, cvInWords, listed } from './words.ts'
export { spoken, spokenTreatment, termInWords } from './spoken.ts'
export { captionOf, sentencesOf } from './claims/text.ts'
export type { Claim } from './claims/claim.ts'
export { analyseTrait, schoolsOfTrait, traitOf } from './trial-analysis.ts'
export { trialRequest } from './trial-request.ts'
export { levelInWhole, WHOLE, wholeTerm } from './whole-term.ts'
export { type BothWays, type OtherWay } from './both-ways.ts'
export { countEnds, endsInWords, type Ended } from './happened.ts'
export { otherSchools, type School } from './schools.ts'
export { analyseOverDates, areaRequest, type OverDates } from './over-dates.ts'
