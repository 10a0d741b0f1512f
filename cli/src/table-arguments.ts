import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import { AnalysisOptions, type AnalysisRequest } from '@canter/core/analysis'
import { FileError, readPlan, readPlanTable } from '@canter/core/exchange'
import { UsageError } from './usage-error.ts'

export interface TableArguments {
  readonly request: AnalysisRequest
  readonly json: boolean
}

/** Whether the call names a table and not a package. */
export function namesTable(args: readonly string[]): boolean {
  return args.some((each) => each === '--data' || each.startsWith('--data='))
}

export function readTableArguments(args: readonly string[]): TableArguments {
  const { data, plan, trait, options, json } = parse(args)
  if (!data || !plan || !trait) throw new UsageError('Name all three: --data plots.csv --plan plan.json --trait COLUMN')
  const read = readPlan(basename(plan), readText(plan))
  const asked = readOptions(options)
  const table = readPlanTable(basename(data), readText(data), read, trait, asked.covariates)
  return { request: { ...table, options: asked }, json: json ?? false }
}

function parse(args: readonly string[]) {
  try {
    const string = { type: 'string' } as const
    return parseArgs({
      args: [...args],
      options: { data: string, plan: string, trait: string, options: string, json: { type: 'boolean' } },
    }).values
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error))
  }
}

/** Throws an Error that says why where it cannot be read. */
export function readText(path: string): string {
  try {
    return readFileSync(path, 'utf8')
  } catch (error) {
    throw new Error(`${path} cannot be read (${(error as { code?: string }).code ?? 'unknown reason'}).`)
  }
}

function readOptions(path: string | undefined): AnalysisOptions {
  if (path === undefined) return AnalysisOptions.parse({})
  let json: unknown
  try {
    json = JSON.parse(readText(path))
  } catch (error) {
    if (error instanceof SyntaxError) throw new FileError(basename(path), `it is not JSON (${error.message.slice(0, 120)}).`)
    throw error
  }
  const parsed = AnalysisOptions.safeParse(json)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new FileError(basename(path), `${issue.path.join('.') || 'the options'}: ${issue.message}`)
}
