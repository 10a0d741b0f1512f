import { unitAround, type Layout, type Structure, type Unit } from '../trial/index.ts'
import { checkTrial } from './check.ts'
import type { Change, Document, SwapDelta } from './patch.ts'
import { DocumentError } from './problem.ts'

/**
 * Two units exchange what was dealt out to them, before anything is planted: the draw is then no longer
 * one, and what was put on this kind of unit counts as not randomised. Throws DocumentError where they
 * are not of one kind, nothing was dealt out to them, or they lie in different groups that were each
 * dealt out by themselves.
 */
export function swapTreatments({ trial, layouts }: Document, a: string, b: string): Change {
  const layout = layouts.find((each) => each.units.some((unit) => unit.id === a))
  const [one, other] = [a, b].map((id) => layout?.units.find((unit) => unit.id === id))
  if (!layout || !one || !other) throw refused('Both must be units of one site of this trial.')
  if (one.kind !== other.kind || one.id === other.id)
    throw refused('Two different units of one kind are swapped: two plots, two main plots.')
  const applied = layout.structure.factors.filter((each) => each.appliedTo === one.kind)
  if (applied.length === 0) throw refused(`Nothing was dealt out to ${one.kind}s: swap the units that are treated.`)
  const named = `${one.kind} ${one.code} and ${other.code}`
  if (JSON.stringify(one.planned) === JSON.stringify(other.planned))
    throw refused(`${named} are to get the same: there is nothing to swap.`)
  const index = new Map(layout.units.map((unit) => [unit.id, unit]))
  for (const { within } of applied)
    if (within !== null && within !== 'site' && unitAround(one, within, index) !== unitAround(other, within, index))
      throw refused(`${named} lie in different ${within}s, and each ${within} is to hold what it was dealt: swap inside one ${within}.`)
  const how = Object.fromEntries(applied.map((each) => [each.factor, each.how]))
  const swapped = exchanged(layout, one, other)
  const next: Layout = { ...swapped, structure: unrandomised(layout.structure, [{ a, b, how }]) }
  return changed({ trial, layouts }, layout, next, {
    what: `${named} swapped by hand: ${Object.keys(how).length === 1 ? 'it is' : 'they are'} no longer randomised`,
    before: { swap: { a, b, how } },
    after: { swap: { a, b, how: Object.fromEntries(applied.map((each) => [each.factor, 'not randomised' as const])) } },
  })
}

/** Turns a swap back; the draw is one again when no other swap stands. */
export function undoSwap({ trial, layouts }: Document, { a, b }: SwapDelta): Change {
  const layout = layouts.find((each) => each.structure.swapped?.some((swap) => swap.a === a && swap.b === b))
  const [one, other] = [a, b].map((id) => layout?.units.find((unit) => unit.id === id))
  if (!layout || !one || !other) throw refused('The site was dealt out anew since: that swap stands no longer.')
  const all = layout.structure.swapped!
  const last = all.findLast((swap) => [swap.a, swap.b].some((id) => id === a || id === b))
  if (last && (last.a !== a || last.b !== b)) throw refused(`${one.kind} ${one.code} or ${other.code} was swapped again since.`)
  const own = all.findLast((swap) => swap.a === a && swap.b === b)!
  const rest = all.filter((swap) => swap !== own)
  // How all was dealt out before the first swap of that kind of unit.
  const first = Object.assign({}, ...[...all].reverse().map((swap) => swap.how)) as SwapDelta['how']
  const { swapped: _, ...structure } = layout.structure
  const factors = structure.factors.map((each) => {
    const stillSwapped = rest.some((swap) => each.factor in swap.how)
    return stillSwapped || first[each.factor] === undefined ? each : { ...each, how: first[each.factor]! }
  })
  // What stays of a factor remembers how it was drawn.
  const kept = rest.map((swap) => ({ ...swap, how: Object.fromEntries(Object.keys(swap.how).map((factor) => [factor, first[factor]!])) }))
  const next: Layout = {
    ...exchanged(layout, one, other),
    structure: { ...structure, factors, ...(kept.length > 0 ? { swapped: kept } : {}) },
  }
  return changed({ trial, layouts }, layout, next, {
    what: `Turned back: ${one.kind} ${one.code} and ${other.code} are as they were dealt`,
    before: { swap: { a, b, how: {} } },
    after: { swap: { a, b, how: own.how } },
  })
}

function changed({ trial, layouts }: Document, layout: Layout, next: Layout, told: Pick<Change, 'what' | 'before' | 'after'>): Change {
  const turned = { ...trial, version: trial.version + 1 }
  const all = layouts.map((each) => (each === layout ? next : each))
  const problems = checkTrial(turned, all)
  if (problems.length > 0) throw new DocumentError(problems)
  return { trial: turned, layouts: all, section: null, ...told }
}

function exchanged(layout: Layout, one: Unit, other: Unit): Layout {
  const given = (to: Unit, from: Unit): Unit => ({ ...to, planned: from.planned, received: from.received, changes: from.changes })
  return {
    ...layout,
    units: layout.units.map((unit) => (unit.id === one.id ? given(one, other) : unit.id === other.id ? given(other, one) : unit)),
  }
}

function unrandomised(structure: Structure, more: NonNullable<Structure['swapped']>): Structure {
  const own = new Set(more.flatMap((swap) => Object.keys(swap.how)))
  return {
    ...structure,
    factors: structure.factors.map((each) => (own.has(each.factor) ? { ...each, how: 'not randomised' } : each)),
    swapped: [...(structure.swapped ?? []), ...more],
  }
}

function refused(message: string): DocumentError {
  return new DocumentError([{ path: 'swap', message }])
}
