import { isCrossing, marksOn, spanInWords, treatmentWith, type TreatmentChange, type Unit } from '../trial/index.ts'
import { checkTrial } from './check.ts'
import type { Change, Document } from './patch.ts'
import { DocumentError } from './problem.ts'

/**
 * A unit that carries another level of some factor than was written: only what was put on this
 * kind of unit can be changed on it, and only that factor's class is lowered by it.
 */
export function changeTreatment(
  { trial, layouts }: Document,
  unitId: string,
  { received, change, on = null }: Pick<TreatmentChange, 'received' | 'change'> & Partial<Pick<TreatmentChange, 'on'>>,
): Change {
  const layout = layouts.find((each) => each.units.some((unit) => unit.id === unitId))
  const unit = layout?.units.find((each) => each.id === unitId)
  if (!layout || !unit) throw new DocumentError([{ path: 'unit', message: 'The unit is not part of a layout of this trial.' }])
  const own = new Set([...Object.keys(unit.planned), ...Object.keys(unit.received)])
  const strange = Object.keys(received).find((factor) => factor !== 'outside' && !own.has(factor))
  const applied = layout.structure.factors.filter((each) => each.appliedTo === unit.kind).map((each) => each.factor)
  if (applied.length === 0 || (strange !== undefined && !applied.includes(strange)))
    throw new DocumentError([
      { path: 'received', message: `Nothing of that was put on ${unit.kind} ${unit.code}: correct it on the unit it was put on.` },
    ])
  const changes = { ...unit.changes }
  for (const factor of new Set([...own, ...Object.keys(received)])) {
    if (received[factor] === unit.received[factor]) continue
    if (received[factor] === unit.planned[factor]) delete changes[factor]
    else changes[factor] = change
  }
  const after: Unit = { ...unit, received: { ...received }, changes }
  const next = layouts.map((each) =>
    each === layout ? { ...each, units: each.units.map((one) => (one.id === unit.id ? after : one)) } : each,
  )
  const turned = { ...trial, version: trial.version + 1 }
  const problems = checkTrial(turned, next)
  if (problems.length > 0) throw new DocumentError(problems)
  const index = new Map(next.flatMap((each) => each.units).map((each) => [each.id, each]))
  const whole = marksOn(after, index, 'received')
  const treatment = treatmentWith(whole, trial.treatments)
  if (!treatment && !isCrossing(trial.treatments) && layout.structure.factors.every((each) => each.appliedTo === unit.kind))
    throw new DocumentError([
      { path: 'received', message: 'That combination is not a treatment of this trial: add it to the treatments first.' },
    ])
  return {
    trial: turned,
    layouts: next,
    section: null,
    what: `${unit.kind} ${unit.code}: ${marksInWords(trial, unit.received)} became ${marksInWords(trial, received)} (${change}${on ? ` ${spanInWords(on)}` : ''})`,
    before: { unit: { id: unit.id, received: unit.received, changes: unit.changes } },
    after: { unit: { id: unit.id, received: after.received, changes: after.changes, on } },
  }
}

/** Codes of the levels a unit carries. */
function marksInWords({ treatments }: Document['trial'], marks: Readonly<Record<string, string>>): string {
  const codes = Object.entries(marks).map(([factor, level]) =>
    factor === 'outside'
      ? treatments.list.find((each) => each.key === level)?.code
      : treatments.factors.find((each) => each.key === factor)?.levels.find((each) => each.key === level)?.code,
  )
  return codes.filter(Boolean).join('·') || 'nothing'
}
