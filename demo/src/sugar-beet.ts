import { autumnFeed } from './products.ts'
import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { bareSite, type TrialDraft } from '@canter/core/trial'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { asTrial, history } from './contents.ts'
import { crossed, rateLadder } from './levels.ts'
import { CREW } from './people.ts'
import { factsOf } from './site-facts.ts'

const beet = traitSets.find((set) => set.key === 'sugar-beet')!

export const sugarBeetDraft: TrialDraft = {
  question: {
    title: 'Sugar beet: how much nitrogen pays?',
    crop: 'Sugar beet',
    season: 2026,
    askedBy: 'Growers’ circle of Quillon Vale',
    why: 'Most fields here get 120 to 160 kg N/ha by habit. Mild winters leave more in the soil than twenty years ago; is the last bag still paid for?',
    expected: 'Sugar rises to about 100 kg N/ha and is flat beyond.',
    hostedBy: 'Quillon Vale station, Hazel Bank',
    paidBy: 'Quillon Vale levy fund',
    significance: 0.05,
  },
  treatments: crossed([rateLadder('N', 'Nitrogen', [0, 40, 80, 120, 160, 200])], 'untreated control'),
  traits: { ...traitsOf(beet), smallestDifference: { value: 0.8, unit: 't/ha' } },
  sites: [
    {
      key: 'hazel-bank',
      name: 'Hazel Bank',
      soil: 'Silt loam over chalk, 38 kg mineral N/ha to 90 cm in March, slope falling to the east.',
      ground: {
        ...beet.ground,
        across: { plot: 6, block: 2 },
        rowAlley: 0,
        blockAlley: 3,
        border: 3,
        rows: { count: 6, spacing: 0.45, plants: 0.18 },
        bearing: 8,
        // Falling to the east: the arrow goes up, to the west.
        gradient: { what: 'slope', from: [41, 14], to: [0, 14] },
        avoid: [
          {
            name: 'wet corner',
            corners: [
              [-6, 29],
              [2, 29],
              [-6, 22],
            ],
          },
        ],
      },
      design: { key: 'randomised-block', replicates: 4, unit: 'plot', plants: 0, walked: 'unit', placed: {}, settings: {} },
      ...bareSite,
      facts: factsOf('Hazel Bank'),
    },
  ],
  amounts: {
    supply: {
      product: 'Ammonium nitrate with lime',
      analysis: { N: 27 },
      applications: 2,
      labelMaximumPerApplication: 450,
      labelMaximumPerSeason: 800,
      reentryHours: 0,
      preHarvestDays: 60,
      protection: 'gloves, eye protection, dust mask when filling',
      overMaximumReason: '',
    },
    ...autumnFeed,
    common: [
      { what: 'Seed, one variety throughout', amount: '120 000 seeds/ha, 45 cm rows', when: '2 April' },
      { what: 'Herbicide, two passes, whole trial', amount: 'label rate', when: 'May' },
    ],
  },
  prices: {
    currency: '€',
    pricePerTonne: 38,
    baseQuality: 16,
    percentPerPoint: 9,
    productPrice: 0.34,
    applicationCost: 11,
    otherCost: {},
    reference: 'r0',
  },
}

/** The truth the data are drawn from: a plateau of clean yield, sugar content that falls with nitrogen. */
function truth(rate: number): { clean: number; sugar: number } {
  const to = Math.min(rate, 125)
  return { clean: 55 + 0.31 * to - 0.00124 * to * to, sugar: 17.9 - 0.002 * rate - 0.000018 * rate * rate }
}

export function sugarBeet(): TrialContents {
  const { next, chance } = seededIds(20261, '2026-03-20T09:00:00Z')
  const trial = asTrial(sugarBeetDraft, next(), '2026-01-14T10:00:00.000Z')
  const layout = layOut(trial, 'hazel-bank', 41, next, null, null, FIRST_DRAW)
  const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
  const trait = (key: string) => trial.traits.observed.find((each) => each.key === key)!
  const area = trial.sites[0]!.ground.harvestWidth * trial.sites[0]!.ground.harvestLength
  const diary = new Diary(next, CREW.id, '2026-04-02T07:30:00Z', 'harvest')
  diary.planted(layout, '2026-04-02', 'Drilled in the dry, even emergence by 18 April.')
  const blockEffect = new Map(layout.units.filter((unit) => unit.kind === 'block').map((block) => [block.id, 2.2 * normal(chance)]))
  diary.goTo('2026-10-06T07:15:00Z')
  const runOn = plots.find((plot) => plot.received['nitrogen'] === 'r80' && plot.walk! > 12)!
  const lost = plots.find((plot) => plot.received['nitrogen'] === 'r160' && plot.walk! > 6)!
  const slip = plots.find((plot) => plot.received['nitrogen'] === 'r40' && plot.walk! > 12)!
  for (const plot of plots) {
    const rate = Number(plot.received['nitrogen']!.slice(1))
    const { clean, sugar } = truth(rate)
    const tare = 8 + normal(chance) * 1.2 + (plot === runOn ? 6 : 0)
    const yielded = clean + blockEffect.get(plot.in[0]!)! + 1.6 * normal(chance) + (plot === runOn ? -13 : 0)
    const weight = (yielded * area) / 10 / (1 - tare / 100)
    const content = sugar + 0.16 * normal(chance) - (plot === runOn ? 1.1 : 0)
    const health = Math.max(1, Math.min(9, Math.round(6 + rate / 100 + 0.7 * normal(chance) - (plot === runOn ? 3 : 0))))
    if (plot === lost) {
      diary.note(plot, { kind: 'flag', flag: 'lost', text: 'Corner of the block lifted by the contractor on the headland turn.' })
      trial.traits.observed.forEach((each) => diary.missing(plot, each, 'Lifted by mistake'))
      continue
    }
    if (plot === runOn)
      diary.note(plot, { kind: 'flag', flag: 'run-on water', text: 'Stood in water from the track above for a week in June.' })
    if (plot === slip) {
      const wrong = diary.measure(plot, trait('gross-weight'), weight / 10)
      diary.measure(plot, trait('gross-weight'), weight, { supersedes: [wrong.id] })
    } else diary.measure(plot, trait('gross-weight'), weight)
    diary.measure(plot, trait('dirt-tare'), tare)
    diary.measure(plot, trait('sugar-content'), content)
    diary.measure(plot, trait('leaf-health'), health)
  }
  diary.note(runOn, { kind: 'left out', flag: null, text: 'Run-on water in June, seen and noted before harvest.' })
  return {
    trial,
    layouts: [layout],
    records: diary.records,
    events: history(next, trial.createdAt, '2026-03-20T09:00:00.000Z', 'Hazel Bank randomised from seed 41'),
    people: [CREW],
  }
}
