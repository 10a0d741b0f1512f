import { capital, listed } from '../words.ts'
import { layoutFrame } from '../layout.ts'
import { withoutFactors, type AnalysisRequest } from '../request.ts'
import type { Caution } from '../result.ts'
import type { Carried } from './vocabulary.ts'

/**
 * Factors that follow from another one on every unit that has a value: rich soil always in large pots, or
 * each product of one type. They have no effect of their own to be told, and leave the model; what stays is
 * spoken of with them.
 */
export function withoutCarried(request: AnalysisRequest): { request: AnalysisRequest; carried: readonly Carried[] } {
  const { options, structure, factors } = request
  if (factors.length < 2 || options.terms || options.dates || factors.some((factor) => factor.parts)) return { request, carried: [] }
  const named = new Set([
    ...options.contrasts.flatMap((each) => each.term),
    ...options.polynomials,
    ...options.random.flatMap((each) => each.split(':')),
    ...Object.keys(options.checks),
  ])
  const appliedTo = (key: string): string | undefined => structure.factors.find((each) => each.factor === key)?.appliedTo
  const found = layoutFrame(request).factors
  const carried: Carried[] = []
  for (const of of found) {
    const by = found.find((other) => {
      if (other === of || appliedTo(other.name) !== appliedTo(of.name) || carried.some((each) => each.factor.key === other.name))
        return false
      if (!determines(other.codes, of.codes)) return false
      // Of two that follow from each other the first stays.
      return !determines(of.codes, other.codes) || found.indexOf(other) < found.indexOf(of)
    })
    if (!by || of.levels.length < 2 || named.has(of.name)) continue
    const levels = Object.fromEntries(by.levels.map((level, l) => [level, of.levels[of.codes[by.codes.indexOf(l)]!]!]))
    carried.push({
      by: by.name,
      factor: factors.find((each) => each.key === of.name)!,
      levels,
      both: determines(of.codes, by.codes),
    })
  }
  if (carried.length === 0) return { request, carried }
  const gone = new Set(carried.map((each) => each.factor.key))
  return { carried, request: withoutFactors(request, gone) }
}

/** Whether the first code settles the second. */
export function determines(a: Int32Array, b: Int32Array): boolean {
  const seen = new Map<number, number>()
  for (let i = 0; i < a.length; i++) {
    const known = seen.get(a[i]!)
    if (known === undefined) seen.set(a[i]!, b[i]!)
    else if (known !== b[i]) return false
  }
  return true
}

export function carriedCautions({ factors }: AnalysisRequest, carried: readonly Carried[]): Caution[] {
  const called = (key: string): string => factors.find((each) => each.key === key)?.name ?? key
  return carried.map(({ by, factor, both }) => {
    const own = called(factor.key)
    return {
      kind: 'confounded',
      text: both
        ? `${called(by)} and ${own} always changed together: their effects cannot be told apart.`
        : `${capital(own)} followed from ${called(by)} on every unit: what ${listed([own])} does beyond it cannot be told.`,
    }
  })
}
