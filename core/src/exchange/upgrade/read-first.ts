import { z } from 'zod'
import { numberIn, Structure, Trial, TrialEvent, type Layout } from '../../trial/index.ts'
import type { TrialContents } from '../contents.ts'
import { readRecordTables } from '../records.ts'
import { parsedUnit, readPairs, readPlace } from '../rows.ts'
import { FileError, readCsv } from '../table.ts'
import { upgradeEvent, upgradeRecord, upgradeTrial } from './one-to-two.ts'

export const People = z.array(z.object({ id: z.uuid(), name: z.string().trim().min(1).max(80) }))

/** Schema 1 as Canter once wrote it. */
export function readFirst(json: unknown, files: ReadonlyMap<string, string>): TrialContents {
  const old = json as { trial?: unknown; layout?: { siteKey?: string; structure?: unknown } | null; people?: unknown }
  const people = People.safeParse(old.people)
  if (!people.success) throw descriptorError(people.error)
  const columns = ['id', 'kind', 'code', 'in', 'planned', 'received', 'change', 'x_m', 'y_m', 'width_m', 'length_m', 'walk']
  const rows = readCsv('units.csv', files.get('units.csv')!, columns)
  const units = rows.map((row) => ({
    id: row.cell('id'),
    kind: row.cell('kind'),
    code: row.cell('code'),
    in: row.cell('in').split(' ').filter(Boolean),
    planned: readPairs(row, 'planned', ' '),
    received: readPairs(row, 'received', ' '),
    change: row.cell('change'),
    place: readPlace(row),
    walk: row.cell('walk') === '' ? null : numberIn(row.cell('walk')),
  }))
  let upgraded: ReturnType<typeof upgradeTrial>
  try {
    upgraded = upgradeTrial(old.trial, old.layout ? { ...old.layout, units } : null)
  } catch {
    throw new FileError('canter.json', 'it is not the description of a trial of schema 1.')
  }
  const trial = Trial.safeParse(upgraded.trial)
  if (!trial.success) throw descriptorError(trial.error)
  const layouts = upgraded.layouts.map((layout): Layout => {
    const structure = Structure.safeParse(layout.structure)
    if (!structure.success) throw descriptorError(structure.error)
    return {
      siteKey: layout.siteKey,
      structure: structure.data,
      units: layout.units.map((unit, i) => parsedUnit(unit, `units.csv, line ${rows[i]!.line}`)),
    }
  })
  const events = readCsv('events.csv', files.get('events.csv')!, ['id', 'at', 'person', 'kind', 'reason', 'what', 'before', 'after']).map(
    (row): TrialEvent => {
      const parsed = TrialEvent.safeParse(
        upgradeEvent(Object.fromEntries(['id', 'at', 'person', 'kind', 'reason', 'what'].map((column) => [column, row.cell(column)]))),
      )
      if (!parsed.success) throw new FileError(`events.csv, line ${row.line}`, parsed.error.issues[0]!.message)
      return parsed.data
    },
  )
  return { trial: trial.data, layouts, records: readRecordTables(files, 1, upgradeRecord), events, people: people.data }
}

export function descriptorError(error: z.ZodError): FileError {
  const issue = error.issues[0]!
  return new FileError('canter.json', `${issue.path.join('.')}: ${issue.message}`)
}
