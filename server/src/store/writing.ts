import type { Change } from '@canter/core/document'
import type { TrialContents } from '@canter/core/exchange'
import {
  recordKind,
  type FieldRecord,
  type Layout,
  type Site,
  type Trial,
  type TrialEvent,
  type TrialFile,
  type Unit,
} from '@canter/core/trial'
import { v7 as uuidv7 } from 'uuid'
import { deletion, insert, inserts, update, updates, type Statement } from './statements.ts'

/** What a change of a trial writes: pure, so that it can be made where nobody waits for it. */
export interface Writing {
  /** One by one beforehand: nobody sees what they write. */
  readonly ahead: readonly Statement[]
  /** All of them in one transaction. */
  readonly within: readonly Statement[]
  /** Whatever became of it. */
  readonly after: readonly Statement[]
}

/** No key of a site begins like this. */
const STAGED = '~'
/** Units of a new layout that are written with the change itself; more of them go in beforehand. */
const MANY_UNITS = 1000

/** Units that were to be dealt to a site and never were. */
export const STAGED_LEFT: Statement = { sql: `DELETE FROM unit WHERE site_key LIKE '${STAGED}%'`, bind: [] }
/** Units that a site has, as a condition. */
export const OF_A_SITE = `site_key NOT LIKE '${STAGED}%'`

/** From what stands to what a change makes of it. */
export function changeWriting(before: TrialFile, change: Change, event: TrialEvent, ahead: boolean): Writing {
  const { id } = before.trial
  const staged = ahead ? stagedOf(before.layouts, change.layouts) : new Map<string, string>()
  const layouts = new Map(change.layouts.map((layout) => [layout.siteKey, layout]))
  return {
    ahead: [...staged].flatMap(([site, key]) => unitInserts(id, key, layouts.get(site)!)),
    within: [
      ...trialUpdates(before.trial, change.trial),
      ...layoutUpdates(id, before.layouts, change.layouts, staged),
      insert('event', { ...event, trialId: id }),
    ],
    after: [...staged.values()].map((key) => deletion('unit', { trialId: id, siteKey: key })),
  }
}

/** A trial that was not here: its facts, then whatever belongs to it piece by piece. */
export interface Arrival {
  readonly id: string
  readonly title: string
  readonly first: readonly Statement[]
  readonly pieces: readonly Statement[]
  readonly last: readonly Statement[]
}

/** A whole trial from a checked package. It is there for nobody until the last of it is. */
export function arrivalOf({ trial, layouts, records, events, people }: TrialContents): Arrival {
  const { id } = trial
  return {
    id,
    title: trial.question.title,
    first: [insert('arriving', { trialId: id }), ...people.map(personInsert), ...trialInserts(trial)],
    pieces: [
      ...layouts.flatMap((layout) => [layoutInsert(id, layout), ...unitInserts(id, layout.siteKey, layout)]),
      ...inserts(
        'record',
        records.map((record) => recordRow(id, record)),
      ),
      ...events.map((event) => insert('event', { ...event, trialId: id })),
    ],
    last: [deletion('arriving', { trialId: id })],
  }
}

/** A person as a package names them, where nobody has that id. */
function personInsert({ id, name }: TrialContents['people'][number]): Statement {
  return insert('person', { id, name, units: 'metric', shortcuts: 1, theme: 'auto' }, 'ON CONFLICT (id) DO NOTHING')
}

export function trialInserts({ sites, ...trial }: Trial): Statement[] {
  return [insert('trial', trial), ...siteInserts(trial.id, sites)]
}

function siteInserts(trialId: string, sites: readonly Site[]): Statement[] {
  return sites.map((site, position) => insert('site', { ...site, trialId, position }))
}

function trialUpdates({ sites: was }: Trial, { sites, ...trial }: Trial): Statement[] {
  const own = update('trial', trial)
  if (JSON.stringify(was) === JSON.stringify(sites)) return [own]
  return [own, deletion('site', { trialId: trial.id }), ...siteInserts(trial.id, sites)]
}

export function recordRow(trialId: string, record: FieldRecord) {
  return {
    id: record.id,
    trialId,
    type: record.type,
    unitId: recordKind(record.type).unitOf(record),
    personId: record.person,
    body: record,
  }
}

function layoutInsert(trialId: string, { siteKey, structure }: Layout): Statement {
  return insert('layout', { trialId, siteKey, structure })
}

/** The units of a layout in their order, then what each lies in. */
function unitInserts(trialId: string, siteKey: string, { units }: Layout): Statement[] {
  return [
    ...inserts(
      'unit',
      units.map(({ in: _, ...unit }, position) => ({ ...unit, trialId, siteKey, position })),
    ),
    ...inserts(
      'membership',
      units.flatMap((unit) => unit.in.map((inUnitId, position) => ({ unitId: unit.id, inUnitId, position }))),
    ),
  ]
}

/**
 * Units of large new layouts go in beforehand, under a key that is no site's: what is left to do
 * while others wait is to give them their site. An id is had once, so units that keep theirs can
 * only come when the others have gone.
 */
function stagedOf(before: readonly Layout[], after: readonly Layout[]): Map<string, string> {
  const known = new Set(before.flatMap((layout) => layout.units.map((unit) => unit.id)))
  return new Map(
    anewOf(before, after)
      .filter(({ units }) => units.length >= MANY_UNITS && !units.some((unit) => known.has(unit.id)))
      .map((layout) => [layout.siteKey, `${STAGED}${uuidv7()}`]),
  )
}

/** Brings the layouts from what they were to what they are: whole sites where units come or go, single columns of single units where they change. */
function layoutUpdates(
  trialId: string,
  before: readonly Layout[],
  after: readonly Layout[],
  staged: ReadonlyMap<string, string>,
): Statement[] {
  const was = new Map(before.map((layout) => [layout.siteKey, layout]))
  const is = new Set(after.map((layout) => layout.siteKey))
  const anew = anewOf(before, after)
  const gone = [...was.keys()].filter((key) => !is.has(key))
  return [
    ...[...gone, ...anew.map((layout) => layout.siteKey)].flatMap((siteKey) => [
      deletion('unit', { trialId, siteKey }),
      deletion('layout', { trialId, siteKey }),
    ]),
    ...anew.flatMap((layout) => [layoutInsert(trialId, layout), ...unitsFor(trialId, layout, staged.get(layout.siteKey))]),
    ...after.flatMap((layout) => {
      const old = was.get(layout.siteKey)
      return !old || old === layout || anew.includes(layout) ? [] : changedUnits(trialId, old, layout)
    }),
  ]
}

function unitsFor(trialId: string, layout: Layout, under: string | undefined): Statement[] {
  if (under === undefined) return unitInserts(trialId, layout.siteKey, layout)
  return [{ sql: 'UPDATE unit SET site_key = $1 WHERE trial_id = $2 AND site_key = $3', bind: [layout.siteKey, trialId, under] }]
}

/** The same units in the same order: the columns in which some of them differ. */
function changedUnits(trialId: string, old: Layout, layout: Layout): Statement[] {
  const structure =
    JSON.stringify(old.structure) === JSON.stringify(layout.structure)
      ? []
      : [
          {
            sql: 'UPDATE layout SET structure = $1 WHERE trial_id = $2 AND site_key = $3',
            bind: [JSON.stringify(layout.structure), trialId, layout.siteKey],
          },
        ]
  const columns = new Set<keyof Unit>()
  const changed = layout.units.filter((unit, i) => {
    const other = old.units[i]!
    if (unit === other) return false
    const differing = COLUMNS.filter((name) => !sameValue(unit[name], other[name]))
    differing.forEach((name) => columns.add(name))
    return differing.length > 0
  })
  const rows = changed.map((unit) => ({ ...Object.fromEntries([...columns].map((name) => [name, unit[name]])), id: unit.id }))
  return [...structure, ...(rows.length > 0 ? updates('unit', rows) : [])]
}

/** What a unit may come to have instead of what it had. */
const COLUMNS = [
  'kind',
  'code',
  'at',
  'planned',
  'received',
  'changes',
  'place',
  'walk',
  'counted',
] as const satisfies readonly (keyof Unit)[]

/** Compared as they are stored. */
function sameValue(a: unknown, b: unknown): boolean {
  return a === b || (typeof a === 'object' && typeof b === 'object' && JSON.stringify(a) === JSON.stringify(b))
}

/** Layouts whose units are others than they were, or lie in others. */
function anewOf(before: readonly Layout[], after: readonly Layout[]): Layout[] {
  const was = new Map(before.map((layout) => [layout.siteKey, layout]))
  return after.filter((layout) => {
    const old = was.get(layout.siteKey)
    if (old === layout) return false
    return old?.units.length !== layout.units.length || !layout.units.every((unit, i) => sameHolders(unit, old.units[i]!))
  })
}

function sameHolders(a: Unit, b: Unit): boolean {
  return a === b || (a.id === b.id && a.in.join() === b.in.join())
}
