import { nearestHolder } from '../design/index.ts'
import { counted, plural } from '../quantity/index.ts'
import { dayInWords, treatmentOn, type LaterDraw, type Layout, type Treatment, type Unit } from '../trial/index.ts'
import { finest, refuse, refused, variedFrom } from './later-draw.ts'
import type { Change, Document } from './patch.ts'

type Asked = Omit<LaterDraw, 'version' | 'reason' | 'confirm' | 'byHand' | 'halves'> & { readonly byHand: NonNullable<LaterDraw['byHand']> }

/**
 * A practice laid later across some of the units, by hand: from that day it is a factor of its own on
 * them, and not randomised. What was read before stays as it was. `taken`: that it leaves no unit of
 * what others are compared with as it was, or cannot be told from what the units lie in, in words, which
 * is to be asked before it is kept; null when neither is so. Throws DocumentError where what is named cannot be handled so.
 */
export function layByHand({ trial, layouts }: Document, asked: Asked, late: boolean): { change: Change; taken: string | null } {
  const ways = new Map(asked.byHand.map(({ unit, way }) => [unit, way]))
  const here = layouts.filter((layout) => layout.units.some((unit) => ways.has(unit.id)))
  const { treatments } = trial
  refuse(trial, layouts, { ...asked, treatments: treatments.list.map((each) => each.key), sites: here.map((layout) => layout.siteKey) })
  const picked = new Set<Treatment>()
  let found = 0
  for (const { structure, units } of here) {
    const kind = finest(
      structure.factors.map((each) => each.appliedTo),
      units,
    )
    const index = new Map(units.map((unit) => [unit.id, unit]))
    for (const unit of units) {
      const way = ways.get(unit.id)
      if (way === undefined) continue
      found++
      if (unit.kind !== kind)
        throw refused('byHand', `${unit.kind} ${unit.code} cannot be handled by itself here: name the ${plural(kind)}.`)
      if (way >= asked.levels.length) throw refused('byHand', `Of the ways that are named there is no number ${way}.`)
      const treatment = treatmentOn(unit, index, treatments)
      if (!treatment) throw refused('byHand', `${unit.kind} ${unit.code} has no treatment of this trial: it cannot be varied further.`)
      picked.add(treatment)
    }
  }
  if (found < ways.size) throw refused('byHand', 'Some of what is named is not part of a layout of this trial. Was it laid out again?')
  const change = variedFrom(
    { trial, layouts },
    asked,
    [...picked],
    (layout) => {
      if (!here.includes(layout)) return null
      const own = new Map(layout.units.flatMap((unit) => (ways.has(unit.id) ? [[unit.id, ways.get(unit.id)!] as const] : [])))
      const first = layout.units.find((unit) => own.has(unit.id))!
      const within = nearestHolder(first, new Map(layout.units.map((unit) => [unit.id, unit])))?.kind ?? null
      return { drawn: own, within: within === 'site' ? null : within }
    },
    { how: 'not randomised', late, what: (name) => `${name} laid by hand on ${counted(found, 'unit')}, from ${dayInWords(asked.on)}` },
  )
  const doubts = [takenAway({ trial, layouts }, ways), ...here.map((layout) => notToldApart(layout, ways))].filter((each) => each !== null)
  return { change, taken: doubts.length > 0 ? doubts.join(' ') : null }
}

/** Whether what is laid lies on whole blocks only, so that blocks and practice are one, in words. */
function notToldApart({ structure, units }: Layout, ways: ReadonlyMap<string, number>): string | null {
  const kind = finest(
    structure.factors.map((each) => each.appliedTo),
    units,
  )
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const own = units.filter((unit) => unit.kind === kind)
  const [first] = own
  const holder = first && nearestHolder(first, index)
  if (!holder || holder.kind === 'site') return null
  const groups = new Map<string, Set<number>>()
  for (const unit of own) {
    const at = nearestHolder(unit, index)?.id ?? ''
    groups.set(at, (groups.get(at) ?? new Set()).add(ways.get(unit.id) ?? 0))
  }
  return [...groups.values()].every((found) => found.size === 1)
    ? `It lies on whole ${plural(holder.kind)} only: what it does cannot be told from what the ${plural(holder.kind)} do.`
    : null
}

/** Whether all units of a control come to be handled another way, at a site, in words. */
function takenAway({ trial, layouts }: Document, ways: ReadonlyMap<string, number>): string | null {
  const { treatments } = trial
  const controls = treatments.list.filter((each) => each.role === 'untreated control' || each.role === 'standard')
  const found = layouts.flatMap(({ siteKey, units }) => {
    const index = new Map(units.map((unit) => [unit.id, unit]))
    const handled = (unit: Unit): boolean => ways.has(unit.id)
    return controls.flatMap((control) => {
      const own = units.filter((unit) => unit.walk !== null && treatmentOn(unit, index, treatments)?.key === control.key)
      if (own.length === 0 || !own.every(handled)) return []
      const site = trial.sites.find((each) => each.key === siteKey)!
      return [`${control.code} (${control.name})${trial.sites.length > 1 ? ` at ${site.name}` : ''}`]
    })
  })
  if (found.length === 0) return null
  const others = controls.length > found.length ? '' : ', the only control'
  return `This leaves no unit of ${found.join(' and ')}${others} as it was: from that day there is nothing left untouched to compare with. Leave some of them as they are, or keep it all the same.`
}
