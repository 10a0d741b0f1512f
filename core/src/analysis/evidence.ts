import type { Structure, Unit } from '../trial/index.ts'

/** look: describe only; compare: replicated but not randomised; trial: randomised and replicated. */
export type EvidenceClass = 'look' | 'compare' | 'trial'

export interface Evidence {
  readonly kind: EvidenceClass
  readonly why: string
}

/**
 * The evidence class of one comparison, from how the units of its two treatments were
 * replicated and randomised. Units really given something else than planned lower it: their
 * treatment was not dealt out by chance.
 */
export function evidenceOf(structure: Structure, units: readonly Unit[], factor: string, a: string, b: string): Evidence {
  const assignment = structure.factors.find((each) => each.factor === factor)
  const mine = (level: string): Unit[] => units.filter((unit) => unit.received[factor] === level)
  const [first, second] = [mine(a), mine(b)]
  const least = Math.min(first.length, second.length)
  if (least < 2) return { kind: 'look', why: least === 0 ? 'one of the two was not measured' : 'one of the two stood on a single plot' }
  if (assignment?.how !== 'randomised') return { kind: 'compare', why: 'repeated, but not randomised' }
  const swapped = [...first, ...second].filter((unit) => unit.change === 'misapplied')
  if (swapped.length > 0) {
    const codes = swapped.map((unit) => unit.code).join(', ')
    return {
      kind: 'compare',
      why: `plot${swapped.length > 1 ? 's' : ''} ${codes} got another treatment than chance had given ${swapped.length > 1 ? 'them' : 'it'}`,
    }
  }
  return {
    kind: 'trial',
    why: `randomised, ${first.length === second.length ? first.length : `${first.length} and ${second.length}`} plots each`,
  }
}
