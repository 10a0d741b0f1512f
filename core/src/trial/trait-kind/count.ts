import { NOTHING, plain, type ReadText, type TraitKind } from './trait-kind.ts'

/** A count, with how much was looked at where that differs. Samples are added up: counts and what they are of. */
export const count: TraitKind = {
  key: 'count',
  name: 'Count',
  about: 'So many shoots, plants, insects; with “of”, in how many or how much was looked at.',
  values: ['count'],
  measured: false,
  numeric: true,
  digits: 'whole',
  held: false,
  ...plain,
  analysed: 'count',
  choices: null,
  keyboard: 'text',
  example: '14',
  read: (typed) => readPart(typed, false),
  figure: (value) => (value.kind === 'count' ? value.value : null),
  reduce(values) {
    const parts = values.flatMap((each) => (each.kind === 'count' ? [each] : []))
    const total = parts.reduce((sum, each) => sum + each.value, 0)
    const exposed = parts.every((each) => each.of !== null)
    return { ...NOTHING, value: total, part: total, exposure: exposed ? parts.reduce((sum, each) => sum + each.of!, 0) : null }
  },
}

/** `14`, `14 of 20`, `14/20`. */
export function readPart(typed: string, ofNeeded: boolean): ReadText {
  const match = /^(\d+(?:[.,]\d+)?)(?:\s*(?:of|\/)\s*(\d+(?:[.,]\d+)?))?$/i.exec(typed.trim())
  const figure = (text: string | undefined): number | null => (text === undefined ? null : Number(text.replace(',', '.')))
  const value = figure(match?.[1])
  const of = figure(match?.[2])
  if (value === null)
    return { ok: false, problem: `“${typed.slice(0, 30)}” is no count. Type for example ${ofNeeded ? '14 of 20' : '14'}.` }
  if (ofNeeded && of === null) return { ok: false, problem: 'Of how many? Type for example 14 of 20.' }
  if (of !== null && !(of > 0)) return { ok: false, problem: 'What was looked at must be above zero.' }
  if (!Number.isInteger(value)) return { ok: false, problem: 'A count is a whole number.' }
  return { ok: true, value: { kind: 'count', value, of, typed: typed.trim().slice(0, 60) }, number: value }
}
