import { z } from 'zod'
import { line, words } from './text.ts'

const typed = words().max(60)
/** A number that can be believed at all: squares of it stay inside the range of numbers. */
const figure = z.number().min(-1e12, 'That is too far below zero to be measured.').max(1e12, 'That is too large to be measured.')
/** The measure somebody typed with the number; null: none, and the trait's own was meant. */
const typedMeasure = words().max(20).nullable()

/** What was read, with what the person typed. Numbers are in the trait's measure. */
export const ReadingValue = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('number'), value: figure, typed, typedMeasure }),
  z.object({ kind: z.literal('below limit'), limit: figure, typed, typedMeasure }),
  z.object({ kind: z.literal('above limit'), limit: figure, typed, typedMeasure }),
  /** So many, of so many (or of so much ground) looked at; `of` is null where that is always alike. */
  z.object({
    kind: z.literal('count'),
    value: z.number().min(0, 'A count is never below zero.').max(1e9),
    of: z.number().positive().max(1e9).nullable(),
    typed,
  }),
  z.object({ kind: z.literal('score'), value: figure, typed }),
  z.object({ kind: z.literal('yes/no'), value: z.boolean() }),
  z.object({ kind: z.literal('date'), value: z.iso.date() }),
  z.object({ kind: z.literal('stage'), value: line('Stage', 60) }),
  z.object({ kind: z.literal('text'), value: line('Text', 2000) }),
  z.object({ kind: z.literal('file'), name: words().max(200), hash: words().max(128) }),
  z.object({ kind: z.literal('missing'), reason: line('Reason', 200) }),
])
export type ReadingValue = z.infer<typeof ReadingValue>

/** A value in words, for showing beside another: what was typed where something was. */
export function readingInWords(value: ReadingValue): string {
  switch (value.kind) {
    case 'number':
    case 'score':
      return value.typed || String(value.value)
    case 'below limit':
      return value.typed || `< ${value.limit}`
    case 'above limit':
      return value.typed || `> ${value.limit}`
    case 'count':
      return value.typed || (value.of === null ? String(value.value) : `${value.value} of ${value.of}`)
    case 'yes/no':
      return value.value ? 'yes' : 'no'
    case 'file':
      return value.name
    case 'missing':
      return `no value: ${value.reason}`
    default:
      return value.value
  }
}
