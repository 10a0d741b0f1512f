import { mean, NOTHING, notTyped, type TraitKind } from './trait-kind.ts'
import type { Trait } from '../trait.ts'

/** Named stages in their order; compared by the place in that order. */
export const stage: TraitKind = {
  key: 'stage',
  name: 'Stage',
  about: 'How far it has come, by named stages in their order: nothing, leaves, buds, flowers.',
  values: ['stage'],
  measured: false,
  numeric: false,
  digits: 'rounded',
  held: true,
  comesTo: (trait) => trait.unit,
  lack: ({ steps }) => (steps.length < 2 ? { field: 'steps', problem: 'Name at least two stages, in their order.' } : null),
  analysed: 'score',
  choices: (trait) => trait.steps.map(({ meaning }) => ({ label: meaning, meaning: '', value: { kind: 'stage', value: meaning } })),
  keyboard: 'text',
  example: 'buds',
  read: notTyped,
  figure: () => null,
  reduce(values, trait) {
    const names = values.flatMap((each) => (each.kind === 'stage' ? [each.value] : []))
    const places = names.map((name) => placeOf(name, trait))
    if (places.some((each) => each === null)) return { ...NOTHING, text: names.join(', ') }
    const found = mean(places as number[])
    return { ...NOTHING, value: found, text: [...new Set(names)].join(', '), part: found }
  },
}

function placeOf(name: string, trait: Trait): number | null {
  return trait.steps.find((each) => each.meaning === name)?.score ?? null
}
