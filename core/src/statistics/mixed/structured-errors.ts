import type { Classification } from '../linear/design-matrix.ts'
import { cholesky, combine, dense, inverse, inverseFrom, solve, times, traceOfProduct, transpose, type Dense } from '../matrix/dense.ts'
import type { ErrorModel } from './errors/error-model.ts'
import { centred, once, type Likelihood, type MixedFit } from './mixed-fit.ts'

/** y = X β + Σ Z_k u_k + e, where the errors are spread and go together as a model of them says. */
export interface StructuredModel {
  readonly y: Float64Array
  /** Columns of X, independent of each other. */
  readonly fixed: readonly Float64Array[]
  readonly random: readonly Classification[]
  readonly errors: ErrorModel
}

export interface StructuredOptions {
  readonly likelihood?: Likelihood
  /** Told after each step, with −2 log-likelihood; what it throws stops the fit. */
  readonly onStep?: (iteration: number, minusTwoLogLikelihood: number) => void
}

/** One set of observations that are independent of all others. */
interface Block {
  readonly rows: Int32Array
  readonly x: Dense
  readonly y: Float64Array
  /** Where two observations are of one unit of each random term. */
  readonly shared: readonly Dense[]
}

interface BlockAt {
  readonly inverse: Dense
  /** V⁻¹ X and V⁻¹ y. */
  readonly w: Dense
  readonly changes: readonly (Dense | null)[]
}

interface At {
  readonly values: readonly number[]
  readonly minusTwoLogLikelihood: number
  readonly beta: Float64Array
  readonly covariance: Dense
  readonly blocks: readonly BlockAt[]
  /** P y by block. */
  readonly left: readonly Float64Array[]
  readonly score: Float64Array
  readonly averageInformation: Dense
  readonly first: readonly Dense[]
}

const MOST_ITERATIONS = 200
/** Parameters² × effects² beyond which the pairs that Kenward and Roger's method needs are not worked out. */
const MOST_PAIRS = 4e7

/**
 * Restricted or full maximum likelihood by average information, block by block of observations that are
 * independent of all others; steps halved until the likelihood does not fall and every parameter stays
 * inside its bounds. Throws RangeError when there is nothing to estimate from.
 */
export function fitStructured(model: StructuredModel, options: StructuredOptions = {}): MixedFit {
  return centred(model, (own) => fitted(own, options))
}

function fitted(model: StructuredModel, { likelihood = 'REML', onStep }: StructuredOptions): MixedFit {
  const { y, fixed, random, errors } = model
  if (y.length <= fixed.length) throw new RangeError('There are no more observations than fixed effects')
  const blocks = blocksOf(model)
  const k = random.length
  const bounds = [...random.map(() => ({ lower: 0, upper: Infinity, restsAtLower: true })), ...errors.parameters]
  const { variance, residuals } = leastSquares(y, fixed)
  if (!(variance > 0)) throw new RangeError('Nothing is left over after the fixed effects')
  const evaluate = (values: readonly number[]): At => evaluateAt(model, blocks, values, likelihood)
  let at = startFrom(
    errors.starts(k > 0 ? variance / 2 : variance, residuals).map((start) => [...random.map(() => variance / (2 * k)), ...start]),
    evaluate,
  )
  const resting = (i: number): boolean => Boolean(bounds[i]!.restsAtLower) && at.values[i] === bounds[i]!.lower
  let [iterations, converged] = [0, false]
  while (!converged && iterations < MOST_ITERATIONS) {
    iterations++
    const free = at.values.flatMap((_, i) => (resting(i) && at.score[i]! <= 0 ? [] : [i]))
    const step = stepFrom(at, free)
    let next = at
    for (let share = 1; share > 1e-10; share /= 2) {
      const tried = at.values.map((each, i) => within(each, each + share * (step.get(i) ?? 0), bounds[i]!))
      const there = attempt(() => evaluate(tried))
      if (there && there.minusTwoLogLikelihood <= at.minusTwoLogLikelihood + 1e-12 * Math.abs(at.minusTwoLogLikelihood)) {
        next = there
        break
      }
    }
    const moved = Math.max(
      ...next.values.map((each, i) => Math.abs(each - at.values[i]!) / (Math.abs(each) + (kindOf(i) ? 0.01 : 0.01 * variance))),
    )
    at = next
    onStep?.(iterations, at.minusTwoLogLikelihood)
    converged = moved <= 1e-8
  }
  /** Correlations and nuggets are measured against one, all else against the variance. */
  function kindOf(i: number): boolean {
    return i >= k && ['correlation', 'nugget'].includes(errors.parameters[i - k]!.kind)
  }
  const scales = at.values.map((each, i) => (kindOf(i) ? 1 : Math.max(Math.abs(each), 1e-3 * variance)))
  const pairs = at.values.length ** 2 * fixed.length ** 2
  const expected = once(() => expectedInformation(at, likelihood))
  return {
    likelihood,
    parameters: [
      ...random.map(({ name }) => ({ name, kind: 'variance' as const })),
      ...errors.parameters.map(({ name, kind }) => ({ name, kind })),
    ],
    values: at.values,
    bounded: at.values.map((_, i) => resting(i)),
    converged,
    iterations,
    minusTwoLogLikelihood: at.minusTwoLogLikelihood,
    observations: y.length,
    beta: at.beta,
    covariance: at.covariance,
    changes: once(() => at.first.map((each) => times(times(at.covariance, each), at.covariance))),
    observedInformation: once(() =>
      errors.linear ? combine(2, at.averageInformation, -1, expected()) : slopeOfScore(at, scales, bounds, evaluate),
    ),
    expansion:
      errors.linear && pairs <= MOST_PAIRS
        ? { expectedInformation: expected, first: () => at.first, second: (a, b) => secondDerivative(at, a, b) }
        : null,
    predictions: () => predictionsOf(model, blocks, at),
    residuals: () => residualsOf(model, blocks, at),
  }
}

/** Observations that share a unit of any random term, or a group of the errors, are of one block. */
function blocksOf({ y, fixed, random, errors }: StructuredModel): Block[] {
  const parent = Int32Array.from(y, (_, i) => i)
  const root = (i: number): number => {
    let at = i
    while (parent[at] !== at) at = parent[at] = parent[parent[at]!]!
    return at
  }
  for (const codes of [...random.map((each) => each.codes), errors.groups ?? new Int32Array(y.length)]) {
    const seen = new Map<number, number>()
    codes.forEach((code, i) => {
      if (code < 0) return
      const first = seen.get(code)
      if (first === undefined) seen.set(code, i)
      else parent[root(i)] = root(first)
    })
  }
  const members = new Map<number, number[]>()
  y.forEach((_, i) => members.set(root(i), [...(members.get(root(i)) ?? []), i]))
  return [...members.values()].map((own) => {
    const rows = Int32Array.from(own)
    return {
      rows,
      x: dense(rows.length, fixed.length, (i, j) => fixed[j]![rows[i]!]!),
      y: Float64Array.from(rows, (i) => y[i]!),
      shared: random.map(({ codes }) =>
        dense(rows.length, rows.length, (i, j) => (codes[rows[i]!]! >= 0 && codes[rows[i]!] === codes[rows[j]!] ? 1 : 0)),
      ),
    }
  })
}

function evaluateAt(
  { random, errors, y, fixed }: StructuredModel,
  blocks: readonly Block[],
  values: readonly number[],
  likelihood: Likelihood,
): At {
  const [n, p, k, m] = [y.length, fixed.length, random.length, values.length]
  const xvy = new Float64Array(p)
  let [xvx, yvy, logDeterminant] = [dense(p, p), 0, 0]
  const found = blocks.map(({ rows, x, y: own, shared }) => {
    const { covariance, changes } = errorsAt(errors, values.slice(k), rows)
    let v = covariance
    shared.forEach((each, r) => (v = combine(1, v, values[r]!, each)))
    const factor = cholesky(v)
    logDeterminant += factor.logDeterminant
    const inverseOfV = inverseFrom(factor)
    const w = times(inverseOfV, x)
    const turned = transpose(w)
    xvx = combine(1, xvx, 1, times(turned, x))
    for (let i = 0; i < rows.length; i++) for (let j = 0; j < p; j++) xvy[j]! += w.values[i * p + j]! * own[i]!
    const held = applied(inverseOfV, own)
    for (let i = 0; i < rows.length; i++) yvy += held[i]! * own[i]!
    return { inverse: inverseOfV, w, held, changes: [...shared, ...changes] }
  })
  const factor = cholesky(xvx)
  const covariance = inverseFrom(factor)
  const beta = applied(covariance, xvy)
  const ypy = yvy - beta.reduce((sum, each, j) => sum + each * xvy[j]!, 0)
  const left = found.map(({ w, held }) => held.map((each, i) => each - rowTimes(w, i, beta)))
  const first: Dense[] = []
  const score = new Float64Array(m)
  const moved: (Float64Array | null)[][] = []
  const across: Float64Array[] = []
  for (let a = 0; a < m; a++) {
    let [own, square, trace] = [dense(p, p), 0, 0]
    const sums = new Float64Array(p)
    moved.push(
      found.map(({ inverse: inverseOfV, w, changes }, b) => {
        const change = changes[a]
        if (!change) return null
        const f = applied(change, left[b]!)
        for (let i = 0; i < f.length; i++) {
          square += f[i]! * left[b]![i]!
          for (let j = 0; j < p; j++) sums[j]! += w.values[i * p + j]! * f[i]!
        }
        trace += traceOfProduct(inverseOfV, change)
        own = combine(1, own, 1, times(transpose(w), times(change, w)))
        return f
      }),
    )
    across.push(sums)
    first.push(own)
    const taken = likelihood === 'REML' ? traceOfProduct(covariance, own) : 0
    score[a] = (square - (trace - taken)) / 2
  }
  const averageInformation = dense(m, m)
  for (let a = 0; a < m; a++) {
    const through = found.map(({ inverse: inverseOfV }, b) => (moved[a]![b] ? applied(inverseOfV, moved[a]![b]!) : null))
    const own = applied(covariance, across[a]!)
    for (let c = 0; c <= a; c++) {
      let sum = 0
      through.forEach((each, b) => {
        const other = moved[c]![b]
        if (each && other) for (let i = 0; i < each.length; i++) sum += each[i]! * other[i]!
      })
      for (let j = 0; j < p; j++) sum -= own[j]! * across[c]![j]!
      averageInformation.values[a * m + c] = averageInformation.values[c * m + a] = sum / 2
    }
  }
  const restricted = likelihood === 'REML'
  return {
    values,
    minusTwoLogLikelihood:
      logDeterminant + (restricted ? factor.logDeterminant : 0) + ypy + (restricted ? n - p : n) * Math.log(2 * Math.PI),
    beta,
    covariance,
    blocks: found,
    left,
    score,
    averageInformation,
    first,
  }
}

/** Of observations that are of one block by a random term, those of different groups of errors have nothing in common but that. */
function errorsAt(errors: ErrorModel, values: readonly number[], rows: Int32Array): ReturnType<ErrorModel['at']> {
  const found = errors.at(values, rows)
  const { groups } = errors
  if (!groups || rows.every((row) => groups[row] === groups[rows[0]!])) return found
  const apart = (of: Dense): Dense => {
    const values = Float64Array.from(of.values)
    for (let i = 0; i < rows.length; i++)
      for (let j = 0; j < rows.length; j++) if (groups[rows[i]!] !== groups[rows[j]!]) values[i * rows.length + j] = 0
    return { ...of, values }
  }
  return { covariance: apart(found.covariance), changes: found.changes.map((each) => each && apart(each)) }
}

/** ½ tr(P V_k P V_l), or without what the fixed effects take where the likelihood is the full one. */
function expectedInformation({ blocks, covariance, first }: At, likelihood: Likelihood): Dense {
  const m = first.length
  const found = dense(m, m)
  for (const { inverse: inverseOfV, changes } of blocks) {
    const through = changes.map((each) => each && times(inverseOfV, each))
    through.forEach((one, a) =>
      through.forEach((other, b) => {
        if (one && other) found.values[a * m + b]! += traceOfProduct(one, other) / 2
      }),
    )
  }
  if (likelihood === 'ML') return found
  const held = first.map((each) => times(covariance, each))
  const at = { blocks, covariance, first }
  for (let a = 0; a < m; a++) {
    for (let b = 0; b <= a; b++) {
      const less = traceOfProduct(held[a]!, held[b]!) / 2 - traceOfProduct(covariance, secondDerivative(at, a, b))
      found.values[a * m + b]! += less
      if (b < a) found.values[b * m + a]! += less
    }
  }
  return found
}

/** XᵀV⁻¹ V_a V⁻¹ V_b V⁻¹X. */
function secondDerivative({ blocks, covariance }: Pick<At, 'blocks' | 'covariance'>, a: number, b: number): Dense {
  let found = dense(covariance.rows, covariance.rows)
  for (const { inverse: inverseOfV, w, changes } of blocks) {
    const [one, other] = [changes[a], changes[b]]
    if (one && other) found = combine(1, found, 1, times(transpose(times(one, w)), times(inverseOfV, times(other, w))))
  }
  return found
}

/** What the score changes by with each parameter, from both sides. */
function slopeOfScore(
  at: At,
  scales: readonly number[],
  bounds: readonly { lower: number; upper: number }[],
  evaluate: (values: readonly number[]) => At,
): Dense {
  const m = at.values.length
  const found = dense(m, m)
  for (let a = 0; a < m; a++) {
    const room = Math.min(at.values[a]! - bounds[a]!.lower, bounds[a]!.upper - at.values[a]!)
    const step = Math.min(1e-4 * scales[a]!, 0.4 * room)
    // At its bound a parameter is none, and its slope is not asked for.
    if (!(step > 0)) continue
    const moved = (by: number): Float64Array => evaluate(at.values.map((each, i) => (i === a ? each + by : each))).score
    const [up, down] = [moved(step), moved(-step)]
    for (let b = 0; b < m; b++) found.values[a * m + b] = -(up[b]! - down[b]!) / (2 * step)
  }
  return dense(m, m, (a, b) => (found.values[a * m + b]! + found.values[b * m + a]!) / 2)
}

function startFrom(starts: readonly (readonly number[])[], evaluate: (values: readonly number[]) => At): At {
  const found = starts.flatMap((each) => attempt(() => evaluate(each)) ?? [])
  if (found.length === 0) throw new RangeError('No covariance to begin from was found')
  return found.reduce((best, each) => (each.minusTwoLogLikelihood < best.minusTwoLogLikelihood ? each : best))
}

/** What comes of it, or null where there is no such covariance. */
function attempt(of: () => At): At | null {
  try {
    const at = of()
    return Number.isFinite(at.minusTwoLogLikelihood) ? at : null
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** On the way to a bound it stops nine tenths before it, but where it may rest there. */
function within(
  from: number,
  to: number,
  { lower, upper, restsAtLower }: { lower: number; upper: number; restsAtLower?: boolean },
): number {
  if (to <= lower) return restsAtLower ? lower : from + 0.9 * (lower - from)
  return to >= upper ? from + 0.9 * (upper - from) : to
}

function stepFrom({ averageInformation: information, score }: At, free: readonly number[]): Map<number, number> {
  const own = dense(free.length, free.length, (i, j) => information.values[free[i]! * information.columns + free[j]!]!)
  const slope = dense(free.length, 1, (i) => score[free[i]!]!)
  for (let ridge = 0; ridge < 1; ridge = ridge === 0 ? 1e-8 : ridge * 100) {
    try {
      const held = dense(free.length, free.length, (i, j) => own.values[i * free.length + j]! * (i === j ? 1 + ridge : 1))
      const step = solve(cholesky(held), slope)
      return new Map(free.map((i, f) => [i, step.values[f]!]))
    } catch (error) {
      if (!(error instanceof RangeError)) throw error
    }
  }
  return new Map(free.map((i, f) => [i, score[i]! / Math.max(own.values[f * free.length + f]!, 1e-12)]))
}

function leastSquares(y: Float64Array, fixed: readonly Float64Array[]): { variance: number; residuals: Float64Array } {
  const [n, p] = [y.length, fixed.length]
  const x = dense(n, p, (i, j) => fixed[j]![i]!)
  const turned = transpose(x)
  const beta = applied(times(inverse(times(turned, x)), turned), y)
  const residuals = y.map((each, i) => each - rowTimes(x, i, beta))
  return { variance: residuals.reduce((sum, each) => sum + each * each, 0) / (n - p), residuals }
}

function predictionsOf({ random }: StructuredModel, blocks: readonly Block[], { values, left, covariance, blocks: found }: At) {
  return random.map(({ codes, levels }, r) => {
    const effects = new Float64Array(levels.length)
    const errors = new Float64Array(levels.length).fill(Math.sqrt(values[r]!))
    blocks.forEach(({ rows }, b) => {
      const { inverse: inverseOfV, w } = found[b]!
      for (const level of new Set(rows.map((i) => codes[i]!))) {
        if (level < 0) continue
        const own = [...rows.keys()].filter((i) => codes[rows[i]!] === level)
        effects[level] = values[r]! * own.reduce((sum, i) => sum + left[b]![i]!, 0)
        // zᵀ P z of the observations of this level.
        const zvz = own.reduce((sum, i) => own.reduce((row, j) => row + inverseOfV.values[i * rows.length + j]!, sum), 0)
        const zw = Float64Array.from({ length: w.columns }, (_, j) => own.reduce((sum, i) => sum + w.values[i * w.columns + j]!, 0))
        const taken = zw.reduce((sum, each, j) => sum + each * rowTimes(covariance, j, zw), 0)
        errors[level] = Math.sqrt(Math.max(0, values[r]! - values[r]! ** 2 * (zvz - taken)))
      }
    })
    return { effects, errors }
  })
}

function residualsOf(model: StructuredModel, blocks: readonly Block[], at: At): { marginal: Float64Array; conditional: Float64Array } {
  const marginal = model.y.map((each, i) => model.fixed.reduce((left, column, j) => left - column[i]! * at.beta[j]!, each))
  const predicted = predictionsOf(model, blocks, at)
  const conditional = marginal.map((each, i) =>
    model.random.reduce((left, { codes }, r) => (codes[i]! < 0 ? left : left - predicted[r]!.effects[codes[i]!]!), each),
  )
  return { marginal, conditional }
}

/** A v. */
function applied({ rows, columns, values }: Dense, v: ArrayLike<number>): Float64Array {
  const found = new Float64Array(rows)
  for (let i = 0; i < rows; i++) {
    let sum = 0
    for (let j = 0; j < columns; j++) sum += values[i * columns + j]! * v[j]!
    found[i] = sum
  }
  return found
}

function rowTimes({ columns, values }: Dense, row: number, v: Float64Array): number {
  let sum = 0
  for (let j = 0; j < columns; j++) sum += values[row * columns + j]! * v[j]!
  return sum
}
