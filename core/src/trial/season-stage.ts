import { z } from 'zod'
import { Operation, type FieldRecord } from './record.ts'
import { currentRecords } from './current.ts'
import type { Trial } from './trial.ts'
import type { Layout } from './structure.ts'

/** Where a trial is in its season, from what is on record alone. */
export const Stage = z.enum(['question', 'laid out', 'planted', 'measuring', 'measured'])
export type Stage = z.infer<typeof Stage>

export const Progress = z
  .object({
    stage: Stage,
    /** Readings that stand (missing with a reason counts) and readings expected: plots × traits. */
    readings: z.number(),
    expected: z.number(),
    planted: Operation.nullable(),
    conflicts: z.number(),
    /** The one thing that needs a decision or an act next. */
    next: z.string(),
  })
  .meta({ id: 'Progress' })
export type Progress = z.infer<typeof Progress>

export function progressOf(
  trial: Pick<Trial, 'traits' | 'factors' | 'supply'>,
  layout: Layout | null,
  records: readonly FieldRecord[],
): Progress {
  const current = currentRecords(records)
  const plots = layout?.units.filter((unit) => unit.walk !== null) ?? []
  const expected = plots.length * trial.traits.length
  const plotIds = new Set(plots.map((plot) => plot.id))
  const traits = new Set(trial.traits.map((trait) => trait.key))
  const filled = new Set<string>()
  for (const reading of [...current.readings.values(), ...[...current.conflicts.values()].flat()]) {
    if (plotIds.has(reading.unit) && traits.has(reading.trait)) filled.add(`${reading.unit}|${reading.trait}`)
  }
  const planted = current.operations.find((operation) => operation.kind === 'planted') ?? null
  const stage: Stage =
    layout === null
      ? 'question'
      : expected > 0 && filled.size >= expected
        ? 'measured'
        : filled.size > 0
          ? 'measuring'
          : planted
            ? 'planted'
            : 'laid out'
  return {
    stage,
    readings: filled.size,
    expected,
    planted,
    conflicts: current.conflicts.size,
    next: nextAct(stage, current.conflicts.size, expected - filled.size),
  }
}

function nextAct(stage: Stage, conflicts: number, left: number): string {
  if (conflicts > 0) return `${conflicts} ${conflicts === 1 ? 'value' : 'values'} entered twice: choose which holds`
  switch (stage) {
    case 'question':
      return 'Lay the plots on the ground'
    case 'laid out':
      return 'Check the amounts, then mark it planted'
    case 'planted':
      return 'Walk the plots and measure'
    case 'measuring':
      return `${left} ${left === 1 ? 'reading' : 'readings'} still to take`
    case 'measured':
      return 'Read the results and decide'
  }
}
