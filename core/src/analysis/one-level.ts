import { layoutFrame } from './layout.ts'
import { withoutFactors, type AnalysisRequest } from './request.ts'
import type { Caution } from './result.ts'
import { capital } from './words.ts'

/**
 * A factor of which values are left for one level only compares nothing, and leaves the model where another
 * can still be tested: its other levels were lost, left out, or are not read yet. What is asked of it goes with it.
 */
export function withoutOneLevel(request: AnalysisRequest): { request: AnalysisRequest; cautions: readonly Caution[] } {
  const { options, factors } = request
  if (factors.length < 2) return { request, cautions: [] }
  const named = new Set([
    ...options.random.flatMap((each) => each.split(':')),
    ...Object.keys(options.checks),
    ...(options.dates ? [options.dates.occasion] : []),
  ])
  const found = layoutFrame(request).factors
  const single = found.filter((each) => each.levels.length < 2 && !named.has(each.name))
  if (single.length === 0 || !found.some((each) => each.levels.length > 1)) return { request, cautions: [] }
  const gone = new Set(single.map((each) => each.name))
  const without = (names: readonly string[]): boolean => names.every((name) => !gone.has(name))
  const terms = options.terms?.filter(without)
  return {
    request: {
      ...withoutFactors(request, gone),
      options: {
        ...options,
        contrasts: options.contrasts.filter((each) => without(each.term)),
        polynomials: options.polynomials.filter((each) => !gone.has(each)),
        terms: terms?.length ? terms : undefined,
      },
    },
    cautions: single.map((each): Caution => {
      const of = factors.find((factor) => factor.key === each.name)!
      const level = of.said?.[each.levels[0]!]?.name ?? each.levels[0]!
      return {
        kind: 'missing',
        text: `${capital(of.name ?? of.key)} has values for ${level} only: it is not compared, and all that is said holds at ${level}.`,
      }
    }),
  }
}
