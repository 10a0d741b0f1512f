import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { marksOn, type Site } from '@canter/core/trial'
import { asTrial, history } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { crossed, kinds } from './levels.ts'
import { draftWith, site } from './others.ts'
import { CREW } from './people.ts'
import { dripLines, genericProduct, watering } from './products.ts'

const splitAt = (key: string, name: string, soil: string): Site => {
  const made = site('roots', key, name, soil, 4, {
    across: { 'main plot': 3, plot: 3, block: 1 },
    plotGap: 0.3,
    rowAlley: 0.6,
    groupGap: 1.2,
  })
  return { ...made, design: { ...made.design, key: 'split-plot', placed: { 'main plot': ['water'] } } }
}

/** Days the valves were opened on. */
const WATERED = ['2026-06-09', '2026-06-23', '2026-07-07', '2026-07-21', '2026-08-04'] as const

/** Drip irrigation on main plots × cultivar inside them, at two sites; one main plot ran dry, one cultivar was drilled twice. */
export function carrots(): TrialContents {
  const { next, chance } = seededIds(20265, '2026-03-02T09:00:00Z')
  const set = traitSets.find((each) => each.key === 'roots')!
  const draft = draftWith(
    'roots',
    {
      title: 'Carrots: how much water, which cultivar?',
      crop: 'Carrots',
      season: 2026,
      askedBy: 'Packers of Lower Quillon',
      why: 'Water is metered from next year. Does the late cultivar need as much of it as the early one?',
      expected: 'The late cultivar holds its yield at half the water.',
      paidBy: 'Quillon Vale levy fund',
    },
    {
      treatments: crossed(
        [
          kinds(
            'water',
            'Drip irrigation',
            [
              { code: 'DRY', name: 'rain only' },
              { code: 'HALF', name: 'half of what evaporates' },
              { code: 'FULL', name: 'all of what evaporates' },
            ],
            'practice',
          ),
          kinds('cultivar', 'Cultivar', [
            { code: 'EARLY', name: 'early cultivar' },
            { code: 'MAIN', name: 'main cultivar' },
            { code: 'LATE', name: 'late cultivar' },
          ]),
        ],
        'none',
      ),
      traits: { ...traitsOf(set), smallestDifference: { value: 4, unit: 't/ha' } },
      amounts: {
        supply: null,
        common: [],
        products: [{ ...genericProduct('Water'), key: 'water' }],
        doses: [watering('water-half', 'k2', 70, WATERED), watering('water-full', 'k3', 140, WATERED)],
        sheets: [
          dripLines('sheet-1', 'lower-quillon', 'Drip lines of Lower Quillon', '2026-05-28', '1.6'),
          dripLines('sheet-2', 'hazel-bank', 'Drip lines of Hazel Bank', '2026-05-29', '2.0'),
        ],
      },
      sites: [
        splitAt('lower-quillon', 'Lower Quillon', 'Sandy loam, slope to the river.'),
        splitAt('hazel-bank', 'Hazel Bank', 'Silt loam over chalk.'),
      ],
    },
  )
  const trial = asTrial(draft, next(), '2026-01-20T09:00:00.000Z')
  const layouts = trial.sites.map((each, i) => layOut(trial, each.key, 51 + i, next, null, null, FIRST_DRAW))
  const diary = new Diary(next, CREW.id, '2026-04-14T08:00:00Z', 'harvest')
  layouts.forEach((layout, i) => diary.planted(layout, i === 0 ? '2026-04-14' : '2026-04-16', 'Precision drilled, 1.6 million seeds/ha.'))
  const [weight, stand] = trial.traits.observed
  layouts.forEach((layout, s) => {
    diary.goTo(s === 0 ? '2026-09-21T07:10:00Z' : '2026-09-24T07:40:00Z')
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const mains = new Map(layout.units.filter((unit) => unit.kind === 'main plot').map((unit) => [unit.id, 1.8 * normal(chance)]))
    const area = trial.sites[s]!.ground.harvestWidth * trial.sites[s]!.ground.harvestLength
    const plots = layout.units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
    for (const plot of plots) {
      const { water, cultivar } = marksOn(plot, index, 'received')
      const w = Number(water!.slice(1)) - 1
      const c = Number(cultivar!.slice(1)) - 1
      // Early gains from every step of water, late hardly from the second; the second site is wetter.
      const gain = [
        [0, 9, 16],
        [0, 8, 12],
        [0, 6, 7],
      ][c]![w]!
      const yielded = 48 + 3 * c + gain * (s === 0 ? 1 : 0.6) + (s === 0 ? 0 : 6) + mains.get(plot.in[0]!)! + 2 * normal(chance)
      diary.measure(plot, weight!, (yielded * area) / 10)
      diary.measure(plot, stand!, Math.round(area * (110 - 6 * c) + 12 * normal(chance)))
      if (s === 0 && plot.walk === 5)
        diary.note(plot, { kind: 'flag', flag: 'other', text: 'Drip line blocked for four days in July, found and cleared.' })
    }
  })
  return {
    trial,
    layouts,
    records: diary.records,
    events: history(next, trial.createdAt, '2026-03-02T09:00:00.000Z', 'Lower Quillon and Hazel Bank randomised from seeds 51 and 52'),
    people: [CREW],
  }
}
