import type { AnalysisRequest } from '../request.ts'
import type { Analysis } from '../result.ts'
import type { Claim, OnePlot } from './claim.ts'

/** Observations beyond which an answer is not worked out a second time. */
const MOST = 1200
/** Beyond this many standard errors, found without it, or this of Cook's distance, the answer is looked at without it. */
const [FAR, MOVING, RARE] = [4, 0.8, 0.05]

/**
 * Where a unit lies far from the rest, or moves the answer a good deal, and what leads is another without
 * it: the unit and both answers. Null where no unit does.
 */
export function onePlotOf(
  request: AnalysisRequest,
  found: Omit<Analysis, 'sentences'>,
  again: (request: AnalysisRequest) => Analysis,
): OnePlot | null {
  const { checks, kind, residuals } = found
  if (kind !== 'tested' || residuals.length > MOST) return null
  // With few degrees of freedom any unit lies far, or moves the answer.
  if (!checks.outlier) return null
  const far = checks.outlier.p < RARE || Math.abs(checks.outlier.t) > FAR ? checks.outlier : null
  const moving = checks.influence && checks.influence.cook > MOVING ? checks.influence : null
  for (const one of [far, moving]) {
    if (!one || (one === moving && moving.id === far?.id)) continue
    const without = again({ ...request, leftOut: new Set([...(request.leftOut ?? []), one.id]) })
    const way = turned(found, without)
    if (way === null || (way.way === 'hides' && one !== far)) continue
    const row = residuals.find((each) => each.unit === one.id)!
    return {
      kind: 'one plot',
      unit: found.unit,
      code: row.code,
      site: siteOf(request, one.id),
      value: row.value,
      of: way.of,
      way: way.way,
      without: way.claims,
      evidence: way.claims[0]!.evidence,
      why: way.claims[0]!.why,
    }
  }
  return null
}

/** Claims by what they are of, with whether they are made; and those without the unit. */
function turned(
  found: Omit<Analysis, 'sentences'>,
  without: Analysis,
): { way: OnePlot['way']; claims: readonly Claim[]; of: string } | null {
  const [own, other] = [leads(found.claims), leads(without.claims)]
  for (const [key, claim] of own) {
    const there = other.get(key)
    if (!there) continue
    if (made(claim) !== made(there)) return { way: made(claim) ? 'carries' : 'hides', claims: [there], of: key }
    if (made(claim) && claim.kind === 'difference' && there.kind === 'difference') {
      const [a, b] = [claim, there].map(({ size }) => (size.as === 'ratio' ? Math.log(size.estimate) : size.estimate))
      const same = claim.what.levels.join() === there.what.levels.join() && claim.against.levels.join() === there.against.levels.join()
      if (same && Math.abs(b!) < Math.abs(a!) / 2) return { way: 'carries', claims: [there], of: key }
    }
  }
  return null
}

/** What leads on each term, and each planned comparison. */
function leads(claims: readonly Claim[]): Map<string, Claim> {
  const found = new Map<string, Claim>()
  for (const claim of claims) {
    const key = keyOf(claim)
    if (key !== null && !found.has(key)) found.set(key, claim)
  }
  return found
}

export function keyOf(claim: Claim): string | null {
  switch (claim.kind) {
    case 'difference':
      return claim.name ?? claim.what.term
    case 'whole':
      return claim.term
    case 'dependence':
      return claim.notAsked ? null : claim.factors.join(':')
    case 'trend':
      return claim.degree === 1 ? claim.name : null
    case 'weighted':
      return claim.name
    default:
      return null
  }
}

function made(claim: Claim): boolean {
  if (!('strength' in claim)) return false
  return claim.strength === 'told' && !(claim.kind === 'whole' && claim.told > 0)
}

function siteOf({ units }: AnalysisRequest, id: string): string | null {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const up = (at: string): string | null => {
    const unit = index.get(at)
    if (!unit) return null
    return unit.kind === 'site' ? unit.code : (unit.in.map(up).find((each) => each !== null) ?? null)
  }
  return [...index.values()].filter((unit) => unit.kind === 'site').length > 1 ? up(id) : null
}
