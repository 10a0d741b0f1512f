import { readPart } from './count.ts'
import { NOTHING, type TraitKind } from './trait-kind.ts'

/** So many of so many. Samples are added up, so that a share of many counts more than one of few. */
export const share: TraitKind = {
  key: 'share',
  name: 'Share of a count',
  about: 'So many of so many: alive of planted, damaged of looked at. Shown in per cent, kept as both counts.',
  values: ['count'],
  measured: false,
  numeric: true,
  digits: 'rounded',
  held: false,
  comesTo: () => '%',
  lack: () => null,
  analysed: 'share',
  choices: null,
  keyboard: 'text',
  example: '14 of 20',
  read(typed) {
    const read = readPart(typed, true)
    if (!read.ok || read.value.kind !== 'count') return read
    if (read.value.value > read.value.of!)
      return { ok: false, problem: `${read.value.value} of ${read.value.of}: a part is never more than its whole.` }
    return { ...read, number: (100 * read.value.value) / read.value.of! }
  },
  figure: (value) => (value.kind === 'count' && value.of !== null ? (100 * value.value) / value.of : null),
  reduce(values) {
    const parts = values.flatMap((each) => (each.kind === 'count' && each.of !== null ? [each] : []))
    const [part, whole] = [parts.reduce((sum, each) => sum + each.value, 0), parts.reduce((sum, each) => sum + each.of!, 0)]
    return whole > 0 ? { ...NOTHING, value: (100 * part) / whole, part, exposure: whole } : NOTHING
  },
}
