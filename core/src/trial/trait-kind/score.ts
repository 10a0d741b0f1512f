import { mean, NOTHING, notTyped, type TraitKind } from './trait-kind.ts'

/** Described steps. Several on one unit are averaged, which takes the steps as equal, and the analysis says so. */
export const score: TraitKind = {
  key: 'score',
  name: 'Score with described steps',
  about: 'A judgement by eye on a scale whose steps are described, so that two people give the same.',
  values: ['score'],
  measured: false,
  numeric: true,
  digits: 'rounded',
  held: true,
  comesTo: () => 'score',
  lack: ({ low, high }) =>
    low === null || high === null ? { field: 'low', problem: 'A score needs its lowest and its highest step.' } : null,
  analysed: 'score',
  choices: (trait) => {
    const [low, high] = [trait.low ?? 1, trait.high ?? 9]
    // A long scale is tapped in steps of ten.
    const step = high - low > 20 ? 10 : 1
    return Array.from({ length: Math.floor((high - low) / step) + 1 }, (_, i) => {
      const value = low + i * step
      const meaning = trait.steps.find((each) => each.score === value)?.meaning ?? ''
      return { label: String(value), meaning, value: { kind: 'score', value, typed: String(value) } }
    })
  },
  keyboard: 'decimal',
  example: '7',
  read: notTyped,
  figure: (value) => (value.kind === 'score' ? value.value : null),
  reduce(values) {
    const found = mean(values.flatMap((each) => (each.kind === 'score' ? [each.value] : [])))
    return { ...NOTHING, value: found, part: found }
  },
}
