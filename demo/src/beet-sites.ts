import { autumnFeed } from './products.ts'
import type { TrialContents } from '@canter/core/exchange'
import { layOut } from '@canter/core/ground'
import { traitSets, traitsOf } from '@canter/core/numbers'
import { bareSite, marksOn, type Layout, type Site, type TrialDraft, type Unit } from '@canter/core/trial'
import { asTrial, history } from './contents.ts'
import { Diary } from './diary.ts'
import { FIRST_DRAW, normal, seededIds } from './ids.ts'
import { crossed, kinds, rateLadder } from './levels.ts'
import { CREW, GRADER } from './people.ts'
import { factsOf } from './site-facts.ts'

const beet = traitSets.find((set) => set.key === 'sugar-beet')!

/** What each place is like: base yield, how much of the nitrogen its soil gives by itself, its sugar. */
const PLACES = [
  { key: 'hazel-bank', name: 'Hazel Bank', soil: 'Silt loam over chalk, slope falling to the east.', base: 55, soilN: 30, sugar: 17.8 },
  {
    key: 'lower-quillon',
    name: 'Lower Quillon',
    soil: 'Sandy loam on the river terrace, dries out in June.',
    base: 48,
    soilN: 10,
    sugar: 18.1,
  },
  { key: 'chalk-down', name: 'Chalk Down', soil: 'Shallow loam over chalk, stony.', base: 51, soilN: 20, sugar: 18.0 },
  { key: 'mere-end', name: 'Mere End', soil: 'Peaty clay loam, dunged two years before.', base: 60, soilN: 45, sugar: 17.2 },
] as const
const SEASONS = [2025, 2026] as const
const RATES = [0, 40, 80, 120, 160] as const

/** By variety: how far it answers to nitrogen, at what supply it stops, and what it has over the first. */
const VARIETIES = [
  { code: 'MID', name: 'mid-season variety', slope: 0.24, stops: 120, extra: 0, seed: 0 },
  { code: 'LATE', name: 'late variety', slope: 0.27, stops: 165, extra: -1, seed: 34 },
  { code: 'THRIFT', name: 'thrifty variety', slope: 0.2, stops: 95, extra: 4, seed: 52 },
] as const

const factors = [
  rateLadder('N', 'Nitrogen', RATES),
  kinds(
    'variety',
    'Variety',
    VARIETIES.map(({ code, name }) => ({ code, name })),
  ),
]

const sites = SEASONS.flatMap((season) =>
  PLACES.map((place): Site => ({
    key: `${place.key}-${season}`,
    name: `${place.name} ${season}`,
    soil: place.soil,
    ground: { ...beet.ground, across: { plot: 15, block: 1 }, rowAlley: 0, blockAlley: 3, border: 3 },
    design: { key: 'randomised-block', replicates: 3, unit: 'plot', plants: 0, walked: 'unit', placed: {}, settings: {} },
    ...bareSite,
    facts: factsOf(place.name),
    season,
  })),
)

const treatments = crossed(factors, 'none')
const side = (match: (levels: Readonly<Record<string, string>>) => boolean): string[] =>
  treatments.list.filter((each) => match(each.levels)).map((each) => each.key)

/** The main demonstration: how much nitrogen, to which variety, at four places in two seasons, each time on new ground. */
const draft: TrialDraft = {
  question: {
    title: 'Sugar beet: nitrogen for three varieties',
    crop: 'Sugar beet',
    season: 2026,
    askedBy: 'Growers’ circle of Quillon Vale',
    why: 'Most fields here get 120 to 160 kg N/ha by habit, whatever is sown. Does the thrifty variety need less, and does the late one pay for more?',
    expected: 'The thrifty variety is full at 80 kg N/ha, the late one still gains at 160.',
    hostedBy: 'Quillon Vale stations and two growers',
    paidBy: 'Quillon Vale levy fund',
    significance: 0.05,
  },
  treatments: {
    ...treatments,
    comparisons: [
      { key: 'rise', name: 'Rise with nitrogen', of: { kind: 'trend', factor: 'nitrogen', degree: 1 }, late: false },
      { key: 'bend', name: 'Bend with nitrogen', of: { kind: 'trend', factor: 'nitrogen', degree: 2 }, late: false },
      {
        key: 'thrift',
        name: 'Thrifty against mid-season variety, at 40 kg N/ha',
        of: {
          kind: 'sides',
          plus: side(({ nitrogen, variety }) => nitrogen === 'r40' && variety === 'k3'),
          minus: side(({ nitrogen, variety }) => nitrogen === 'r40' && variety === 'k1'),
        },
        late: false,
      },
      {
        key: 'late-160',
        name: 'Late variety, 160 against 120 kg N/ha',
        of: {
          kind: 'sides',
          plus: side(({ nitrogen, variety }) => nitrogen === 'r160' && variety === 'k2'),
          minus: side(({ nitrogen, variety }) => nitrogen === 'r120' && variety === 'k2'),
        },
        late: false,
      },
    ],
  },
  traits: { ...traitsOf(beet), smallestDifference: { value: 0.6, unit: 't/ha' } },
  sites,
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
    common: [{ what: 'Herbicide, two passes, whole trial', amount: 'label rate', when: 'May' }],
  },
  prices: {
    currency: '€',
    pricePerTonne: 38,
    baseQuality: 16,
    percentPerPoint: 9,
    productPrice: 0.34,
    applicationCost: 11,
    otherCost: Object.fromEntries(treatments.list.map((each) => [each.key, VARIETIES[Number(each.levels['variety']!.slice(1)) - 1]!.seed])),
    reference: treatments.list.find((each) => each.levels['nitrogen'] === 'r120' && each.levels['variety'] === 'k1')!.key,
  },
}

/** Clean yield (t/ha) and sugar content (%) without error, at a place, of a variety, at a rate. */
export function beetTruth(place: number, variety: number, rate: number): { clean: number; sugar: number } {
  const { base, soilN, sugar } = PLACES[place]!
  const { slope, stops, extra } = VARIETIES[variety]!
  const supply = Math.min(rate + soilN, stops)
  const gain = slope * supply - (slope / (2 * stops)) * supply * supply
  return { clean: base + extra + gain, sugar: sugar - 0.003 * rate - 0.00002 * rate * rate }
}

interface Faults {
  /** Plots that stood in water, by their turn at the site. */
  readonly runOn?: number
  /** A corner of a block that the contractor lifted. */
  readonly lost?: readonly number[]
  /** Given another rate than planned, by mistake. */
  readonly misapplied?: { readonly planned: string; readonly given: string }
  /** Two plots whose stakes were swapped, found and put right. */
  readonly swapped?: readonly [number, number]
  /** What the untreated plots have too much, t/ha: a heap of dung lay there. */
  readonly oddControl?: number
  /** What plots at the two ends of a block lack, t/ha. */
  readonly weakEdges?: number
}

const FAULTS: Readonly<Record<string, Faults>> = {
  'hazel-bank-2025': { runOn: 23, weakEdges: 1.5 },
  'lower-quillon-2025': { lost: [15, 16] },
  'chalk-down-2026': { misapplied: { planned: 'r80', given: 'r160' } },
  'hazel-bank-2026': { swapped: [20, 21] },
  'mere-end-2026': { oddControl: 7 },
}

export function beetAtSites(): TrialContents {
  const { next, chance } = seededIds(20271, '2025-03-18T09:00:00Z')
  const trial = asTrial(draft, next(), '2025-01-13T10:00:00.000Z')
  const trait = (key: string) => trial.traits.observed.find((each) => each.key === key)!
  const diary = new Diary(next, CREW.id, '2025-04-02T07:30:00Z', 'harvest')
  const layouts = trial.sites.map((site, s): Layout => {
    const place = s % PLACES.length
    const faults = FAULTS[site.key] ?? {}
    const dealt = layOut(trial, site.key, 71 + s, next, null, null, FIRST_DRAW)
    const layout = withFaults(dealt, faults)
    diary.goTo(`${site.season}-04-0${2 + place}T07:30:00Z`)
    diary.planted(layout, `${site.season}-04-0${2 + place}`, place === 1 ? 'Drilled into a dry seedbed.' : 'Drilled in good order.')
    diary.goTo(`${site.season}-10-0${2 + place}T07:15:00Z`)
    const index = new Map(layout.units.map((unit) => [unit.id, unit]))
    const blocks = new Map(layout.units.filter((unit) => unit.kind === 'block').map((block) => [block.id, 2 * normal(chance)]))
    const area = site.ground.harvestWidth * site.ground.harvestLength
    const season = (site.season === 2025 ? 2.5 : 0) + normal(chance)
    for (const plot of plotsOf(layout)) {
      const { nitrogen, variety } = marksOn(plot, index, 'received')
      const rate = Number(nitrogen!.slice(1))
      const { clean, sugar } = beetTruth(place, Number(variety!.slice(1)) - 1, rate)
      const wet = faults.runOn === plot.walk
      const edge = faults.weakEdges !== undefined && (plot.at!.column === 0 || plot.at!.column === 14) ? faults.weakEdges : 0
      const odd = faults.oddControl !== undefined && rate === 0 ? faults.oddControl : 0
      const yielded = clean + season + blocks.get(plot.in[0]!)! + 1.7 * normal(chance) - (wet ? 14 : 0) - edge + odd
      const tare = 8 + 1.2 * normal(chance) + (wet ? 6 : 0)
      const content = sugar + 0.18 * normal(chance) - (wet ? 1.1 : 0)
      if (faults.lost?.includes(plot.walk!)) {
        diary.note(plot, { kind: 'flag', flag: 'lost', text: 'Corner of the block lifted by the contractor on the headland turn.' })
        trial.traits.observed.forEach((each) => diary.missing(plot, each, 'Lifted by mistake'))
        continue
      }
      if (wet) {
        diary.note(plot, { kind: 'flag', flag: 'run-on water', text: 'Stood in water from the track above for a week in June.' })
        diary.note(plot, { kind: 'left out', flag: null, text: 'Run-on water in June, seen and noted before harvest.' })
      }
      diary.measure(plot, trait('gross-weight'), (yielded * area) / 10 / (1 - tare / 100))
      diary.measure(plot, trait('dirt-tare'), tare)
      diary.measure(plot, trait('sugar-content'), content)
      diary.measure(plot, trait('leaf-health'), Math.max(1, Math.min(9, Math.round(6 + rate / 100 + 0.7 * normal(chance)))))
    }
    return layout
  })
  return {
    trial,
    layouts,
    records: diary.records,
    events: history(next, trial.createdAt, '2025-03-18T09:00:00.000Z', 'Eight sites randomised from seeds 71 to 78'),
    people: [CREW, GRADER],
  }
}

export function plotsOf({ units }: Layout): Unit[] {
  return units.filter((unit) => unit.walk !== null).sort((a, b) => a.walk! - b.walk!)
}

/** What really happened where it differs from what was dealt: a wrong rate, two stakes that were swapped. */
function withFaults(layout: Layout, { misapplied, swapped }: Faults): Layout {
  const plots = plotsOf(layout)
  const at = (turn: number): Unit => plots[turn - 1]!
  const got = new Map<string, Pick<Unit, 'received' | 'changes'>>()
  if (misapplied) {
    const plot = plots.find((each) => each.planned['nitrogen'] === misapplied.planned)!
    got.set(plot.id, { received: { ...plot.received, nitrogen: misapplied.given }, changes: { nitrogen: 'misapplied' } })
  }
  if (swapped) {
    const [a, b] = [at(swapped[0]), at(swapped[1])]
    for (const [one, other] of [
      [a, b],
      [b, a],
    ] as const) {
      const differ = Object.keys(one.planned).filter((factor) => one.planned[factor] !== other.planned[factor])
      got.set(one.id, { received: { ...other.planned }, changes: Object.fromEntries(differ.map((factor) => [factor, 'label corrected'])) })
    }
  }
  return got.size === 0 ? layout : { ...layout, units: layout.units.map((unit) => ({ ...unit, ...got.get(unit.id) })) }
}
