import { formatNumber, plural } from '../quantity/index.ts'
import type { LayoutFrame } from './layout.ts'
import type { AnalysisRequest } from './request.ts'

/** A coefficient of variation, %; where each site has an error of its own with that of each: 8.2 % (4.1 % at Hazel Bank, 11.3 % at Tern Lane). */
export function cvInWords({
  cv,
  groups = [],
}: {
  readonly cv: number
  readonly groups?: readonly { readonly level: string; readonly cv: number }[]
}): string {
  const each = groups.map((group) => `${formatNumber(group.cv, 3)} % at ${group.level}`)
  return `${formatNumber(cv, 3)} %${each.length > 0 ? ` (${each.join(', ')})` : ''}`
}

/** The differences a test is held against: those between units, or what treatments do differently from site to site. */
export function differencesOf({ factors }: Pick<AnalysisRequest, 'factors'>, stratum: string): string {
  const [site, ...term] = stratum.split(':')
  return term.length > 0
    ? `what ${termCalled(factors, term)} does differently from ${site} to ${site}`
    : `the differences between ${plural(stratum)}`
}

/** A factor as it is called, a part of whole treatments too. */
function calledIn(factors: AnalysisRequest['factors'], key: string): string {
  const all = factors.flatMap((factor) => [factor, ...(factor.parts ?? [])])
  return all.find((factor) => factor.key === key)?.name ?? key
}

/** Factors of a term as they are called, joined by ×. */
export function termCalled(factors: AnalysisRequest['factors'], term: readonly string[]): string {
  return term.map((key) => calledIn(factors, key)).join(' × ')
}

/** A level of a term by what its levels are called. */
export function levelCalled(factors: AnalysisRequest['factors'], term: readonly string[], level: string): string {
  const levels = term.length === 1 ? [level] : level.split(':')
  return term.map((key, k) => factors.find((factor) => factor.key === key)?.said?.[levels[k]!]?.name ?? levels[k]).join(' with ')
}

/** What was dealt out in what, what is taken out first, and what terms are `held` against; null when nothing is tested. */
export function wordsOf(
  { request, units, random, finest, covariates, sitesAsBlocks }: LayoutFrame,
  held: readonly string[] | null,
  mixed: { readonly takenOut: readonly string[]; readonly said: string } | null = null,
): string {
  const { structure } = request
  const several = request.factors.length > 1
  const dealt = structure.factors.map(({ factor, appliedTo, within, how }) => {
    const what = several ? (request.factors.find((each) => each.key === factor)?.name ?? factor) : 'treatments'
    const verb = several ? 'was' : 'were'
    return how === 'randomised' || how === 'constrained'
      ? `${what} ${verb} randomised to ${plural(appliedTo)}${within ? ` within each ${within}` : ''}${how === 'constrained' ? ', under constraints' : ''}`
      : how === 'systematic'
        ? `${what} ${verb} put on ${plural(appliedTo)} in a fixed order`
        : `${what} ${verb} put on ${plural(appliedTo)} without a draw`
  })
  const fixed = mixed
    ? mixed.takenOut.map((kind) => plural(kind))
    : units.filter((unit) => !random.has(unit.name)).map((unit) => plural(unit.name))
  return [
    `${capital(dealt.join('; '))}.`,
    fixed.length > 0 ? `Differences between ${listed(fixed)} are taken out first.` : '',
    sitesAsBlocks
      ? `Each site has one ${finest} of each treatment: sites are taken as blocks, and what treatments do differently from site to site counts as chance.`
      : '',
    covariates.length > 0
      ? `The response is adjusted for ${listed(covariates.map((each) => each.name))}${request.options.slopes === 'separate' ? ', with a slope for each treatment: treatments are tested where it is as their means are shown' : ''}.`
      : '',
    held === null
      ? ''
      : mixed
        ? mixed.said
        : random.size > 0
          ? heldWords(request, held)
          : `${several ? 'Terms' : 'Treatments'} are tested against the differences between ${plural(finest)} treated alike.`,
  ]
    .filter(Boolean)
    .join(' ')
}

/** Sites may be a sample of many: then their interactions judge, and no longer the units alone. */
function heldWords(request: AnalysisRequest, held: readonly string[]): string {
  const units = held.filter((each) => !each.includes(':'))
  const bySite = held.filter((each) => each.includes(':'))
  const plain = `Each term is tested against the differences between the units it was applied to: ${listed(units.map((unit) => plural(unit)))}.`
  const sampled = `Sites are taken as a sample of many: treatments are tested against ${listed(bySite.map((each) => differencesOf(request, each)))}.`
  return [...(units.length > 0 ? [plain] : []), ...(bySite.length > 0 ? [sampled] : [])].join(' ')
}

/** The model in symbols. */
export function symbolsOf(
  { request, units, random, sampled, finest }: LayoutFrame,
  terms: readonly (readonly string[])[],
  scale: string | null,
): string {
  const called = new Map(request.factors.map((factor) => [factor.key, factor.name ?? factor.key]))
  const chance = sampled.map((each) => each.name).filter((name) => !random.has(name))
  const errors = [...units.filter((unit) => random.has(unit.name)).map((unit) => unit.name), ...chance]
  const fixed = terms.filter(
    (term) =>
      !random.has(term.join(':')) && (!chance.includes(term.join(':')) || term.some((name) => Object.hasOwn(request.options.checks, name))),
  )
  const parts = fixed.map((term) => `+ ${term.map((name) => called.get(name) ?? name).join(':')}`)
  const response = scale ? `${scale} of ${request.trait.name}` : 'y'
  const model = `${response} = mean ${parts.join(' ')} + residual`
  return errors.length > 0 ? `${model}, with an error for each of ${[...errors, finest].join(', ')}` : model
}

export function listed(words: readonly string[]): string {
  return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** Words of names that keep their capital: of people, and of scales called after them. */
const PROPER = /^(Brix|Baum|Munsell|Kjeldahl|Olsen|Mehlich|Bray|Secchi|Hagberg|Zeleny|Celsius|Kelvin|Latin)/
/**
 * A name of the trial's own sheets in the middle of a sentence: its first letter is lowered only where it
 * begins an ordinary word. Symbols and abbreviations (Ca, pH, NDVI) stay as they are written.
 */
export function inSentence(name: string): string {
  const [first = ''] = name.split(/\s/)
  return /^\p{Lu}\p{Ll}{3,}(-\p{Ll}+)*$/u.test(first) && !PROPER.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name
}
