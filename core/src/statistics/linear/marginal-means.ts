import { codedValue, contrasts, isClassification, variablesOf, type Classification, type Variable } from './design-matrix.ts'
import { linearFunction, type LinearFit, type LinearFunction } from './least-squares.ts'

export interface MarginalMean extends LinearFunction {
  /** The level, or the levels of several classifications joined by `:`. */
  readonly level: string
  /** Observations with it. */
  readonly n: number
}

export interface MarginalOptions {
  /** Value at which each covariate is held; its mean when not given. */
  readonly at?: Readonly<Record<string, number>>
  /** How levels averaged over count: each alike, or as often as they were observed. */
  readonly weights?: 'equal' | 'observed'
}

/**
 * Estimated marginal means of one classification or of the combinations of several: the
 * prediction for each, averaged over the levels of everything else in the model, blocks included.
 */
export function marginalMeans(fit: LinearFit, names: string | readonly string[], options: MarginalOptions = {}): MarginalMean[] {
  const targets = variablesOf(fit.design.variables, typeof names === 'string' ? [names] : names)
  if (!targets.every(isClassification)) throw new RangeError('Means are of classifications, not of covariates')
  return combinations(targets).map((levels) => {
    const at = new Map(targets.map((target, t) => [target.name, levels[t]!]))
    let n = 0
    for (let i = 0; i < fit.design.rows; i++) if (targets.every((target, t) => target.codes[i] === levels[t])) n++
    return {
      level: targets.map((target, t) => target.levels[levels[t]!]).join(':'),
      n,
      ...linearFunction(fit, coefficientWeights(fit, at, options)),
    }
  })
}

/** Weights of the coefficients in the prediction at fixed levels, averaged over all else. */
export function coefficientWeights(fit: LinearFit, at: ReadonlyMap<string, number>, options: MarginalOptions = {}): Float64Array {
  const { design } = fit
  const l = new Float64Array(design.columns.length)
  let column = 0
  for (const term of design.terms) {
    const variables = variablesOf(design.variables, term)
    for (const choice of contrasts(variables)) {
      let weight = 1
      variables.forEach((variable, v) => (weight *= columnValue(fit, variable, choice[v]!, at, options)))
      l[column++] = weight
    }
  }
  return l
}

function columnValue(fit: LinearFit, variable: Variable, c: number, at: ReadonlyMap<string, number>, options: MarginalOptions): number {
  if (!isClassification(variable)) return options.at?.[variable.name] ?? average(variable.values)
  const { coding } = fit.design
  const levels = variable.levels.length
  const level = at.get(variable.name)
  if (level !== undefined) return codedValue(coding, levels, c, level)
  let sum = 0
  if (options.weights === 'observed') {
    for (const code of variable.codes) sum += codedValue(coding, levels, c, code)
    return sum / variable.codes.length
  }
  for (let each = 0; each < levels; each++) sum += codedValue(coding, levels, c, each)
  return sum / levels
}

function combinations(targets: readonly Classification[]): number[][] {
  return targets.reduce<number[][]>((found, target) => target.levels.flatMap((_, level) => found.map((each) => [...each, level])), [[]])
}

function average(values: Float64Array): number {
  return values.reduce((sum, each) => sum + each, 0) / values.length
}

/** Variance factor of the difference of two means: SED² = this × error mean square. */
export function differenceFactor(a: LinearFunction, b: LinearFunction): number {
  let sum = 0
  for (let k = 0; k < a.root.length; k++) sum += (a.root[k]! - b.root[k]!) ** 2
  return sum
}

export function varianceFactor(a: LinearFunction): number {
  let sum = 0
  for (const each of a.root) sum += each * each
  return sum
}

export function covarianceFactor(a: LinearFunction, b: LinearFunction): number {
  let sum = 0
  for (let k = 0; k < a.root.length; k++) sum += a.root[k]! * b.root[k]!
  return sum
}
