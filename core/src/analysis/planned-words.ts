import type { UnitSystem } from '../quantity/index.ts'
import type { PlannedComparison, Treatments } from '../trial/index.ts'
import { plannedClaims } from './claims/planned-claims.ts'
import { siteBySite, stepInWords } from './claims/text/amounts.ts'
import { sentencesOf } from './claims/text.ts'
import type { Analysis, ContrastRow, Sentence } from './result.ts'

/** What came of a planned comparison, in one sentence with its figures. */
export interface PlannedAnswer extends Sentence {
  readonly comparison: PlannedComparison
  readonly row: ContrastRow
  /** At each site alone; empty where there is one. */
  readonly sites: readonly ContrastRow[]
  /** The same in words, site by site; null where there is one. */
  readonly atSites: string | null
  /** Of a trend: so many of the factor's measure its figures are told for, and in words; 1 of two sides. */
  readonly per: { readonly times: number; readonly said: string }
}

/** The planned comparisons that could be made, in their order, with their figures; the sentences are those of their claims. */
export function plannedAnswers(analysis: Analysis, treatments: Treatments, system: UnitSystem): PlannedAnswer[] {
  return treatments.comparisons.flatMap((comparison): PlannedAnswer[] => {
    const claim = analysis.claims.find((each) => 'name' in each && each.name === comparison.name)
    const row = analysis.contrasts.find((each) => each.name === comparison.name && each.site === null)
    if (!row || !claim) return []
    const [sentence] = sentencesOf(analysis, system, [claim])
    const sites = analysis.contrasts.filter((each) => each.name === comparison.name && each.site !== null)
    const there = sites.flatMap((each) => plannedClaims(analysis, each.site).filter((one) => one.name === comparison.name))
    return [
      {
        ...sentence!,
        comparison,
        row,
        sites,
        atSites:
          there.length > 1
            ? siteBySite(
                analysis,
                system,
                there,
                sites.map((each) => each.site!),
              )
            : null,
        per: claim.kind === 'trend' ? { times: claim.per, said: stepInWords(analysis, system, claim) } : { times: 1, said: '' },
      },
    ]
  })
}
