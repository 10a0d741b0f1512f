import { UnitMaker } from '../design/index.ts'
import { placedAnew, siteOf } from '../ground/index.ts'
import { marksOf, type Layout, type Structure, type Unit } from '../trial/index.ts'
import { checkTrial } from './check.ts'
import type { Change, Document, ExtraDelta } from './patch.ts'
import { DocumentError } from './problem.ts'

/**
 * A unit that stands on the ground though no plan has it: beside the trial, in no block, planned to get
 * nothing. It is walked and read like all others, and compared with none: nobody dealt it out. Throws
 * DocumentError where the site is not laid out or the treatment is none of the trial's.
 */
export function addExtra({ trial, layouts }: Document, siteKey: string, treatment: string | null, newId: () => string): Change {
  const layout = layouts.find((each) => each.siteKey === siteKey)
  const site = trial.sites.find((each) => each.key === siteKey)
  if (!layout || !site) throw refused('site', 'Nothing is laid out there yet: an extra plot stands beside others.')
  if (site.again !== null) throw refused('site', 'These are the plots of an earlier season: add it there.')
  const given = trial.treatments.list.find((each) => each.key === treatment)
  if (treatment !== null && !given) throw refused('treatment', `“${treatment}” is not a treatment of this trial.`)
  const number = trial.sites.indexOf(site)
  const make = new UnitMaker({ newId, choice: site.design, prefix: number > 0 ? String(number + 1) : '' })
  const whole = layout.units.find((unit) => unit.kind === 'site')!
  const known = layout.units.find((unit) => unit.kind === 'demonstration')
  const beside = known ?? make.group('demonstration', 'X', [whole], null)
  const held = layout.units.filter((unit) => unit.at?.in === beside.id)
  const codes = new Set(layout.units.map((unit) => unit.code))
  let n = 1
  while (codes.has(`${number > 0 ? number + 1 : ''}X${n}`)) n++
  const marks = given ? marksOf(given, trial.treatments.factors) : {}
  const unit = make.treated(`X${n}`, [beside], { in: beside.id, column: held.length, row: null }, marks)
  const units = make.units.map((each) => (each.id === unit.id ? { ...each, planned: {} } : each))
  const next = placedAnew(
    { ...layout, structure: withBeside(layout.structure, site.design.unit), units: [...layout.units, ...units] },
    site,
    trial.sites,
  )
  return changed({ trial, layouts }, next, {
    what: `${unit.kind} ${unit.code} put on record, which no plan has${given ? `: it got ${given.code}` : ''}`,
    before: { extra: { site: siteKey, units: [] } },
    after: { extra: { site: siteKey, units } },
  })
}

/** The same taken off again; or, where that is turned back, put there again with all that was read on it. */
export function undoExtra({ trial, layouts }: Document, was: ExtraDelta, is: ExtraDelta): Change {
  const siteKey = is.site
  const layout = layouts.find((each) => each.siteKey === siteKey)
  if (layout && is.units.length === 0) {
    if (was.units.some((unit) => layout.units.some((each) => each.kind === unit.kind && each.code === unit.code)))
      throw refused('undo', 'Another plot has its number by now: it cannot come back beside it.')
    const { unit } = siteOf(trial, siteKey).design
    const next = { ...layout, structure: withBeside(layout.structure, unit), units: [...layout.units, ...was.units] }
    return changed({ trial, layouts }, placedAnew(next, siteOf(trial, siteKey), trial.sites), {
      what: 'Turned back: a plot that no plan has is there again',
      before: { extra: is },
      after: { extra: was },
    })
  }
  const gone = new Set(is.units.map((unit) => unit.id))
  if (!layout || ![...gone].every((id) => layout.units.some((unit) => unit.id === id)))
    throw refused('undo', 'The site was laid out anew since: that plot stands there no longer.')
  const inside = layout.units.find((unit) => !gone.has(unit.id) && unit.in.some((id) => gone.has(id)))
  if (inside) throw refused('undo', `${inside.kind} ${inside.code} was put beside it since: take that back first.`)
  const left = layout.units.filter((unit) => !gone.has(unit.id))
  const bare = !left.some((unit) => unit.kind === 'demonstration')
  const structure = bare ? withoutBeside(layout.structure) : layout.structure
  const next = placedAnew({ ...layout, structure, units: left }, siteOf(trial, siteKey), trial.sites)
  return changed({ trial, layouts }, next, {
    what: 'Turned back: a plot that no plan has',
    before: { extra: is },
    after: { extra: { site: siteKey, units: [] } },
  })
}

function withBeside(structure: Structure, kind: Unit['kind']): Structure {
  if (structure.kinds.some((each) => each.kind === 'demonstration')) return structure
  const kinds = structure.kinds.map((each) => (each.kind === kind ? { ...each, in: [...each.in, 'demonstration' as const] } : each))
  return { ...structure, kinds: [...kinds, { kind: 'demonstration', in: ['site'] }] }
}

function withoutBeside(structure: Structure): Structure {
  const kinds = structure.kinds.flatMap((each) =>
    each.kind === 'demonstration' ? [] : [{ ...each, in: each.in.filter((kind) => kind !== 'demonstration') }],
  )
  return { ...structure, kinds }
}

function changed({ trial, layouts }: Document, next: Layout, told: Pick<Change, 'what' | 'before' | 'after'>): Change {
  const turned = { ...trial, version: trial.version + 1 }
  const all = layouts.map((each) => (each.siteKey === next.siteKey ? next : each))
  const problems = checkTrial(turned, all)
  if (problems.length > 0) throw new DocumentError(problems)
  return { trial: turned, layouts: all, section: null, ...told }
}

function refused(path: string, message: string): DocumentError {
  return new DocumentError([{ path, message }])
}
