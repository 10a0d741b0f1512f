import { formatFixed, formatNumber, formatPlain, shown, type UnitSystem } from '@canter/core/quantity'
import type { DerivedTrait, Trait } from '@canter/core/trial'

/** A value of a trait without its unit: observed ones to the decimals they are read with, derived ones to what they are worth. */
export function traitText(value: number, trait: Trait | DerivedTrait, system: UnitSystem): string {
  const out = shown(value, trait.unit, system)
  if (trait.unit === 'score') return formatPlain(out.value, 3)
  return 'decimals' in trait && out.unit === trait.unit ? formatFixed(out.value, trait.decimals) : formatNumber(out.value, 3)
}
