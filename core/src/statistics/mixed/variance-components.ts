import type { Classification } from '../linear/design-matrix.ts'
import { cholesky, combine, dense, inverse, part, solve, times, transpose, type Dense } from '../matrix/dense.ts'

/**
 * y = X β + Σ Z_k u_k + e with u_k ~ N(0, σ²_k I), e ~ N(0, σ²_e I). All that follows needs only the
 * products of the columns of X, the Z_k and y, so that the work grows with the number of effects and
 * not of observations (Henderson 1984; Lynch & Walsh 1998, ch. 26–27).
 */
export interface MixedModel {
  readonly y: Float64Array
  /** Columns of X, independent of each other. */
  readonly fixed: readonly Float64Array[]
  readonly random: readonly Classification[]
}

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
export interface AtVariances {
  readonly variances: readonly number[]
  /** log|V| + log|XᵀV⁻¹X| + yᵀPy + (n − p) log 2π. */
  readonly minusTwoLogLikelihood: number
  readonly beta: Float64Array
  /** (XᵀV⁻¹X)⁻¹. */
  readonly covariance: Dense
  /** Best linear unbiased predictions of the random effects, term by term. */
  readonly effects: Float64Array
  /** Of the log-likelihood by the variances. */
  readonly score: Float64Array
  readonly expectedInformation: Dense
  readonly averageInformation: Dense
  readonly observedInformation: Dense
  /** XᵀV⁻¹ V_k V⁻¹X. */
  readonly first: readonly Dense[]
  /** XᵀV⁻¹ V_k V⁻¹ V_l V⁻¹X. */
  readonly second: readonly (readonly Dense[])[]
}

export interface RemlFit extends AtVariances {
  /** Terms whose variance was estimated at zero, its bound. */
  readonly zero: readonly boolean[]
  readonly iterations: number
  readonly converged: boolean
}

const MOST_ITERATIONS = 200

/**
 * Restricted maximum likelihood by average information (Gilmour, Thompson & Cullis 1995), each step
 * halved until the likelihood does not fall, variances bounded at zero: one that would fall below stays
 * there as long as the likelihood rises towards it. Throws RangeError when there is nothing to estimate from.
 */
export function reml(model: MixedModel): RemlFit {
  const products = productsOf(model)
  const { n, p, starts } = products
  const k = starts.length - 1
  if (n <= p) throw new RangeError('There are no more observations than fixed effects')
  const spread = residualVariance(products)
  if (!(spread > 0)) throw new RangeError('Nothing is left over after the fixed effects')
  let at = atVariances(
    products,
    Array.from({ length: k + 1 }, (_, i) => (i === k ? spread / 2 : spread / (2 * k))),
  )
  const zero = Array.from({ length: k + 1 }, () => false)
  for (let iteration = 1; iteration <= MOST_ITERATIONS; iteration++) {
    for (let i = 0; i < k; i++) zero[i] = at.variances[i] === 0 && at.score[i]! <= 0
    const free = at.variances.flatMap((_, i) => (zero[i] ? [] : [i]))
    const step = stepFrom(at, free)
    let next = at
    for (let share = 1; share > 1e-10; share /= 2) {
      const tried = at.variances.map((variance, i) => {
        const to = variance + share * (step.get(i) ?? 0)
        return i === k ? Math.max(to, variance / 10) : Math.max(to, 0)
      })
      const there = atVariances(products, tried)
      if (there.minusTwoLogLikelihood <= at.minusTwoLogLikelihood + 1e-12 * Math.abs(at.minusTwoLogLikelihood)) {
        next = there
        break
      }
    }
    const total = at.variances.reduce((sum, each) => sum + each, 0)
    const moved = Math.max(...next.variances.map((each, i) => Math.abs(each - at.variances[i]!)))
    at = next
    // Below this only the rounding of sums of squares moves it.
    if (moved <= 1e-9 * total) {
      const done = at.variances.map((variance, i) => i < k && variance === 0)
      return { ...at, zero: done, iterations: iteration, converged: true }
    }
  }
  return { ...at, zero: at.variances.map((variance, i) => i < k && variance === 0), iterations: MOST_ITERATIONS, converged: false }
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
    const own = random.map((each, r) => starts[r]! + each.codes[i]!)
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
function atVariances({ n, p, starts, xx, xz, zz, xy, zy, yy }: Products, variances: readonly number[]): AtVariances {
  const k = starts.length - 1
  const q = starts.at(-1)!
  const residual = variances[k]!
  const root = new Float64Array(q)
  for (let r = 0; r < k; r++) root.fill(Math.sqrt(variances[r]! / residual), starts[r], starts[r + 1])
  const inner = cholesky(dense(q, q, (i, j) => root[i]! * zz.values[i * q + j]! * root[j]! + (i === j ? 1 : 0)))
  const scaled = (of: Dense): Dense => dense(of.rows, of.columns, (i, j) => root[i]! * of.values[i * of.columns + j]!)
  /** AᵀV⁻¹B from AᵀB, ZᵀA and ZᵀB. */
  const through = (ab: Dense, za: Dense, zb: Dense): Dense =>
    combine(1 / residual, ab, -1 / residual, times(transpose(scaled(za)), solve(inner, scaled(zb))))
  const zx = transpose(xz)
  const xvx = through(xx, zx, zx)
  const factor = cholesky(xvx)
  const covariance = inverse(xvx)
  const zvx = through(zx, zz, zx)
  const zvz = through(zz, zz, zz)
  const xvy = through(xy, zx, zy)
  const zvy = through(zy, zz, zy)
  const beta = solve(factor, xvy)
  const yvy = through(
    dense(1, 1, () => yy),
    zy,
    zy,
  ).values[0]!
  const ypy = yvy - beta.values.reduce((sum, each, i) => sum + each * xvy.values[i]!, 0)
  // Zᵀ P Z and Zᵀ P y.
  const zpz = combine(1, zvz, -1, times(zvx, solve(factor, transpose(zvx))))
  const zpy = combine(1, zvy, -1, times(zvx, beta))
  const range = (r: number): [number, number] => [starts[r]!, starts[r + 1]!]
  const terms = Array.from({ length: k }, (_, r) => r)
  const u = terms.map((r) => part(zpy, range(r), [0, 1]))
  const block = terms.map((r) => terms.map((s) => part(zpz, range(r), range(s))))

  // What the residual adds follows from P V P = P, term by term.
  const sizes = terms.map((r) => trace(block[r]![r]!))
  const traces = withResidual(sizes, n - p, variances)
  const squares = withResidual(
    u.map((each) => sumOfSquares(each.values)),
    ypy,
    variances,
  )
  const traced = closed(
    terms.map((r) => terms.map((s) => sumOfSquares(block[r]![s]!.values))),
    traces,
    variances,
  )
  const quadratic = closed(
    terms.map((r) => terms.map((s) => times(transpose(u[r]!), times(block[r]![s]!, u[s]!)).values[0]!)),
    squares,
    variances,
  )
  const m = k + 1
  const xf = terms.map((r) => part(transpose(zvx), [0, p], range(r)))
  const first = withResidualMatrix(
    xf.map((each) => times(each, transpose(each))),
    xvx,
    variances,
  )
  const second = closedMatrices(
    terms.map((r) => terms.map((s) => times(times(xf[r]!, part(zvz, range(r), range(s))), transpose(xf[s]!)))),
    first,
    variances,
  )
  return {
    variances,
    minusTwoLogLikelihood: n * Math.log(residual) + inner.logDeterminant + factor.logDeterminant + ypy + (n - p) * Math.log(2 * Math.PI),
    beta: beta.values,
    covariance,
    effects: Float64Array.from(zpy.values, (each, i) => each * root[i]! ** 2 * residual),
    score: Float64Array.from({ length: m }, (_, i) => (squares[i]! - traces[i]!) / 2),
    expectedInformation: dense(m, m, (i, j) => traced[i]![j]! / 2),
    averageInformation: dense(m, m, (i, j) => quadratic[i]![j]! / 2),
    observedInformation: dense(m, m, (i, j) => quadratic[i]![j]! - traced[i]![j]! / 2),
    first,
    second,
  }
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
