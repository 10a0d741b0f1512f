import { dosesOf, nutrientFactor, together } from '@canter/core/amounts'
import { notStated } from '@canter/core/decision'
import { counted, formatQuantity, type UnitSystem } from '@canter/core/quantity'
import type { ComponentType } from 'react'
import type { OpenTrial } from '../data/open-trial.ts'

/** A step of a trial: its place in the work, what it holds in a few words, and how the plan looks there at first. */
export interface Step {
  readonly key: string
  readonly name: string
  /** What the plan shows first. */
  readonly colouring: string
  readonly note: (open: OpenTrial, system: UnitSystem) => string
  readonly load: () => Promise<ComponentType>
}

/** All steps in the order of the work; adding one is its file and an entry here: routes, the bar, keys and help follow. */
export const steps: readonly Step[] = [
  {
    key: 'question',
    name: 'Question',
    colouring: 'treatment',
    note: ({ trial }) => {
      const replicates = new Set(trial.sites.map((site) => site.design.replicates))
      const treatments = counted(trial.treatments.list.length, 'treatment')
      return replicates.size === 1 ? `${treatments} × ${[...replicates][0]}` : treatments
    },
    load: async () => (await import('./question.tsx')).QuestionStep,
  },
  {
    key: 'ground',
    name: 'Ground',
    colouring: 'treatment',
    note: ({ trial, layouts, walked, progress }) => {
      if (layouts.length === 0) return 'not laid out'
      // Sites may treat different things: pots here, plots there.
      const text = [...walked].map(([kind, count]) => counted(count, kind)).join(', ')
      return `${text}${progress.planted.length === trial.sites.length ? ', planted' : ''}`
    },
    load: async () => (await import('./ground.tsx')).GroundStep,
  },
  {
    key: 'amounts',
    name: 'Amounts',
    colouring: 'amount',
    note: ({ trial }) => {
      const { sheets } = trial.amounts
      const passes = together(dosesOf(trial.treatments, trial.amounts)).reduce((sum, [dose]) => sum + dose!.parts.length, 0)
      if (passes > 0) return counted(passes, 'pass')
      return nutrientFactor(trial.treatments)
        ? 'choose a product'
        : sheets?.length
          ? counted(sheets.length, 'worksheet')
          : 'nothing goes on yet'
    },
    load: async () => (await import('./amounts.tsx')).AmountsStep,
  },
  {
    key: 'walk',
    name: 'Walk',
    colouring: 'progress',
    note: ({ progress }) => (progress.expected > 0 ? `${progress.readings} of ${progress.expected}` : 'no plots yet'),
    load: async () => (await import('./walk.tsx')).WalkStep,
  },
  {
    key: 'numbers',
    name: 'Numbers',
    colouring: 'value',
    note: ({ progress }) =>
      progress.conflicts > 0 ? `${progress.conflicts} entered twice` : progress.readings > 0 ? 'look before believing' : 'no values yet',
    load: async () => (await import('./numbers.tsx')).NumbersStep,
  },
  {
    key: 'results',
    name: 'Results',
    colouring: 'mean',
    note: ({ progress }) => (progress.readings > 0 ? 'worked out' : 'no values yet'),
    load: async () => (await import('./results.tsx')).ResultsStep,
  },
  {
    key: 'decision',
    name: 'Decision',
    colouring: 'treatment',
    note: ({ trial }, system) =>
      notStated(trial, trial.prices) === null
        ? `at ${formatQuantity(trial.prices.pricePerTonne!, 'money/t', system, { currency: trial.prices.currency, plain: true })}`
        : 'prices to state',
    load: async () => (await import('./decision.tsx')).DecisionStep,
  },
]

export function stepOf(key: string): Step | undefined {
  return steps.find((each) => each.key === key)
}
