import { isClassification, variablesOf } from './design-matrix.ts'
import { linearFunction, type LinearFit, type LinearFunction } from './least-squares.ts'
import { coefficientWeights } from './marginal-means.ts'

/** Slope on a covariate at each level of a classification: what a unit more of it adds to the prediction. */
export function slopes(fit: LinearFit, factor: string, covariate: string): (LinearFunction & { readonly level: string })[] {
  const [variable] = variablesOf(fit.design.variables, [factor])
  if (!variable || !isClassification(variable)) throw new RangeError(`${factor} is not a classification`)
  return variable.levels.map((level, index) => {
    const at = new Map([[factor, index]])
    const one = coefficientWeights(fit, at, { at: { [covariate]: 1 } })
    const zero = coefficientWeights(fit, at, { at: { [covariate]: 0 } })
    return {
      level,
      ...linearFunction(
        fit,
        one.map((weight, i) => weight - zero[i]!),
      ),
    }
  })
}
