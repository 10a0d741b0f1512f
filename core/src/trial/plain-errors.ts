import { z } from 'zod'

const KINDS: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object with named fields',
  record: 'an object with named fields',
  null: 'null',
  undefined: 'nothing',
}

/** What is wrong with a value, for whoever wrote it by hand; for all schemas, wherever one has no words of its own. */
function plainError(issue: z.core.$ZodRawIssue): string | undefined {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined
        ? 'This is missing.'
        : `This must be ${KINDS[issue.expected] ?? issue.expected}, and is ${nameOf(issue.input)}.`
    case 'invalid_value':
      return issue.input === undefined ? 'This is missing.' : `This must be one of: ${issue.values.map(String).join(', ')}.`
    case 'invalid_union':
      return issue.input === undefined ? 'This is missing.' : `This is none of the forms that are known here; it is ${nameOf(issue.input)}.`
    case 'unrecognized_keys':
      return `${issue.keys.map((key) => `“${key}”`).join(', ')} ${issue.keys.length === 1 ? 'is' : 'are'} not known here. Take it out, or mind the spelling.`
    case 'too_big':
      return `At most ${String(issue.maximum)}${measureOf(issue.origin)}.`
    case 'too_small':
      return issue.inclusive === false
        ? `More than ${String(issue.minimum)}.`
        : `At least ${String(issue.minimum)}${measureOf(issue.origin)}.`
    case 'invalid_format':
      return 'This is not written as it must be.'
    case 'invalid_key':
    case 'invalid_element':
      return 'One of its entries is not as it must be.'
    default:
      return undefined
  }
}

function nameOf(value: unknown): string {
  if (value === null) return 'null'
  if (Array.isArray(value)) return 'a list'
  if (typeof value === 'string') return `the text “${value.slice(0, 30)}”`
  if (typeof value === 'number' || typeof value === 'boolean') return String(value)
  return 'an object'
}

function measureOf(origin: string): string {
  return origin === 'string' ? ' characters' : origin === 'array' || origin === 'set' ? ' entries' : ''
}

z.config({ customError: plainError })
