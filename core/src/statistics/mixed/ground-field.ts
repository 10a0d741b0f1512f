import { cholesky, combine, dense, solve, type Dense } from '../matrix/dense.ts'
import { SparseCholesky } from '../matrix/sparse.ts'
import { mixedEquations, type MixedEquations } from './mixed-equations.ts'
import { centred, once, type MixedFit } from './mixed-fit.ts'

/** y = X β + what the ground adds + e, on a grid that may have gaps. */
export interface FieldModel {
  readonly y: Float64Array
  /** Columns of X, independent of each other; reference-level coding keeps them sparse. */
  readonly fixed: readonly Float64Array[]
  /** Row and column of each observation, counted from zero; no two of one place. */
  readonly rows: Int32Array
  readonly columns: Int32Array
}

/** ground variance, correlation from row to row, from column to column, nugget. */
type Four = readonly [number, number, number, number]

interface At {
  readonly values: Four
  readonly minusTwoLogLikelihood: number
  readonly solution: Float64Array
  /** Of −2 log-likelihood, by the four. */
  readonly slope: readonly number[]
}

const MOST_ITERATIONS = 100

/**
 * Separable first-order autoregression along rows and columns with a nugget, by REML, for fields too
 * large for matrices of observation by observation: the autoregression of a whole grid has an inverse
 * that is zero but among neighbours (Martin 1990), so that the equations stay sparse; plots that are
 * missing are places without an observation. Quasi-Newton steps (Broyden, Fletcher, Goldfarb, Shanno) on the
 * logarithms of the variances and Fisher's transforms of the correlations. Throws RangeError when there
 * is nothing to estimate from.
 */
export function fitField(model: FieldModel, onStep?: (iteration: number, minusTwoLogLikelihood: number) => void): MixedFit {
  return centred(model, (own) => fitted(own, onStep))
}

function fitted(model: FieldModel, onStep?: (iteration: number, minusTwoLogLikelihood: number) => void): MixedFit {
  const { y, fixed, rows, columns } = model
  const [n, p] = [y.length, fixed.length]
  if (n <= p) throw new RangeError('There are no more observations than fixed effects')
  const height = Math.max(...rows) + 1
  const width = Math.max(...columns) + 1
  const places = {
    name: 'place',
    levels: Array.from({ length: height * width }, (_, i) => String(i)),
    codes: rows.map((row, i) => row * width + columns[i]!),
  }
  const near = neighbours(height, width)
  const equations = mixedEquations(n, fixed, [places], (meet) => near.forEach(({ a, b }) => meet(p + a, p + b)))
  const factor = new SparseCholesky(equations.pattern)
  const given: Given = {
    equations,
    factor,
    near,
    height,
    width,
    right: equations.against(y),
    yy: y.reduce((sum, each) => sum + each * each, 0),
  }
  const evaluate = (values: Four): At => evaluateAt(given, values)
  const variance = spreadOf(model)
  let at = [0.3, 0.7].flatMap((row) => [0.3, 0.7].map((column) => evaluate([0.7 * variance, row, column, 0.3 * variance]))).reduce((a, b) => (b.minusTwoLogLikelihood < a.minusTwoLogLikelihood ? b : a)) // prettier-ignore
  let [iterations, converged] = [0, false]
  let curvature = dense(4, 4, (i, j) => (i === j ? 1 / Math.max(1, Math.abs(turnedSlope(at)[i]!)) : 0))
  while (!converged && iterations < MOST_ITERATIONS) {
    iterations++
    const slope = turnedSlope(at)
    const direction = [0, 1, 2, 3].map((i) => -[0, 1, 2, 3].reduce((sum, j) => sum + curvature.values[i * 4 + j]! * slope[j]!, 0))
    const from = turn(at.values)
    let next = at
    for (let share = 1; share > 1e-8; share /= 2) {
      const there = attempt(() => evaluate(turnBack(from.map((each, i) => each + share * Math.max(-2, Math.min(2, direction[i]!))))))
      if (there && there.minusTwoLogLikelihood < at.minusTwoLogLikelihood) {
        next = there
        break
      }
    }
    const moved = turn(next.values).map((each, i) => each - from[i]!)
    const change = turnedSlope(next).map((each, i) => each - slope[i]!)
    converged = Math.max(...moved.map(Math.abs)) < 1e-7 || at.minusTwoLogLikelihood - next.minusTwoLogLikelihood < 1e-10
    curvature = updated(curvature, moved, change)
    at = next
    onStep?.(iterations, at.minusTwoLogLikelihood)
  }
  const ended = at
  const fixedCovariance = (values: Four): Dense => {
    factor.factor(valuesAt(given, values))
    const solved = factor.inverseColumns(Array.from({ length: p }, (_, j) => j))
    return dense(p, p, (i, j) => (solved[i]![j]! + solved[j]![i]!) / 2)
  }
  /** From both sides of a parameter. */
  const apart = <T>(k: number, of: (values: Four) => T, less: (up: T, down: T, by: number) => T): T => {
    const step = 1e-4 * (k === 1 || k === 2 ? 1 - Math.abs(ended.values[k]) : ended.values[k]!)
    const moved = (by: number): Four => ended.values.map((each, i) => (i === k ? each + by : each)) as unknown as Four
    return less(of(moved(step)), of(moved(-step)), 2 * step)
  }
  const covariance = once(() => fixedCovariance(ended.values))
  return {
    likelihood: 'REML',
    parameters: [
      { name: 'ground', kind: 'variance' },
      { name: 'from row to row', kind: 'correlation' },
      { name: 'from column to column', kind: 'correlation' },
      { name: 'nugget', kind: 'variance' },
    ],
    values: ended.values,
    bounded: [false, false, false, false],
    converged,
    iterations,
    minusTwoLogLikelihood: ended.minusTwoLogLikelihood,
    observations: n,
    beta: ended.solution.slice(0, p),
    get covariance() {
      return covariance()
    },
    changes: once(() => [0, 1, 2, 3].map((k) => apart(k, fixedCovariance, (up, down, by) => combine(1 / by, up, -1 / by, down)))),
    observedInformation: once(() => {
      const slopes = [0, 1, 2, 3].map((k) =>
        apart(
          k,
          (values) => evaluate(values).slope,
          (up, down, by) => up.map((each, i) => (each - down[i]!) / by),
        ),
      )
      return dense(4, 4, (i, j) => (slopes[i]![j]! + slopes[j]![i]!) / 4)
    }),
    expansion: null,
    predictions: () => [],
    residuals: () => {
      const said = equations.times(ended.solution)
      const conditional = y.map((each, i) => each - said[i]!)
      const marginal = equations.times(Float64Array.from(ended.solution).fill(0, p)).map((each, i) => conditional[i]! + each)
      return { marginal, conditional }
    },
  }
}

interface Given {
  readonly equations: MixedEquations
  readonly factor: SparseCholesky
  readonly near: readonly Neighbours[]
  readonly height: number
  readonly width: number
  readonly right: Float64Array
  readonly yy: number
}

/** Two places that are neighbours or one and the same, and where each factor of the inverse is read: at an end, inside, or between. */
interface Neighbours {
  readonly a: number
  readonly b: number
  readonly row: 'end' | 'inside' | 'between'
  readonly column: 'end' | 'inside' | 'between'
}

function neighbours(height: number, width: number): Neighbours[] {
  const along = (i: number, j: number, length: number): Neighbours['row'] =>
    i !== j ? 'between' : i === 0 || i === length - 1 ? 'end' : 'inside'
  const found: Neighbours[] = []
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++)
      for (const [s, d] of [
        [r, c],
        [r, c + 1],
        [r + 1, c - 1],
        [r + 1, c],
        [r + 1, c + 1],
      ] as const)
        // prettier-ignore
        if (s < height && d >= 0 && d < width)
          found.push({ a: r * width + c, b: s * width + d, row: along(r, s, height), column: along(c, d, width) })
  return found
}

/** The inverse of a first-order autoregression of variance one, and its slope by ρ, at an end, inside and between. */
function inverseOf(rho: number, length: number): Record<Neighbours['row'], [value: number, slope: number]> {
  if (length === 1) return { end: [1, 0], inside: [1, 0], between: [0, 0] }
  const d = 1 - rho * rho
  return {
    end: [1 / d, (2 * rho) / d ** 2],
    inside: [(1 + rho * rho) / d, (4 * rho) / d ** 2],
    between: [-rho / d, -(1 + rho * rho) / d ** 2],
  }
}

/** XᵀX / τ and the like, with the inverse of the ground’s covariance added where places meet. */
function valuesAt({ equations: { pattern, products, p }, near, height, width }: Given, [ground, row, column, nugget]: Four): Float64Array {
  const values = products.map((each) => each / nugget)
  const [rows, columns] = [inverseOf(row, height), inverseOf(column, width)]
  for (const each of near) values[pattern.at(p + each.a, p + each.b)]! += (rows[each.row][0] * columns[each.column][0]) / ground
  return values
}

function evaluateAt(given: Given, values: Four): At {
  const { equations, factor, near, height, width, right, yy } = given
  const { n, p } = equations
  const [ground, row, column, nugget] = values
  factor.factor(valuesAt(given, values))
  const solution = factor.solve(right.map((each) => each / nugget))
  let taken = 0
  for (let i = 0; i < right.length; i++) taken += (solution[i]! * right[i]!) / nugget
  const inverseAt = factor.inverse()
  const [rows, columns] = [inverseOf(row, height), inverseOf(column, width)]
  // tr(C⁻¹ Q) + uᵀ Q u of the whole inverse Q of the ground's covariance, and of its slopes by the correlations.
  const sums = { whole: 0, byRow: 0, byColumn: 0, traced: 0 }
  for (const { a, b, row: r, column: c } of near) {
    const traced = (a === b ? 1 : 2) * inverseAt(p + a, p + b)
    const both = traced + (a === b ? 1 : 2) * solution[p + a]! * solution[p + b]!
    const q = (rows[r][0] * columns[c][0]) / ground
    sums.whole += both * q
    sums.traced += traced * q
    sums.byRow += (both * rows[r][1] * columns[c][0]) / ground
    sums.byColumn += (both * rows[r][0] * columns[c][1]) / ground
  }
  const places = height * width
  const left = leftSquared(given, solution)
  // tr(C⁻¹ WᵀW) / τ = all effects less tr(C⁻¹ Q).
  const effects = p + places - sums.traced
  const determinant = (count: number, length: number, rho: number): number => count * (length - 1) * Math.log(1 - rho * rho)
  const slopeOf = (count: number, length: number, rho: number): number => (-2 * rho * count * (length - 1)) / (1 - rho * rho)
  return {
    values,
    minusTwoLogLikelihood:
      n * Math.log(nugget) +
      factor.logDeterminant +
      places * Math.log(ground) +
      determinant(width, height, row) +
      determinant(height, width, column) +
      yy / nugget -
      taken +
      (n - p) * Math.log(2 * Math.PI),
    solution,
    slope: [
      (places - sums.whole) / ground,
      sums.byRow + slopeOf(width, height, row),
      sums.byColumn + slopeOf(height, width, column),
      (n - effects - left / nugget) / nugget,
    ],
  }
}

/** Squares of what is left after the fixed effects and the ground. */
function leftSquared({ equations, right, yy }: Given, solution: Float64Array): number {
  const said = equations.times(solution)
  let sum = yy
  for (let i = 0; i < solution.length; i++) sum -= 2 * solution[i]! * right[i]!
  for (const each of said) sum += each * each
  return sum
}

/** Free of bounds: logarithms of variances, Fisher's transforms of correlations. */
const turn = ([ground, row, column, nugget]: Four): number[] => [Math.log(ground), Math.atanh(row), Math.atanh(column), Math.log(nugget)]
const turnBack = ([ground, row, column, nugget]: readonly number[]): Four => [
  Math.exp(ground!),
  Math.tanh(row!),
  Math.tanh(column!),
  Math.exp(nugget!),
]
const turnedSlope = ({ values: [ground, row, column, nugget], slope }: At): number[] => [
  slope[0]! * ground,
  slope[1]! * (1 - row * row),
  slope[2]! * (1 - column * column),
  slope[3]! * nugget,
]

/** Broyden, Fletcher, Goldfarb and Shanno's update of the inverse curvature (Nocedal & Wright 2006, 6.17). */
function updated(of: Dense, moved: readonly number[], change: readonly number[]): Dense {
  const along = moved.reduce((sum, each, i) => sum + each * change[i]!, 0)
  if (!(along > 1e-14)) return of
  const m = moved.length
  const held = moved.map((_, i) => change.reduce((sum, each, j) => sum + of.values[i * m + j]! * each, 0))
  const size = change.reduce((sum, each, i) => sum + each * held[i]!, 0)
  return dense(
    m,
    m,
    (i, j) =>
      of.values[i * m + j]! + ((along + size) * moved[i]! * moved[j]!) / along ** 2 - (held[i]! * moved[j]! + moved[i]! * held[j]!) / along,
  )
}

function attempt(of: () => At): At | null {
  try {
    const at = of()
    return Number.isFinite(at.minusTwoLogLikelihood) ? at : null
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

function spreadOf({ y, fixed }: FieldModel): number {
  const p = fixed.length
  const inner = (a: Float64Array, b: Float64Array): number => a.reduce((sum, each, i) => sum + each * b[i]!, 0)
  const beta = solve(
    cholesky(dense(p, p, (i, j) => inner(fixed[i]!, fixed[j]!))),
    dense(p, 1, (i) => inner(fixed[i]!, y)),
  ).values
  return (inner(y, y) - beta.reduce((sum, each, j) => sum + each * inner(fixed[j]!, y), 0)) / (y.length - p)
}
