import { formatNumber } from '../../../quantity/index.ts'
import { listed } from '../../words.ts'
import type { Difference, Others, Whole } from '../claim.ts'
import { signOf } from '../size.ts'
import { opened, type Voice } from '../voice.ts'
import { absolute, hasLimits, isNothing, limits, seen, was } from './difference.ts'

/** Levels up to which each is named. */
const NAMED = 6

export function whole(voice: Voice, claim: Whole): string {
  const { widest, pairs, told, against, kept, levels } = claim
  if (claim.afterPlanned && claim.strength !== 'told' && told === 0 && !against && widest)
    return `apart from what was planned, no two of the ${voice.levels(claim.term, levels)} were told apart in ${voice.trait}${Number.isFinite(claim.p) ? ` (${tested(voice, claim)})` : ''}; the widest of ${pairs} differences seen was between ${voice.side(widest.what)} and ${voice.side(widest.against)}: ${seen(voice, widest)} (${limits(voice, widest)}).`
  const together = `the ${voice.levels(claim.term, levels)}${Number.isFinite(claim.p) || against ? '' : ' that stood on several units'}`
  const f = Number.isFinite(claim.p) ? ` (${tested(voice, claim)})` : ''
  const wide = widest
    ? ` The widest difference seen was between ${voice.side(widest.what)} and ${voice.side(widest.against)}: ${seen(voice, widest)} (${limits(voice, widest)}).`
    : ''
  const tail = hasUnseen(widest)
    ? ' A true difference anywhere in that interval could have gone unseen.'
    : ' That does not show that there is none.'
  if (kept) return `no sign that ${together} differ in ${voice.trait} was seen${f}, and pairs were not compared, as asked.${wide}${tail}`
  if (against)
    return claim.side === null
      ? `none of the ${pairs} others was told apart from ${voice.side(against)} in ${voice.trait}.${wide}${tail}`
      : `none of the ${pairs} others was told to give ${voice.moreOf(claim.side === 'greater')} ${voice.trait} than ${voice.side(against)}, which was all that was asked.${wide}${tail}`
  if (told > 0 && widest)
    return `taken together, ${together} were not told apart in ${voice.trait}${f}. ${told === 1 ? 'One pair alone' : `${told} pairs`} of ${pairs} would pass by ${told === 1 ? 'itself' : 'themselves'}, the widest of them ${voice.side(widest.what)} and ${voice.side(widest.against)} with ${seen(voice, widest)} (${limits(voice, widest)}); out of so many, that is no more than chance may bring.`
  if (claim.strength === 'told') return `${together} differ in ${voice.trait}${f}, but no single pair of ${pairs} was told apart.${wide}`
  if (claim.strength === 'narrow')
    return `whether ${together} differ in ${voice.trait} is borderline${f}, and no single pair of ${pairs} was told apart.${wide}${tail}`
  return `${together} were not told apart in ${voice.trait}${f}.${pairs > 1 ? wide.replace('The widest difference seen', `The widest of ${pairs} differences seen`) : wide}${tail}`
}

/** A test of several at once. */
export function tested(voice: Voice, { f, p }: { readonly f: number; readonly p: number }): string {
  return `F ${f < 0.01 ? '< 0.01' : formatNumber(f, 3)}, ${voice.p(p)}`
}

function hasUnseen(widest: Difference | null): boolean {
  return widest !== null && hasLimits(widest)
}

export function others(voice: Voice, claim: Others): string {
  const { against, told, narrow, open, unasked, controls, counts } = claim
  if (counts) return counted(voice, claim, counts)
  const sized = (claim: Difference): string => {
    const up = signOf(claim) > 0
    const size =
      claim.size.as === 'ratio'
        ? voice.times(claim.size.estimate)
        : claim.size.as === 'bent'
          ? voice.moreOf(up)
          : isNothing(absolute(voice, claim.size))
            ? `less than ${voice.amount(absolute(voice, claim.size).replace(/0$/, '1'))} apart`
            : voice.moreOnly(absolute(voice, claim.size), up)
    const role = claim.what.levels.some((each) => controls.includes(each)) ? ', a further control' : ''
    return against
      ? `${voice.side(claim.what)} (${size}${role})`
      : `${voice.side(claim.what)} and ${voice.side(claim.against)} (${/apart$/.test(size) ? size : `${size} with ${voice.side(claim.what)}`})`
  }
  const group = (claims: readonly Difference[], head: string): string[] => {
    if (claims.length === 0) return []
    const shown = claims.slice(0, NAMED).map(sized)
    const more = claims.length - shown.length
    return [`${head} ${listed(more > 0 ? [...shown, `${more} more`] : shown)}`]
  }
  const from = against ? ` from ${voice.side(against)}` : ''
  const parts = [
    ...group(told, `${told.length > 0 ? 'also told apart' : ''}${from}:`),
    ...group(narrow, `borderline${told.length > 0 ? '' : ` against ${against ? voice.side(against) : 'each other'}`}:`),
    ...group(open, `not told apart${told.length + narrow.length > 0 ? '' : from}:`),
  ]
  const losses = unasked.map(
    (claim) => `${was(voice, claim)} (${limits(voice, claim)}): ${asked(claim)}, and the one-sided test does not judge that`,
  )
  return [parts.length > 0 ? `${parts.join('; ')}.` : '', ...losses.map((each) => `${opened(each)}.`)].filter(Boolean).join(' ')
}

/** Of many pairs how many, and what stands beside the best. */
function counted(voice: Voice, { term }: Others, { pairs, told, top, near }: NonNullable<Others['counts']>): string {
  const shown = near.slice(0, NAMED).map((level) => voice.cell(term, level))
  const more = near.length - shown.length
  const best = voice.cell(term, top)
  const beside =
    near.length === 0
      ? `${best} was told apart from all others`
      : `not told apart from ${best}, which stood ${voice.analysis.vocabulary.trait.better === 'less' ? 'lowest' : 'highest'}: ${listed(more > 0 ? [...shown, `${more} more`] : shown)}`
  return `of ${pairs} pairs ${told} ${told === 1 ? 'was' : 'were'} told apart; ${beside}.`
}

/** What a one-sided question asked, seen from what went the other way. */
function asked(claim: Difference): string {
  return `asked was only whether treatments give ${signOf(claim) < 0 ? 'more' : 'less'}`
}
