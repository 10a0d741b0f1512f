import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { newTrialDraft, traitSets, traitsOf, type TraitSet } from '@canter/core/numbers'
import type { Ground, Site, TrialDraft } from '@canter/core/trial'
import { asTrial } from './contents.ts'
import { Diary } from './diary.ts'
import { normal, seededIds } from './ids.ts'
import { crossed, kinds, rateLadder } from './levels.ts'
import { CREW } from './people.ts'

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
    without: [],
    season: null,
  }
}

/** Laid out for the coming season, not yet planted. */
export function leek(): TrialContents {
  const { next } = seededIds(20272, '2026-11-02T09:00:00Z')
  const draft = draftWith(
    'growth',
    {
      title: 'Leek transplants: phosphorus at planting',
      crop: 'Leek',
      season: 2027,
      askedBy: 'Tern Lane nursery',
      why: 'Soil tests high in P; does a starter dose still speed the young plants?',
      expected: 'No gain above 15 kg P/ha.',
      significance: 0.1,
    },
    {
      treatments: crossed([rateLadder('P', 'Phosphorus', [0, 10, 20, 40])], 'untreated control'),
      traits: { ...traitsOf(set('growth')), smallestDifference: { value: 4, unit: 'cm' } },
      sites: [site('growth', 'lower-quillon', 'Lower Quillon', 'Sandy loam, 41 mg P/kg.', 5, { across: { plot: 4, block: 5 } })],
      amounts: {
        supply: {
          product: 'Triple superphosphate',
          analysis: { P: 20 },
          applications: 1,
          labelMaximumPerApplication: null,
          labelMaximumPerSeason: null,
          reentryHours: null,
          preHarvestDays: null,
          protection: '',
          overMaximumReason: '',
        },
        common: [{ what: 'Compost, whole field', amount: '20 t/ha', when: 'February' }],
      },
    },
  )
  const trial = asTrial(draft, next(), '2026-11-02T09:00:00.000Z')
  return { trial, layouts: [layOut(trial, 'lower-quillon', 7, next)], records: [], events: [], people: [CREW] }
}

/** Eight oat varieties, threshed; the moistures of the last block are still to come. */
export function oats(): TrialContents {
  const { next, chance } = seededIds(20263, '2026-03-11T09:00:00Z')
  const varieties = ['Old standard', 'Line 2', 'Line 3', 'Line 4', 'Line 5', 'Line 6', 'Line 7', 'Line 8']
  const draft = draftWith(
    'grain',
    {
      title: 'Oats: eight lines for light land',
      crop: 'Oats',
      season: 2026,
      askedBy: 'Quillon Vale station',
      why: 'Which line is worth three sites next year?',
    },
    {
      treatments: crossed(
        [
          kinds(
            'variety',
            'Variety',
            varieties.map((name, i) => ({ code: i === 0 ? 'STD' : `L${i + 1}`, name })),
          ),
        ],
        'standard',
      ),
      traits: { ...traitsOf(set('grain')), smallestDifference: { value: 0.4, unit: 't/ha' } },
      sites: [site('grain', 'hazel-bank', 'Hazel Bank', 'Silt loam.', 3, { across: { plot: 8, block: 1 }, rowAlley: 0 })],
    },
  )
  const trial = asTrial(draft, next(), '2026-02-02T09:00:00.000Z')
  const layout = layOut(trial, 'hazel-bank', 19, next)
  const diary = new Diary(next, CREW.id, '2026-03-24T08:00:00Z', 'harvest')
  diary.planted(layout, '2026-03-24', 'Drilled at 350 seeds/m².')
  diary.goTo('2026-08-12T12:00:00Z')
  const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const [weight, moisture] = trial.traits.observed
  for (const plot of plots) {
    const better = Number(plot.received['variety']!.slice(1)) * 0.11
    diary.measure(plot, weight!, ((5.1 + better + 0.25 * normal(chance)) * 8.75) / 10)
    if (plot.walk! <= 16) diary.measure(plot, moisture!, 13.4 + 0.5 * normal(chance))
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
  const layout = layOut(trial, 'tern-lane', 3, next)
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
