import { placedAnew, siteOf } from '../ground/index.ts'
import { Trial, type Layout, type TrialEvent } from '../trial/index.ts'
import { checkTrial } from './check.ts'
import { undoExtra } from './extra.ts'
import { undoDraw } from './later-draw.ts'
import { applyPatch, fieldValue, same, type Change, type Delta, type Document } from './patch.ts'
import { DocumentError } from './problem.ts'
import { fieldName } from './sections.ts'
import { undoSwap } from './swap.ts'

/**
 * The inverse of one event, on what it changed and on nothing else. Throws DocumentError when
 * the same has been changed since, naming it, or when the event cannot be turned back.
 */
export function undoEvent(document: Document, event: TrialEvent): Change {
  const [before, after] = [event.before, event.after] as [Delta | null, Delta | null]
  if (!before || !after) throw refused('This cannot be turned back: it changed nothing that could be put back as it was.')
  if (after.patch && event.section) return undoPatch(document, event.section, before, after)
  if (before.unit && after.unit) return undoUnit(document, before.unit, after.unit)
  if (before.draw && after.draw) return undoDraw(document, before.draw, after.draw)
  if (before.swap && after.swap) return undoSwap(document, after.swap)
  if (before.extra && after.extra) return undoExtra(document, before.extra, after.extra)
  if (before.layouts) return undoLayouts(document, event.section, before, after)
  if (before.deletedAt !== undefined) return undoAside(document, before, after)
  throw refused('This cannot be turned back.')
}

function refused(message: string): DocumentError {
  return new DocumentError([{ path: 'undo', message }])
}

function undoPatch(document: Document, section: string, before: Delta, after: Delta): Change {
  const { trial } = document
  const changed = Object.keys(after.patch!).filter((path) => !same(fieldValue(trial, section, path), after.patch![path]))
  if (changed.length > 0)
    throw refused(`Changed again since: ${changed.map((path) => fieldName(section, path, trial)).join(', ')}. It stays as it is now.`)
  const turned = applyPatch(document, section, before.patch!)
  if (!before.layouts) return { ...turned, what: `Turned back: ${turned.what}` }
  // A layout that the change had taken off comes back, unless the site was laid out anew since.
  const anew = Object.keys(before.layouts).filter((key) => document.layouts.some((layout) => layout.siteKey === key))
  if (anew.length > 0) throw refused('The site was laid out anew since: the old layout cannot come back beside it.')
  const restored = restore(turned, before.layouts)
  return {
    ...turned,
    ...restored,
    what: `Turned back: ${turned.what}; the layout is back`,
    after: { ...turned.after, layouts: before.layouts },
  }
}

function restore({ trial, layouts }: Document, given: Readonly<Record<string, Layout | null>>): { layouts: Layout[] } {
  const kept = layouts.filter((layout) => !(layout.siteKey in given))
  const back = Object.values(given).flatMap((layout) =>
    layout && trial.sites.some((site) => site.key === layout.siteKey)
      ? [placedAnew(layout, siteOf(trial, layout.siteKey), trial.sites)]
      : [],
  )
  const order = trial.sites.map((site) => site.key)
  const all = [...kept, ...back].sort((a, b) => order.indexOf(a.siteKey) - order.indexOf(b.siteKey))
  const problems = checkTrial(trial, all)
  if (problems.length > 0) throw new DocumentError(problems)
  return { layouts: all }
}

function undoLayouts({ trial, layouts }: Document, section: string | null, before: Delta, after: Delta): Change {
  for (const [key, was] of Object.entries(after.layouts ?? {})) {
    const is = layouts.find((layout) => layout.siteKey === key)
    if (is?.structure.seed !== was?.structure.seed || is?.structure.draw !== was?.structure.draw)
      throw refused(`${siteOf(trial, key).name} was laid out anew since. It stays as it is now.`)
  }
  const next = { ...trial, version: trial.version + 1 }
  const keys = Object.keys(before.layouts!)
  const stands = Object.fromEntries(keys.map((key) => [key, layouts.find((layout) => layout.siteKey === key) ?? null]))
  const restored = restore({ trial: next, layouts }, before.layouts!)
  return {
    trial: next,
    ...restored,
    section,
    what: `Turned back: the layout of ${keys.map((key) => siteOf(trial, key).name).join(', ')} is as it was before`,
    before: { layouts: stands },
    after: { layouts: before.layouts! },
  }
}

function undoUnit({ trial, layouts }: Document, before: NonNullable<Delta['unit']>, after: NonNullable<Delta['unit']>): Change {
  const unit = layouts.flatMap((layout) => layout.units).find((each) => each.id === after.id)
  if (!unit) throw refused('The unit is no longer part of the layout.')
  if (!same(unit.received, after.received) || !same(unit.changes, after.changes))
    throw refused(`What ${unit.kind} ${unit.code} got was changed again since. It stays as it is now.`)
  const next = { ...trial, version: trial.version + 1 }
  const turned = layouts.map((layout) => ({
    ...layout,
    units: layout.units.map((each) => (each.id === unit.id ? { ...each, received: before.received, changes: before.changes } : each)),
  }))
  const problems = checkTrial(next, turned)
  if (problems.length > 0) throw new DocumentError(problems)
  return {
    trial: next,
    layouts: turned,
    section: null,
    what: `Turned back: what ${unit.kind} ${unit.code} got`,
    before: { unit: after },
    after: { unit: before },
  }
}

function undoAside({ trial, layouts }: Document, before: Delta, after: Delta): Change {
  if (!same(trial.deletedAt, after.deletedAt)) throw refused('It was put aside or brought back again since.')
  const next = Trial.parse({ ...trial, version: trial.version + 1, deletedAt: before.deletedAt })
  const what = before.deletedAt === null ? 'Trial brought back' : 'Trial put aside'
  return { trial: next, layouts, section: null, what, before: after, after: before }
}
