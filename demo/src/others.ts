import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { newTrialDraft, traitSets, traitsOf, type TraitSet } from '@canter/core/numbers'
import { bareSite, type Ground, type Site, type TrialDraft } from '@canter/core/trial'
import { asTrial } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { crossed, kinds } from './levels.ts'
import { CREW } from './people.ts'
import { factsOf } from './site-facts.ts'

const set = (key: string): TraitSet => traitSets.find((each) => each.key === key)!

/** A draft with everything left to its beginnings but what is named. */
export function draftWith(
  setKey: string,
  question: Partial<TrialDraft['question']> & Pick<TrialDraft['question'], 'title' | 'crop' | 'season'>,
  rest: Partial<TrialDraft>,
): TrialDraft {
  const draft = newTrialDraft(question.season)
  return { ...draft, traits: traitsOf(set(setKey)), ...rest, question: { ...draft.question, ...question } }
}

export function site(setKey: string, key: string, name: string, soil: string, replicates: number, ground: Partial<Ground>): Site {
  const { ground: usual, unit, plants } = set(setKey)
  return {
    key,
    name,
    soil,
    ground: { ...usual, ...ground },
    design: { key: 'randomised-block', replicates, unit, plants, walked: 'unit', placed: {}, settings: {} },
    ...bareSite,
    facts: factsOf(name),
  }
}

/** Twenty-four oat lines in small blocks, threshed; the moistures of the last replicate are still to come. */
export function oats(): TrialContents {
  const { next, chance } = seededIds(20263, '2026-03-11T09:00:00Z')
  const lines = Array.from({ length: 24 }, (_, i) => ({
    code: i === 0 ? 'STD' : `L${i + 1}`,
    name: i === 0 ? 'old standard' : `line ${i + 1}`,
  }))
  const made = site('grain', 'hazel-bank', 'Hazel Bank', 'Silt loam, lighter towards the track.', 3, {
    across: { plot: 24, block: 6, replicate: 1 },
    rowAlley: 0,
  })
  const draft = draftWith(
    'grain',
    {
      title: 'Oats: 24 lines for light land',
      crop: 'Oats',
      season: 2026,
      askedBy: 'Quillon Vale station',
      why: 'Which lines are worth three sites next year?',
    },
    {
      treatments: crossed([kinds('line', 'Line', lines)], 'standard'),
      traits: { ...traitsOf(set('grain')), smallestDifference: { value: 0.4, unit: 't/ha' } },
      sites: [{ ...made, design: { ...made.design, key: 'alpha-lattice', settings: { blockSize: 4 } } }],
    },
  )
  const trial = asTrial(draft, next(), '2026-02-02T09:00:00.000Z')
  const layout = layOut(trial, 'hazel-bank', 19, next, null, null, FIRST_DRAW)
  const diary = new Diary(next, CREW.id, '2026-03-24T08:00:00Z', 'harvest')
  diary.planted(layout, '2026-03-24', 'Drilled at 350 seeds/m².')
  diary.goTo('2026-08-12T12:00:00Z')
  const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const [weight, moisture] = trial.traits.observed
  const worth = lines.map((_, i) => (i === 0 ? 0 : 0.35 * normal(chance)))
  const patch = new Map(layout.units.filter((unit) => unit.kind === 'block').map((block) => [block.id, 0.45 * normal(chance)]))
  for (const plot of plots) {
    const better = worth[Number(plot.received['line']!.slice(1)) - 1]!
    const ground = plot.in.reduce((sum, id) => sum + (patch.get(id) ?? 0), 0)
    diary.measure(plot, weight!, ((5.4 + better + ground + 0.18 * normal(chance)) * 8.75) / 10)
    if (plot.walk! <= 60) diary.measure(plot, moisture!, 13.4 + 0.5 * normal(chance))
  }
  return { trial, layouts: [layout], records: diary.records, events: [], people: [CREW] }
}

/** Two strips, one of each: a look, which Canter describes and does not test. */
export function mulch(): TrialContents {
  const { next } = seededIds(20264, '2026-02-10T09:00:00Z')
  const draft = draftWith(
    'growth',
    {
      title: 'Straw mulch depth under young hedging',
      crop: 'Hedging, hornbeam',
      season: 2026,
      askedBy: 'A grower with one hedge to spare',
      why: 'Does a deep mulch pull the whips through a dry spring?',
    },
    {
      treatments: crossed(
        [
          kinds(
            'mulch',
            'Straw mulch',
            [
              { code: '5CM', name: '5 cm of straw' },
              { code: '15CM', name: '15 cm of straw' },
            ],
            'practice',
          ),
        ],
        'standard',
      ),
      sites: [
        site('growth', 'tern-lane', 'Tern Lane', '', 1, {
          plotWidth: 1.2,
          plotLength: 12,
          harvestWidth: 1.2,
          harvestLength: 10,
          plotGap: 0.6,
          blockAlley: 0,
          border: 1,
        }),
      ],
    },
  )
  const trial = asTrial(draft, next(), '2025-12-10T09:00:00.000Z')
  const layout = layOut(trial, 'tern-lane', 3, next, null, null, FIRST_DRAW)
  const diary = new Diary(next, CREW.id, '2026-02-20T08:00:00Z', 'autumn')
  diary.planted(layout, '2026-02-20', 'Bare-root whips, 40 cm apart.')
  diary.goTo('2026-10-20T10:00:00Z')
  const [height, vigour] = trial.traits.observed
  for (const plot of layout.units.filter((unit) => unit.walk !== null)) {
    const deep = plot.received['mulch'] === 'k2'
    diary.measure(plot, height!, deep ? 74 : 63)
    diary.measure(plot, vigour!, deep ? 7 : 6)
  }
  return { trial, layouts: [layout], records: diary.records, events: [], people: [CREW] }
}
