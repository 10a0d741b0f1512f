import { genericProduct, plainDose, superphosphate } from './products.ts'
import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { crossFactors, treatmentOn, treatmentsOf, type Trait, type Treatment, type TrialDraft } from '@canter/core/trial'
import { plotsOf } from './beet-sites.ts'
import { asTrial, history } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { kinds, rateLadder } from './levels.ts'
import { draftWith, site } from './others.ts'
import { CREW } from './people.ts'

const roots = traitSets.find((each) => each.key === 'roots')!

/** Share of the root length with the fungus in it; below 2 % the microscope does not tell it from none. */
const colonised: Trait = {
  key: 'colonised',
  code: 'CR',
  name: 'Roots colonised',
  kind: 'number',
  unit: '%',
  low: 0,
  high: 100,
  decimals: 0,
  better: 'neither',
  steps: [],
  method: 'Stained roots of three plants, a hundred crossings under the microscope; below 2 % is written < 2.',
  on: 'unit',
  samples: 1,
  visits: [],
  observers: 'apart',
}

const factors = [
  kinds('inoculant', 'Inoculant', [
    { code: 'CLAY', name: 'clay carrier alone' },
    { code: 'ONE', name: 'single-strain inoculant' },
    { code: 'MIX', name: 'mixed inoculant' },
  ]),
  rateLadder('P', 'Phosphorus', [0, 15, 30]),
]
const beside = (key: string, code: string, name: string, role: Treatment['role']): Treatment => ({
  key,
  code,
  name,
  colour: null,
  role,
  levels: {},
})
const treatments = treatmentsOf(factors, [
  ...crossFactors(factors),
  beside('untreated', 'NIL', 'untreated transplants', 'untreated control'),
  beside('usual', 'USUAL', 'usual starter feed', 'standard'),
])
const having = (inoculant: string, phosphorus?: string): string[] =>
  treatments.list
    .filter((each) => each.levels['inoculant'] === inoculant && (!phosphorus || each.levels['phosphorus'] === phosphorus))
    .map((each) => each.key)

const INERT = { labelMaximumPerApplication: 150, labelMaximumPerSeason: 150, reentryHours: 0, preHarvestDays: 0, protection: 'gloves, dust mask' } // prettier-ignore
/** Four rows across a plot 1.8 m wide. */
const ROWS = { count: 4, spacing: 0.45, plants: 0.15 }
const IN_FURROW = { amount: 5, measure: 'g/m', placement: 'furrow' as const, parts: [{ when: 'at planting', on: null, share: 100 }] }
const inoculant = (product: string, perGram: number) => ({ ...genericProduct('Root fungus on granules'), ...INERT, product, live: { perGram, keepBelow: 18, useBy: '2026-09-30', openHours: 48 } }) // prettier-ignore

const draft: TrialDraft = draftWith(
  'roots',
  {
    title: 'Leek transplants: inoculant and phosphorus',
    crop: 'Leek',
    season: 2026,
    askedBy: 'Tern Lane nursery',
    why: 'Is an inoculant worth its price where the soil tests high in P, and does phosphorus undo it?',
    expected: 'The inoculants gain most without phosphorus.',
    paidBy: 'Quillon Vale levy fund',
  },
  {
    treatments: {
      ...treatments,
      comparisons: [
        {
          key: 'inoculated',
          name: 'Both inoculants against the carrier alone',
          of: { kind: 'sides', plus: [...having('k2'), ...having('k3')], minus: having('k1') },
          late: false,
        },
        {
          key: 'without-p',
          name: 'Mixed inoculant against the carrier, without phosphorus',
          of: { kind: 'sides', plus: having('k3', 'r0'), minus: having('k1', 'r0') },
          late: false,
        },
        {
          key: 'with-p',
          name: 'Mixed inoculant against the carrier, at 30 kg P/ha',
          of: { kind: 'sides', plus: having('k3', 'r30'), minus: having('k1', 'r30') },
          late: false,
        },
      ],
    },
    traits: {
      ...traitsOf(roots),
      observed: [...traitsOf(roots).observed, colonised],
      smallestDifference: { value: 2, unit: 't/ha' },
    },
    sites: [
      site('roots', 'lower-quillon', 'Lower Quillon', 'Sandy loam, 41 mg P/kg.', 4, { across: { plot: 11, block: 1 }, rows: ROWS }),
      site('roots', 'tern-lane', 'Tern Lane', 'Nursery ground, 66 mg P/kg.', 4, { across: { plot: 11, block: 1 }, rows: ROWS }),
      {
        ...site('roots', 'chalk-down', 'Chalk Down', 'Shallow loam over chalk, 18 mg P/kg.', 4, {
          across: { plot: 10, block: 1 },
          rows: ROWS,
        }),
        // The grower had no starter feed to compare with.
        without: ['usual'],
      },
    ],
    amounts: {
      supply: {
        ...superphosphate,
        applications: 1,
        overMaximumReason: '',
      },
      common: [],
      products: [
        { ...genericProduct('Composted manure'), key: 'compost', labelMaximumPerApplication: 30000, labelMaximumPerSeason: 30000, reentryHours: 0, preHarvestDays: 60 }, // prettier-ignore
        { ...inoculant('Single-strain inoculant', 80), key: 'single' },
        { ...inoculant('Mixed inoculant', 120), key: 'mixed' },
        { ...genericProduct('Gypsum'), ...INERT, product: 'Clay carrier alone', analysis: {}, form: 'granules', key: 'clay' },
      ],
      doses: [
        { ...plainDose('compost', 'compost'), amount: 20, measure: 't/ha', placement: 'incorporated', depth: 20, parts: [{ when: '', on: '2026-02-20', share: 100 }] }, // prettier-ignore
        { ...plainDose('clay', 'clay'), to: { factor: 'inoculant', level: 'k1' }, ...IN_FURROW },
        { ...plainDose('single', 'single'), to: { factor: 'inoculant', level: 'k2' }, ...IN_FURROW },
        { ...plainDose('mixed', 'mixed'), to: { factor: 'inoculant', level: 'k3' }, ...IN_FURROW },
      ],
    },
  },
)

/** Harvested at three sites; at one of them the untreated plots do oddly well, and many roots without inoculant read below what can be told. */
export function leek(): TrialContents {
  const { next, chance } = seededIds(20272, '2026-03-02T09:00:00Z')
  const trial = asTrial(draft, next(), '2026-02-02T09:00:00.000Z')
  const layouts = trial.sites.map((each, s) => layOut(trial, each.key, 81 + s, next, null, null, FIRST_DRAW))
  const diary = new Diary(next, CREW.id, '2026-04-20T08:00:00Z', 'harvest')
  const trait = (key: string) => trial.traits.observed.find((each) => each.key === key)!
  layouts.forEach((layout, s) => {
    const { ground } = trial.sites[s]!
    diary.goTo(`2026-04-2${s}T08:00:00Z`)
    diary.planted(layout, `2026-04-2${s}`, 'Transplants of ten weeks, 15 cm apart.')
    diary.goTo(`2026-10-1${2 * s}T07:30:00Z`)
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const blocks = new Map(layout.units.filter((unit) => unit.kind === 'block').map((unit) => [unit.id, 1.2 * normal(chance)]))
    const area = ground.harvestWidth * ground.harvestLength
    for (const plot of plotsOf(layout)) {
      const treatment = treatmentOn(plot, index, trial.treatments)!
      const phosphorus = Number((treatment.levels['phosphorus'] ?? 'r0').slice(1))
      const strain = Number((treatment.levels['inoculant'] ?? 'k1').slice(1)) - 1
      // Phosphorus helps where the soil is poor, and takes away most of what the fungus does.
      const poor = [0.5, 0.2, 1][s]!
      const gain = strain === 0 ? 0 : (strain === 1 ? 2 : 3.4) * poor * (1 - phosphorus / 40)
      const usual = treatment.key === 'usual' ? 1.2 : 0
      const odd = s === 1 && treatment.key === 'untreated' ? 5 : 0
      const yielded = [31, 36, 26][s]! + gain + usual + odd + 0.08 * poor * phosphorus + blocks.get(plot.in[0]!)! + 1.3 * normal(chance)
      diary.measure(plot, trait('marketable-weight'), (yielded * area) / 10)
      diary.measure(plot, trait('stand'), Math.round(area * 22 + 3 * normal(chance)))
      const share = strain === 0 ? 1.2 + normal(chance) : (strain === 1 ? 24 : 33) - 0.4 * phosphorus + 4 * normal(chance)
      if (share < 2) diary.belowLimit(plot, trait('colonised'), 2)
      else diary.measure(plot, trait('colonised'), share)
    }
  })
  return {
    trial,
    layouts,
    records: diary.records,
    events: history(next, trial.createdAt, '2026-03-02T09:00:00.000Z', 'Three sites randomised from seeds 81 to 83'),
    people: [CREW],
  }
}
