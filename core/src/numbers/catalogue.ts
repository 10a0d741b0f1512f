import { bareGround, type DerivedTrait, type Ground, type Trait, type Traits, type UnitKind } from '../trial/index.ts'
import { cleanRootYield, grainYield, rootYield, sugarYield } from './yield.ts'

/** What is usually measured on a crop, offered when a trial is begun, with ground of a usual size. */
export interface TraitSet {
  readonly key: string
  readonly name: string
  /** Words in the name of a crop that it suits. */
  readonly crops: RegExp
  readonly unit: UnitKind
  readonly plants: number
  readonly ground: Ground
  readonly observed: readonly Trait[]
  readonly derived: readonly DerivedTrait[]
  readonly visit: string
  readonly response: string
  readonly yieldTrait: string | null
  readonly qualityTrait: string | null
}

const common = { on: 'unit', samples: 1, observers: 'apart' } as const

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
  return { key, code, name, kind: 'number', unit, low, high, decimals, better, steps: [], method, ...common, visits: [] }
}

function ground(plotWidth: number, plotLength: number, harvestWidth: number, harvestLength: number, more: Partial<Ground> = {}): Ground {
  return {
    plotWidth,
    plotLength,
    harvestWidth,
    harvestLength,
    across: {},
    plotGap: 0.45,
    rowAlley: 0.5,
    groupGap: 1,
    blockAlley: 2,
    border: 2,
    serpentine: true,
    ...bareGround,
    ...more,
  }
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
  ...common,
  visits: [],
}

/** 1 the worst, 9 the best, with the middle described. */
function vigour(name: string, code: string, key: string, worst: string, middle: string, best: string, method: string): Trait {
  return {
    ...leafHealth,
    key,
    code,
    name,
    steps: [
      { score: 1, meaning: worst },
      { score: 5, meaning: middle },
      { score: 9, meaning: best },
    ],
    method,
  }
}

export const traitSets: readonly TraitSet[] = [
  {
    key: 'sugar-beet',
    name: 'Sugar beet: roots, tare, sugar, leaf health',
    crops: /beet|mangel/i,
    unit: 'plot',
    plants: 0,
    ground: ground(2.7, 10, 1.35, 8),
    observed: [
      number('gross-weight', 'GW', 'Gross root weight', 'kg', 5, 400, 1, 'All roots of the harvested area as lifted, topped, soil on.'),
      number('dirt-tare', 'DT', 'Dirt tare', '%', 1, 30, 1, 'Washed against unwashed weight of one bag.', 'less'),
      number('sugar-content', 'SC', 'Sugar content', '%', 12, 22, 2, 'Laboratory, on fresh clean root.'),
      leafHealth,
    ],
    derived: [cleanRootYield(), sugarYield()],
    visit: 'Harvest',
    response: 'sugar-yield',
    yieldTrait: 'clean-yield',
    qualityTrait: 'sugar-content',
  },
  {
    key: 'grain',
    name: 'Grain: weight and moisture',
    crops: /oat|wheat|barley|rye|triticale|maize|corn|grain|lentil|pea|bean|rape|linseed/i,
    unit: 'plot',
    plants: 0,
    ground: ground(1.5, 8, 1.25, 7, { plotGap: 0.4 }),
    observed: [
      number('grain-weight', 'W', 'Grain weight', 'kg', 1, 60, 2, 'All grain of the harvested area, as threshed.'),
      number('grain-moisture', 'M', 'Grain moisture', '%', 8, 30, 1, 'Moisture meter, mean of two readings.', 'neither'),
    ],
    derived: [grainYield(14)],
    visit: 'Harvest',
    response: 'grain-yield',
    yieldTrait: 'grain-yield',
    qualityTrait: null,
  },
  {
    key: 'roots',
    name: 'Roots and vegetables: marketable weight and stand',
    crops: /carrot|parsnip|onion|potato|turnip|swede|radish|cabbage|lettuce|celeriac|leek|vegetable/i,
    unit: 'plot',
    plants: 0,
    ground: ground(1.8, 6, 0.9, 4, { plotGap: 0.3, rowAlley: 1 }),
    observed: [
      number(
        'marketable-weight',
        'MW',
        'Marketable weight',
        'kg',
        0.2,
        400,
        2,
        'All sound roots or heads of saleable size from the harvested area, washed.',
      ),
      {
        ...number('stand', 'ST', 'Stand', '', 0, 5000, 0, 'Plants in the harvested area, counted before lifting.', 'neither'),
        kind: 'count',
      },
    ],
    derived: [rootYield()],
    visit: 'Harvest',
    response: 'marketable-yield',
    yieldTrait: 'marketable-yield',
    qualityTrait: null,
  },
  {
    key: 'pots',
    name: 'Pots: shoots on each plant, height, damage',
    crops: /pot|pelargonium|bedding|petunia|fuchsia|chrysanthemum|poinsettia|plug|liner/i,
    unit: 'pot',
    plants: 3,
    ground: ground(0.15, 0.15, 0.15, 0.15, { plotGap: 0.1, rowAlley: 0.1, groupGap: 0.2, blockAlley: 0.4, border: 0.2 }),
    observed: [
      {
        ...number('shoots', 'SH', 'Shoots', '', 0, 60, 0, 'Shoots longer than 2 cm, on each plant.'),
        kind: 'count',
        on: 'plant',
      },
      number('height', 'H', 'Height', 'cm', 1, 150, 1, 'Rim of the pot to the highest leaf, leaves as they hang.', 'neither'),
      vigour(
        'Quality at sale',
        'Q',
        'quality',
        'Not saleable',
        'Saleable at a discount',
        'As good as can be',
        'Turn the pot once and judge it as a buyer would.',
      ),
    ],
    derived: [],
    visit: 'At sale',
    response: 'shoots',
    yieldTrait: null,
    qualityTrait: null,
  },
  {
    key: 'growth',
    name: 'Growth: height and vigour',
    crops: /hedg|tree|whip|shrub|hornbeam|grass|sward/i,
    unit: 'plot',
    plants: 0,
    ground: ground(1.5, 6, 0.75, 4, { plotGap: 0.3, rowAlley: 0, blockAlley: 1.5, border: 1.5 }),
    observed: [
      number('height', 'H', 'Height', 'cm', 1, 400, 0, 'Ground to the highest living bud, mean plant of the plot.', 'neither'),
      vigour('Vigour', 'V', 'vigour', 'Dying', 'Middling growth', 'As strong as can be', 'Judge the whole plot from its front.'),
    ],
    derived: [],
    visit: 'Autumn',
    response: 'height',
    yieldTrait: null,
    qualityTrait: null,
  },
]

/** The set whose words are in the name of a crop, if any. */
export function traitSetFor(crop: string): TraitSet | undefined {
  return traitSets.find((set) => set.crops.test(crop))
}

/** The traits section as a set begins it: everything at one visit. */
export function traitsOf(set: TraitSet): Traits {
  return {
    observed: [...set.observed],
    derived: [...set.derived],
    visits: [{ key: set.visit.toLowerCase().replace(/[^a-z0-9]+/g, '-'), name: set.visit, on: null }],
    response: set.response,
    yieldTrait: set.yieldTrait,
    qualityTrait: set.qualityTrait,
    smallestDifference: null,
  }
}
