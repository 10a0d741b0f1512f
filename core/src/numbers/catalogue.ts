import type { DerivedTrait, Trait } from '../trial/index.ts'
import { cleanRootYield, grainYield, sugarYield } from './yield.ts'

/** A set of traits that belong together for a crop, offered when a trial is begun. */
export interface TraitSet {
  readonly key: string
  readonly name: string
  readonly traits: readonly Trait[]
  readonly derived: readonly DerivedTrait[]
  readonly response: string
  readonly yieldTrait: string | null
  readonly qualityTrait: string | null
}

function number(
  key: string,
  code: string,
  name: string,
  unit: string,
  low: number,
  high: number,
  decimals: number,
  method: string,
  better: Trait['better'] = 'more',
): Trait {
  return { key, code, name, kind: 'number', unit, low, high, decimals, better, steps: [], method }
}

const leafHealth: Trait = {
  key: 'leaf-health',
  code: 'LH',
  name: 'Leaf health',
  kind: 'score',
  unit: 'score',
  low: 1,
  high: 9,
  decimals: 0,
  better: 'more',
  steps: [
    { score: 1, meaning: 'Leaves dead or gone' },
    { score: 3, meaning: 'More than half of the leaf area spotted or dead' },
    { score: 5, meaning: 'About a quarter of the leaf area spotted' },
    { score: 7, meaning: 'A few spots on older leaves' },
    { score: 9, meaning: 'No spot seen' },
  ],
  method: 'Stand at the front of the plot and judge the two middle rows as a whole.',
}

export const traitSets: readonly TraitSet[] = [
  {
    key: 'sugar-beet',
    name: 'Sugar beet: roots, tare, sugar, leaf health',
    traits: [
      number('gross-weight', 'GW', 'Gross root weight', 'kg', 5, 400, 1, 'All roots of the harvested area as lifted, topped, soil on.'),
      number('dirt-tare', 'DT', 'Dirt tare', '%', 1, 30, 1, 'Washed against unwashed weight of one bag.', 'less'),
      number('sugar-content', 'SC', 'Sugar content', '%', 12, 22, 2, 'Laboratory, on fresh clean root.'),
      leafHealth,
    ],
    derived: [cleanRootYield(), sugarYield()],
    response: 'sugar-yield',
    yieldTrait: 'clean-yield',
    qualityTrait: 'sugar-content',
  },
  {
    key: 'grain',
    name: 'Grain: weight and moisture',
    traits: [
      number('grain-weight', 'W', 'Grain weight', 'kg', 1, 60, 2, 'All grain of the harvested area, as threshed.'),
      number('grain-moisture', 'M', 'Grain moisture', '%', 8, 30, 1, 'Moisture meter, mean of two readings.', 'neither'),
    ],
    derived: [grainYield(14)],
    response: 'grain-yield',
    yieldTrait: 'grain-yield',
    qualityTrait: null,
  },
  {
    key: 'growth',
    name: 'Growth: height and vigour',
    traits: [
      number('height', 'H', 'Height', 'cm', 1, 400, 0, 'Ground to the highest living bud, mean plant of the plot.', 'neither'),
      {
        ...leafHealth,
        key: 'vigour',
        code: 'V',
        name: 'Vigour',
        steps: [
          { score: 1, meaning: 'Dying' },
          { score: 5, meaning: 'Middling growth' },
          { score: 9, meaning: 'As strong as can be' },
        ],
        method: 'Judge the whole plot from its front.',
      },
    ],
    derived: [],
    response: 'height',
    yieldTrait: null,
    qualityTrait: null,
  },
]
