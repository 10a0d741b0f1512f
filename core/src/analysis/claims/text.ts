import { formatPlain, type UnitSystem } from '../../quantity/index.ts'
import type { Analysis, Sentence } from '../result.ts'
import type { Claim, OddAtSite, OnePlot } from './claim.ts'
import { ladder, trend, weighted } from './text/amounts.ts'
import { dependence } from './text/dependence.ts'
import { alike, described, worth } from './text/described.ts'
import { difference } from './text/difference.ts'
import { others, whole } from './text/factor.ts'
import { listedName, opened, Voice } from './voice.ts'

/** The claims of an analysis in the words of whoever reads it: the only place where they become sentences. */
export function sentencesOf(
  analysis: Omit<Analysis, 'sentences'>,
  system: UnitSystem,
  claims: readonly Claim[] = analysis.claims,
): Sentence[] {
  const voice = new Voice(analysis, system)
  return claims.map((claim) => ({ text: opened(said(voice, claim)), evidence: claim.evidence, why: claim.why, about: aboutOf(claim) }))
}

/** What a picture of a term's means shows, in the words of the claim of it; null where none is made. */
export function captionOf(analysis: Omit<Analysis, 'sentences'>, term: string, system: UnitSystem): string | null {
  const claim = analysis.claims.find((each) => {
    switch (each.kind) {
      case 'difference':
        return each.name === null && each.what.term === term
      case 'dependence':
        return each.factors.join(':') === term
      case 'whole':
      case 'described':
        return each.term === term
      default:
        return false
    }
  })
  return claim ? sentencesOf(analysis, system, [claim])[0]!.text : null
}

function aboutOf(claim: Claim): Sentence['about'] {
  return 'name' in claim && claim.name !== null ? 'planned' : claim.kind
}

function said(voice: Voice, claim: Claim): string {
  switch (claim.kind) {
    case 'difference':
      return difference(voice, claim)
    case 'whole':
      return whole(voice, claim)
    case 'others':
      return others(voice, claim)
    case 'dependence':
      return dependence(voice, claim)
    case 'ladder':
      return ladder(voice, claim)
    case 'trend':
      return trend(voice, claim)
    case 'weighted':
      return weighted(voice, claim)
    case 'described':
      return described(voice, claim)
    case 'worth':
      return worth(voice, claim)
    case 'alike':
      return alike(voice, claim)
    case 'one plot':
      return onePlot(voice, claim)
    case 'odd at a site':
      return oddAtSite(voice, claim)
  }
}

function onePlot(voice: Voice, claim: OnePlot): string {
  const { code, unit, site, value, way, without } = claim
  const where = site === null ? '' : ` at ${site}`
  const name = `${unit} ${listedName(code)}${where} (${voice.value(formatPlain(value, 5))})`
  const text = without.map((each) => said(voice, each)).join(' ')
  return `${name} alone ${way === 'carries' ? 'carries this' : 'keeps a difference from being told'}. Without it: ${text} Look for a cause before either is believed.`
}

/** What is odd at one site, as a sentence without its end. */
function oddWords(voice: Voice, { level: key, term, site, away, control, p }: OddAtSite): string {
  const name = voice.level(term, key)
  const [size] = voice.together([Math.abs(away)], Math.abs(away) / 8)
  return `${control ? `the control (${name})` : name} is odd at ${site}: its mean there lies ${voice.amount(size!)} ${away > 0 ? 'above' : 'below'} what site and ${voice.factor(term)} explain (${voice.p(p)} for the largest of all)`
}

function oddAtSite(voice: Voice, claim: OddAtSite): string {
  return `${oddWords(voice, claim)}${claim.base ? ', and every difference from it there with it' : ''}.`
}
