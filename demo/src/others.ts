import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets } from '@canter/core/numbers'
import type { Trial, TrialDraft } from '@canter/core/trial'
import { Diary } from './diary.ts'
import { normal, seededIds } from './ids.ts'
import { kinds, rateLadder } from './levels.ts'
import { CREW } from './people.ts'
import { sugarBeetDraft } from './sugar-beet.ts'

const set = (key: string) => traitSets.find((each) => each.key === key)!
const traitsOf = (key: string) => {
  const { traits, derived, response, yieldTrait, qualityTrait } = set(key)
  return { traits: [...traits], derived: [...derived], response, yieldTrait, qualityTrait }
}
const nobody = { askedBy: '', why: '', expected: '', hostedBy: '', paidBy: '' }

/** Laid out for the coming season, not yet planted. */
export function leek(): TrialContents {
  const { next } = seededIds(20272, '2026-11-02T09:00:00Z')
  const draft: TrialDraft = {
    ...sugarBeetDraft,
    ...traitsOf('growth'),
    title: 'Leek transplants: phosphorus at planting',
    crop: 'Leek',
    season: 2027,
    question: {
      ...nobody,
      askedBy: 'Tern Lane nursery',
      why: 'Soil tests high in P; does a starter dose still speed the young plants?',
      expected: 'No gain above 15 kg P/ha.',
    },
    factors: [rateLadder('P', 'Phosphorus', [0, 10, 20, 40])],
    smallestDifference: { value: 4, unit: 'cm' },
    significance: 0.1,
    replicates: 5,
    sites: [
      {
        key: 'lower-quillon',
        name: 'Lower Quillon',
        soil: 'Sandy loam, 41 mg P/kg.',
        ground: {
          plotWidth: 1.5,
          plotLength: 6,
          harvestWidth: 0.75,
          harvestLength: 4,
          columnsPerBlock: 4,
          blocksAcross: 5,
          plotGap: 0.3,
          rowAlley: 0,
          blockAlley: 1.5,
          border: 1.5,
          serpentine: true,
        },
      },
    ],
    common: [{ what: 'Compost, whole field', amount: '20 t/ha', when: 'February' }],
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
    economics: null,
  }
  const trial: Trial = { ...draft, id: next(), version: 2, createdAt: '2026-11-02T09:00:00.000Z', deletedAt: null }
  return { trial, layout: layOut(trial, 7, next), records: [], events: [], people: [CREW] }
}

/** Eight oat varieties, threshed; the moistures of the last block are still to come. */
export function oats(): TrialContents {
  const { next, chance } = seededIds(20263, '2026-03-11T09:00:00Z')
  const varieties = ['Old standard', 'Line 2', 'Line 3', 'Line 4', 'Line 5', 'Line 6', 'Line 7', 'Line 8']
  const draft: TrialDraft = {
    ...sugarBeetDraft,
    ...traitsOf('grain'),
    title: 'Oats: eight lines for light land',
    crop: 'Oats',
    season: 2026,
    question: { ...nobody, askedBy: 'Quillon Vale station', why: 'Which line is worth three sites next year?' },
    factors: [
      kinds(
        'variety',
        'Variety',
        varieties.map((name, i) => ({ code: i === 0 ? 'STD' : `L${i + 1}`, name, control: i === 0 })),
      ),
    ],
    smallestDifference: { value: 0.4, unit: 't/ha' },
    replicates: 3,
    sites: [
      {
        key: 'hazel-bank',
        name: 'Hazel Bank',
        soil: 'Silt loam.',
        ground: {
          plotWidth: 1.5,
          plotLength: 8,
          harvestWidth: 1.25,
          harvestLength: 7,
          columnsPerBlock: 8,
          blocksAcross: 1,
          plotGap: 0.4,
          rowAlley: 0,
          blockAlley: 2,
          border: 2,
          serpentine: true,
        },
      },
    ],
    common: [],
    supply: null,
    economics: null,
  }
  const trial: Trial = { ...draft, id: next(), version: 2, createdAt: '2026-02-02T09:00:00.000Z', deletedAt: null }
  const layout = layOut(trial, 19, next)
  const diary = new Diary(next, CREW.id, '2026-03-24T08:00:00Z')
  diary.planted(layout, '2026-03-24', 'Drilled at 350 seeds/m².')
  diary.goTo('2026-08-12T12:00:00Z')
  const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  for (const plot of plots) {
    const better = Number(plot.received['variety']!.slice(1)) * 0.11
    diary.measure(plot, trial.traits[0]!, ((5.1 + better + 0.25 * normal(chance)) * 8.75) / 10)
    if (plot.walk! <= 16) diary.measure(plot, trial.traits[1]!, 13.4 + 0.5 * normal(chance))
  }
  return { trial, layout, records: diary.records, events: [], people: [CREW] }
}

/** Two strips, one of each: a look, which Canter describes and does not test. */
export function mulch(): TrialContents {
  const { next } = seededIds(20264, '2026-02-10T09:00:00Z')
  const draft: TrialDraft = {
    ...sugarBeetDraft,
    ...traitsOf('growth'),
    title: 'Straw mulch depth under young hedging',
    crop: 'Hedging, hornbeam',
    season: 2026,
    question: { ...nobody, askedBy: 'A grower with one hedge to spare', why: 'Does a deep mulch pull the whips through a dry spring?' },
    factors: [
      kinds('mulch', 'Straw mulch', [
        { code: '5CM', name: '5 cm of straw', control: true },
        { code: '15CM', name: '15 cm of straw' },
      ]),
    ],
    smallestDifference: null,
    replicates: 1,
    sites: [
      {
        key: 'tern-lane',
        name: 'Tern Lane',
        soil: '',
        ground: {
          plotWidth: 1.2,
          plotLength: 12,
          harvestWidth: 1.2,
          harvestLength: 10,
          columnsPerBlock: 2,
          blocksAcross: 1,
          plotGap: 0.6,
          rowAlley: 0,
          blockAlley: 0,
          border: 1,
          serpentine: true,
        },
      },
    ],
    common: [],
    supply: null,
    economics: null,
  }
  const trial: Trial = { ...draft, id: next(), version: 2, createdAt: '2025-12-10T09:00:00.000Z', deletedAt: null }
  const layout = layOut(trial, 3, next)
  const diary = new Diary(next, CREW.id, '2026-02-20T08:00:00Z')
  diary.planted(layout, '2026-02-20', 'Bare-root whips, 40 cm apart.')
  diary.goTo('2026-10-20T10:00:00Z')
  for (const plot of layout.units.filter((unit) => unit.walk !== null)) {
    const deep = plot.received['mulch'] === 'k2'
    diary.measure(plot, trial.traits[0]!, deep ? 74 : 63)
    diary.measure(plot, trial.traits[1]!, deep ? 7 : 6)
  }
  return { trial, layout, records: diary.records, events: [], people: [CREW] }
}
