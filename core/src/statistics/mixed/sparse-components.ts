import { cholesky, combine, dense, solve, gram, type Dense } from '../matrix/dense.ts'
import { SparseCholesky } from '../matrix/sparse.ts'
import { mixedEquations, type MixedEquations } from './mixed-equations.ts'
import { centred, once, type MixedFit, type MixedModel } from './mixed-fit.ts'

const MOST_ITERATIONS = 100
/** Of the residual variance: below it a variance is at zero. */
const FLOOR = 1e-10

interface At {
  readonly variances: readonly number[]
  readonly minusTwoLogLikelihood: number
  /** Fixed effects, then the random ones over the roots of their variance ratios. */
  readonly solution: Float64Array
  readonly score: Float64Array
  /** Of P V_k, term by term, the residual last. */
  readonly traces: readonly number[]
  readonly averageInformation: Dense
  /** (X Z)ᵀ(X Z) inverted, by places that meet, of the scaled equations. */
  readonly inverse: (i: number, j: number) => number
}

/**
 * Variance components of many effects by REML and average information (Gilmour, Thompson & Cullis 1995;
 * Johnson & Thompson 1995) on sparse mixed-model equations: what meets few others is eliminated first. One
 * at zero stays there as long as the likelihood rises towards it. X should hold few values per row: in
 * reference-level coding. Throws RangeError when there is nothing to estimate from.
 */
export function remlSparse(model: MixedModel, onStep?: (iteration: number, minusTwoLogLikelihood: number) => void): MixedFit {
  return centred(model, (own) => fitted(own, onStep))
}

function fitted(model: MixedModel, onStep?: (iteration: number, minusTwoLogLikelihood: number) => void): MixedFit {
  const { y, fixed, random } = model
  const equations = mixedEquations(y.length, fixed, random)
  const { n, p, starts } = equations
  const k = random.length
  if (n <= p) throw new RangeError('There are no more observations than fixed effects')
  const factor = new SparseCholesky(equations.pattern)
  const right = equations.against(y)
  const yy = y.reduce((sum, each) => sum + each * each, 0)
  const evaluate = (variances: readonly number[]): At => evaluateAt({ equations, factor, right, yy }, variances)
  const spread = spreadOf({ equations, factor, right, yy })
  if (!(spread > 0)) throw new RangeError('Nothing is left over after the fixed effects')
  let at = evaluate(Array.from({ length: k + 1 }, (_, i) => (i === k ? spread / 2 : spread / (2 * k))))
  let [iterations, converged] = [0, false]
  const atFloor = (of: At, i: number): boolean => i < k && of.variances[i]! <= FLOOR * of.variances[k]! * 1.001
  while (!converged && iterations < MOST_ITERATIONS) {
    iterations++
    const free = at.variances.flatMap((_, i) => (atFloor(at, i) && at.score[i]! <= 0 ? [] : [i]))
    const step = stepFrom(at, free)
    let next = at
    for (let share = 1; share > 1e-10; share /= 2) {
      // What rests at the floor goes down with the residual: else it would look as if it had risen.
      const wanted = at.variances.map((variance, i) => (i < k && !free.includes(i) ? 0 : variance + share * (step.get(i) ?? 0)))
      const residual = Math.max(wanted[k]!, at.variances[k]! / 10)
      const there = evaluate(wanted.map((each, i) => (i === k ? residual : Math.max(each, FLOOR * residual))))
      if (there.minusTwoLogLikelihood <= at.minusTwoLogLikelihood + 1e-12 * Math.abs(at.minusTwoLogLikelihood)) {
        next = there
        break
      }
    }
    const total = at.variances.reduce((sum, each) => sum + each, 0)
    const moved = Math.max(...next.variances.map((each, i) => Math.abs(each - at.variances[i]!)))
    at = next
    onStep?.(iterations, at.minusTwoLogLikelihood)
    // Each step of average information leaves a small share of the last: what is left of this one is far below what can be seen.
    converged = moved <= 1e-5 * total
  }
  const ended = at
  const { variances, solution } = ended
  const bounded = variances.map((_, i) => atFloor(ended, i))
  const residual = variances[k]!
  const roots = variances.map((each) => Math.sqrt(each / residual))
  // Other variances than these were tried since: the factor must be of these.
  const columns = once(() => {
    factor.factor(scaled(equations, variances))
    return factor.inverseColumns(Array.from({ length: p }, (_, j) => j))
  })
  const covariance = once(() => dense(p, p, (i, j) => residual * (columns()[j]![i]! + columns()[i]![j]!) / 2)) // prettier-ignore
  return {
    likelihood: 'REML',
    parameters: [...random.map(({ name }) => name), 'residual'].map((name) => ({ name, kind: 'variance' })),
    values: variances.map((each, i) => (bounded[i] ? 0 : each)),
    bounded,
    converged,
    iterations,
    minusTwoLogLikelihood: ended.minusTwoLogLikelihood,
    observations: n,
    beta: solution.slice(0, p),
    get covariance() {
      return covariance()
    },
    changes: once(() => changesOf(columns(), covariance(), variances, roots, starts)),
    observedInformation: once(() => slopeOfScore(ended, bounded, evaluate)),
    expansion: null,
    predictions: () =>
      random.map((_, r) => ({
        effects: solution.slice(starts[r], starts[r + 1]).map((each) => each * roots[r]!),
        errors: Float64Array.from({ length: starts[r + 1]! - starts[r]! }, (_each, i) =>
          Math.sqrt(variances[r]! * ended.inverse(starts[r]! + i, starts[r]! + i)),
        ),
      })),
    residuals: () => {
      const own = Float64Array.from(solution)
      random.forEach((_, r) => own.subarray(starts[r], starts[r + 1]).forEach((each, i) => (own[starts[r]! + i] = each * roots[r]!)))
      const said = equations.times(own)
      const conditional = y.map((each, i) => each - said[i]!)
      const marginal = equations.times(own.fill(0, p)).map((each, i) => y[i]! - each)
      return { marginal, conditional }
    },
  }
}

interface Given {
  readonly equations: MixedEquations
  readonly factor: SparseCholesky
  readonly right: Float64Array
  readonly yy: number
}

/** [XᵀX, XᵀZΛ; ΛZᵀX, ΛZᵀZΛ + I] with Λ² = σ²_k / σ²_e. */
function scaled({ pattern, products, starts, p }: MixedEquations, variances: readonly number[]): Float64Array {
  const root = new Float64Array(pattern.size).fill(1)
  for (let r = 0; r < starts.length - 1; r++) root.fill(Math.sqrt(variances[r]! / variances.at(-1)!), starts[r], starts[r + 1])
  const values = new Float64Array(products.length)
  for (let j = 0; j < pattern.size; j++) {
    for (let at = pattern.starts[j]!; at < pattern.starts[j + 1]!; at++) values[at] = products[at]! * root[j]! * root[pattern.rows[at]!]!
    if (j >= p) values[pattern.starts[j]!]! += 1
  }
  return values
}

/** Of what the fixed effects leave. */
function spreadOf({ equations, factor, right, yy }: Given): number {
  const { p, n, starts } = equations
  const none = starts.map((_, i) => (i === starts.length - 1 ? 1 : 1e-14))
  factor.factor(scaled(equations, none))
  const held = Float64Array.from(right).fill(0, p)
  const beta = factor.solve(held)
  let taken = 0
  for (let j = 0; j < p; j++) taken += beta[j]! * right[j]!
  return (yy - taken) / (n - p)
}

function evaluateAt({ equations, factor, right, yy }: Given, variances: readonly number[]): At {
  const { n, p, starts } = equations
  const k = starts.length - 1
  const residual = variances[k]!
  const root = variances.map((each) => Math.sqrt(each / residual))
  const termOf = (place: number): number => starts.findIndex((start, r) => place >= start && place < starts[r + 1]!)
  const roots = Float64Array.from(right, (_, i) => (i < p ? 1 : root[termOf(i)]!))
  factor.factor(scaled(equations, variances))
  const solve = (v: Float64Array): { solution: Float64Array; left: Float64Array } => {
    const against = equations.against(v)
    const solution = factor.solve(against.map((each, i) => each * roots[i]!))
    const said = equations.times(solution.map((each, i) => each * roots[i]!))
    return { solution, left: v.map((each, i) => (each - said[i]!) / residual) }
  }
  const solution = factor.solve(right.map((each, i) => each * roots[i]!))
  let taken = 0
  for (let i = 0; i < right.length; i++) taken += solution[i]! * right[i]! * roots[i]!
  const ypy = (yy - taken) / residual
  const inverse = factor.inverse()
  // Zᵀ P y, and the traces of Zᵀ P Z, term by term; what the residual adds follows from P V P = P.
  const terms = Array.from({ length: k }, (_, r) => r)
  const u = terms.map((r) => solution.slice(starts[r], starts[r + 1]).map((each) => each / (root[r]! * residual)))
  const traces = terms.map((r) => {
    let sum = 0
    for (let i = starts[r]!; i < starts[r + 1]!; i++) sum += 1 - inverse(i, i)
    return sum / variances[r]!
  })
  const squares = u.map((each) => each.reduce((sum, one) => sum + one * one, 0))
  const worked = terms.map((r) => {
    const effects = new Float64Array(right.length)
    effects.set(u[r]!, starts[r])
    const f = equations.times(effects)
    return { f, through: solve(f).left }
  })
  const quadratic = terms.map((r) => terms.map((s) => inner(worked[r]!.through, worked[s]!.f)))
  const rest = (own: readonly number[], whole: number): number => own.reduce((sum, each, r) => sum - variances[r]! * each, whole) / residual
  const all = [...traces, rest(traces, n - p)]
  const held = [...squares, rest(squares, ypy)]
  const last = quadratic.map((row, r) => rest(row, squares[r]!))
  const corner = rest(last, held[k]!)
  return {
    variances,
    minusTwoLogLikelihood: (n - p) * Math.log(residual) + factor.logDeterminant + ypy + (n - p) * Math.log(2 * Math.PI),
    solution,
    score: Float64Array.from(all, (trace, i) => (held[i]! - trace) / 2),
    traces: all,
    averageInformation: dense(
      k + 1,
      k + 1,
      (i, j) => (i < k && j < k ? quadratic[i]![j]! : i < k ? last[i]! : j < k ? last[j]! : corner) / 2,
    ),
    inverse,
  }
}

function inner(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!
  return sum
}

function stepFrom({ averageInformation: information, score }: At, free: readonly number[]): Map<number, number> {
  const own = dense(free.length, free.length, (i, j) => information.values[free[i]! * information.columns + free[j]!]!)
  const slope = dense(free.length, 1, (i) => score[free[i]!]!)
  try {
    const step = solve(cholesky(own), slope)
    return new Map(free.map((i, f) => [i, step.values[f]!]))
  } catch {
    return new Map(free.map((i, f) => [i, score[i]! / Math.max(own.values[f * free.length + f]!, 1e-12)]))
  }
}

/** Φ XᵀV⁻¹ V_k V⁻¹X Φ from the solutions for the fixed effects: Z_kᵀV⁻¹XΦ is what they say of the random ones. */
function changesOf(
  columns: readonly Float64Array[],
  covariance: Dense,
  variances: readonly number[],
  roots: readonly number[],
  starts: readonly number[],
): Dense[] {
  const k = starts.length - 1
  const p = columns.length
  const own = Array.from({ length: k }, (_, r) => {
    const [from, to] = [starts[r]!, starts[r + 1]!]
    const said = { rows: p, columns: to - from, values: new Float64Array(p * (to - from)) }
    columns.forEach((column, j) => said.values.set(column.subarray(from, to), j * (to - from)))
    const product = gram(said)
    return combine(1 / roots[r]! ** 2, product, 0, product)
  })
  const rest = own.reduce((sum, each, r) => combine(1, sum, -variances[r]!, each), covariance)
  return [...own, combine(1 / variances[k]!, rest, 0, rest)]
}

/**
 * Of the random terms from both sides; of the residual from what scaling all variances alike does to the
 * score, which is known: the information times the variances is half of 2 (Pᵧ V_k Pᵧ) − tr(P V_k), and at
 * the maximum both are one.
 */
function slopeOfScore(at: At, bounded: readonly boolean[], evaluate: (variances: readonly number[]) => At): Dense {
  const { variances, score, traces } = at
  const m = variances.length
  const last = m - 1
  const found = dense(m, m)
  for (let a = 0; a < last; a++) {
    if (bounded[a]) continue
    const step = 1e-4 * variances[a]!
    const moved = (by: number): Float64Array => evaluate(variances.map((each, i) => (i === a ? each + by : each))).score
    const [up, down] = [moved(step), moved(-step)]
    for (let b = 0; b < m; b++) found.values[a * m + b] = -(up[b]! - down[b]!) / (2 * step)
  }
  for (let b = 0; b < m; b++) {
    const whole = traces[b]! / 2 + 2 * score[b]!
    let rest = whole
    for (let a = 0; a < last; a++) rest -= found.values[a * m + b]! * variances[a]!
    found.values[last * m + b] = rest / variances[last]!
  }
  return dense(m, m, (a, b) => (found.values[a * m + b]! + found.values[b * m + a]!) / 2)
}
