import { formatPlain, shown, withUnit, type UnitSystem } from '../quantity/index.ts'
import { nutrientOf, type Factor, type Treatments } from '../trial/index.ts'

/** How a level is spoken of: `no nitrogen`, `120 kg N/ha`, or its name. */
export function spoken(factor: Factor, key: string, system: UnitSystem): string {
  const level = factor.levels.find((each) => each.key === key)
  if (!level) return key
  if (factor.kind !== 'rate' || level.amount === null) return level.name
  if (level.amount === 0) return `no ${factor.name.toLowerCase()}`
  const out = shown(level.amount, factor.measure, system)
  return withUnit(formatPlain(out.value, 3), out.unit, nutrientOf(factor) ?? undefined)
}

/** A term of the analysis as its reader calls it: factors by their names, joined by ×. */
export function termInWords(treatments: Treatments, term: string): string {
  return term
    .split(':')
    .map((key) => {
      if (key === 'outside') return 'outside against the combinations'
      return treatments.factors.find((factor) => factor.key === key)?.name ?? key
    })
    .join(' × ')
}

/** A treatment in the same words: of one factor its level, of several or outside them its name. */
export function spokenTreatment(treatments: Treatments, key: string, system: UnitSystem): string {
  const treatment = treatments.list.find((each) => each.key === key)
  if (!treatment) return key
  const [factor] = treatments.factors
  const level = treatments.factors.length === 1 ? treatment.levels[factor!.key] : undefined
  return level === undefined ? treatment.name : spoken(factor!, level, system)
}
