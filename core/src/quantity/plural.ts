import pluralize from 'pluralize'

/** Several of a thing: plots, benches; with a count, as many as it says. */
export function plural(word: string, count?: number): string {
  return pluralize(word, count)
}

/** `1 plot`, `24 plots`, `no plots`. */
export function counted(count: number, word: string): string {
  return `${count === 0 ? 'no' : count} ${pluralize(word, count)}`
}
