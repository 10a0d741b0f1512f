import type { Resolved } from '@canter/core/numbers'
import { formatFixed, formatNumber, formatPlain, shown, shownUnit, type UnitSystem } from '@canter/core/quantity'
import { traitKind, type DerivedTrait, type Trait } from '@canter/core/trial'
import { measure } from './colouring/index.ts'

/** A value of a trait without its measure: observed ones to the decimals they are read with, derived ones to what they are worth. */
function traitText(value: number, trait: Trait | DerivedTrait, system: UnitSystem): string {
  const out = shown(value, measure(trait), system)
  if (measure(trait) === 'score') return formatPlain(out.value, 3)
  const digits = 'kind' in trait ? traitKind(trait.kind).digits : 'rounded'
  if (digits === 'whole') return formatPlain(out.value, 4)
  return 'decimals' in trait && out.unit === trait.unit && digits === 'as read'
    ? formatFixed(out.value, trait.decimals)
    : formatNumber(out.value, 3)
}

/** What stands, as it is read: a number, a bound with its sign, words, two people's, or why there is none. */
export function resolvedText(value: Resolved | undefined, trait: Trait | DerivedTrait, system: UnitSystem): string {
  switch (value?.kind) {
    case 'value': {
      const { reduced } = value
      if (reduced.bound !== null) return `${reduced.bound === 'below' ? '<' : '>'} ${traitText(reduced.value!, trait, system)}`
      if (reduced.text !== null) return reduced.text
      return reduced.value === null ? '–' : traitText(reduced.value, trait, system)
    }
    case 'observers':
      return value.by.map((each) => resolvedText(each.value, trait, system)).join(' | ')
    case 'missing':
      return 'missing'
    case 'conflict':
      return 'twice'
    default:
      return '·'
  }
}

/** The measure of a trait as the reader sees it; none for scores and words. */
export function traitMeasure(trait: Trait | DerivedTrait, system: UnitSystem): string {
  const of = measure(trait)
  return of === 'score' ? '' : shownUnit(of, system)
}
