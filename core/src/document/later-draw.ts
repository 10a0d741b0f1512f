import { plural } from '../quantity/index.ts'
import { chanceFrom, drawLater, nearestHolder } from '../design/index.ts'
import {
  dayInWords,
  DRAW,
  HALF,
  layoutWithoutDraw,
  OUTSIDE,
  treatmentOn,
  type Factor,
  type LaterDraw,
  type Layout,
  type Site,
  type Treatment,
  type Treatments,
  type Trial,
  type Unit,
  type UnitKind,
} from '../trial/index.ts'
import { checkTrial } from './check.ts'
import { same, type Change, type Document, type DrawDelta } from './patch.ts'
import { DocumentError } from './problem.ts'

/** What is asked of a draw, apart from the version that was seen and the reason. */
type Asked = Omit<LaterDraw, 'version' | 'reason' | 'byHand' | 'halves' | 'confirm'>

/** A treatment that comes of another by being drawn. */
interface Made {
  readonly of: string
  readonly way: string
  readonly treatment: Treatment
}

/**
 * Draws by chance, among units that stand already, which are handled another way from a day on. From
 * then it is varied like anything else, and not before: a factor of its own on its own units. Throws
 * DocumentError where there is nothing to draw among.
 */
export function drawOnStanding({ trial, layouts }: Document, asked: Asked): Change {
  refuse(trial, layouts, asked)
  const { treatments } = trial
  const among = new Map(
    layouts
      .filter((layout) => asked.sites.includes(layout.siteKey))
      .map((layout) => [layout, standingAt(layout, treatments, asked.treatments, asked.levels.length)]),
  )
  // What stands too seldom to be shared out stays as it is.
  const picked = treatments.list.filter((each) => [...among.values()].some(({ groups }) => groups.has(each.key)))
  const chance = chanceFrom(asked.seed)
  return variedFrom(
    { trial, layouts },
    asked,
    picked,
    (layout) => {
      const standing = among.get(layout)
      if (!standing) return null
      const { groups, kind, within } = standing
      const ways = asked.levels.length
      if (groups.size === 0)
        throw refused('treatments', `${nameOf(trial, layout.siteKey)} has no ${ways} ${kind}s treated alike among these to draw among.`)
      const drawn = drawLater([...groups.values()], ways, chance)
      if (!drawn)
        throw refused(
          'treatments',
          `With so few ${kind}s of each, what is drawn at ${nameOf(trial, layout.siteKey)} could not be told from the ${plural(within ?? 'site')}: draw among treatments that stand there more often.`,
        )
      return { drawn, within }
    },
    // Nothing that it is judged by has been read yet.
    {
      how: 'randomised',
      late: false,
      what: (name) => `${name} drawn by chance among what stands, from ${dayInWords(asked.on)} (seed ${asked.seed})`,
    },
  )
}

/** Which way each unit of a site is handled (those not named: as before), and within what that was dealt out. */
interface Handled {
  readonly drawn: ReadonlyMap<string, number>
  readonly within: UnitKind | null
}

/** A factor that is varied among standing units from a day on, with the treatments that come of it. */
export function variedFrom(
  { trial, layouts }: Document,
  asked: Omit<Asked, 'seed' | 'treatments' | 'sites'>,
  picked: readonly Treatment[],
  handledAt: (layout: Layout) => Handled | null,
  told: { readonly how: 'randomised' | 'not randomised'; readonly late: boolean; readonly what: (name: string) => string },
): Change {
  const { treatments } = trial
  const { factor, made: possible } = factorDrawn(treatments, picked, asked)
  const handled = new Map(layouts.map((layout) => [layout, handledAt(layout)]))
  // Laid by hand, not every treatment stands every way.
  const made = told.how === 'randomised' ? possible : possible.filter((each) => standsAnywhere(each, factor, treatments, handled))
  const before = factor.levels[0]!
  const all = {
    ...treatments,
    factors: [
      ...treatments.factors,
      { ...factor, drawn: { ...factor.drawn!, from: Object.fromEntries(made.map((each) => [each.treatment.key, each.of])) } },
    ],
    list: [
      ...treatments.list.map((each) => ({ ...each, levels: { ...each.levels, [factor.key]: before.key } })),
      ...made.map((each) => each.treatment),
    ],
  }
  const laid = layouts.map((layout): Layout => {
    const own = handled.get(layout)
    return own ? marked(layout, factor, made, own.drawn, { within: own.within, how: told.how }) : marked(layout, factor, made, new Map())
  })
  const standingOn = ({ units }: Pick<Layout, 'units'>): ReadonlySet<string | undefined> => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return new Set(units.map((unit) => treatmentOn(unit, index, all, 'planned')?.key))
  }
  const sites = trial.sites.map((site): Site => {
    const standing = standingOn(laid.find((layout) => layout.siteKey === site.key) ?? { units: [] })
    return { ...site, without: [...site.without, ...made.map((each) => each.treatment.key).filter((key) => !standing.has(key))] }
  })
  const comparisons = comparisonsOf(factor, made, laid.map(standingOn), treatments, told.late)
  const turned: Trial = {
    ...trial,
    ...bumped(trial, sites),
    treatments: { ...all, comparisons: [...treatments.comparisons, ...comparisons] },
    sites,
  }
  const problems = checkTrial(turned, laid)
  if (problems.length > 0) throw new DocumentError(problems)
  const deltaOf = (of: Trial): DrawDelta => ({ factor: factor.key, treatments: of.treatments, without: withoutOf(of) })
  return {
    trial: turned,
    layouts: laid,
    section: 'treatments',
    what: told.what(factor.name),
    before: { draw: deltaOf(trial) },
    after: { draw: deltaOf(turned) },
  }
}

function standsAnywhere({ of, way }: Made, factor: Factor, treatments: Treatments, handled: ReadonlyMap<Layout, Handled | null>): boolean {
  return [...handled].some(([{ units }, own]) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    return [...(own?.drawn ?? [])].some(
      ([id, n]) => factor.levels[n]!.key === way && treatmentOn(index.get(id)!, index, treatments)?.key === of,
    )
  })
}

/** The same turned back: the factor goes, and every unit is what it was. */
export function undoDraw({ trial, layouts }: Document, before: DrawDelta, after: DrawDelta): Change {
  if (!same(trial.treatments, after.treatments))
    throw refused('undo', 'The treatments were changed again since. They stay as they are now.')
  const drawn = after.treatments.factors.find((each) => each.key === after.factor)?.drawn
  if (!drawn) throw refused('undo', 'A draw that was turned back does not come back as it was: draw anew.')
  const sites = trial.sites.map((site) => ({ ...site, without: [...(before.without[site.key] ?? site.without)] }))
  const turned = { ...trial, ...bumped(trial, sites), treatments: before.treatments, sites }
  const laid = layouts.map((layout) => layoutWithoutDraw(layout, after.factor, drawn.from))
  const problems = checkTrial(turned, laid)
  if (problems.length > 0) throw new DocumentError(problems)
  return {
    trial: turned,
    layouts: laid,
    section: 'treatments',
    what: 'Turned back: the draw among what stands; every unit is what it was before',
    before: { draw: after },
    after: { draw: before },
  }
}

export function refused(path: string, message: string): DocumentError {
  return new DocumentError([{ path, message }])
}

function nameOf({ sites }: Pick<Trial, 'sites'>, key: string): string {
  return sites.find((site) => site.key === key)?.name ?? key
}

export function refuse({ treatments, sites }: Trial, layouts: readonly Layout[], asked: Asked): void {
  if (treatments.factors.length > 3) throw refused('name', 'Four things are varied already: no more can be told apart.')
  if (treatments.factors.some((each) => each.name.toLowerCase() === asked.name.toLowerCase()))
    throw refused('name', `“${asked.name}” is varied already: give it another name.`)
  const strange = asked.treatments.find((key) => !treatments.list.some((each) => each.key === key))
  if (strange !== undefined) throw refused('treatments', `“${strange}” is not a treatment of this trial.`)
  const bare = asked.sites.find((key) => !layouts.some((layout) => layout.siteKey === key))
  if (bare !== undefined) throw refused('sites', `${nameOf({ sites }, bare)} is not laid out: nothing stands there to draw among.`)
}

function factorDrawn(
  treatments: Treatments,
  picked: readonly Treatment[],
  { name, levels, on }: Pick<Asked, 'name' | 'levels' | 'on'>,
): { factor: Factor; made: Made[] } {
  const keys = new Set([...treatments.factors, ...treatments.list].map((each) => each.key))
  const codes = new Set(treatments.list.map((each) => each.code))
  const key = free('drawn', keys, 40)
  const all = levels.map((level, i) => ({ ...level, key: i === 0 ? 'as-before' : `way-${i}`, amount: null }))
  const made = all.slice(1).flatMap((way) =>
    picked.map((each): Made => ({
      of: each.key,
      way: way.key,
      treatment: {
        key: free(`${each.key}-${way.key}`, keys, 40),
        code: free(`${each.code}·${way.code}`, codes, 16),
        name: `${each.name}, ${way.name}`.slice(0, 200),
        colour: null,
        role: 'none',
        levels: { ...each.levels, [key]: way.key },
      },
    })),
  )
  const from = Object.fromEntries(made.map(({ of, treatment }) => [treatment.key, of]))
  return { factor: { key, name, kind: 'practice', measure: '', of: null, levels: all, drawn: { on, from } }, made }
}

/** A name that is not taken yet, which is taken by it. */
function free(wanted: string, taken: Set<string>, most: number): string {
  let found = wanted.slice(0, most)
  for (let n = 2; taken.has(found); n++) found = `${wanted.slice(0, most - 1 - String(n).length)}-${n}`
  taken.add(found)
  return found
}

/**
 * The units to draw among by treatment, those that stand often enough. Units that were really given
 * something else than planned are left as they are: what stands on them was not chance already.
 */
function standingAt(
  { structure, units }: Layout,
  treatments: Treatments,
  keys: readonly string[],
  ways: number,
): { groups: ReadonlyMap<string, Unit[]>; kind: UnitKind; within: UnitKind | null } {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const applied = structure.factors.map((each) => each.appliedTo)
  const kind = finest(applied, units)
  const own = units.filter((unit) => unit.kind === kind && Object.values(unit.changes).every((change) => change !== 'misapplied'))
  const groups = new Map(keys.map((key): [string, Unit[]] => [key, []]))
  for (const unit of own) groups.get(treatmentOn(unit, index, treatments)?.key ?? '')?.push(unit)
  const within = own[0] ? (nearestHolder(own[0], index)?.kind ?? null) : null
  return { groups: new Map([...groups].filter(([, group]) => group.length >= ways)), kind, within: within === 'site' ? null : within }
}

/** Of the kinds treated the one most units are of, which a plan is walked by; halves where there are some. */
export function finest(kinds: readonly UnitKind[], units: readonly Unit[]): UnitKind {
  const count = (kind: UnitKind): number => units.filter((unit) => unit.kind === kind).length
  if (count(HALF) > 0) return HALF
  return [...kinds].sort((a, b) => count(b) - count(a))[0]!
}

/** A layout with what was drawn on its units; where nothing was, all are as they were. */
function marked(
  layout: Layout,
  factor: Factor,
  made: readonly Made[],
  drawn: ReadonlyMap<string, number>,
  dealt?: { readonly within: UnitKind | null; readonly how: 'randomised' | 'not randomised' },
): Layout {
  const kind = finest(
    layout.structure.factors.map((each) => each.appliedTo),
    layout.units,
  )
  const units = layout.units.map((unit): Unit => {
    if (unit.kind !== kind) return unit
    const way = factor.levels[drawn.get(unit.id) ?? 0]!.key
    const marks = (of: Readonly<Record<string, string>>): Record<string, string> => {
      const outside = made.find((each) => each.of === of[OUTSIDE] && each.way === way)?.treatment.key
      return { ...of, [factor.key]: way, ...(outside === undefined ? {} : { [OUTSIDE]: outside }) }
    }
    return { ...unit, planned: marks(unit.planned), received: marks(unit.received) }
  })
  if (!dealt) return { ...layout, units }
  const applied = { factor: factor.key, appliedTo: kind, ...dealt, ...(dealt.how === 'randomised' ? { draw: DRAW } : {}) }
  return { ...layout, units, structure: { ...layout.structure, factors: [...layout.structure.factors, applied] } }
}

/** Each new way against what it was before, among the treatments that were drawn from. */
function comparisonsOf(
  factor: Factor,
  made: readonly Made[],
  standing: readonly ReadonlySet<string | undefined>[],
  { comparisons }: Treatments,
  late: boolean,
): Treatments['comparisons'] {
  const taken = new Set(comparisons.map((each) => each.key))
  // Laid by hand on all units of a treatment, none of it is left to compare with.
  const there = made.filter(({ of, treatment }) => standing.some((at) => at.has(treatment.key) && at.has(of)))
  const [before, ...ways] = factor.levels
  return ways.flatMap((way) => {
    const own = there.filter((each) => each.way === way.key)
    if (own.length === 0) return []
    return [
      {
        key: free(`${factor.key}-${way.key}`, taken, 40),
        name: `${factor.name}: ${way.name} against ${before!.name}, from ${dayInWords(factor.drawn!.on)}`.slice(0, 200),
        of: { kind: 'sides' as const, plus: own.map((each) => each.treatment.key), minus: own.map((each) => each.of) },
        late,
      },
    ]
  })
}

function withoutOf({ sites }: Trial): DrawDelta['without'] {
  return Object.fromEntries(sites.map((site) => [site.key, site.without]))
}

/** Versions after treatments, and what some sites lack, have changed. */
function bumped(trial: Trial, sites: readonly Site[]): Pick<Trial, 'version' | 'versions'> {
  const touched = ['treatments', ...sites.flatMap((site, i) => (same(site.without, trial.sites[i]!.without) ? [] : [`site:${site.key}`]))]
  const versions = Object.fromEntries(touched.map((key) => [key, (trial.versions[key] ?? 0) + 1]))
  return { version: trial.version + 1, versions: { ...trial.versions, ...versions } }
}
