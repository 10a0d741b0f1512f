import { formatFixed, formatNumber, formatPlain, shown, withUnit, type UnitSystem } from '../../../quantity/index.ts'
import type { Analysis } from '../../result.ts'
import type { Difference, Ladder, Trend, Weighted } from '../claim.ts'
import { signOf } from '../size.ts'
import { Voice } from '../voice.ts'
import { absolute, averagedOver, limits, planned } from './difference.ts'

export function ladder(voice: Voice, claim: Ladder): string {
  const { shape, turn, last, step, hidden, better } = claim
  const [at, end] = [voice.level(claim.factor, turn), voice.level(claim.factor, last)]
  switch (shape) {
    case 'rising': {
      const up = signOf(step!) > 0
      return `${voice.trait} ${voice.be} still ${up ? 'rising' : 'falling'} at the highest level grown, ${end}: the last step, from ${voice.side(step!.against)}, took ${voice.counted ? 'them' : 'it'} ${by(voice, step!)} (${limits(voice, step!)}). More than ${end} is untested.`
    }
    case 'past its best': {
      const up = signOf(step!) > 0
      const best = better === 'neither' ? (up ? 'lowest' : 'highest') : 'best'
      return `${voice.trait} ${voice.be} ${best} at ${at}, and ${by(voice, step!)} at ${end} (${limits(voice, step!)}).`
    }
    case 'falling': {
      const up = signOf(step!) > 0
      return `${voice.trait} ${up ? 'rose' : 'fell'} from the lowest level on: ${by(voice, step!)} at ${end} than at ${at} (${limits(voice, step!)}).`
    }
    case 'level off': {
      const text = voice.together([hidden!], stepError(voice, claim))[0]!
      return `beyond ${at} the trial told no further ${better === 'neither' ? 'change' : 'gain'} apart; it could have missed one of up to ${voice.amount(text)}.`
    }
  }
}

/** How far a step goes, whatever is measured: 1.5 t/ha lower. */
function by(voice: Voice, step: Difference): string {
  return `${voice.inInterval(absolute(voice, step.size))} ${signOf(step) > 0 ? 'higher' : 'lower'}`
}

function stepError({ analysis }: Voice, { factor }: Ladder): number {
  return analysis.terms[factor]?.sed.mean ?? NaN
}

function goes({ counted }: Voice, up: boolean): string {
  return `${up ? 'rise' : 'fall'}${counted ? '' : 's'}`
}

export function trend(voice: Voice, claim: Trend): string {
  const { size, degree, strength, factor } = claim
  const words = voice.analysis.vocabulary.factors[factor]!
  const head = `${planned(claim)}: ${averagedOver(voice, claim.reservations)}`
  const t = (size.as === 'ratio' ? Math.log(size.estimate) : size.estimate) / size.se
  const p = `${size.as === 'ratio' ? '' : `t ${Math.abs(t) < 100 ? formatFixed(t, 2) : formatNumber(t, 3)}, `}${voice.p(claim.p)}`
  const up = size.as === 'ratio' ? size.estimate >= 1 : size.estimate >= 0
  const borderline = strength === 'narrow' ? ', a borderline answer' : ''
  if (strength === 'described') return `${head}described only, ${up ? 'upward' : 'downward'}.`
  if (degree > 1) {
    if (degree > 2)
      return `${head}${strength === 'open' ? 'no sign of a finer bend was seen' : 'there is a finer bend'} (${p})${borderline}.`
    return strength === 'open'
      ? `${head}no sign that ${voice.trait} ${voice.counted ? 'go' : 'goes'} anything but straight with ${words.name} was seen (${p}); that does not show that ${voice.counted ? 'they do' : 'it does'}.`
      : `${head}${voice.trait} ${voice.counted ? 'bend' : 'bends'} ${up ? 'upward' : 'downward'} with ${words.name}, each further step bringing ${up ? 'more' : 'less'} than the one before (${p})${borderline}.`
  }
  if (size.as !== 'difference')
    return `${head}${strength === 'open' ? `no steady rise or fall of ${voice.trait} with ${words.name} was seen` : `${voice.trait} ${goes(voice, up)} with ${words.name}`} (${p}, judged on the ${voice.analysis.scale!.name} scale)${borderline}.`
  const each = perStep(voice, claim)
  const own = up ? size : { ...size, lower: -size.upper, upper: -size.lower }
  const [text, low, high] = voice.together([Math.abs(size.estimate), own.lower, own.upper], size.se)
  const ends = `${voice.confidence} interval ${low} to ${voice.inInterval(high!)}; ${p}`
  return strength === 'open'
    ? `${head}no steady rise or fall was told; ${voice.more(text!, up)} for each further ${each} was seen (${ends}).`
    : `${head}${voice.trait} ${goes(voice, up)} with ${words.name}, on average ${voice.moreOnly(text!, up)} for each further ${each} (${ends})${borderline}.`
}

/** What a planned comparison came to at each site, those not told apart marked so: the error is that of all sites together. */
export function siteBySite(
  analysis: Omit<Analysis, 'sentences'>,
  system: UnitSystem,
  claims: readonly (Difference | Trend | Weighted)[],
  sites: readonly string[],
): string {
  const voice = new Voice(analysis, system)
  const told = claims.map((claim, i) => {
    const { size, strength } = claim
    const up =
      size.as === 'ratio'
        ? size.estimate >= 1
        : size.as === 'bent' && Number.isFinite(size.means[0])
          ? size.means[0] >= size.means[1]
          : size.estimate >= 0
    const moved =
      size.as === 'ratio' ? voice.times(size.estimate) : size.as === 'bent' ? voice.moreOf(up) : voice.moreOnly(absolute(voice, size), up)
    // The coefficient of a square says nothing by its size.
    const text = claim.kind === 'trend' && claim.degree > 1 ? `bends ${up ? 'upward' : 'downward'}` : moved
    return `${sites[i]} ${text}${strength === 'told' ? '' : strength === 'narrow' ? ' (borderline)' : ' (not told apart)'}`
  })
  return `Site by site: ${told.join('; ')}.`
}

/** The step a trend's figures are told for: so much of the factor, or its square. */
export function stepInWords(analysis: Omit<Analysis, 'sentences'>, system: UnitSystem, claim: Trend): string {
  const step = perStep(new Voice(analysis, system), claim)
  return claim.degree === 1 ? step : `square of ${step}`
}

/** The step of amounts a slope is told for. */
function perStep(voice: Voice, { factor, per, degree }: Pick<Trend, 'factor' | 'per' | 'degree'>): string {
  const words = voice.analysis.vocabulary.factors[factor]!
  const amount = Object.values(words.levels).find((each) => each.amount)?.amount
  const step = degree === 1 ? per : per ** (1 / degree)
  if (!amount && words.measure !== '')
    return withUnit(formatPlain(shown(step, words.measure, voice.system).value, 3), shown(step, words.measure, voice.system).unit)
  if (!amount) return `${formatPlain(step, 3)} of ${words.name}`
  const out = shown(step, amount.unit, voice.system)
  return withUnit(formatPlain(out.value, 3), out.unit, amount.of)
}

export function weighted(voice: Voice, claim: Weighted): string {
  const { size, strength } = claim
  const head = `${planned(claim)}: ${averagedOver(voice, claim.reservations)}`
  if (size.as === 'ratio') {
    return `${head}${strength === 'told' ? '' : strength === 'narrow' ? 'borderline; ' : 'not told from none; '}the weighted difference is a ratio of ${voice.times(size.estimate)} (${voice.confidence} interval ${voice.times(size.lower).replace(' times', '')} to ${voice.times(size.upper)}; ${voice.p(claim.p)}).`
  }
  const [text, low, high] = voice.together([size.estimate, size.lower, size.upper], size.se)
  const scale = size.as === 'bent' ? ` on the ${voice.analysis.scale!.name} scale` : ''
  const unit = (of: string): string => (size.as === 'bent' ? of : voice.amount(of))
  const known =
    strength === 'told' ? '' : strength === 'narrow' ? 'borderline; ' : strength === 'open' ? 'not told from none; ' : 'described; '
  return `${head}${known}the weighted difference is ${unit(text!)}${scale} (${voice.confidence} interval ${low} to ${unit(high!)}; ${voice.p(claim.p)}).`
}
