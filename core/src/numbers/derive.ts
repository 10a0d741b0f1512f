import { given, workedProduct, type Worked } from '../quantity/index.ts'
import { harvestedArea } from '../ground/index.ts'
import { bareGround, traitKind, type DerivationTerm, type DerivedTrait, type Ground, type Trait, type Traits } from '../trial/index.ts'
import { measureOf } from './resolve.ts'

/**
 * A derived value of one unit with its working, or the names of what is missing for it.
 * `observed` holds the unit's values by trait key, each in its trait's measure; `area` says what of a plot's
 * harvested area is its own.
 */
export function derive(
  derived: DerivedTrait,
  observed: ReadonlyMap<string, Worked>,
  ground: Ground,
  area: Parameters<typeof harvestedArea>[1] = {},
): { ok: true; worked: Worked } | { ok: false; missing: string[] } {
  const missing: string[] = []
  const terms = derived.terms.flatMap((term) => {
    const of = figure(term, observed, () => harvestedArea(ground, area))
    if (of) return [{ of, power: term.power, complement: term.complement }]
    missing.push(term.of.kind === 'trait' ? term.of.trait : term.of.kind)
    return []
  })
  if (missing.length > 0) return { ok: false, missing }
  return { ok: true, worked: workedProduct(derived.name, derived.unit, terms) }
}

function figure(term: DerivationTerm, observed: ReadonlyMap<string, Worked>, area: () => Worked): Worked | undefined {
  switch (term.of.kind) {
    case 'trait':
      return observed.get(term.of.trait)
    case 'harvested area':
      return area()
    case 'constant':
      return given(term.of.label, term.of.value, term.of.unit)
  }
}

const ANY_GROUND: Ground = {
  plotWidth: 1,
  plotLength: 1,
  harvestWidth: 1,
  harvestLength: 1,
  across: {},
  plotGap: 0,
  rowAlley: 0,
  groupGap: 0,
  blockAlley: 0,
  border: 0,
  serpentine: false,
  ...bareGround,
}

/** What keeps the derived traits from being worked out, each with its place; empty when all make their measures. Tried with ones. */
export function derivationProblems({ observed, derived }: Pick<Traits, 'observed' | 'derived'>): { index: number; problem: string }[] {
  const ones = new Map<string, Worked>()
  for (const trait of observed) if (isNumber(trait)) ones.set(trait.key, given(trait.name, 1, measureOf(trait)))
  return derived.flatMap((each, index) => {
    try {
      const tried = derive(each, ones, ANY_GROUND)
      if (!tried.ok) return [{ index, problem: `${each.name} needs ${tried.missing.join(', ')} as a number.` }]
      ones.set(each.key, tried.worked)
      return []
    } catch (error) {
      return [{ index, problem: error instanceof Error ? error.message : String(error) }]
    }
  })
}

/** Whether a trait comes to a number that others can be worked out from. */
function isNumber(trait: Trait): boolean {
  return traitKind(trait.kind).numeric
}
