import { z } from 'zod'
import { PlannedComparison } from './comparison.ts'
import { Factor, type Level } from './factor.ts'
import type { Unit } from './structure.ts'
import { key, line } from './text.ts'

/** A treatment: what one unit gets of everything that is varied. */
export const Treatment = z
  .object({
    key,
    /** On stakes, plan and charts. */
    code: z
      .string()
      .trim()
      .min(1, 'A treatment needs a code.')
      .max(16, 'A code is at most 16 characters, so that it can be read on a stake.'),
    name: line('Treatment name', 200),
    /** Its own colour, #rrggbb; null: from the order of the treatments. */
    colour: z
      .string()
      .regex(/^#[0-9a-f]{6}$/, 'A colour is written #rrggbb.')
      .nullable(),
    /**
     * A yardstick is compared with, and is no option to choose. What is shown stands once at each site,
     * beside the trial: a look at it, and no part of what is tested.
     */
    role: z.enum(['none', 'untreated control', 'standard', 'yardstick', 'shown']),
    /** Level by factor. A treatment that lacks a level of some factor stands outside their crossing. */
    levels: z.record(z.string(), z.string()),
  })
  .meta({ id: 'Treatment' })
export type Treatment = z.infer<typeof Treatment>

export const Treatments = z
  .object({
    factors: z.array(Factor).min(1, 'A trial needs something that is varied.').max(4, 'At most four things are varied at once.'),
    list: z.array(Treatment).max(500, 'At most 500 treatments.'),
    /** Planned beforehand, and told first. */
    comparisons: z.array(PlannedComparison).max(60, 'At most 60 planned comparisons.').default([]),
    /** Codes only are shown until it is opened, on the record. */
    blinded: z.boolean().default(false),
    /** Of several factors the one told by hue and the one told by how light it is; not said: the first two. */
    coloured: z.array(key).length(2).optional(),
  })
  .superRefine(({ factors, list, comparisons }, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const twice = (values: readonly string[]): number => values.findIndex((each, i) => values.indexOf(each) !== i)
    const sameFactor = twice(factors.map((each) => each.key))
    if (sameFactor !== -1) complain(['factors', sameFactor, 'key'], `The key “${factors[sameFactor]!.key}” is used twice.`)
    for (const field of ['key', 'code'] as const) {
      const same = twice(list.map((each) => each[field]))
      if (same !== -1) complain(['list', same, field], `The ${field} “${list[same]![field]}” is used twice.`)
    }
    const known = new Map(factors.map((factor) => [factor.key, new Set(factor.levels.map((level) => level.key))]))
    const seen = new Map<string, string>()
    list.forEach((treatment, i) => {
      for (const [factor, level] of Object.entries(treatment.levels)) {
        if (!known.has(factor)) complain(['list', i, 'levels'], `${treatment.code} has a level of “${factor}”, which is not varied here.`)
        else if (!known.get(factor)!.has(level))
          complain(['list', i, 'levels'], `${treatment.code} has the level “${level}”, which ${factor} does not have.`)
      }
      if (!isInside(treatment, factors)) return
      const at = levelsKey(treatment.levels, factors)
      if (seen.has(at)) complain(['list', i], `${treatment.code} and ${seen.get(at)} are the same treatment.`)
      seen.set(at, treatment.code)
    })
    if (list.filter((each) => each.role === 'untreated control').length > 1)
      complain(['list'], 'Only one treatment can be the untreated control.')
    comparisons.forEach((comparison, i) => {
      const problem = comparisonProblem(comparison, { factors, list })
      if (problem) complain(['comparisons', i], problem)
    })
    const named = comparisons.map((each) => each.name)
    for (const [field, values] of [
      ['key', comparisons.map((each) => each.key)],
      ['name', named],
    ] as const) {
      const same = twice(values)
      if (same !== -1) complain(['comparisons', same, field], `Two comparisons have the ${field} “${values[same]}”.`)
    }
  })
  .meta({ id: 'Treatments' })
export type Treatments = z.infer<typeof Treatments>

/** Treatments of which nothing more is said yet. */
export function treatmentsOf(factors: readonly Factor[], list: readonly Treatment[] = crossFactors(factors)): Treatments {
  return { factors: [...factors], list: [...list], comparisons: [], blinded: false }
}

/** The same trial with another list: comparisons keep what is left of them, and go where a side is empty. */
export function withList(treatments: Treatments, list: readonly Treatment[]): Treatments {
  const known = new Set(list.map((each) => each.key))
  const kept = (of: readonly string[]): string[] => of.filter((each) => known.has(each))
  const { factors } = treatments
  const comparisons = treatments.comparisons
    .map((each) =>
      each.of.kind === 'sides' ? { ...each, of: { ...each.of, plus: kept(each.of.plus), minus: kept(each.of.minus) } } : each,
    )
    .filter((each) => (each.of.kind === 'sides' ? each.of.plus.length > 0 && each.of.minus.length > 0 : true))
    .filter((each) => comparisonProblem(each, { factors, list: [...list] }) === null)
  return { ...treatments, list: [...list], comparisons }
}

/** Combinations of the levels that are no treatments: dropped, and can come back. */
export function holesOf({ factors, list }: Treatments): Treatment[] {
  const known = new Set(list.filter((each) => isInside(each, factors)).map((each) => levelsKey(each.levels, factors)))
  return crossFactors(factors, list).filter((each) => !known.has(levelsKey(each.levels, factors)))
}

/** With a combination that was left out, in its place among the others. */
export function withCell(treatments: Treatments, levels: Readonly<Record<string, string>>): Treatments {
  const { factors, list } = treatments
  const kept = new Set([
    levelsKey(levels, factors),
    ...list.flatMap((each) => (isInside(each, factors) ? [levelsKey(each.levels, factors)] : [])),
  ])
  const inside = crossFactors(factors, list).filter((each) => kept.has(levelsKey(each.levels, factors)))
  const codes = new Set(list.filter((each) => !isInside(each, factors)).map((each) => each.code))
  const apart = inside.map((each) => (codes.has(each.code) ? { ...each, code: `${each.code.slice(0, 13)}.2` } : each))
  return { ...treatments, list: [...apart, ...list.filter((each) => !isInside(each, factors))] }
}

/** The treatments a site has, with the levels that those still need. */
export function treatmentsAt(treatments: Treatments, { without }: { readonly without: readonly string[] }): Treatments {
  if (without.length === 0) return treatments
  const list = treatments.list.filter((each) => !without.includes(each.key))
  const factors = treatments.factors.map((factor) => ({
    ...factor,
    levels: factor.levels.filter((level) => list.some((each) => each.levels[factor.key] === level.key)),
  }))
  return withList({ ...treatments, factors }, list)
}

/** Those that are dealt out at a site: what is only shown stands beside. */
export function treatmentsDealt(treatments: Treatments, { without }: { readonly without: readonly string[] }): Treatments {
  return treatmentsAt(treatments, { without: [...without, ...shownOf(treatments).map((each) => each.key)] })
}

export function shownOf({ list }: Pick<Treatments, 'list'>): Treatment[] {
  return list.filter((each) => each.role === 'shown')
}

/** Why a comparison compares nothing, in words; null when it does. */
function comparisonProblem({ name, of }: PlannedComparison, { factors, list }: Pick<Treatments, 'factors' | 'list'>): string | null {
  const known = new Set(list.map((each) => each.key))
  if (of.kind === 'trend') {
    const factor = factors.find((each) => each.key === of.factor)
    if (!factor) return `“${name}” is a trend over “${of.factor}”, which is not varied here.`
    const amounts = new Set(factor.levels.flatMap((level) => level.amount ?? []))
    return factor.levels.every((level) => level.amount !== null) && amounts.size > of.degree
      ? null
      : `“${name}” needs ${of.degree + 1} different amounts of ${factor.name}.`
  }
  const strange = [...of.plus, ...of.minus].find((each) => !known.has(each))
  if (strange !== undefined) return `“${name}” names “${strange}”, which is not a treatment of this trial.`
  const shown = shownOf({ list }).find((each) => of.plus.includes(each.key) || of.minus.includes(each.key))
  if (shown) return `“${name}” has ${shown.code}, which is only shown beside the trial: it is compared with nothing.`
  const both = of.plus.find((each) => of.minus.includes(each))
  return both === undefined ? null : `“${name}” has ${list.find((each) => each.key === both)!.code} on both sides.`
}

/** On a unit: the key under which a treatment outside the crossing stands. */
export const OUTSIDE = 'outside'

export function isInside(treatment: Pick<Treatment, 'levels'>, factors: readonly Factor[]): boolean {
  return factors.every((factor) => treatment.levels[factor.key] !== undefined)
}

function levelsKey(levels: Readonly<Record<string, string>>, factors: readonly Factor[]): string {
  return factors.map((factor) => levels[factor.key] ?? '').join('|')
}

/** What a unit that is to get a treatment is marked with: a level of each factor, or the treatment as one outside. */
export function marksOf(treatment: Treatment, factors: readonly Factor[]): Record<string, string> {
  return isInside(treatment, factors) ? { ...treatment.levels } : { ...treatment.levels, [OUTSIDE]: treatment.key }
}

/** The treatment that has just these marks, if any. What was drawn later on a part of a unit only leaves the whole as it was before. */
export function treatmentWith(marks: Readonly<Record<string, string>>, { factors, list }: Treatments): Treatment | undefined {
  const outside = marks[OUTSIDE]
  if (outside !== undefined) return list.find((each) => each.key === outside)
  const whole: Record<string, string> = { ...marks }
  for (const factor of factors) if (factor.drawn) whole[factor.key] ??= factor.levels[0]!.key
  const at = levelsKey(whole, factors)
  return list.find((each) => isInside(each, factors) && levelsKey(each.levels, factors) === at)
}

/** Whether every combination of levels is a treatment and nothing stands outside. */
export function isCrossing({ factors, list }: Treatments): boolean {
  return (
    list.every((each) => isInside(each, factors)) && list.length === factors.reduce((product, factor) => product * factor.levels.length, 1)
  )
}

/** Every combination of the levels, the last factor changing fastest, under names made of theirs. */
export function crossFactors(factors: readonly Factor[], standing: readonly Treatment[] = []): Treatment[] {
  const cells = factors.reduce<Level[][]>((found, factor) => found.flatMap((each) => factor.levels.map((level) => [...each, level])), [[]])
  const known = new Map(standing.filter((each) => isInside(each, factors)).map((each) => [levelsKey(each.levels, factors), each]))
  const keys = new Set(standing.map((each) => each.key))
  return cells
    .filter((cell) => cell.length > 0)
    .map((cell): Treatment => {
      const levels = Object.fromEntries(cell.map((level, f) => [factors[f]!.key, level.key]))
      const named = {
        code: cell
          .map((level) => level.code)
          .join(cell.length > 2 ? '' : '·')
          .slice(0, 16),
        name: cell
          .map((level) => level.name)
          .join(', ')
          .slice(0, 200),
        levels,
      }
      const own = known.get(levelsKey(levels, factors))
      if (own) return { ...own, ...named }
      let made = cell
        .map((level) => level.key)
        .join('-')
        .slice(0, 38)
      for (let n = 2; keys.has(made); n++) made = `${made.slice(0, 36)}-${n}`
      keys.add(made)
      return { key: made, ...named, colour: null, role: 'none' }
    })
}

/** The level of a factor that its others are held against: that of the untreated control, else of the only standard. */
export function controlLevel({ list }: Treatments, factor: string): string | undefined {
  const control = list.find((each) => each.role === 'untreated control')
  if (control) return control.levels[factor]
  const standards = list.filter((each) => each.role === 'standard')
  return standards.length === 1 ? standards[0]!.levels[factor] : undefined
}

type Index = ReadonlyMap<string, Unit>

/** Marks of a unit with those of every unit it lies in: what was put on it, and on the larger units that hold it. */
export function marksOn(unit: Unit, index: Index, which: 'planned' | 'received'): Record<string, string> {
  const marks: Record<string, string> = {}
  const visit = (each: Unit): void => {
    for (const [factor, level] of Object.entries(each[which])) marks[factor] ??= level
    for (const id of each.in) {
      const above = index.get(id)
      if (above) visit(above)
    }
  }
  visit(unit)
  return marks
}

/** The treatment a unit was to get, or got. */
export function treatmentOn(
  unit: Unit,
  index: Index,
  treatments: Treatments,
  which: 'planned' | 'received' = 'received',
): Treatment | undefined {
  return treatmentWith(marksOn(unit, index, which), treatments)
}
