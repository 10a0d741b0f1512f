import { describe, expect, it } from 'vitest'
import { analyse, AnalysisOptions, captionOf, sentencesOf, trialRequest } from '../src/analysis/index.ts'
import { readPlan, readPlanTable } from '../src/exchange/index.ts'
import { layOut } from '../src/ground/index.ts'
import { levelOn } from '../src/analysis/observations.ts'
import { asTrial, countingIds, trialWith } from './build.ts'
import { corpus } from './claims/corpus.ts'
import { faultsOf } from './claims/rules.ts'
import { sown } from './claims/sown.ts'

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

describe('the same claims everywhere', () => {
  const draft = trialWith(4, 4)
  const trial = asTrial({
    ...draft,
    traits: { ...draft.traits, response: 'sugar-yield', smallestDifference: { value: 0.5, unit: 't/ha' } },
  })
  const layout = layOut(trial, 'site-1', 3, countingIds())
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  const plots = layout.units.filter((unit) => unit.kind === 'plot')
  const levels = trial.treatments.factors[0]!.levels
  const valueOf = (i: number, key: string): number =>
    8 + [0, 2, 3, 3.05][levels.findIndex((level) => level.key === key)]! + ((i * 7) % 5) * 0.1
  const observations = plots.map((unit, i) => ({ unit: unit.id, value: valueOf(i, levelOn(unit, 'factor-1', index)!) }))
  const trait = {
    key: 'sugar-yield',
    name: 'Sugar yield',
    said: 'sugar yield',
    unit: 't/ha',
    kind: 'continuous' as const,
    better: 'more' as const,
    smallest: 0.5,
  }
  const ofTrial = analyse(trialRequest(trial, [layout], trait, observations, { method: ['dunnett', 'lsd', 'tukey'] }))

  it('a table with its plan says what the trial says, which way is better and what is worth knowing among it', () => {
    const rows = plots.map((unit, i) => [index.get(unit.in[0]!)!.code, unit.code, levelOn(unit, 'factor-1', index), observations[i]!.value])
    const plan = readPlan(
      'plan.json',
      JSON.stringify({
        canterPlan: 1,
        structure: {
          schema: 1,
          kinds: layout.structure.kinds
            .filter((each) => each.kind === 'block' || each.kind === 'plot')
            .map((each) => ({ ...each, in: each.in.filter((kind) => kind !== 'site') })),
          factors: [{ factor: 'nitrogen', appliedTo: 'plot', within: 'block', how: 'randomised' }],
          controls: [{ factor: 'nitrogen', level: 'l0' }],
          seed: null,
        },
        columns: { units: { block: ['block'], plot: ['plot'] }, factors: { nitrogen: 'rate' } },
        levels: { nitrogen: levels.map((level) => level.key) },
        amounts: { nitrogen: Object.fromEntries(levels.map((level) => [level.key, level.amount])) },
        measures: { nitrogen: { unit: 'kg/ha', of: 'N' } },
        traits: { 'sugar yield': { unit: 't/ha', better: 'more', smallestDifference: 0.5 } },
      }),
    )
    const table = readPlanTable(
      'plots.csv',
      ['block,plot,rate,sugar yield', ...rows.map((row) => row.join(','))].join('\n'),
      plan,
      'sugar yield',
    )
    const ofTable = analyse({ ...table, options: AnalysisOptions.parse({ method: ['dunnett', 'lsd', 'tukey'] }) })
    expect(ofTable.sentences.map(({ text }) => text)).toEqual(ofTrial.sentences.map(({ text }) => text))
    expect(ofTrial.sentences.map(({ text }) => text).join('\n')).toMatch(
      /80 kg N\/ha|120 kg N\/ha gave 3\.\d+ t\/ha more sugar yield than no nitrogen[\s\S]*worth knowing was set at 0\.5 t\/ha/,
    )
  })

  it('the caption of a chart is the claim of what it shows, and US units are told from the same claims', () => {
    expect(captionOf(ofTrial, 'factor-1', 'metric')).toBe(ofTrial.sentences[0]!.text)
    const customary = sentencesOf(ofTrial, 'us')
    expect(customary.map(({ about }) => about)).toEqual(ofTrial.claims.map(({ kind }) => kind))
    expect(customary[0]!.text).toMatch(/^1?\d+(\.\d)? lb N\/ac gave 1\.\d+ ton\/ac more sugar yield than no nitrogen/)
  })

  it('levels with colons, of two factors and at two sites, are told as they were written', () => {
    const lines = ['a: 1', 'b: 2'].flatMap((mix) =>
      ['x', 'y:z'].flatMap((pot) =>
        [1, 2, 3, 4].map(
          (block) =>
            `${block},${mix},${pot},${5 + (mix === 'b: 2' && pot === 'x' ? 3 : 0) + ((block * (mix === 'a: 1' ? 3 : 5) + pot.length) % 4) * 0.1}`,
        ),
      ),
    )
    const plan = readPlan(
      'plan.json',
      JSON.stringify({
        canterPlan: 1,
        structure: {
          schema: 1,
          kinds: [
            { kind: 'block', in: [] },
            { kind: 'plot', in: ['block'] },
          ],
          factors: ['mix', 'pot'].map((factor) => ({ factor, appliedTo: 'plot', within: 'block', how: 'randomised' })),
          controls: [],
          seed: null,
        },
        columns: { units: { block: ['block'] }, factors: { mix: 'mix', pot: 'pot' } },
      }),
    )
    const table = readPlanTable('plots.csv', ['block,mix,pot,yield', ...lines].join('\n'), plan, 'yield')
    const contrasts = [{ name: 'in x', term: ['mix', 'pot'], coefficients: { 'b: 2:x': 1, 'a: 1:x': -1 } }]
    const said = analyse({ ...table, options: AnalysisOptions.parse({ contrasts }) }).sentences.map(({ text }) => text)
    expect(said[0]).toMatch(
      /^As planned, “in x”: with x, mix “b: 2” was [\d.]+ higher|^As planned, “in x”: with x, yield was 3\.0\d* higher with mix “b: 2” than with mix “a: 1”/,
    )
    expect(said[1]).toMatch(/^What mix does depends on pot .*With pot “y:z”, mix “(a: 1|b: 2)” and mix “(a: 1|b: 2)” were not told apart/)
  })

  it('what a sentence may not say is found wherever it hides', () => {
    const analysis = analyse(sown({ factors: { feed: ['F1', 'F2'] }, value: ({ levels: at }) => (at['feed'] === 'F2' ? 8 : 6) }))
    const bad = (text: string, evidence: 'trial' | 'compare' | 'look' = 'trial') =>
      faultsOf({ ...analysis, sentences: [{ ...analysis.sentences[0]!, text, evidence }] }).length
    expect(bad(analysis.sentences[0]!.text)).toBe(0)
    for (const text of [
      'There was no difference between F1 and F2 in t/ha.',
      'F2 gave NaN t/ha more.',
      'F2 gave 2 t/ha more (interval 1.0 to 3.0 t/ha).',
      'F2 gave 2 t/ha more (95 % interval 1 to 3.0 t/ha).',
      'F2 gave 2 t/ha more (p 0.000).',
      'The treatments differ (p 0.03).',
      'F2 gave 2 t/ha more (95 % interval 1.0 to 3.0 t/ha; p 0.050).',
      'F2 gave 2 more yield than F1 (95 % interval 1.0 to 3.0).',
      'No pair of 1 was told.',
    ])
      expect(bad(text), text).toBeGreaterThan(0)
    expect(bad('F2 gave 2 t/ha more than F1.', 'look')).toBeGreaterThan(0)
    expect(bad('F2 gave 2 t/ha more than F1.', 'compare')).toBeGreaterThan(0)
  })
})
