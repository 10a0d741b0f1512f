import { describe, expect, it } from 'vitest'
import { analyse } from '../src/analysis/index.ts'
import { corpus } from './claims/corpus.ts'
import { faultsOf } from './claims/rules.ts'

describe.each(corpus)('what is said: %s', (_, cases) => {
  it.each(cases.map((each) => [each.name, each] as const))('%s', (_name, { request, must, not, first }) => {
    const analysis = analyse(request)
    const sentences = analysis.sentences.map(({ text }) => text)
    const said = [...sentences, ...analysis.cautions.map(({ text }) => text)].join('\n')
    for (const pattern of must) expect(said).toMatch(pattern)
    for (const pattern of not) expect(sentences.join('\n')).not.toMatch(pattern)
    if (first) expect(sentences[0]).toMatch(first)
    expect(faultsOf(analysis)).toEqual([])
  })
})

it('the corpus holds three hundred trials or more, each with what must be said', () => {
  const all = corpus.flatMap(([, cases]) => cases)
  expect(all.length).toBeGreaterThanOrEqual(300)
  expect(all.filter((each) => each.must.length === 0)).toEqual([])
})
