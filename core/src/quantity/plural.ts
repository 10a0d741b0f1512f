import pluralize from 'pluralize'

/** Each word is worked out once: the same few are counted with every reading. */
const known = new Map<string, { readonly one: string; readonly many: string }>()

function formsOf(word: string): { readonly one: string; readonly many: string } {
  const found = known.get(word)
  if (found) return found
  const made = { one: pluralize(word, 1), many: pluralize(word, 2) }
  known.set(word, made)
  return made
}

/** Several of a thing: plots, benches; with a count, as many as it says. */
export function plural(word: string, count = 2): string {
  return count === 1 ? formsOf(word).one : formsOf(word).many
}

/** `1 plot`, `24 plots`, `no plots`. */
export function counted(count: number, word: string): string {
  return `${count === 0 ? 'no' : count} ${plural(word, count)}`
}
