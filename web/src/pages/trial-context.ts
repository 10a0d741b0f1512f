import { plotTable, type PlotRow, type PlotTable } from '@canter/core/numbers'
import { progressOf, type Layout, type Progress, type Trial, type TrialEvent } from '@canter/core/trial'
import { useQuery } from '@tanstack/react-query'
import { createContext, useContext, useMemo } from 'react'
import { trialQuery } from '../api/trial-file.ts'
import { useRecords, type Records } from '../records/use-records.ts'

/** Everything the steps of one trial share; nothing here is stored, all follows from facts and records. */
export interface OpenTrial {
  readonly trial: Trial
  readonly layout: Layout | null
  readonly events: readonly TrialEvent[]
  readonly records: Records
  readonly table: PlotTable | null
  readonly rowOf: ReadonlyMap<string, PlotRow>
  readonly progress: Progress
  /** Planted or measured: the plan is fixed, changes go on record. */
  readonly fixed: boolean
}

export const TrialContext = createContext<OpenTrial | null>(null)

export function useOpenTrial(): OpenTrial {
  const open = useContext(TrialContext)
  if (!open) throw new Error('No trial is open here')
  return open
}

/** Loads a trial and its records; undefined while it comes. */
export function useLoadTrial(id: string): { open: OpenTrial | undefined; error: Error | null } {
  const { data: file, error } = useQuery(trialQuery(id))
  const records = useRecords(id)
  const open = useMemo(() => {
    if (!file || !records.ready) return undefined
    const { trial, layout, events } = file
    const table = layout ? plotTable(trial, layout, records.records) : null
    const progress = progressOf(trial, layout, records.records)
    return {
      trial,
      layout,
      events,
      records,
      table,
      rowOf: new Map(table?.rows.map((row) => [row.unit.id, row])),
      progress,
      fixed: progress.planted !== null || progress.readings > 0,
    }
  }, [file, records])
  return { open, error }
}
