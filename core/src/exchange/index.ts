export { FileError, readCsv, writeCsv } from './table.ts'
export { packTrial, unpackTrial, withNewIds, PACKAGE_FORMAT, PACKAGE_SCHEMA, type TrialContents } from './package.ts'
export { plotsCsv } from './plots-csv.ts'
export { PlanFile, readPlan, readPlanTable, type PlanTable } from './plan-table.ts'
