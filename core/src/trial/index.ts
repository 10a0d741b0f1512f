export { day, id, instant, key } from './text.ts'
export { Person, PersonSettings } from './person.ts'
export { Factor, Level, Nutrient } from './factor.ts'
export { DerivationTerm, DerivedTrait, Trait } from './trait.ts'
export { Ground } from './ground.ts'
export { Layout, plural, Structure, Unit, UnitKind } from './structure.ts'
export { FieldRecord, FLAGS, Note, Operation, Reading, ReadingValue, Retraction, StoredRecord } from './record.ts'
export { CommonOperation, Economics, Question, Site, Supply, Trial, TrialDraft, TrialEvent, TrialFile } from './trial.ts'
export { currentRecords, readingKey, type CurrentRecords } from './current.ts'
export { progressOf, Progress, Stage } from './season-stage.ts'
export { lockedChanges, type LockedChange } from './locks.ts'
export {
  LayoutRequest,
  Problem,
  RecordBatch,
  RecordOutcome,
  RecordsReply,
  TreatmentChange,
  TrialEdit,
  TrialSummary,
  VersionedRequest,
} from './api.ts'
