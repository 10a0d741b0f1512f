import { given, type Worked } from '../quantity/index.ts'
import {
  currentRecords,
  type CurrentRecords,
  type FieldRecord,
  type Layout,
  type Note,
  type Reading,
  type Trial,
  type Unit,
} from '../trial/index.ts'
import { derive } from './derive.ts'

/** The value of one trait on one plot, or why there is none. */
export type PlotValue =
  | { kind: 'value'; worked: Worked; readings: readonly Reading[]; outOfRange: boolean; confirmed: boolean }
  | { kind: 'missing'; reason: string }
  | { kind: 'conflict'; readings: readonly Reading[] }
  | { kind: 'none' }

export interface PlotRow {
  readonly unit: Unit
  /** Of observed and derived traits by key. */
  readonly values: ReadonlyMap<string, PlotValue>
  readonly notes: readonly Note[]
  /** The standing note that leaves the plot out of the analysis of a trait, if any. */
  leftOut(trait: string): Note | undefined
}

export interface PlotTable {
  readonly rows: readonly PlotRow[]
  readonly current: CurrentRecords
}

/** Everything known of each walked plot, in walking order, from the append-only records. */
export function plotTable(trial: Pick<Trial, 'traits' | 'derived' | 'sites'>, layout: Layout, records: readonly FieldRecord[]): PlotTable {
  const current = currentRecords(records)
  const readings = groupByUnitAndTrait([...current.readings.values()])
  const conflicts = groupByUnitAndTrait([...current.conflicts.values()].flat())
  const ground = trial.sites.find((site) => site.key === layout.siteKey)!.ground
  const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const rows = plots.map((unit): PlotRow => {
    const values = new Map<string, PlotValue>()
    const observed = new Map<string, Worked>()
    for (const trait of trial.traits) {
      const at = `${unit.id}|${trait.key}`
      const value = conflicts.has(at)
        ? ({ kind: 'conflict', readings: conflicts.get(at)! } as const)
        : observedValue(trait, readings.get(at) ?? [])
      values.set(trait.key, value)
      if (value.kind === 'value') observed.set(trait.key, value.worked)
    }
    for (const derived of trial.derived) {
      const result = derive(derived, observed, ground)
      if (result.ok && Number.isFinite(result.worked.value)) {
        observed.set(derived.key, result.worked)
        values.set(derived.key, { kind: 'value', worked: result.worked, readings: [], outOfRange: false, confirmed: false })
      } else values.set(derived.key, whyNot(result.ok ? [] : result.missing, values))
    }
    const notes = current.notes.filter((note) => note.unit === unit.id)
    return {
      unit,
      values,
      notes,
      leftOut: (trait) => notes.find((note) => note.kind === 'left out' && (note.trait === null || note.trait === trait)),
    }
  })
  return { rows, current }
}

function observedValue(trait: Trial['traits'][number], readings: readonly Reading[]): PlotValue {
  const numbers: Reading[] = []
  for (const reading of readings) {
    if (numberOf(reading) !== null) numbers.push(reading)
  }
  if (numbers.length === 0) {
    const missing = readings.find((reading) => reading.value.kind === 'missing')
    return missing?.value.kind === 'missing' ? { kind: 'missing', reason: missing.value.reason } : { kind: 'none' }
  }
  // Several samples of one plot are one replicate: their mean stands for the plot.
  const mean = numbers.reduce((sum, reading) => sum + numberOf(reading)!, 0) / numbers.length
  const outside = numbers.filter((reading) => isOutside(trait, numberOf(reading)!))
  return {
    kind: 'value',
    worked: given(trait.name, mean, trait.unit),
    readings: numbers,
    outOfRange: outside.length > 0,
    confirmed: outside.every((reading) => reading.confirmed),
  }
}

/** The number a reading stands for, null when it stands for none. */
export function numberOf(reading: Reading): number | null {
  switch (reading.value.kind) {
    case 'number':
    case 'score':
      return reading.value.value
    case 'yes/no':
      return reading.value.value ? 1 : 0
    default:
      return null
  }
}

export function isOutside(trait: { low: number | null; high: number | null }, value: number): boolean {
  return (trait.low !== null && value < trait.low) || (trait.high !== null && value > trait.high)
}

function whyNot(missing: readonly string[], values: ReadonlyMap<string, PlotValue>): PlotValue {
  for (const key of missing) {
    const cause = values.get(key)
    if (cause?.kind === 'missing' || cause?.kind === 'conflict') return cause
  }
  return { kind: 'none' }
}

function groupByUnitAndTrait(readings: readonly Reading[]): Map<string, Reading[]> {
  const groups = new Map<string, Reading[]>()
  for (const reading of readings) {
    const at = `${reading.unit}|${reading.trait}`
    groups.set(at, [...(groups.get(at) ?? []), reading])
  }
  return groups
}
