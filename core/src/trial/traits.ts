import { z } from 'zod'
import { isUnit } from '../quantity/index.ts'
import { key } from './text.ts'
import { traitKinds } from './trait-kind/index.ts'
import { DerivedTrait, Trait, Visit } from './trait.ts'

/** What is observed and worked out, when, and which of it matters. */
export const Traits = z
  .object({
    observed: z.array(Trait).min(1, 'A trial needs a trait to be observed.').max(60),
    derived: z.array(DerivedTrait).max(30),
    visits: z.array(Visit).min(1, 'A trial needs a visit.').max(60),
    response: key,
    /** Which trait is the marketed yield, and which its quality on the price scale. */
    yieldTrait: key.nullable(),
    qualityTrait: key.nullable(),
    smallestDifference: z
      .object({ value: z.number().positive('The smallest difference must be above zero.'), unit: z.string().refine(isUnit) })
      .nullable(),
  })
  .superRefine((traits, context) => {
    const complain = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message })
    const all = [...traits.observed, ...traits.derived]
    const keys = all.map((trait) => trait.key)
    const twice = keys.find((each, i) => keys.indexOf(each) !== i)
    if (twice) complain(['observed'], `Two traits have the key “${twice}”.`)
    if (!keys.includes(traits.response)) complain(['response'], 'The response that matters is not among the traits.')
    for (const field of ['yieldTrait', 'qualityTrait'] as const) {
      const chosen = traits[field]
      if (chosen !== null && !keys.includes(chosen)) complain([field], `“${chosen}” is not among the traits.`)
    }
    const visits = traits.visits.map((each) => each.key)
    const sameVisit = visits.find((each, i) => visits.indexOf(each) !== i)
    if (sameVisit) complain(['visits'], `Two visits have the key “${sameVisit}”.`)
    traits.observed.forEach((trait, i) => {
      const kind = traitKinds.find((each) => each.key === trait.kind)
      const lack = kind ? kind.lack(trait) : { field: 'kind', problem: `“${trait.kind}” is no kind of trait.` }
      if (lack) complain(['observed', i, lack.field], lack.problem)
      const strange = trait.visits.find((each) => !visits.includes(each))
      if (strange) complain(['observed', i, 'visits'], `${trait.name} is taken at “${strange}”, which is no visit.`)
    })
    const earlier = new Set(traits.observed.map((trait) => trait.key))
    traits.derived.forEach((derived, i) => {
      for (const term of derived.terms) {
        if (term.of.kind === 'trait' && !earlier.has(term.of.trait))
          complain(['derived', i], `${derived.name} needs “${term.of.trait}”, which is not a trait before it.`)
      }
      earlier.add(derived.key)
    })
  })
  .meta({ id: 'Traits' })
export type Traits = z.infer<typeof Traits>

/** Visits at which an observed or derived trait has values, in their order. */
export function visitsOf(traits: Traits, traitKey: string): readonly string[] {
  const all = traits.visits.map((each) => each.key)
  const observed = traits.observed.find((each) => each.key === traitKey)
  if (observed) return observed.visits.length === 0 ? all : all.filter((each) => observed.visits.includes(each))
  const derived = traits.derived.find((each) => each.key === traitKey)
  if (!derived) return []
  const inputs = derived.terms.flatMap((term) => (term.of.kind === 'trait' ? [visitsOf(traits, term.of.trait)] : []))
  // What is taken once serves every visit of what is taken often; taken once each, the last has the value.
  const often = inputs.filter((each) => each.length > 1)
  if (often.length > 0) return all.filter((each) => often.every((visits) => visits.includes(each)))
  const last = Math.max(...inputs.map((visits) => all.indexOf(visits[0] ?? '')))
  return last >= 0 ? [all[last]!] : []
}
