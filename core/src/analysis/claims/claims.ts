import type { TermResult } from '../result.ts'
import type { Claim, Dependence, Reservation } from './claim.ts'
import { averageHolds, dependences } from './dependence.ts'
import { oddAtSites } from './odd-at-site.ts'
import { describedTerm } from './described-claims.ts'
import { factorClaims } from './one-factor.ts'
import { plannedClaims } from './planned-claims.ts'
import type { Source } from './size.ts'

/**
 * What an analysis claims, the most weighty first: what was planned, what depends on what, a factor at a
 * time where its average means something, then what showed no sign of depending.
 */
export function claimsOf(source: Source): Claim[] {
  const { analysis } = source
  const single = Object.values(analysis.terms).filter((term) => term.factors.length === 1)
  if (analysis.kind === 'described') return single.map((term) => describedTerm(analysis, term))
  const joint = dependences(source)
  const told = joint.filter((each) => each.strength === 'told')
  const narrow = joint.filter((each) => each.strength === 'narrow')
  // Where not all combinations were grown, a factor may have no means of its own: the combinations are told.
  const cells = single.some((term) => term.means.length < 2) ? wholeOf(source) : null
  const after = (cells ? [cells] : single).flatMap((term): Claim[] => {
    const own = told.filter((one) => one.factors.includes(term.term))
    // The average of what differs is told only where every part of it goes the same way, and of sites that are a sample.
    if (own.some((one) => !averageHolds(one, term.term) && !isSample(source, one))) return []
    return factorClaims(source, term, reservationsOf(source, [...own, ...narrow.filter((one) => one.factors.includes(term.term))]))
  })
  const odd = oddAtSites(analysis)
  const planned = plannedClaims(analysis).map((one) => ({
    ...one,
    reservations: [...one.reservations, ...overWhat(analysis, one, [...told, ...narrow])],
  }))
  const found = new Set(
    planned.filter((one) => one.strength === 'told').map((one) => (one.kind === 'difference' ? one.what.term : one.name)),
  )
  const each = after.map((one) => (one.kind === 'whole' && found.has(one.term) ? { ...one, afterPlanned: true } : one))
  const led = [...told, ...narrow, ...each, ...joint.filter((one) => one.strength === 'open' || one.strength === 'described')]
  // What is odd at a site stands with what leads.
  return planned.length > 0 ? [...planned, ...odd, ...led] : [...led.slice(0, 1), ...odd, ...led.slice(1)]
}

/** Of a planned comparison: what it is averaged over that differs, or may differ, in it. */
function overWhat(
  { contrasts }: Source['analysis'],
  claim: ReturnType<typeof plannedClaims>[number],
  joint: readonly Dependence[],
): Reservation[] {
  const term = contrasts.find((row) => row.name === claim.name)!.term.split(':')
  const own = claim.kind === 'difference' ? claim.what.term.split(':') : claim.kind === 'trend' ? [claim.factor] : claim.factors
  // Told by their factors, whole treatments still are what depends on something.
  const moved = new Set([...own, ...(term.length === 1 ? term : [])])
  const held = new Set(claim.kind === 'difference' ? claim.at.map((each) => each.factor) : [])
  return joint.flatMap(({ factors, strength }): Reservation[] => {
    const over = factors.filter((key) => !moved.has(key) && !held.has(key))
    return over.length > 0 && factors.some((key) => moved.has(key))
      ? [{ kind: 'averaged', over: over.join(':'), differs: strength === 'told' }]
      : []
  })
}

/** The term of all factors, where it has means to set against each other. */
function wholeOf({ analysis }: Source): TermResult | null {
  const own = Object.values(analysis.terms).filter((term) => !term.factors.includes('site'))
  const most = own.reduce((a, b) => (b.factors.length > a.factors.length ? b : a))
  return most.factors.length > 1 && most.means.length > 1 ? most : null
}

/** Sites that stand for others like them: their average is judged by how much they differ. */
function isSample({ analysis }: Source, { factors }: Dependence): boolean {
  const term = factors.filter((key) => key !== 'site').join(':')
  return (
    factors[0] === 'site' && factors.length === 2 && analysis.tests.some((test) => test.term === term && test.stratum.startsWith('site:'))
  )
}

function reservationsOf({ analysis }: Source, joint: readonly Dependence[]): Reservation[] {
  return [
    ...joint.map((one): Reservation => ({ kind: 'averaged', over: one.modifier, differs: one.strength === 'told' })),
    ...analysis.covariates.map((row): Reservation => ({
      kind: 'adjusted',
      covariate: row.name,
      at: row.at,
      elsewhere: analysis.options.slopes === 'separate',
    })),
    ...(analysis.mixed?.errors?.key === 'by group' ? [{ kind: 'own errors' } as const] : []),
  ]
}
