import { codedValue, contrasts } from './design-matrix.ts'
import { linearFunction, type LinearFit, type LinearFunction } from './least-squares.ts'

export interface MarginalMean extends LinearFunction {
  readonly level: string
  readonly n: number
}

/**
 * Estimated marginal means of one classification: the prediction for each of its levels,
 * averaged with equal weights over the levels of everything else in the model, blocks included.
 */
export function marginalMeans(fit: LinearFit, name: string): MarginalMean[] {
  const { design } = fit
  const target = design.classes.get(name)
  if (!target) throw new RangeError(`No variable named ${name}`)
  const counts = new Int32Array(target.levels.length)
  for (const code of target.codes) counts[code]!++
  return target.levels.map((level, at) => {
    const l = new Float64Array(design.columns.length)
    let column = 0
    for (const term of design.terms) {
      const variables = term.map((each) => design.classes.get(each)!)
      for (const choice of contrasts(variables)) {
        let weight = 1
        variables.forEach((variable, v) => {
          const levels = variable.levels.length
          weight *= variable === target ? codedValue(design.coding, levels, choice[v]!, at) : averageCode(design.coding, levels, choice[v]!)
        })
        l[column++] = weight
      }
    }
    return { level, n: counts[at]!, ...linearFunction(fit, l) }
  })
}

function averageCode(coding: 'reference' | 'sum', levels: number, c: number): number {
  let sum = 0
  for (let level = 0; level < levels; level++) sum += codedValue(coding, levels, c, level)
  return sum / levels
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
