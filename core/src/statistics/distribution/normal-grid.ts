import { normalDensity, normalLower } from './normal.ts'

/** Even nodes of the trapezoidal rule: z = step × i for i ≥ −back, with step × φ(z) and Φ(z). */
export interface NormalGrid {
  readonly step: number
  /** Place of z = 0. */
  readonly back: number
  readonly z: Float64Array
  readonly mass: Float64Array
  readonly lower: Float64Array
}

const LOW = -8
/** Where φ underflows. */
const HIGH = 38.6

const grids = new Map<number, NormalGrid>()

/**
 * Nodes for integrals of φ(z) times a power of normal distribution functions, made once for a step.
 * `steepness` says how fast the integrand grows off the real line, as exp(steepness y²/2): 1 for φ
 * itself, and s² more for each factor Φ(s z + …). The rule then errs by exp(−2π² / (steepness
 * step²)) (Trefethen & Weideman, SIAM Review 56, 2014), here 1e-13.
 */
export function normalGrid(steepness: number): NormalGrid {
  const step = Math.sqrt((2 * Math.PI ** 2) / 30 / steepness)
  let grid = grids.get(step)
  if (!grid) {
    const back = Math.ceil(-LOW / step)
    const z = Float64Array.from({ length: back + Math.ceil(HIGH / step) }, (_, i) => (i - back) * step)
    grid = { step, back, z, mass: z.map((each) => step * normalDensity(each)), lower: z.map(normalLower) }
    if (grids.size > 100) grids.clear()
    grids.set(step, grid)
  }
  return grid
}

/** Place of the first node at or above z. */
export function placeOf({ step, back, z }: NormalGrid, at: number): number {
  return Math.min(z.length, Math.max(0, back + Math.ceil(at / step)))
}
