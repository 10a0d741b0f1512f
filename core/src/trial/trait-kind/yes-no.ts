import { notTyped, type TraitKind } from './trait-kind.ts'

/** Yes or no. Several on one unit come to so many yes of so many asked. */
export const yesNo: TraitKind = {
  key: 'yes-no',
  name: 'Yes or no',
  about: 'Alive? Came back? Flowering? Brought up as so many yes of so many.',
  values: ['yes/no'],
  measured: false,
  numeric: true,
  digits: 'rounded',
  held: false,
  comesTo: () => '%',
  lack: () => null,
  analysed: 'share',
  choices: () => [true, false].map((yes) => ({ label: yes ? 'Yes' : 'No', meaning: '', value: { kind: 'yes/no' as const, value: yes } })),
  keyboard: 'text',
  example: 'yes',
  read: notTyped,
  figure: () => null,
  reduce(values) {
    const answers = values.flatMap((each) => (each.kind === 'yes/no' ? [each.value] : []))
    const yes = answers.filter(Boolean).length
    return {
      value: (100 * yes) / answers.length,
      text: answers.length === 1 ? (yes === 1 ? 'yes' : 'no') : `${yes} of ${answers.length} yes`,
      bound: null,
      part: yes,
      exposure: answers.length,
    }
  },
}
