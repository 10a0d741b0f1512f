/** The steps of a trial in the order of the work. */
export const STEPS = [
  { key: 'question', name: 'Question' },
  { key: 'ground', name: 'Ground' },
  { key: 'amounts', name: 'Amounts' },
  { key: 'walk', name: 'Walk' },
  { key: 'numbers', name: 'Numbers' },
  { key: 'results', name: 'Results' },
  { key: 'decision', name: 'Decision' },
] as const

export type StepKey = (typeof STEPS)[number]['key']
