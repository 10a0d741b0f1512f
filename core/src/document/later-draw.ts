import { plural } from '../quantity/index.ts'
import { chanceFrom, drawLater, nearestHolder } from '../design/index.ts'
import {
  dayInWords,
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
type Asked = Omit<LaterDraw, 'version' | 'reason'>

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
  const { factor, made } = factorDrawn(treatments, picked, asked)
  const before = factor.levels[0]!
  const all = {
    ...treatments,
    factors: [...treatments.factors, factor],
    list: [
      ...treatments.list.map((each) => ({ ...each, levels: { ...each.levels, [factor.key]: before.key } })),
      ...made.map((each) => each.treatment),
    ],
  }
  const chance = chanceFrom(asked.seed)
  const laid = layouts.map((layout): Layout => {
    const standing = among.get(layout)
    if (!standing) return marked(layout, factor, made, new Map())
    const { groups, kind, within } = standing
    if (groups.size === 0)
      throw refused(
        'treatments',
        `${nameOf(trial, layout.siteKey)} has no ${factor.levels.length} ${kind}s treated alike among these to draw among.`,
      )
    const drawn = drawLater([...groups.values()], factor.levels.length, chance)
    if (!drawn)
      throw refused(
        'treatments',
        `With so few ${kind}s of each, what is drawn at ${nameOf(trial, layout.siteKey)} could not be told from the ${plural(within ?? 'site')}: draw among treatments that stand there more often.`,
      )
    return marked(layout, factor, made, drawn, within)
  })
  const sites = trial.sites.map((site): Site => {
    const units = laid.find((layout) => layout.siteKey === site.key)?.units ?? []
    const index = new Map(units.map((unit) => [unit.id, unit]))
    const standing = new Set(units.map((unit) => treatmentOn(unit, index, all, 'planned')?.key))
    return { ...site, without: [...site.without, ...made.map((each) => each.treatment.key).filter((key) => !standing.has(key))] }
  })
  const turned: Trial = {
    ...trial,
    ...bumped(trial, sites),
    treatments: { ...all, comparisons: [...treatments.comparisons, ...comparisonsOf(factor, made, sites, treatments)] },
    sites,
  }
  const problems = checkTrial(turned, laid)
  if (problems.length > 0) throw new DocumentError(problems)
  const deltaOf = (of: Trial): DrawDelta => ({ factor: factor.key, treatments: of.treatments, without: withoutOf(of) })
  return {
    trial: turned,
    layouts: laid,
    section: 'treatments',
    what: `${factor.name} drawn by chance among what stands, from ${dayInWords(asked.on)} (seed ${asked.seed})`,
    before: { draw: deltaOf(trial) },
    after: { draw: deltaOf(turned) },
  }
}

/** The same turned back: the factor goes, and every unit is what it was. */
export function undoDraw({ trial, layouts }: Document, before: DrawDelta, after: DrawDelta): Change {
  if (!same(trial.treatments, after.treatments))
    throw refused('undo', 'The treatments were changed again since. They stay as they are now.')
  const { drawn } = after.treatments.factors.find((each) => each.key === after.factor)!
  const sites = trial.sites.map((site) => ({ ...site, without: [...(before.without[site.key] ?? site.without)] }))
  const turned = { ...trial, ...bumped(trial, sites), treatments: before.treatments, sites }
  const laid = layouts.map((layout) => layoutWithoutDraw(layout, after.factor, drawn!.from))
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

function refused(path: string, message: string): DocumentError {
  return new DocumentError([{ path, message }])
}

function nameOf({ sites }: Pick<Trial, 'sites'>, key: string): string {
  return sites.find((site) => site.key === key)?.name ?? key
}

function refuse({ treatments, sites }: Trial, layouts: readonly Layout[], asked: Asked): void {
  if (treatments.factors.length > 3) throw refused('name', 'Four things are varied already: no more can be told apart.')
  if (treatments.factors.some((each) => each.name.toLowerCase() === asked.name.toLowerCase()))
    throw refused('name', `“${asked.name}” is varied already: give it another name.`)
  const strange = asked.treatments.find((key) => !treatments.list.some((each) => each.key === key))
  if (strange !== undefined) throw refused('treatments', `“${strange}” is not a treatment of this trial.`)
  const bare = asked.sites.find((key) => !layouts.some((layout) => layout.siteKey === key))
  if (bare !== undefined) throw refused('sites', `${nameOf({ sites }, bare)} is not laid out: nothing stands there to draw among.`)
}

function factorDrawn(treatments: Treatments, picked: readonly Treatment[], { name, levels, on }: Asked): { factor: Factor; made: Made[] } {
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

/** Of the kinds treated the one most units are of: what a plan is walked by. */
function finest(kinds: readonly UnitKind[], units: readonly Unit[]): UnitKind {
  const count = (kind: UnitKind): number => units.filter((unit) => unit.kind === kind).length
  return [...kinds].sort((a, b) => count(b) - count(a))[0]!
}

/** A layout with what was drawn on its units; where nothing was, all are as they were. */
function marked(
  layout: Layout,
  factor: Factor,
  made: readonly Made[],
  drawn: ReadonlyMap<string, number>,
  within?: UnitKind | null,
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
  if (within === undefined) return { ...layout, units }
  const dealt = { factor: factor.key, appliedTo: kind, within, how: 'randomised' as const }
  return { ...layout, units, structure: { ...layout.structure, factors: [...layout.structure.factors, dealt] } }
}

/** Each new way against what it was before, among the treatments that were drawn from. */
function comparisonsOf(
  factor: Factor,
  made: readonly Made[],
  sites: readonly Site[],
  { comparisons }: Treatments,
): Treatments['comparisons'] {
  const taken = new Set(comparisons.map((each) => each.key))
  const there = made.filter(({ treatment }) => sites.some((site) => !site.without.includes(treatment.key)))
  const [before, ...ways] = factor.levels
  return ways.flatMap((way) => {
    const own = there.filter((each) => each.way === way.key)
    if (own.length === 0) return []
    return [
      {
        key: free(`${factor.key}-${way.key}`, taken, 40),
        name: `${factor.name}: ${way.name} against ${before!.name}, from ${dayInWords(factor.drawn!.on)}`.slice(0, 200),
        of: { kind: 'sides' as const, plus: own.map((each) => each.treatment.key), minus: own.map((each) => each.of) },
        // Nothing that it is judged by has been read yet.
        late: false,
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
