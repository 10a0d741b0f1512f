import type { PlotTable } from '../numbers/index.ts'
import type { Layout, Trial } from '../trial/index.ts'
import { analyse } from './analyse.ts'
import type { Analysis } from './result.ts'

export interface BothWays {
  /** With the plots left out as recorded. */
  readonly without: Analysis
  /** With every plot that has a value; the same object when none was left out. */
  readonly all: Analysis
}

/** One trait of a trial, from its table of plots: the answer as decided, and with nothing left out. */
export function analyseTrait(
  trial: Pick<Trial, 'factors' | 'traits' | 'derived' | 'significance'>,
  layout: Layout,
  table: PlotTable,
  traitKey: string,
): BothWays {
  const trait = [...trial.traits, ...trial.derived].find((each) => each.key === traitKey)
  if (!trait) throw new RangeError(`No trait “${traitKey}” in this trial`)
  const values = new Map<string, number>()
  const leftOut = new Set<string>()
  for (const row of table.rows) {
    const value = row.values.get(traitKey)
    if (value?.kind !== 'value') continue
    values.set(row.unit.id, value.worked.value)
    if (row.leftOut(traitKey)) leftOut.add(row.unit.id)
  }
  const request = {
    layout,
    levels: trial.factors[0]!.levels,
    factorName: trial.factors[0]!.name.toLowerCase(),
    trait: { key: trait.key, name: trait.name, unit: trait.unit },
    values,
    significance: trial.significance,
  }
  const without = analyse({ ...request, leftOut })
  return { without, all: leftOut.size === 0 ? without : analyse({ ...request, leftOut: new Set() }) }
}

/** What each way of comparing means controls, for the switch that chooses it. */
export const COMPARISON_METHODS = {
  dunnett: {
    name: 'Against the control',
    school: 'Dunnett',
    controls:
      'Each treatment against the control only. The chance of any false difference among these comparisons is held at the level set.',
  },
  tukey: {
    name: 'All pairs, guarded',
    school: 'Tukey',
    controls: 'Every treatment against every other. The chance of even one false difference among all pairs is held at the level set.',
  },
  lsd: {
    name: 'Each pair alone',
    school: 'LSD',
    controls:
      'Each pair is tested as if it were the only one. Among many pairs some false differences must be expected; sound for a few pairs named beforehand.',
  },
} as const
