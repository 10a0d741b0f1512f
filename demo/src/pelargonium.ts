import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { marksOn, type Factor } from '@canter/core/trial'
import { asTrial, history } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { crossed, kinds } from './levels.ts'
import { draftWith, site } from './others.ts'
import { CREW, GRADER } from './people.ts'
import { genericProduct, plainDose } from './products.ts'

const drench: Factor = {
  key: 'drench',
  name: 'Growth regulator',
  kind: 'rate',
  measure: 'mg/L',
  of: { what: 'active ingredient', name: 'growth regulator' },
  levels: [0, 5, 10].map((amount) => ({
    key: `r${amount}`,
    code: `G${amount}`,
    name: amount === 0 ? 'no growth regulator' : `${amount} mg/L drench`,
    amount,
  })),
}

/** Pots of three plants on benches: a drench in two mixes, shoots counted at two visits, quality judged by two people. */
export function pelargonium(): TrialContents {
  const { next, chance } = seededIds(20266, '2026-02-16T09:00:00Z')
  const set = traitSets.find((each) => each.key === 'pots')!
  const traits = traitsOf(set)
  const bench = site('pots', 'tern-lane', 'Tern Lane, bench 2', 'Glasshouse bench, light from the south end.', 5, {
    across: { pot: 6, block: 1 },
  })
  const draft = draftWith(
    'pots',
    {
      title: 'Pelargonium: a drench to keep pots short',
      crop: 'Pelargonium',
      season: 2026,
      askedBy: 'Tern Lane nursery',
      why: 'Pots stretch before they are sold. How little of the drench is enough, and does the peat-free mix need another dose?',
      expected: 'Half the usual dose is enough in the peat-free mix.',
      significance: 0.1,
    },
    {
      treatments: crossed(
        [
          drench,
          kinds('mix', 'Potting mix', [
            { code: 'PEAT', name: 'peat mix' },
            { code: 'FREE', name: 'peat-free mix' },
          ]),
        ],
        'none',
      ),
      traits: {
        ...traits,
        observed: traits.observed.map((trait) =>
          trait.key === 'height'
            ? { ...trait, better: 'less' as const }
            : trait.key === 'quality'
              ? { ...trait, limit: { side: 'at least' as const, value: 6 } }
              : { ...trait },
        ),
        visits: [
          { key: 'week-4', name: 'Week 4', on: '2026-03-23' },
          { key: 'at-sale', name: 'At sale', on: '2026-04-27' },
        ],
        response: 'height',
      },
      sites: [bench],
      amounts: {
        supply: null,
        common: [{ what: 'Liquid feed with the water', amount: '100 mg N/L', when: 'from the second week, weekly' }],
        products: [
          {
            ...genericProduct('Growth regulator, 4 g/L'),
            key: 'regulator',
            labelMeasure: 'L/ha',
            labelMaximumPerApplication: 25,
            labelMaximumPerSeason: 50,
            reentryHours: 12,
            preHarvestDays: 0,
            protection: 'gloves, apron, eye protection when measuring out',
            notAt: 'seedlings, or pots that are dry',
          },
        ],
        doses: [
          {
            ...plainDose('drench', 'regulator'),
            to: { factor: 'drench', level: null },
            of: 'active ingredient',
            measure: 'mg/L',
            carrier: { amount: 60, measure: 'mL' },
            carrierToAll: true,
            tank: { holds: 10, dead: 0.2 },
            placement: 'drench',
            parts: [{ when: 'two weeks after potting', on: '2026-03-09', share: 100 }],
          },
        ],
      },
    },
  )
  const trial = asTrial(draft, next(), '2026-01-28T09:00:00.000Z')
  const layout = layOut(trial, 'tern-lane', 61, next, null, null, FIRST_DRAW)
  const diary = new Diary(next, CREW.id, '2026-02-23T08:00:00Z', 'week-4')
  diary.planted(layout, '2026-02-23', 'Three rooted cuttings a pot.')
  const [shoots, height, quality] = trial.traits.observed
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  const pots = layout.units.filter((unit) => unit.kind === 'pot').sort((a, b) => a.walk! - b.walk!)
  for (const [v, visit] of trial.traits.visits.entries()) {
    diary.visit = visit.key
    diary.goTo(`${visit.on}T08:30:00Z`)
    for (const pot of pots) {
      const marks = marksOn(pot, index, 'received')
      const dose = Number(marks['drench']!.slice(1))
      const free = marks['mix'] === 'k2'
      const tall = (v === 0 ? 11 : 24) - (v === 0 ? 0.25 : 0.75) * dose * (free ? 1.2 : 1) + (v === 0 ? 0.7 : 1.3) * normal(chance)
      layout.units
        .filter((unit) => unit.kind === 'plant' && unit.in.includes(pot.id))
        .forEach((plant, i) => {
          const lost = v === 1 && pot.walk === 9 && i === 2
          if (lost) {
            if (v === 1) diary.note(plant, { kind: 'flag', flag: 'lost', text: 'Rotted at the neck, taken out on 12 April.' })
            diary.missing(plant, shoots!, 'Plant dead')
          } else diary.measure(plant, shoots!, Math.max(1, Math.round((v === 0 ? 4 : 9) + 0.12 * dose + normal(chance))))
        })
      diary.measure(pot, height!, tall)
      const judged = Math.max(1, Math.min(9, Math.round((v === 0 ? 6 : 7) - Math.abs(dose - 5) * 0.16 + 0.7 * normal(chance))))
      diary.measure(pot, quality!, judged)
      // Two people judged the first bench half at sale, so that their agreement can be seen.
      if (v === 1 && pot.walk! <= 12)
        diary.measure(pot, quality!, Math.max(1, Math.min(9, judged + (normal(chance) > 0.6 ? 1 : 0))), { observer: GRADER.id })
    }
  }
  return {
    trial,
    layouts: [layout],
    records: diary.records,
    events: history(next, trial.createdAt, '2026-02-16T09:00:00.000Z', 'Tern Lane, bench 2 randomised from seed 61'),
    people: [CREW, GRADER],
  }
}
