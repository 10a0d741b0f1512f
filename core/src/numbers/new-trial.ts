import type { TrialDraft } from '../trial/index.ts'
import { traitSets } from './catalogue.ts'

/** A trial as it stands before anything is decided: a small nitrogen ladder in four blocks, all of it to be changed. */
export function newTrialDraft(setKey: string, season: number): TrialDraft {
  const set = traitSets.find((each) => each.key === setKey) ?? traitSets[0]!
  return {
    title: '',
    crop: '',
    season,
    question: { askedBy: '', why: '', expected: '', hostedBy: '', paidBy: '' },
    factors: [
      {
        key: 'factor-1',
        name: 'Nitrogen',
        unit: 'kg/ha',
        nutrient: 'N',
        levels: [0, 60, 120].map((amount, i) => ({
          key: `l${i + 1}`,
          code: `N${amount}`,
          name: `${amount} kg N/ha`,
          amount,
          control: i === 0,
        })),
      },
    ],
    traits: [...set.traits],
    derived: [...set.derived],
    response: set.response,
    yieldTrait: set.yieldTrait,
    qualityTrait: set.qualityTrait,
    smallestDifference: null,
    significance: 0.05,
    replicates: 4,
    sites: [
      {
        key: 'site-1',
        name: 'Site 1',
        soil: '',
        ground: {
          plotWidth: 2.7,
          plotLength: 10,
          harvestWidth: 1.35,
          harvestLength: 8,
          columnsPerBlock: 6,
          blocksAcross: 1,
          plotGap: 0.45,
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
}
