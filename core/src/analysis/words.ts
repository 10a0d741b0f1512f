import type { LayoutFrame } from './layout.ts'

/** What was dealt out in what, what is taken out first, and what terms are `held` against; null when nothing is tested. */
export function wordsOf({ request, units, random, finest, covariates }: LayoutFrame, held: readonly string[] | null): string {
  const { structure } = request
  const several = request.factors.length > 1
  const dealt = structure.factors.map(({ factor, appliedTo, within, how }) => {
    const what = several ? (request.factors.find((each) => each.key === factor)?.name ?? factor) : 'treatments'
    const verb = several ? 'was' : 'were'
    return how === 'randomised' || how === 'constrained'
      ? `${what} ${verb} randomised to ${appliedTo}s${within ? ` within each ${within}` : ''}${how === 'constrained' ? ', under constraints' : ''}`
      : `${what} ${verb} not randomised to ${appliedTo}s (${how})`
  })
  const fixed = units.filter((unit) => !random.has(unit.name)).map((unit) => `${unit.name}s`)
  return [
    `${capital(dealt.join('; '))}.`,
    fixed.length > 0 ? `Differences between ${listed(fixed)} are taken out first.` : '',
    covariates.length > 0 ? `The response is adjusted for ${listed(covariates.map((each) => each.name))}.` : '',
    held === null
      ? ''
      : random.size > 0
        ? `Each term is tested against the differences between the units it was applied to: ${listed(held.map((each) => `${each.replaceAll(':', ' × ')}s`))}.`
        : `${several ? 'Terms' : 'Treatments'} are tested against the differences between ${finest}s treated alike.`,
  ]
    .filter(Boolean)
    .join(' ')
}

/** The model in symbols. */
export function symbolsOf(
  { request, units, random, finest }: LayoutFrame,
  terms: readonly (readonly string[])[],
  scale: string | null,
): string {
  const called = new Map(request.factors.map((factor) => [factor.key, factor.name ?? factor.key]))
  const errors = units.filter((unit) => random.has(unit.name)).map((unit) => unit.name)
  const fixed = terms.filter((term) => !random.has(term.join(':')))
  const parts = fixed.map((term) => `+ ${term.map((name) => called.get(name) ?? name).join(':')}`)
  const response = scale ? `${scale} of ${request.trait.name}` : 'y'
  const model = `${response} = mean ${parts.join(' ')} + residual`
  return errors.length > 0 ? `${model}, with an error for each of ${[...errors, finest].join(', ')}` : model
}

function listed(words: readonly string[]): string {
  return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
