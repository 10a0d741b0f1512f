import { formatNumber, formatPlain, plural } from '../../../quantity/index.ts'
import { listed } from '../../words.ts'
import type { Difference, Reservation, Size } from '../claim.ts'
import { differingIn } from '../by-factors.ts'
import { reversed, signOf } from '../size.ts'
import type { Voice } from '../voice.ts'

export function difference(voice: Voice, claim: Difference): string {
  const head = claim.name === null ? '' : `${planned(claim)}: `
  const open = averagedOver(voice, claim.reservations)
  const at = claim.at.length > 0 ? `${voice.at(claim.at)}, ` : ''
  return `${head}${open}${at}${clause(voice, claim)}${reservations(claim)}.${after(voice, claim)}`
}

export function planned({ name, late }: { name: string | null; late: boolean }): string {
  return late ? `“${name}”, added when there were readings already and so a lead to follow` : `As planned, “${name}”`
}

/** What is claimed, with its size and limits, by how surely it is known. */
export function clause(voice: Voice, claim: Difference): string {
  const [what, against] = [voice.side(claim.what), voice.side(claim.against)]
  switch (claim.strength) {
    case 'told':
      return `${claim.evidence === 'trial' && voice.given ? gave(voice, claim) : was(voice, claim)} (${limits(voice, claim)}${hasLimits(claim) ? `; ${voice.p(claim.p)}` : ''})`
    case 'narrow':
      return `between ${what} and ${against} the answer is borderline: ${seen(voice, claim)} was seen (${limits(voice, claim)}; ${voice.p(claim.p)}, where ${level(voice)} was the level set)`
    case 'open': {
      const bound = hasLimits(claim)
        ? ', and a true difference anywhere in that interval could have gone unseen'
        : '; that does not show that there is none'
      return `${what} and ${against} were not told apart in ${voice.trait}: ${seen(voice, claim)} was seen (${limits(voice, claim)}${hasLimits(claim) ? `; ${voice.p(claim.p)}` : ''})${bound}`
    }
    case 'described':
      return `${was(voice, claim)}, which is described and not tested`
  }
}

function level({ analysis }: Voice): string {
  return formatPlain(analysis.significance, 6)
}

/** `A gave 2.7 t/ha more yield than B`. */
function gave(voice: Voice, claim: Difference): string {
  const [what, against] = [voice.side(claim.what), voice.side(claim.against)]
  const { size } = claim
  if (size.as === 'ratio') return `${what} gave ${voice.times(size.estimate)} the ${voice.trait} of ${against}`
  const up = signOf(claim) > 0
  if (size.as === 'bent') return `${what} gave ${voice.moreOf(up)} ${voice.trait} than ${against}: ${bothMeans(voice, claim)}`
  return `${what} gave ${voice.more(absolute(voice, size), up)} than ${against}`
}

/** `Yield was 2.7 t/ha more with A than with B`: what was seen, and not what did it. */
export function was(voice: Voice, claim: Difference): string {
  const [what, against] = [voice.side(claim.what), voice.side(claim.against)]
  const { size } = claim
  if (size.as === 'ratio') return `with ${what}, ${voice.trait} ${voice.be} ${voice.times(size.estimate)} that with ${against}`
  const up = signOf(claim) > 0
  // Where a place was named already the treatment comes after.
  if (claim.at.length > 0 && size.as === 'difference') {
    const more = absolute(voice, size)
    return voice.counted
      ? `there were ${voice.more(more, up)} with ${what} than with ${against}`
      : `${voice.trait} was ${voice.amount(more)} ${up ? 'higher' : 'lower'} with ${what} than with ${against}`
  }
  if (size.as === 'bent')
    return `with ${what}, ${voice.trait} ${voice.be} ${voice.counted ? voice.moreOf(up) : up ? 'higher' : 'lower'} than with ${against}: ${bothMeans(voice, claim)}`
  if (voice.counted) return `with ${what} there were ${voice.more(absolute(voice, size), up)} than with ${against}`
  return `with ${what}, ${voice.trait} was ${voice.amount(absolute(voice, size))} ${up ? 'higher' : 'lower'} than with ${against}`
}

/** What was seen of a difference that is not claimed. */
export function seen(voice: Voice, claim: Difference): string {
  const { size } = claim
  const what = claim.what.levels.length > 1 ? 'the first' : voice.side(claim.what)
  if (size.as === 'ratio') return `${voice.times(size.estimate)} as much with ${what}`
  const up = signOf(claim) > 0
  if (size.as === 'bent') {
    const means = bothMeans(voice, claim)
    const [first, second] = means.split(' against ')
    return second!.startsWith(`${first} `) || second === first ? means : `${voice.moreOf(up)} ${voice.trait} with ${what}, ${means}`
  }
  const text = absolute(voice, size)
  return isNothing(text) ? `a difference of less than ${voice.amount(text.replace(/0$/, '1'))}` : `${voice.more(text, up)} with ${what}`
}

/** Means on the scale of the response, where a difference has no unit of its own. */
function bothMeans(voice: Voice, { size: { means } }: Difference): string {
  const error = Math.max(Math.abs(means[0] - means[1]) / 10, Math.abs(means[0]) / 200)
  const [a, b] = voice.together(means, error)
  return `${a} against ${voice.value(b!)}`
}

/** A size that rounds to none. */
export function isNothing(text: string): boolean {
  return /^0(\.0+)?$/.test(text)
}

export function absolute(voice: Voice, size: Size): string {
  return voice.together([Math.abs(size.estimate), size.lower, size.upper], size.se)[0]!
}

export function hasLimits({ size }: Difference): boolean {
  return size.as !== 'bent' && Number.isFinite(size.se) && !Number.isNaN(size.lower)
}

/** The interval with its level, and what it allows for. */
export function limits(voice: Voice, claim: Difference): string {
  const { size } = claim
  if (!hasLimits(claim)) return `${voice.p(claim.p)}${size.as === 'bent' ? `, judged on the ${voice.analysis.scale!.name} scale` : ''}`
  // A ratio keeps its direction; a difference is told by its size.
  const own = size.as === 'difference' && signOf(claim) < 0 ? reversed(claim).size : size
  const { lower, upper } = own
  const allowing =
    size.allowsFor > 1
      ? `, allowing for ${size.allowsFor} comparisons`
      : claim.origin !== 'simple' && claim.among > 1
        ? ', of this pair alone'
        : ''
  if (size.as === 'ratio') {
    const ends = Number.isFinite(upper)
      ? lower > 0
        ? `${times(lower)} to ${voice.times(upper)}`
        : `at most ${voice.times(upper)}`
      : `at least ${voice.times(lower)}`
    return `${voice.confidence} interval ${ends}${allowing}; a ratio of geometric means`
  }
  const [low, high] = voice.together([lower, upper], own.se)
  const ends = !Number.isFinite(upper)
    ? `at least ${voice.inInterval(low!)}`
    : !Number.isFinite(lower)
      ? `at most ${voice.inInterval(high!)}`
      : `${low} to ${voice.inInterval(high!)}`
  return `${voice.confidence} interval ${ends}${allowing}`

  function times(value: number): string {
    return voice.times(value).replace(/ times$/, '')
  }
}

function reservations(claim: Difference): string {
  const unrandomised =
    claim.evidence === 'compare' && claim.strength !== 'open'
      ? ['it was not dealt out by chance, so the ground or what else differed may have made it']
      : []
  return [...claim.reservations.flatMap((each) => reservation(each) ?? []), ...unrandomised].map((each) => `; ${each}`).join('')
}

/** What an average is taken over, where that differs in it or may. */
export function averagedOver(voice: Voice, all: readonly Reservation[]): string {
  const own = all.flatMap((each) => (each.kind === 'averaged' ? [each] : []))
  const names = (differs: boolean): string[] => [
    ...new Set(
      own.filter((each) => each.differs === differs).flatMap((each) => each.over.split(':').map((key) => plural(voice.factor(key)))),
    ),
  ]
  const [differing, perhaps] = [names(true), names(false).filter((name) => !names(true).includes(name))]
  const said = [
    ...(differing.length > 0 ? [`${listed(differing)} that differ in it`] : []),
    ...(perhaps.length > 0 ? [`${listed(perhaps)}, which may differ in it`] : []),
  ]
  return said.length > 0 ? `averaged over ${said.join(' and ')}, ` : ''
}

function reservation(each: Reservation): string | null {
  switch (each.kind) {
    case 'adjusted':
      return `means ${each.elsewhere ? 'read at' : 'adjusted to'} ${each.covariate} ${formatNumber(each.at, 3)}${each.elsewhere ? ', and elsewhere the difference is another' : ''}`
    case 'own errors':
      return 'sites differ in their error, and each counts by its own'
    case 'one-sided':
      return `asked was only whether treatments give ${each.side === 'greater' ? 'more' : 'less'}`
    default:
      return null
  }
}

/** What follows as a sentence of its own. */
function after(voice: Voice, claim: Difference): string {
  const widest = claim.reservations.find((each) => each.kind === 'widest')
  const confounded = claim.what.levels.length === 1 ? carriedWith(voice, claim.what.term) || severalDiffer(voice, claim) : ''
  if (!widest || widest.pairs < 2) return confounded
  const chance = formatNumber(widest.byChance, widest.byChance < 10 ? 1 : 2)
  return (
    (widest.allowed
      ? ` It is the widest of ${widest.pairs} differences looked at.`
      : ` It is the widest of ${widest.pairs} differences, judged as if it alone had been looked at: of so many, about ${chance} would look so by chance.`) +
    confounded
  )
}

/** Two treatments that differ in more than one thing. */
function severalDiffer(voice: Voice, { what, against }: Difference): string {
  if (against.levels.length !== 1 || what.term !== against.term) return ''
  const keys = differingIn(voice.analysis.vocabulary, what.term, what.levels[0]!, against.levels[0]!)
  return keys.length > 1 ? ` They differ in ${voice.factors(keys)}, so which of these did it cannot be said.` : ''
}

/** Factors that always changed together. */
export function carriedWith(voice: Voice, term: string): string {
  const words = voice.analysis.vocabulary.factors[term]
  return words && words.together.length > 0
    ? ` Since ${listed(words.together)} always changed together, which of them did it cannot be said.`
    : ''
}
