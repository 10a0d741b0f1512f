import type { LinearFit } from '../statistics/index.ts'
import type { AnalysisRequest } from './analyse.ts'
import type { LayoutModel, Observation } from './model.ts'

interface Case {
  readonly request: AnalysisRequest
  readonly model: LayoutModel
  readonly observations: readonly Observation[]
  readonly fit: LinearFit
  readonly missing: number
  readonly leftOut: number
  readonly tested: boolean
}

/** What a careful reader must be told about this analysis, most important first. */
export function cautionsFor(of: Case): string[] {
  const { request, model, observations, fit, missing, leftOut, tested } = of
  const cautions: string[] = []
  if (!tested) cautions.push(whyNotTested(of))
  const unmeasured = request.levels.filter((level) => !model.classes.at(-1)!.levels.includes(level.key))
  if (unmeasured.length > 0)
    cautions.push(
      `${unmeasured.length === 1 ? 'One treatment has' : `${unmeasured.length} treatments have`} no value and cannot be compared.`,
    )
  if (tested && fit.residualDf < 10) {
    cautions.push(`Only ${fit.residualDf} error degrees of freedom: intervals are wide, and a real difference is easily missed.`)
  }
  if (missing > 0)
    cautions.push(
      `${missing} of ${observations.length + missing + leftOut} plots ${missing === 1 ? 'is' : 'are'} missing; means are adjusted for the blocks they were lost from.`,
    )
  if (leftOut > 0) cautions.push(`${leftOut} plot${leftOut === 1 ? ' is' : 's are'} left out with a reason on record.`)
  const misapplied = observations.filter((each) => each.unit.change === 'misapplied')
  if (misapplied.length > 0) {
    cautions.push(
      `Plot${misapplied.length === 1 ? '' : 's'} ${misapplied.map((each) => each.unit.code).join(', ')} analysed as received, not as randomised.`,
    )
  }
  return cautions
}

function whyNotTested({ model, fit, observations }: Case): string {
  const treatment = model.classes.at(-1)!
  if (treatment.levels.length < 2) return 'Only one treatment has values: there is nothing to compare.'
  if (fit.residualDf <= 0)
    return 'No treatment is repeated enough to judge chance differences between plots: the values are described, not tested.'
  if (observations.every((each) => each.value === observations[0]!.value)) return 'All plots have the same value: there is nothing to test.'
  return 'Plots treated alike do not differ at all: there is no error to test against. Check the values.'
}
