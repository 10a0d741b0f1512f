import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { crossFactors, treatmentsOf, type Factor, type Trait } from '@canter/core/trial'
import { plotsOf } from './beet-sites.ts'
import { asTrial, history } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { draftWith, site } from './others.ts'
import { CREW } from './people.ts'

const growth = traitsOf(traitSets.find((each) => each.key === 'growth')!)

const weeks: Factor = {
  key: 'store',
  name: 'Weeks in store',
  kind: 'timing',
  measure: 'wk',
  of: null,
  after: 'lifting',
  levels: [0, 6, 12, 18].map((amount) => ({ key: `w${amount}`, code: `W${amount}`, name: `${amount} wk after lifting`, amount })),
}

/** Whips that came back, of twenty planted: each bed is one replicate, however many whips stand in it. */
const alive: Trait = {
  key: 'alive',
  code: 'AL',
  name: 'Whips alive',
  kind: 'count',
  unit: '',
  low: 0,
  high: 20,
  decimals: 0,
  better: 'more',
  steps: [],
  method: 'Of twenty: green under the bark at knee height counts as alive; not yet in leaf is not dead.',
  on: 'unit',
  samples: 1,
  visits: [],
  observers: 'apart',
}

/** Bare-root whips planted after so many weeks in the cold store, followed into their second spring. */
export function hornbeam(): TrialContents {
  const { next, chance } = seededIds(20274, '2024-12-02T09:00:00Z')
  const draft = draftWith(
    'growth',
    {
      title: 'Hornbeam whips: how long in the cold store?',
      crop: 'Hornbeam, bare root',
      season: 2025,
      askedBy: 'Tern Lane nursery',
      why: 'Orders come until April. How long can lifted whips wait before they fail?',
      expected: 'No loss up to twelve weeks.',
    },
    {
      treatments: {
        ...treatmentsOf(
          [weeks],
          crossFactors([weeks]).map((each, i) => ({ ...each, role: i === 0 ? ('standard' as const) : ('none' as const) })),
        ),
        comparisons: [
          { key: 'rise', name: 'Change with weeks in store', of: { kind: 'trend', factor: 'store', degree: 1 }, late: false },
          {
            key: 'long',
            name: 'Eighteen weeks against all shorter',
            of: { kind: 'sides', plus: ['w18'], minus: ['w0', 'w6', 'w12'] },
            late: false,
          },
        ],
      },
      traits: {
        ...growth,
        observed: [alive, ...growth.observed.map((each) => ({ ...each, better: 'more' as const }))],
        visits: [
          { key: 'first-autumn', name: 'First autumn', on: '2025-10-14' },
          { key: 'second-spring', name: 'Second spring', on: '2026-05-19' },
        ],
        response: 'alive',
        smallestDifference: { value: 2, unit: '' },
      },
      sites: [
        site('growth', 'tern-lane', 'Tern Lane', 'Nursery bed, irrigated in the first summer.', 6, {
          plotWidth: 1.2,
          plotLength: 4,
          harvestWidth: 1.2,
          harvestLength: 4,
          across: { plot: 4, block: 2 },
          plotGap: 0.4,
          blockAlley: 0.8,
          border: 0.8,
        }),
      ],
    },
  )
  const trial = asTrial(draft, next(), '2024-12-02T09:00:00.000Z')
  const layout = layOut(trial, 'tern-lane', 91, next, null, null, FIRST_DRAW)
  const diary = new Diary(next, CREW.id, '2025-04-07T08:00:00Z', 'first-autumn')
  diary.planted(layout, '2025-04-07', 'Last lot planted; each lot went in on the day it left the store.')
  const [count, height, vigour] = trial.traits.observed
  const beds = new Map(plotsOf(layout).map((plot) => [plot.id, normal(chance)]))
  for (const [v, visit] of trial.traits.visits.entries()) {
    diary.visit = visit.key
    diary.goTo(`${visit.on}T09:00:00Z`)
    for (const plot of plotsOf(layout)) {
      const stored = Number(plot.received['store']!.slice(1))
      const lost = (stored <= 12 ? 1 : 5) + (v === 1 ? 1 : 0)
      diary.measure(plot, count!, Math.max(0, Math.min(20, Math.round(20 - lost + 0.9 * beds.get(plot.id)! + 0.5 * normal(chance)))))
      diary.measure(plot, height!, (v === 0 ? 68 : 84) - 0.9 * stored + 4 * normal(chance))
      diary.measure(plot, vigour!, Math.max(1, Math.min(9, Math.round(7 - stored / 9 + 0.6 * normal(chance)))))
    }
  }
  return {
    trial,
    layouts: [layout],
    records: diary.records,
    events: history(next, trial.createdAt, '2024-12-02T09:00:00.000Z', 'Tern Lane randomised from seed 91'),
    people: [CREW],
  }
}
