import { plural } from '../../quantity/index.ts'
import type { AnalysisRequest } from '../request.ts'
import type { MixedResult } from '../result.ts'
import { capital, differencesOf, listed } from '../words.ts'

/** What is chance in a mixed model, how its errors go together, and how its terms are tested. */
export function mixedWords(
  { parameters, errors, likelihood, df }: MixedResult,
  incomplete: readonly string[],
  request: Pick<AnalysisRequest, 'factors'>,
): string {
  const names = parameters.filter((each) => each.of === 'random').map((each) => each.name)
  const kinds = names.filter((name) => !name.includes(':')).map((name) => plural(name))
  const bySite = names.filter((name) => name.includes(':')).map((name) => differencesOf(request, name))
  const parts = incomplete.filter((kind) => names.includes(kind)).map((kind) => `Each ${kind} holds a part of the treatments only`)
  const chance = [...(kinds.length > 0 ? [`the differences between ${listed(kinds)}`] : []), ...bySite]
  return [
    chance.length > 0
      ? `${parts.length > 0 ? `${listed(parts)}: ` : ''}${capitalUnless(parts.length > 0, listed(chance))} ${names.length === 1 && bySite.length === 1 ? 'is' : 'are'} taken as chance of their own.`
      : '',
    errors ? `Errors: ${errors.name}.` : '',
    `Fitted by ${likelihood === 'REML' ? 'restricted' : 'full'} maximum likelihood; each term is tested with every level counted alike, degrees of freedom by ${df === 'kenward-roger' ? 'Kenward and Roger' : 'Satterthwaite'}.`,
  ]
    .filter(Boolean)
    .join(' ')
}

function capitalUnless(inside: boolean, text: string): string {
  return inside ? text : capital(text)
}
