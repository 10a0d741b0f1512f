import { formatPlain, withUnit } from '../quantity/index.ts'
import {
  asOf,
  dayInWords,
  fateInWords,
  readSpan,
  spanInWords,
  unitAround,
  type Fate,
  type Factor,
  type Layout,
  type Level,
  type Operation,
  type Site,
  type Trial,
  type TrialEvent,
  type Unit,
} from '../trial/index.ts'
import { holdingOn, lineOf } from './fates.ts'

/** One thing that a piece of ground got, or that happened on it. */
export interface Layer {
  /** The first day it can have been; null: not known. */
  readonly from: string | null
  /** When, in words. */
  readonly when: string
  readonly what: string
}

interface Known {
  readonly trial: Pick<Trial, 'treatments' | 'sites' | 'amounts' | 'question'>
  readonly layouts: readonly Layout[]
  readonly operations: readonly Operation[]
  readonly events: readonly TrialEvent[]
  readonly fatesOf: (unit: string) => readonly Fate[]
}

/**
 * What the ground of a unit had got by a day, the earliest first: what grew there, what every plot got,
 * what was varied on it (as it really was, a pass that covered a part as that part), what happened. Of
 * what has no day it is said that it has none.
 */
export function layersOf(known: Known, unitId: string, day: string): Layer[] {
  const layout = known.layouts.find((each) => each.units.some((unit) => unit.id === unitId))
  const site = known.trial.sites.find((each) => each.key === layout?.siteKey)
  if (!layout || !site) return []
  const earlier = earlierSeason(known, site, layout, unitId, day)
  const found = [...siteLayers(known, site, day, earlier.length > 0), ...unitLayers(known, site, layout, unitId, day)]
  // What has no day stands after all that had one by then.
  const sorted = found.sort((a, b) => (a.from ?? '9999').localeCompare(b.from ?? '9999'))
  return [...earlier, ...sorted]
}

/** What the ground of a site as a whole had got by a day: what grew there, and what was done to all of it. */
export function siteLayersOf(known: Pick<Known, 'trial' | 'operations'>, siteKey: string, day: string): Layer[] {
  const site = known.trial.sites.find((each) => each.key === siteKey)
  const all = site ? siteLayers(known, site, day, false) : []
  // What every plot got was put on plots.
  return all.filter((each) => !each.what.endsWith(AS_EVERY_PLOT)).sort((a, b) => (a.from ?? '9999').localeCompare(b.from ?? '9999'))
}

const AS_EVERY_PLOT = ', as every plot'

/** The same plot in the season before, where it stood there. */
function earlierSeason(known: Known, site: Site, layout: Layout, unitId: string, day: string): Layer[] {
  const first = site.again === null ? undefined : known.layouts.find((each) => each.siteKey === site.again)
  const unit = layout.units.find((each) => each.id === unitId)
  const same = first?.units.find((each) => each.kind === unit?.kind && each.code === unit.code)
  return same ? layersOf(known, same.id, day) : []
}

function siteLayers({ trial, operations }: Pick<Known, 'trial' | 'operations'>, site: Site, day: string, again: boolean): Layer[] {
  const season = site.season ?? trial.question.season
  const crops = again
    ? []
    : site.facts.crops
        .filter((each) => `${each.season}-12-31` <= day || each.season < season)
        .map(({ season: year, crop }) => ({ from: `${year}-01-01`, when: String(year), what: `${crop} grew there` }))
  const common = trial.amounts.common.flatMap(({ what, amount, when }): Layer[] => {
    const read = readSpan(when, { year: season })
    if (read.ok && read.span.from > day) return []
    return [
      {
        from: read.ok ? read.span.from : null,
        when: when || 'day not on record',
        what: `${[what, amount].filter(Boolean).join(', ')}${AS_EVERY_PLOT}`,
      },
    ]
  })
  const done = operations
    .filter((each) => each.siteKey === site.key && each.on <= day)
    .map((each) => ({
      from: each.on,
      when: spanInWords({ from: each.on, to: each.until ?? each.on }),
      what: `${each.kind}${each.text ? `: ${each.text}` : ''}`,
    }))
  return [...crops, ...common, ...done]
}

function unitLayers(
  { trial, layouts, operations, events, fatesOf }: Known,
  site: Site,
  layout: Layout,
  unitId: string,
  day: string,
): Layer[] {
  const then = asOf({ treatments: trial.treatments, layouts }, day)
  const own = then.layouts.find((each) => each.siteKey === layout.siteKey)!
  const index = new Map(own.units.map((unit) => [unit.id, unit]))
  const unit = index.get(unitId)!
  const line = lineOf(unit, (id) => index.get(id))
  const applied = operations.filter((each) => each.siteKey === site.key && each.kind === 'applied').map((each) => each.on)
  const planted = operations.find((each) => each.siteKey === site.key && each.kind === 'planted')?.on ?? null
  const treated = then.treatments.factors.flatMap((factor): Layer[] => {
    const dealt = own.structure.factors.find((each) => each.factor === factor.key)
    const holder =
      line.find((each) => each.received[factor.key] !== undefined) ?? (dealt ? unitAround(unit, dealt.appliedTo, index) : undefined)
    const level = factor.levels.find((each) => each.key === holder?.received[factor.key])
    if (!holder || !level) return []
    const change = given(events, holder.id)
    const from = factor.drawn?.on ?? change?.on?.from ?? (factor.kind === 'rate' ? (applied[0] ?? planted) : planted)
    if (from !== null && from > day) return []
    const when = change?.on
      ? spanInWords(change.on)
      : factor.drawn
        ? `from ${dayInWords(factor.drawn.on)}`
        : from === null
          ? 'day not on record'
          : `from ${dayInWords(from)}`
    const planned = factor.levels.find((each) => each.key === holder.planned[factor.key])
    const other = planned && planned.key !== level.key ? ` (planned: ${planned.name})` : ''
    return [{ from, when, what: `${factor.name}: ${levelInWords(factor, level)}${other}${around(holder, unit)}` }]
  })
  const names = { factors: then.treatments.factors, unit: (id: string) => index.get(id) }
  const happened = holdingOn(fatesOf(unitId), null)
    .filter(({ on }) => on.from <= day)
    .map((fate) => ({ from: fate.on.from, when: spanInWords(fate.on), what: fateInWords(fate, names) }))
  return [...treated, ...happened]
}

function around(holder: Unit, unit: Unit): string {
  return holder.id === unit.id ? '' : `, put on ${holder.kind} ${holder.code}`
}

/** An amount, passes in their order, or a name. */
function levelInWords(factor: Factor, level: Level): string {
  const amount = level.amount === null || factor.measure === '' ? '' : withUnit(formatPlain(level.amount, 5), factor.measure)
  const passes = (level.passes ?? []).map(
    ({ tool, depth }) => `${tool}${depth === null ? '' : ` ${withUnit(formatPlain(depth, 3), 'cm')}`}`,
  )
  return [level.name, amount && !level.name.includes(formatPlain(level.amount!, 5)) ? amount : '', passes.join(', then ')]
    .filter(Boolean)
    .join('; ')
}

/** The last change of what a unit got, with its day. */
function given(events: readonly TrialEvent[], unit: string) {
  const undone = new Set(events.map((event) => event.undoes))
  const own = events.filter((event) => event.kind === 'treatment changed' && !undone.has(event.id))
  const last = own
    .map((event) => (event.after as { unit?: { id: string; on?: { from: string; to: string } | null } } | null)?.unit)
    .findLast((each) => each?.id === unit)
  return last
}
