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

/** What stays chosen from step to step: the plot and the trait. */
export function keptSearch(search: URLSearchParams): string {
  const kept = new URLSearchParams()
  for (const key of ['plot', 'trait']) {
    const value = search.get(key)
    if (value) kept.set(key, value)
  }
  return kept.toString()
}
