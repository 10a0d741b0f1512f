import {
  criteria,
  designMatrix,
  fitField,
  fitStructured,
  gridSteps,
  independentColumns,
  logDeterminantOf,
  reml,
  remlSparse,
  type Classification,
  type Covariate,
  type DesignMatrix,
  type ErrorModel,
  type Independent,
  type MixedFit,
} from '../../statistics/index.ts'
import type { LayoutFrame } from '../layout.ts'
import { differencesOf, listed } from '../words.ts'
import type { MixedSetup } from './setup.ts'
import { inOwnAxes } from '../../trial/index.ts'

/** Effects, fixed and random, up to which matrices of all of them are held. */
const MOST_DENSE = 600
/** Plots beyond which a field is fitted by its sparse inverse, where they lie on a grid. */
const FEWEST_OF_A_FIELD = 120
/** Plots of one site beyond which distances between every two are not held. */
const MOST_PLOTS = 600

/** Why a mixed model could not be had, in words that end a sentence. */
export class MixedFailure extends Error {}

export interface FittedModel {
  readonly fit: MixedFit
  readonly design: DesignMatrix
  /** Where combinations were not grown: the columns that were fitted; null: all. */
  readonly independent: Independent | null
  readonly errors: ErrorModel | null
  /** In reference-level coding, the convention in which likelihoods of different sources agree. */
  readonly minusTwoLogLikelihood: number
  readonly aic: number
  readonly bic: number
}

/** Each way in which the errors may go together, fitted; the one of least AIC first. Throws MixedFailure when none can be. */
export function fitModels(frame: LayoutFrame, setup: MixedSetup): FittedModel[] {
  const found: FittedModel[] = []
  const reasons: string[] = []
  for (const errors of setup.errors) {
    try {
      found.push(fitOne(frame, setup, errors))
    } catch (error) {
      if (!(error instanceof MixedFailure)) throw error
      reasons.push(error.message)
    }
  }
  if (found.length === 0) throw new MixedFailure(reasons[0])
  // Of two that say the same (any two dates have one correlation) the plainer stays first.
  return found.sort((a, b) => (Math.abs(a.aic - b.aic) < 1e-6 ? 0 : a.aic - b.aic))
}

export function fitOne(
  frame: LayoutFrame,
  { fixed, variables, covariates, random }: Pick<MixedSetup, 'fixed' | 'variables' | 'covariates' | 'random'>,
  errors: ErrorModel | null,
): FittedModel {
  const { y, request } = frame
  const { likelihood } = request.options
  const width = fixed.reduce(
    (sum, term) =>
      sum + term.reduce((product, name) => product * ((variables.find((each) => each.name === name)?.levels.length ?? 2) - 1), 1),
    1,
  )
  const effects = width + random.reduce((sum, each) => sum + each.levels.length, 0)
  if (width >= y.length) throw new MixedFailure('there are no more values than effects')
  const large = effects > MOST_DENSE
  const field =
    errors?.key === 'rows and columns with nugget' &&
    likelihood === 'REML' &&
    y.length > FEWEST_OF_A_FIELD &&
    random.length === 0 &&
    frame.sites === null
  const grid = field ? gridOf(frame) : null
  const all = [...variables, ...covariates]
  const design = designMatrix(all, fixed, y.length, large || grid ? 'reference' : 'sum')
  const told = large || grid ? null : independentColumns(design)
  const independent = told && told.dependent.length > 0 ? told : null
  const columns = independent ? independent.keep.map((k) => design.columns[k]!) : design.columns
  const doing = `fitting ${errors ? errors.name : random.length > 0 ? listed(random.map((each) => differencesOf(request, each.name))) : 'the model'}`
  request.onProgress?.({ doing, step: null })
  const onStep = (step: number): void => request.onProgress?.({ doing, step })
  const fit = attempted(() => {
    if (grid) return fitField({ y, fixed: columns, ...grid }, onStep)
    if (errors) {
      if (largestGroup(errors, random, y.length) > MOST_PLOTS)
        throw new MixedFailure(
          `more than ${MOST_PLOTS} values go together, which only “rows and columns with nugget” of one site is fitted for`,
        )
      return fitStructured({ y, fixed: columns, random, errors }, { likelihood, onStep })
    }
    if (!large) return reml({ y, fixed: columns, random }, likelihood, onStep)
    if (likelihood === 'ML') throw new MixedFailure(`the full likelihood is fitted up to ${MOST_DENSE} effects`)
    return remlSparse({ y, fixed: columns, random }, onStep)
  })
  if (!fit.converged) throw new MixedFailure('the search for its variances did not come to an end')
  const shift = likelihood === 'ML' || design.coding === 'reference' ? 0 : codingShift(design, columns, all, fixed)
  const { aic, bic } = criteria(fit)
  return { fit, design, independent, errors, minusTwoLogLikelihood: fit.minusTwoLogLikelihood - shift, aic: aic - shift, bic: bic - shift }
}

function attempted(fit: () => MixedFit): MixedFit {
  try {
    return fit()
  } catch (error) {
    // Variances that the units cannot tell apart leave nothing to judge by.
    if (error instanceof RangeError) throw new MixedFailure('the units cannot tell its variances apart')
    throw error
  }
}

/** log|XᵀX| in sum coding less that in reference-level coding, by which the restricted likelihoods differ. */
function codingShift(
  design: DesignMatrix,
  columns: readonly Float64Array[],
  variables: readonly (Classification | Covariate)[],
  fixed: MixedSetup['fixed'],
): number {
  const reference = designMatrix(variables, fixed, design.rows, 'reference')
  const kept =
    columns.length < design.columns.length ? independentColumns(reference).keep.map((k) => reference.columns[k]!) : reference.columns
  return logDeterminantOf(columns) - logDeterminantOf(kept)
}

function largestGroup(errors: ErrorModel, random: readonly Classification[], n: number): number {
  const largest = (codes: Int32Array): number => {
    const counts = new Map<number, number>()
    codes.forEach((code) => counts.set(code, (counts.get(code) ?? 0) + 1))
    return Math.max(...counts.values())
  }
  return Math.max(errors.groups ? largest(errors.groups) : n, ...random.map((each) => largest(each.codes)))
}

/** Rows and columns of the grid the plots lie on, from their places; null where they lie on none, or the grid is mostly empty. */
function gridOf({ observed }: LayoutFrame): { rows: Int32Array; columns: Int32Array } | null {
  const along = (at: 'x' | 'y', side: 'width' | 'length'): Int32Array =>
    Int32Array.from(gridSteps(observed.rows.map(({ unit }) => inOwnAxes(unit.place!)[at] + unit.place![side] / 2)))
  const [rows, columns] = [along('y', 'length'), along('x', 'width')]
  if ((Math.max(...rows) + 1) * (Math.max(...columns) + 1) > 4 * rows.length) return null
  return new Set(rows.map((row, i) => row * 100_000 + columns[i]!)).size === rows.length ? { rows, columns } : null
}
