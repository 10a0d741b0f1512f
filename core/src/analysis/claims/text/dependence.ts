import { plural } from '../../../quantity/index.ts'
import type { Dependence, Difference } from '../claim.ts'
import { waysOf } from '../dependence.ts'
import { opened, type Voice } from '../voice.ts'
import { clause, hasLimits, limits, seen } from './difference.ts'
import { tested } from './factor.ts'

/** Places up to which what a factor does at each is told with its interval. */
const EACH = 4

export function dependence(voice: Voice, claim: Dependence): string {
  const { factors, acting, modifier, effects, strength, notAsked } = claim
  const around = voice.factors(modifier.split(':'))
  if (notAsked) return `whether what ${voice.factor(acting)} does depends on ${around} was not looked at, as asked.`
  if (strength === 'described')
    return `whether what ${voice.factor(acting)} does depends on ${around} is not judged here, since ${claim.why.replace('one of the two', 'some of it')}.`
  if (strength === 'open')
    return `no sign that the effects of ${voice.factors(factors)} depend on each other was seen (${tested(voice, claim)}); that does not show that they do not.`
  const head =
    strength === 'narrow'
      ? `whether what ${voice.factor(acting)} does depends on ${around} is borderline (${tested(voice, claim)})`
      : `what ${voice.factor(acting)} does depends on ${around} (${tested(voice, claim)})`
  const own = claim.ownErrors ? ' Sites differ in their error, and each counts by its own.' : ''
  if (effects.length === 0) return `${head}: read its means at each ${around}.${own}`
  const m = effects[0]!.among
  const allowing = m > 1 ? ` Intervals allow for the ${m} differences looked at.` : ''
  const unseen = effects.some((each) => each.strength === 'open' && hasLimits(each))
    ? ' Where they were not told apart, a true difference anywhere in the interval could have gone unseen.'
    : ''
  if (effects.length > EACH) return `${head}. ${summary(voice, claim)}${unseen}${allowing}${own}`
  const each = effects.map((effect) => `${voice.at(effect.at)}, ${there(voice, effect, claim.evidence)}`)
  const turn = claim.turns ? ' The effect turns from one to the other.' : ''
  return `${head}. ${each.map((text) => `${opened(text)}.`).join(' ')}${turn}${unseen}${allowing}${own}${unrandomised(claim)}`
}

/** What a factor does at one place: of several pairs the widest. */
function there(voice: Voice, effect: Difference, evidence: Difference['evidence']): string {
  // One word for all of them: the weakest decides whether it is what they gave.
  const own = { ...alone(effect), evidence }
  if (own.strength !== 'open') return clause(voice, own)
  if (effect.picked < 2)
    return `${voice.side(effect.what)} and ${voice.side(effect.against)} were not told apart in ${voice.trait}: ${seen(voice, own)} was seen (${limits(voice, own)})`
  return `no two were told apart; the widest difference seen was between ${voice.side(effect.what)} and ${voice.side(effect.against)}, ${seen(voice, own)} (${limits(voice, own)})`
}

/** Limits that say together what they allow for. */
function alone(effect: Difference): Difference {
  return { ...effect, size: { ...effect.size, allowsFor: 1 } }
}

function unrandomised({ evidence }: Dependence): string {
  return evidence === 'compare' ? ` Not all of this was dealt out by chance.` : ''
}

/** Over many places: the ends, and how many were told apart each way. */
function summary(voice: Voice, { effects, turns, modifier, evidence }: Dependence): string {
  // From the most one way to the most the other way.
  const ways = waysOf(effects)
  const far = new Map(
    effects.map((effect, i) => [
      effect,
      ways[i]! * Math.abs(effect.size.as === 'ratio' ? Math.log(effect.size.estimate) : effect.size.estimate),
    ]),
  )
  const sorted = [...effects].sort((a, b) => far.get(a)! - far.get(b)!)
  const told = effects.filter((each) => each.strength === 'told')
  const ends = [sorted.at(-1)!, sorted[0]!].map((effect) => `${voice.at(effect.at)}, ${there(voice, effect, evidence)}`)
  const places = modifier.includes(':')
    ? `the ${effects.length} combinations of ${voice.factors(modifier.split(':'))}`
    : voice.kindOf(modifier) === 'treatment'
      ? `the ${effects.length} levels of ${voice.factor(modifier)}`
      : `the ${effects.length} ${plural(voice.factor(modifier), effects.length)}`
  const counts =
    told.length === effects.length
      ? `A difference was told apart at each of ${places}`
      : `A difference was told apart at ${told.length === 0 ? 'none' : told.length} of ${places}`
  return `${ends.map((text) => `${opened(text)}.`).join(' ')} ${counts}${turns ? ', and not always the same way' : ''}.`
}
