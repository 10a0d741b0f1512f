import { given, workedProduct, type Worked } from '../quantity/index.ts'
import { harvestedArea } from '../ground/index.ts'
import type { DerivationTerm, DerivedTrait, Ground, Trait } from '../trial/index.ts'

/**
 * A derived value of one plot with its working, or the names of what is missing for it.
 * `observed` holds the plot's values by trait key, each in its trait's unit.
 */
export function derive(
  derived: DerivedTrait,
  observed: ReadonlyMap<string, Worked>,
  ground: Ground,
): { ok: true; worked: Worked } | { ok: false; missing: string[] } {
  const missing: string[] = []
  const terms = derived.terms.flatMap((term) => {
    const of = figure(term, observed, ground)
    if (of) return [{ of, power: term.power, complement: term.complement }]
    missing.push(term.of.kind === 'trait' ? term.of.trait : term.of.kind)
    return []
  })
  if (missing.length > 0) return { ok: false, missing }
  return { ok: true, worked: workedProduct(derived.name, derived.unit, terms) }
}

function figure(term: DerivationTerm, observed: ReadonlyMap<string, Worked>, ground: Ground): Worked | undefined {
  switch (term.of.kind) {
    case 'trait':
      return observed.get(term.of.trait)
    case 'harvested area':
      return harvestedArea(ground)
    case 'constant':
      return given(term.of.label, term.of.value, term.of.unit)
  }
}

/** Whether a derivation makes its unit; the problem in words, or null. Tried with ones. */
export function derivationProblem(derived: DerivedTrait, traits: readonly (Trait | DerivedTrait)[], ground: Ground): string | null {
  const ones = new Map(traits.map((trait) => [trait.key, given(trait.name, 1, trait.unit)]))
  try {
    const tried = derive(derived, ones, ground)
    return tried.ok ? null : `${derived.name} needs ${tried.missing.join(', ')}.`
  } catch (error) {
    return error instanceof RangeError ? error.message : String(error)
  }
}
