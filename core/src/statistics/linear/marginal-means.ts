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
  /** Classifications nested in another (blocks in sites), by name: levels are averaged over within the levels of that one. */
  readonly nested?: ReadonlyMap<string, string>
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
  const known = new Map<string, Float64Array>()
  const weightsOf = (variable: Classification): Float64Array => {
    if (!known.has(variable.name)) known.set(variable.name, levelWeights(fit, variable, at, options))
    return known.get(variable.name)!
  }
  let column = 0
  for (const term of design.terms) {
    const variables = variablesOf(design.variables, term)
    for (const choice of contrasts(variables)) {
      let weight = 1
      variables.forEach((variable, v) => (weight *= columnValue(fit, variable, choice[v]!, weightsOf, options)))
      l[column++] = weight
    }
  }
  return l
}

function columnValue(
  fit: LinearFit,
  variable: Variable,
  c: number,
  weightsOf: (variable: Classification) => Float64Array,
  options: MarginalOptions,
): number {
  if (!isClassification(variable)) return options.at?.[variable.name] ?? average(variable.values)
  let sum = 0
  weightsOf(variable).forEach((weight, level) => {
    if (weight !== 0) sum += weight * codedValue(fit.design.coding, variable.levels.length, c, level)
  })
  return sum
}

/** How much each level of a classification counts in the prediction; they sum to one. */
function levelWeights(
  fit: LinearFit,
  { name, levels, codes }: Classification,
  at: ReadonlyMap<string, number>,
  options: MarginalOptions,
): Float64Array {
  const weights = new Float64Array(levels.length)
  const fixed = at.get(name)
  if (fixed !== undefined) {
    weights[fixed] = 1
    return weights
  }
  const outer = fit.design.variables.get(options.nested?.get(name) ?? '')
  if (!outer || !isClassification(outer)) {
    if (options.weights === 'observed') for (const code of codes) weights[code]! += 1 / codes.length
    else weights.fill(1 / levels.length)
    return weights
  }
  const outerWeights = levelWeights(fit, outer, at, options)
  const counts = new Float64Array(levels.length)
  const totals = new Float64Array(outer.levels.length)
  const holder = new Int32Array(levels.length)
  codes.forEach((code, i) => {
    holder[code] = outer.codes[i]!
    counts[code]!++
  })
  if (options.weights !== 'observed') counts.fill(1)
  counts.forEach((count, level) => (totals[holder[level]!]! += count))
  return weights.map((_, level) => (outerWeights[holder[level]!]! * counts[level]!) / totals[holder[level]!]!)
}

/** Levels of all targets, those of the last changing fastest. */
function combinations(targets: readonly Classification[]): number[][] {
  return targets.reduce<number[][]>((found, target) => found.flatMap((each) => target.levels.map((_, level) => [...each, level])), [[]])
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
