import { fUpper, kenwardRoger, satterthwaite, tTwoSided, tUpperQuantile, type MixedInference } from '../../statistics/index.ts'
import type { LayoutFrame } from '../layout.ts'
import { covariateAt } from '../linear-model.ts'
import type { CovariateRow } from '../result.ts'
import { fitOne, type FittedModel } from './fit.ts'
import { combined, Rows } from './rows.ts'
import type { MixedSetup } from './setup.ts'

/** What each covariate does in a mixed model: its slope, whether treatments differ in it, and whether they changed it. */
export function covariateRows(frame: LayoutFrame, setup: MixedSetup, method: MixedInference, rows: Rows): CovariateRow[] {
  const { covariates, request, factors } = frame
  const { significance, slopes } = request.options
  const [first] = factors
  return covariates.map((covariate) => {
    const { name, values } = covariate
    const at = rows.at(name)
    const slopeRow = (cell: Readonly<Record<string, number>>) => combined([[1, rows.mean(cell, { [name]: at + 1 })], [-1, rows.mean(cell, { [name]: at })]]) // prettier-ignore
    const told = (level: string | null, cell: Readonly<Record<string, number>>): CovariateRow['slopes'][number] => {
      const { estimate, se, df } = method.estimate(slopeRow(cell))
      const half = tUpperQuantile(significance / 2, df) * se
      const t = estimate / se
      return { level, slope: estimate, se, df, t, p: tTwoSided(t, df), lower: estimate - half, upper: estimate + half }
    }
    const separate = slopes === 'separate' && first
    return {
      name,
      at: covariateAt(frame, covariate),
      min: values.reduce((a, b) => Math.min(a, b), Infinity),
      max: values.reduce((a, b) => Math.max(a, b), -Infinity),
      slopes: separate ? first.levels.map((level, l) => told(level, { [first.name]: l })) : [told(null, {})],
      equalSlopes: equalSlopes(frame, setup, name),
      byTreatment: byTreatment(frame, setup, values),
    }
  })
}

/** The common slope against one for each treatment. */
function equalSlopes(frame: LayoutFrame, setup: MixedSetup, name: string): CovariateRow['equalSlopes'] {
  const own = setup.terms.map((term) => [...term, name])
  const known = new Set(setup.fixed.map((term) => term.join(':')))
  const fixed = [...setup.fixed, ...own.filter((term) => !known.has(term.join(':')))]
  return jointly(frame, { ...setup, fixed }, own)
}

/** The covariate itself as the response. */
function byTreatment(frame: LayoutFrame, setup: MixedSetup, values: Float64Array): CovariateRow['byTreatment'] {
  const names = new Set(setup.covariates.map((each) => each.name))
  const fixed = setup.fixed.filter((term) => !term.some((name) => names.has(name)))
  const { f, p } = jointly({ ...frame, y: values, covariates: [] }, { ...setup, fixed, covariates: [] }, setup.terms)
  return { f, p }
}

const NOT_KNOWN = { df: 0, errorDf: NaN, f: NaN, p: NaN }

function jointly(frame: LayoutFrame, setup: MixedSetup, terms: readonly (readonly string[])[]): CovariateRow['equalSlopes'] {
  try {
    const found: FittedModel = fitOne(frame, setup, null)
    const method = found.fit.expansion && frame.request.options.df !== 'satterthwaite' ? kenwardRoger(found.fit) : satterthwaite(found.fit)
    const rows = new Rows(found.design, setup.fixed, setup.variables, frame.sites, setup.covariates, found.independent)
    const { f, numeratorDf: df, denominatorDf: errorDf } = method.test(terms.flatMap((term) => rows.of(term)))
    return { df, errorDf, f, p: fUpper(f, df, errorDf) }
  } catch {
    // Too little is left for slopes of their own: nothing is known of them.
    return NOT_KNOWN
  }
}
