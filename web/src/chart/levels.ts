import { levelInWhole, WHOLE, type TermResult } from '@canter/core/analysis'
import type { Treatments } from '@canter/core/trial'
import { factorColours, plain, treatmentColours, type TreatmentColour } from '@canter/core/ground'

/** How a level of a term is written and coloured. */
export interface LevelLook {
  readonly code: string
  readonly name: string
  /** Codes of its parts, in the order of the factors of the term. */
  readonly parts: readonly string[]
  readonly colour: TreatmentColour
}

/** Keys of the levels a level of a term is made of; a site is called by its name, which may hold any mark. */
export function partsOf(level: string, term: Pick<TermResult, 'factors'>): string[] {
  const parts = level.split(':')
  const extra = parts.length - term.factors.length
  return extra > 0 ? [parts.slice(0, extra + 1).join(':'), ...parts.slice(extra + 1)] : parts
}

/** Codes, names and colours of the levels of a term: of the treatment where the term is all of it, else of the factor. */
export function levelLooks(term: TermResult, treatments: Treatments): Map<string, LevelLook> {
  const whole = treatmentColours(treatments)
  const byFactor = new Map(treatments.factors.map((factor) => [factor.key, factorColours(treatments, factor)]))
  return new Map(
    term.means.map(({ level }): [string, LevelLook] => {
      if (term.term === WHOLE) {
        const treatment = treatments.list.find((each) => each.key === level)
        const code = treatment?.code ?? level
        return [level, { code, name: treatment?.name ?? level, parts: [code], colour: whole.get(level) ?? plain('#ffffff') }]
      }
      const keys = partsOf(level, term)
      const named = term.factors.map((factor, i) => {
        const levels = factor === WHOLE ? treatments.list : treatments.factors.find((each) => each.key === factor)?.levels
        const found = levels?.find((each) => each.key === keys[i])
        return { code: found?.code ?? keys[i]!, name: found?.name ?? keys[i]! }
      })
      const treatment = treatments.list.find((each) =>
        term.factors[0] === WHOLE
          ? levelInWhole(term, each, treatments) === level
          : treatments.factors.every((factor) => each.levels[factor.key] === keys[term.factors.indexOf(factor.key)]),
      )
      const last = term.factors.at(-1)!
      const colour = (treatment && whole.get(treatment.key)) ?? byFactor.get(last)?.get(keys.at(-1)!) ?? plain('#d9d5ca')
      return [
        level,
        {
          code: named.map((each) => each.code).join(' '),
          name: named.map((each) => each.name).join(', '),
          parts: named.map((each) => each.code),
          colour,
        },
      ]
    }),
  )
}
