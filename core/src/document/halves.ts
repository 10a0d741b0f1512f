import { chanceFrom, shuffled } from '../design/index.ts'
import { placedAnew } from '../ground/index.ts'
import { counted, plural } from '../quantity/index.ts'
import {
  dayInWords,
  HALF,
  isExtra,
  OUTSIDE,
  treatmentOn,
  type LaterDraw,
  type Layout,
  type Site,
  type Treatments,
  type Trial,
  type Unit,
} from '../trial/index.ts'
import { refuse, refused, variedFrom } from './later-draw.ts'
import type { Change, Document } from './patch.ts'

type Asked = Omit<LaterDraw, 'version' | 'reason' | 'confirm' | 'byHand' | 'halves'> & { readonly halves: NonNullable<LaterDraw['halves']> }

/** What was read by then: visits with readings, and whether anything was. */
interface Read {
  readonly visits: ReadonlySet<string>
  readonly measured: boolean
  readonly newId: () => string
}

/**
 * From a day on one half of every plot is handled another way, and the other as before: a factor of its own on
 * the halves, which are units from then on. Which half is drawn by chance in each plot, or is the same in all and then not
 * randomised. Throws DocumentError where there are no plots that can be halved, or where plots were read as a whole
 * at a visit from that day on.
 */
export function layOnHalves({ trial, layouts }: Document, asked: Asked, { visits, measured, newId }: Read): Change {
  refuse(trial, layouts, { ...asked, treatments: trial.treatments.list.map((each) => each.key) })
  if (asked.levels.length > 2) throw refused('levels', 'A plot has two halves: one is handled another way, and the other as before.')
  refuseRead(trial, visits, asked.on)
  const chance = chanceFrom(asked.seed)
  let count = 0
  const ways = new Map<string, number>()
  const halved = layouts.map((layout) => {
    if (!asked.sites.includes(layout.siteKey)) return layout
    const site = trial.sites.find((each) => each.key === layout.siteKey)!
    const made = inHalves(layout, site, trial, asked.on, newId)
    for (const pair of made.pairs) {
      const [first, second] = asked.halves === 'by chance' ? shuffled(pair, chance) : asked.halves === 'a' ? pair : [...pair].reverse()
      ways.set(first!.id, 1).set(second!.id, 0)
    }
    count += made.pairs.length
    return made.layout
  })
  const drawn = asked.halves === 'by chance'
  return variedFrom(
    { trial, layouts: halved },
    asked,
    trial.treatments.list.filter((each) => each.role !== 'shown'),
    (layout) => (asked.sites.includes(layout.siteKey) ? { drawn: ways, within: 'plot' } : null),
    {
      how: drawn ? 'randomised' : 'not randomised',
      // Nothing that a draw is judged by has been read yet.
      late: !drawn && measured,
      what: (name) =>
        drawn
          ? `${name} drawn by chance on one half of ${counted(count, 'plot')}, from ${dayInWords(asked.on)} (seed ${asked.seed})`
          : `${name} laid on half ${asked.halves} of ${counted(count, 'plot')}, from ${dayInWords(asked.on)}`,
    },
  )
}

/** A reading of a whole plot cannot be parted afterwards. */
function refuseRead({ traits }: Trial, read: ReadonlySet<string>, on: string): void {
  const strange = traits.visits.find((visit) => read.has(visit.key) && (visit.on === null || visit.on >= on))
  if (!strange) return
  throw refused(
    'on',
    strange.on === null
      ? `${strange.name} has readings and no day: give the visit its day first, so that it is known whether the plots were whole then.`
      : `Plots were read as a whole at ${strange.name}, on ${dayInWords(strange.on)}: those readings cannot be parted between halves. Take a later day.`,
  )
}

/** A layout with two halves in each plot that is compared, side by side across its longer side, and these plot by plot. */
function inHalves(layout: Layout, site: Site, { sites, treatments }: Trial, on: string, newId: () => string) {
  const { units, structure } = layout
  if (site.design.unit !== 'plot') throw refused('sites', `${site.name} has ${plural(site.design.unit)}: only plots are handled by halves.`)
  if (structure.kinds.some(({ kind }) => kind === HALF))
    throw refused('sites', `The plots of ${site.name} are in halves already: draw among those.`)
  if (structure.kinds.some(({ kind, in: within }) => within.includes('plot') && kind !== 'plot'))
    throw refused('sites', `The plants in the plots of ${site.name} are read one by one: lay it on some of the plants instead.`)
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const plots = units.filter((unit) => unit.kind === 'plot' && isCompared(unit, index, treatments))
  if (plots.length === 0) throw refused('sites', `${site.name} has no plots of this trial's treatments to halve.`)
  const pairs = plots.map((plot) => SIDES.map((side, column) => halfOf(plot, side, column, newId())))
  const kinds: Layout['structure']['kinds'] = [...structure.kinds, { kind: HALF, in: ['plot'], from: on }]
  return { pairs, layout: placedAnew({ ...layout, structure: { ...structure, kinds }, units: [...units, ...pairs.flat()] }, site, sites) }
}

const SIDES = ['a', 'b'] as const

/** What stands outside the crossing is named on the half too, where it is drawn another way. */
function halfOf(plot: Unit, side: string, column: number, id: string): Unit {
  const marks = (of: Unit['planned']): Unit['planned'] => (of[OUTSIDE] === undefined ? {} : { [OUTSIDE]: of[OUTSIDE] })
  return {
    id,
    kind: HALF,
    code: `${plot.code.slice(0, 19)}${side}`,
    in: [plot.id],
    at: { in: plot.id, column, row: null },
    planned: marks(plot.planned),
    received: marks(plot.received),
    changes: {},
    place: null,
    walk: null,
    ...(plot.counted === undefined ? {} : { counted: `${plot.counted.slice(0, 19)}${side}` }),
  }
}

function isCompared(unit: Unit, index: ReadonlyMap<string, Unit>, treatments: Treatments): boolean {
  const treatment = treatmentOn(unit, index, treatments, 'planned')
  return treatment !== undefined && treatment.role !== 'shown' && !isExtra(unit, index)
}
