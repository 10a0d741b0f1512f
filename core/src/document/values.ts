import { formatPlain } from '../quantity/index.ts'

/** A value of a field in words, for showing one beside another: names and amounts, never keys or brackets. */
export function valueInWords(value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing'
  if (typeof value === 'number') return formatPlain(value)
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'string') return value.length > 200 ? `${value.slice(0, 200)}…` : value
  if (Array.isArray(value)) {
    const named = value.map(nameOf)
    return named.length === 0 ? 'none' : `${named.slice(0, 8).join(', ')}${named.length > 8 ? ` and ${named.length - 8} more` : ''}`
  }
  return nameOf(value)
}

/** What a thing with several fields is called, with what stands in it where it has no name. */
function nameOf(value: unknown): string {
  if (typeof value !== 'object' || value === null) return valueInWords(value)
  const fields = value as Record<string, unknown>
  const name = fields['name'] ?? fields['product'] ?? fields['what']
  const levels = Array.isArray(fields['levels']) ? ` (${valueInWords(fields['levels'])})` : ''
  if (typeof name === 'string') return `${name}${levels}`
  if (typeof fields['value'] === 'number')
    return `${formatPlain(fields['value'])} ${typeof fields['unit'] === 'string' ? fields['unit'] : ''}`.trim()
  // Groups of the ground are called by what they are: block 2.
  const groups = Object.entries(fields)
  if (groups.length > 0 && groups.every(([key]) => /^[a-z ]+ \d+$/.test(key)))
    return groups.map(([key, each]) => `${key}: ${valueInWords(each)}`).join('; ')
  const held = Object.values(fields).filter((each) => each !== null && each !== '')
  return held.length === 0 ? 'nothing' : held.map(valueInWords).join(', ')
}
