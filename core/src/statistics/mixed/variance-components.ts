import {
  cholesky,
  combine,
  dense,
  forward,
  gram,
  inverseFrom,
  part,
  solve,
  times,
  timesTransposed,
  transpose,
  type Dense,
} from '../matrix/dense.ts'
import { centred, once, type Likelihood, type MixedFit, type MixedModel } from './mixed-fit.ts'
import { remlSparse } from './sparse-components.ts'

/** Products of the columns that everything is worked out from. */
interface Products {
  readonly n: number
  readonly p: number
  /** Where the effects of each random term begin; the last entry is their number. */
  readonly starts: readonly number[]
  readonly xx: Dense
  readonly xz: Dense
  readonly zz: Dense
  readonly xy: Dense
  readonly zy: Dense
  readonly yy: number
}

/** Quantities at some variances; K random terms come before the residual, which is the last. */
interface AtVariances {
  readonly variances: readonly number[]
  readonly minusTwoLogLikelihood: number
  readonly beta: Float64Array
  readonly covariance: Dense
  /** Of the log-likelihood by the variances. */
  readonly score: Float64Array
  readonly averageInformation: Dense
  /** Zᵀ P y and the square roots of the ratios of variances: predictions are their squares times the residual variance times it. */
  readonly zpy: Float64Array
  readonly xvx: Dense
  readonly zvx: Dense
  readonly zvz: Dense
  /** Of Zᵀ P Z (REML) or Zᵀ V⁻¹ Z (ML), by pairs of terms, and the traces of all. */
  readonly blocks: readonly (readonly Dense[])[]
  readonly zpz: Dense
  readonly traces: readonly number[]
}

const MOST_ITERATIONS = 200
/** Times what is left over after the fixed effects that no variance of a random term comes to. */
const ENDLESS = 1e6
const MANY_EFFECTS = 60

/**
 * Restricted maximum likelihood by average information (Gilmour, Thompson & Cullis 1995), each step
 * halved until the likelihood does not fall, variances bounded at zero: one that would fall below stays
 * there as long as the likelihood rises towards it. Throws RangeError when there is nothing to estimate from.
 */
export function reml(
  model: MixedModel,
  likelihood: Likelihood = 'REML',
  onStep?: (iteration: number, minusTwoLogLikelihood: number) => void,
): MixedFit {
  return centred(model, (own) => fitted(own, likelihood, onStep))
}

function fitted(model: MixedModel, likelihood: Likelihood, onStep?: (iteration: number, minusTwoLogLikelihood: number) => void): MixedFit {
  const products = productsOf(model)
  const { n, p, starts } = products
  const k = starts.length - 1
  if (n <= p) throw new RangeError('There are no more observations than fixed effects')
  const spread = residualVariance(products)
  if (!(spread > 0)) throw new RangeError('Nothing is left over after the fixed effects')
  // Many effects come near the maximum by sparse equations first, where a step costs less.
  const near = starts[k]! >= MANY_EFFECTS && likelihood === 'REML' ? remlSparse(model, onStep).values : null
  let at = atVariances(products, near ?? Array.from({ length: k + 1 }, (_, i) => (i === k ? spread / 2 : spread / (2 * k))), likelihood)
  const zero = Array.from({ length: k + 1 }, () => false)
  let iterations = 0
  let converged = k === 0
  if (k === 0) at = atVariances(products, [likelihood === 'ML' ? (spread * (n - p)) / n : spread], likelihood)
  while (!converged && iterations < MOST_ITERATIONS) {
    iterations++
    for (let i = 0; i < k; i++) zero[i] = at.variances[i] === 0 && at.score[i]! <= 0
    const free = at.variances.flatMap((_, i) => (zero[i] ? [] : [i]))
    const step = stepFrom(at, free)
    let next = at
    for (let share = 1; share > 1e-10; share /= 2) {
      const tried = at.variances.map((variance, i) => {
        const to = variance + share * (step.get(i) ?? 0)
        return i === k ? Math.max(to, variance / 10) : Math.max(to, 0)
      })
      const there = atVariances(products, tried, likelihood)
      if (there.minusTwoLogLikelihood <= at.minusTwoLogLikelihood + 1e-12 * Math.abs(at.minusTwoLogLikelihood)) {
        next = there
        break
      }
    }
    const total = at.variances.reduce((sum, each) => sum + each, 0)
    const moved = Math.max(...next.variances.map((each, i) => Math.abs(each - at.variances[i]!)))
    at = next
    onStep?.(iterations, at.minusTwoLogLikelihood)
    // Below this only the rounding of sums of squares moves it.
    converged = moved <= 1e-9 * total
  }
  // A likelihood that is flat in a variance leaves it anywhere: nothing is known of it.
  if (at.variances.some((each) => each > ENDLESS * spread)) throw new RangeError('The values say nothing of one of the variances')
  return fitAt(model, products, at, { likelihood, iterations, converged })
}

function fitAt(
  { y, fixed, random }: MixedModel,
  { n, starts }: Products,
  at: AtVariances,
  how: Pick<MixedFit, 'likelihood' | 'iterations' | 'converged'>,
): MixedFit {
  const { variances, beta, covariance, zpy, zpz } = at
  const k = starts.length - 1
  const q = starts.at(-1)!
  const expected = (): Dense => expectedInformation(at, starts)
  const first = once(() => firstDerivatives(at, starts))
  const second = once(() => secondDerivatives(at, starts, first()))
  return {
    ...how,
    parameters: [...random.map(({ name }) => name), 'residual'].map((name) => ({ name, kind: 'variance' })),
    values: variances,
    bounded: variances.map((variance, i) => i < k && variance === 0),
    minusTwoLogLikelihood: at.minusTwoLogLikelihood,
    observations: n,
    beta,
    covariance,
    changes: once(() => first().map((each) => times(times(covariance, each), covariance))),
    observedInformation: () => combine(2, at.averageInformation, -1, expected()),
    expansion: { expectedInformation: expected, first, second: (i, j) => second()[i]![j]! },
    predictions: () =>
      random.map((_, r) => ({
        effects: zpy.slice(starts[r], starts[r + 1]).map((each) => each * variances[r]!),
        errors: Float64Array.from({ length: starts[r + 1]! - starts[r]! }, (_each, i) => {
          const place = starts[r]! + i
          return Math.sqrt(Math.max(0, variances[r]! - variances[r]! ** 2 * zpz.values[place * q + place]!))
        }),
      })),
    residuals: () => {
      const marginal = Float64Array.from(y, (value, i) => fixed.reduce((left, column, j) => left - column[i]! * beta[j]!, value))
      const conditional = marginal.map((value, i) =>
        random.reduce((left, { codes }, r) => (codes[i]! < 0 ? left : left - variances[r]! * zpy[starts[r]! + codes[i]!]!), value),
      )
      return { marginal, conditional }
    },
  }
}

/** The step of average information on the variances that are free to move; along the gradient where that matrix is of no use. */
function stepFrom({ averageInformation: information, score }: AtVariances, free: readonly number[]): Map<number, number> {
  const own = dense(free.length, free.length, (i, j) => information.values[free[i]! * information.columns + free[j]!]!)
  const slope = dense(free.length, 1, (i) => score[free[i]!]!)
  try {
    const step = solve(cholesky(own), slope)
    return new Map(free.map((i, f) => [i, step.values[f]!]))
  } catch {
    return new Map(free.map((i, f) => [i, score[i]! / Math.max(own.values[f * free.length + f]!, 1e-12)]))
  }
}

function productsOf({ y, fixed, random }: MixedModel): Products {
  const n = y.length
  const p = fixed.length
  const starts = random.reduce<number[]>((found, each) => [...found, found.at(-1)! + each.levels.length], [0])
  const q = starts.at(-1)!
  const inner = (a: Float64Array, b: Float64Array): number => {
    let sum = 0
    for (let i = 0; i < n; i++) sum += a[i]! * b[i]!
    return sum
  }
  const [xz, zz, zy] = [dense(p, q), dense(q, q), dense(q, 1)]
  for (let i = 0; i < n; i++) {
    const own = random.flatMap((each, r) => (each.codes[i]! < 0 ? [] : [starts[r]! + each.codes[i]!]))
    for (const a of own) {
      zy.values[a]! += y[i]!
      for (const b of own) zz.values[a * q + b]! += 1
      for (let j = 0; j < p; j++) xz.values[j * q + a]! += fixed[j]![i]!
    }
  }
  return {
    n,
    p,
    starts,
    xx: dense(p, p, (i, j) => inner(fixed[i]!, fixed[j]!)),
    xz,
    zz,
    xy: dense(p, 1, (i) => inner(fixed[i]!, y)),
    zy,
    yy: inner(y, y),
  }
}

/** Of the fixed effects alone. */
function residualVariance({ n, p, xx, xy, yy }: Products): number {
  const beta = solve(cholesky(xx), xy)
  return (yy - beta.values.reduce((sum, each, i) => sum + each * xy.values[i]!, 0)) / (n - p)
}

/** σ²_e V⁻¹ = I − Z T Zᵀ with T = Λ (I + Λ ZᵀZ Λ)⁻¹ Λ, Λ² = σ²_k / σ²_e: of use at zero variances too. */
function atVariances(
  { n, p, starts, xx, xz, zz, xy, zy, yy }: Products,
  variances: readonly number[],
  likelihood: Likelihood,
): AtVariances {
  const k = starts.length - 1
  const q = starts.at(-1)!
  const residual = variances[k]!
  const root = new Float64Array(q)
  for (let r = 0; r < k; r++) root.fill(Math.sqrt(variances[r]! / residual), starts[r], starts[r + 1])
  const inner = cholesky(dense(q, q, (i, j) => root[i]! * zz.values[i * q + j]! * root[j]! + (i === j ? 1 : 0)))
  /** L⁻¹ Λ ZᵀA, whose products say what Z takes from V⁻¹. */
  const taken = (za: Dense): Dense => {
    const m = za.columns
    return forward(
      inner,
      dense(q, m, (i, j) => root[i]! * za.values[i * m + j]!),
    )
  }
  /** AᵀV⁻¹B from AᵀB and what is taken. */
  const less = (ab: Dense, a: Dense, b: Dense): Dense =>
    combine(1 / residual, ab, -1 / residual, a === b ? gram(transpose(a)) : timesTransposed(transpose(a), transpose(b)))
  const zx = transpose(xz)
  const [tx, tz, ty] = [taken(zx), taken(zz), taken(zy)]
  const xvx = less(xx, tx, tx)
  const factor = cholesky(xvx)
  const covariance = inverseFrom(factor)
  const zvx = less(zx, tz, tx)
  const zvz = less(zz, tz, tz)
  const xvy = less(xy, tx, ty)
  const zvy = less(zy, tz, ty)
  const beta = times(covariance, xvy).values
  const yvy = (yy - sumOfSquares(ty.values)) / residual
  const ypy = yvy - beta.reduce((sum, each, i) => sum + each * xvy.values[i]!, 0)
  // Zᵀ P Z and Zᵀ P y.
  const held = transpose(forward(factor, transpose(zvx)))
  const zpz = combine(1, zvz, -1, gram(held))
  const zpy = combine(
    1,
    zvy,
    -1,
    times(
      zvx,
      dense(p, 1, (i) => beta[i]!),
    ),
  ).values
  const range = (r: number): [number, number] => [starts[r]!, starts[r + 1]!]
  const terms = Array.from({ length: k }, (_, r) => r)
  const u = terms.map((r) => zpy.slice(...range(r)))
  const judged = likelihood === 'REML' ? zpz : zvz
  const blocks = terms.map((r) => terms.map((s) => part(judged, range(r), range(s))))

  // What the residual adds follows from P V P = P, term by term.
  const traces = withResidual(terms.map((r) => trace(blocks[r]![r]!)), likelihood === 'REML' ? n - p : n, variances) // prettier-ignore
  const squares = withResidual(u.map(sumOfSquares), ypy, variances)
  const quadratic = closed(
    terms.map((r) => terms.map((s) => quadraticIn(zpz, u[r]!, starts[r]!, u[s]!, starts[s]!))),
    squares,
    variances,
  )
  const m = k + 1
  const constant = (likelihood === 'REML' ? n - p : n) * Math.log(2 * Math.PI)
  return {
    variances,
    minusTwoLogLikelihood:
      n * Math.log(residual) + inner.logDeterminant + (likelihood === 'REML' ? factor.logDeterminant : 0) + ypy + constant,
    beta,
    covariance,
    zpy,
    xvx,
    zvx,
    zvz,
    blocks,
    zpz,
    traces,
    score: Float64Array.from({ length: m }, (_, i) => (squares[i]! - traces[i]!) / 2),
    averageInformation: dense(m, m, (i, j) => quadratic[i]![j]! / 2),
  }
}

/** uᵀ A v of a part of A. */
function quadraticIn({ columns, values }: Dense, u: Float64Array, top: number, v: Float64Array, left: number): number {
  let sum = 0
  for (let i = 0; i < u.length; i++) {
    let row = 0
    for (let j = 0; j < v.length; j++) row += values[(top + i) * columns + left + j]! * v[j]!
    sum += u[i]! * row
  }
  return sum
}

function expectedInformation({ blocks, traces, variances }: AtVariances, starts: readonly number[]): Dense {
  const m = starts.length
  const traced = closed(
    blocks.map((row) => row.map((each) => sumOfSquares(each.values))),
    traces,
    variances,
  )
  return dense(m, m, (i, j) => traced[i]![j]! / 2)
}

function firstDerivatives({ zvx, xvx, variances }: AtVariances, starts: readonly number[]): Dense[] {
  const own = starts.slice(1).map((end, r) => {
    const held = transpose(part(zvx, [starts[r]!, end], [0, zvx.columns]))
    return gram(held)
  })
  return withResidualMatrix(own, xvx, variances)
}

function secondDerivatives({ zvx, zvz, variances }: AtVariances, starts: readonly number[], first: readonly Dense[]): Dense[][] {
  const range = (r: number): [number, number] => [starts[r]!, starts[r + 1]!]
  const held = starts.slice(1).map((_, r) => part(zvx, range(r), [0, zvx.columns]))
  const own = held.map((a, r) => held.map((b, s) => times(transpose(a), times(part(zvz, range(r), range(s)), b))))
  return closedMatrices(own, first, variances)
}

function trace({ rows, values }: Dense): number {
  let sum = 0
  for (let i = 0; i < rows; i++) sum += values[i * rows + i]!
  return sum
}

function sumOfSquares(values: Float64Array): number {
  return values.reduce((sum, each) => sum + each * each, 0)
}

/** Figures of the random terms with that of the residual: all of them, each times its variance, make the whole. */
function withResidual(own: readonly number[], whole: number, variances: readonly number[]): number[] {
  const rest = own.reduce((sum, each, r) => sum - variances[r]! * each, whole)
  return [...own, rest / variances.at(-1)!]
}

/** The same in two directions. */
function closed(own: readonly (readonly number[])[], margins: readonly number[], variances: readonly number[]): number[][] {
  const rows = own.map((row, r) => withResidual(row, margins[r]!, variances))
  const last = rows.map((row) => row.at(-1)!)
  return [...rows, withResidual(last, margins.at(-1)!, variances)]
}

function withResidualMatrix(own: readonly Dense[], whole: Dense, variances: readonly number[]): Dense[] {
  const rest = own.reduce((sum, each, r) => combine(1, sum, -variances[r]!, each), whole)
  return [...own, combine(1 / variances.at(-1)!, rest, 0, rest)]
}

function closedMatrices(own: readonly (readonly Dense[])[], margins: readonly Dense[], variances: readonly number[]): Dense[][] {
  const rows = own.map((row, r) => withResidualMatrix(row, margins[r]!, variances))
  const last = rows.map((row) => transpose(row.at(-1)!))
  return [...rows, withResidualMatrix(last, margins.at(-1)!, variances)]
}
