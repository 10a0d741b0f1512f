import type { Analysis } from '@canter/core/analysis'

/** The claims of an analysis, each with the class of its evidence: of a table and of a package alike. */
export function spokenLines(sentences: Analysis['sentences']): string[] {
  return sentences.map(({ evidence, text }) => `[${evidence}] ${text}`)
}
