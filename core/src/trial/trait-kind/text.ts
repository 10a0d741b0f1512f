import { NOTHING, plain, type TraitKind } from './trait-kind.ts'

/** Words: kept and shown, not analysed. */
export const text: TraitKind = {
  key: 'text',
  name: 'Words',
  about: 'What was seen, in words. Shown everywhere, not analysed.',
  values: ['text'],
  measured: false,
  numeric: false,
  digits: 'rounded',
  held: false,
  ...plain,
  analysed: null,
  choices: null,
  keyboard: 'text',
  example: 'leaves curled at the tips',
  read: (typed) =>
    typed.trim() === ''
      ? { ok: false, problem: 'Nothing typed.' }
      : { ok: true, value: { kind: 'text', value: typed.trim().slice(0, 2000) }, number: null },
  figure: () => null,
  reduce: (values) => ({ ...NOTHING, text: values.flatMap((each) => (each.kind === 'text' ? [each.value] : [])).join('; ') }),
}
