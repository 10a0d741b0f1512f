import type { PlotTable } from '../numbers/index.ts'
import type { Layout, Trial } from '../trial/index.ts'
import { analyse } from './analyse.ts'
import { AnalysisOptions, type AnalysisRequest, type TraitKind } from './request.ts'
import type { Analysis } from './result.ts'

export interface BothWays {
  /** With the plots left out as recorded. */
  readonly without: Analysis
  /** With every plot that has a value; the same object when none was left out. */
  readonly all: Analysis
}

type AnalysedTrial = Pick<Trial, 'factors' | 'traits' | 'derived' | 'significance'>

/** One trait of a trial, from its table of plots: the answer as decided, and with nothing left out. */
export function analyseTrait(trial: AnalysedTrial, layout: Layout, table: PlotTable, traitKey: string): BothWays {
  const trait = [...trial.traits, ...trial.derived].find((each) => each.key === traitKey)
  if (!trait) throw new RangeError(`No trait “${traitKey}” in this trial`)
  const values = new Map<string, number>()
  const samples = new Map<string, number>()
  const leftOut = new Set<string>()
  for (const row of table.rows) {
    const value = row.values.get(traitKey)
    if (value?.kind !== 'value') continue
    values.set(row.unit.id, value.worked.value)
    if (value.readings.length > 1) samples.set(row.unit.id, value.readings.length)
    if (row.leftOut(traitKey)) leftOut.add(row.unit.id)
  }
  const kind: TraitKind = 'kind' in trait && trait.kind === 'score' ? 'score' : 'continuous'
  const request = trialRequest(trial, layout, { key: trait.key, name: trait.name, unit: trait.unit, kind }, values)
  const without = analyse({ ...request, samples, leftOut })
  return { without, all: leftOut.size === 0 ? without : analyse({ ...request, samples }) }
}

/** The analysis of values by plot of a trial: every way of comparing means that its reader can choose. */
export function trialRequest(
  trial: Pick<Trial, 'factors' | 'significance'>,
  { structure, units }: Pick<Layout, 'structure' | 'units'>,
  trait: AnalysisRequest['trait'],
  values: ReadonlyMap<string, number>,
): AnalysisRequest {
  const factors = trial.factors.map((factor): AnalysisRequest['factors'][number] => {
    const control = factor.levels.find((level) => level.control)?.key
    const amounts = Object.fromEntries(factor.levels.flatMap(({ key, amount }) => (amount === null ? [] : [[key, amount]])))
    return {
      key: factor.key,
      name: factor.name.toLowerCase(),
      levels: factor.levels.map((level) => level.key),
      amounts,
      ...(control === undefined ? {} : { control }),
    }
  })
  const method = ['lsd', 'tukey', ...(factors.some((factor) => factor.control !== undefined) ? ['dunnett'] : [])]
  return { structure, units, factors, trait, values, options: AnalysisOptions.parse({ significance: trial.significance, method }) }
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
