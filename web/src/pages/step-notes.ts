import { formatQuantity, type UnitSystem } from '@canter/core/quantity'
import type { StepKey } from '../shell/steps.ts'
import type { OpenTrial } from './trial-context.ts'

/** In a few words, what each step holds or lacks. */
export function stepNotes({ trial, layout, progress, table }: OpenTrial, system: UnitSystem): Record<StepKey, string> {
  const levels = trial.factors[0]!.levels.length
  const plots = layout?.units.filter((unit) => unit.walk !== null).length ?? 0
  const out = table?.rows.filter((row) => row.notes.some((note) => note.kind === 'left out')).length ?? 0
  const measured = progress.readings > 0
  return {
    question: `${levels} treatments × ${trial.replicates}`,
    ground: layout ? `${plots} plots${progress.planted ? ', planted' : ''}` : 'not laid out',
    amounts: !trial.factors[0]!.nutrient
      ? 'nothing to weigh'
      : trial.supply
        ? `${trial.supply.applications} ${trial.supply.applications === 1 ? 'pass' : 'passes'}`
        : 'choose a product',
    walk: progress.expected > 0 ? `${progress.readings} of ${progress.expected}` : 'no plots yet',
    numbers:
      progress.conflicts > 0
        ? `${progress.conflicts} entered twice`
        : out > 0
          ? `${out} left out`
          : measured
            ? 'nothing left out'
            : 'no values yet',
    results: measured ? 'worked out' : 'no values yet',
    decision: trial.economics
      ? `at ${formatQuantity(trial.economics.pricePerTonne, 'money/t', system, { currency: trial.economics.currency, plain: true })}`
      : 'set prices',
  }
}
