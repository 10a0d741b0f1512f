import { formatQuantity, type UnitSystem } from '../quantity/index.ts'
import type { DerivedTrait, Trait, Treatments } from '../trial/index.ts'
import type { Analysis, Sentence } from './result.ts'
import { spokenTreatment } from './spoken.ts'
import { levelInWhole, wholeTerm } from './whole-term.ts'
import { capital, inSentence, listed } from './words.ts'

/** A trait that has a limit, and what its analysis came to at the same visit. */
export interface Limited {
  readonly trait: Trait | DerivedTrait
  readonly analysis: Analysis
}

/** Means of whole treatments by their keys; of a trial that was not analysed by them, none. */
function treatmentMeans(analysis: Analysis, treatments: Treatments): Map<string, number> {
  const joint = wholeTerm(analysis.terms, treatments)
  return new Map(
    treatments.list.flatMap((each) => {
      const mean = joint?.means.find((row) => row.level === levelInWhole(joint, each, treatments))
      return mean ? [[each.key, mean.back?.mean ?? mean.mean]] : []
    }),
  )
}

/**
 * Which treatments keep within the limits set on other traits, and the best of those in the response:
 * “shortest with damage at most 2”. By means, so it says what was seen and tests nothing. Null without
 * a limit, or where no treatment has values of all.
 */
export function withinLimits(
  response: Analysis,
  limited: readonly Limited[],
  treatments: Treatments,
  better: Trait['better'],
  system: UnitSystem,
): Sentence | null {
  const limits = limited.filter((each) => each.trait.limit !== undefined)
  if (limits.length === 0) return null
  const own = treatmentMeans(response, treatments)
  const means = limits.map((each) => treatmentMeans(each.analysis, treatments))
  const looked = treatments.list.filter((each) => own.has(each.key) && means.every((of) => of.has(each.key)))
  if (looked.length === 0) return null
  const keeps = (key: string): boolean =>
    limits.every(({ trait }, i) => {
      const mean = means[i]!.get(key)!
      return trait.limit!.side === 'at most' ? mean <= trait.limit!.value : mean >= trait.limit!.value
    })
  const kept = looked.filter((each) => keeps(each.key))
  const said = listed(
    limits.map(
      ({ trait }) =>
        `${inSentence(trait.name)} ${trait.limit!.side} ${formatQuantity(trait.limit!.value, trait.unit, system, { plain: true })}`,
    ),
  )
  const name = (key: string): string => spokenTreatment(treatments, key, system)
  const evidence = { evidence: 'look' as const, why: 'by means, without a test of the limit', about: 'beside' as const }
  if (kept.length === 0) return { text: `No treatment kept ${said}, by its mean.`, ...evidence }
  const options = kept.filter((each) => each.role !== 'yardstick')
  const count =
    kept.length === looked.length
      ? 'All treatments'
      : capital(listed(kept.slice(0, 6).map((each) => name(each.key)))) + (kept.length > 6 ? ` and ${kept.length - 6} more` : '')
  const first = `${count} kept ${said}, by ${kept.length === 1 ? 'its mean' : 'their means'}`
  if (better === 'neither' || options.length < 2) return { text: `${first}.`, ...evidence }
  const sign = better === 'less' ? -1 : 1
  const best = options.reduce((a, b) => (sign * own.get(b.key)! > sign * own.get(a.key)! ? b : a))
  const most = `${better === 'less' ? 'least' : 'most'} ${inSentence(response.trait.name)}`
  return {
    text: `${first}; of these ${name(best.key)} had the ${most}, ${formatQuantity(own.get(best.key)!, response.trait.unit, system, { digits: 3 })}.`,
    ...evidence,
  }
}
