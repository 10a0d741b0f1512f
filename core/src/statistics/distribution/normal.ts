import erfcinv from '@stdlib/math-base-special-erfcinv'

const DENSITY_AT_ZERO = 1 / Math.sqrt(2 * Math.PI)

export function normalDensity(z: number): number {
  return DENSITY_AT_ZERO * Math.exp(-0.5 * z * z)
}

/** P(Z ≤ z), full relative accuracy in the lower tail. */
export function normalLower(z: number): number {
  return z > 0 ? 1 - tail(z) : tail(-z)
}

/** P(Z > z), full relative accuracy in the upper tail. */
export function normalUpper(z: number): number {
  return z > 0 ? tail(z) : 1 - tail(-z)
}

/** log P(Z > z), where the probability itself would underflow too (Abramowitz & Stegun 26.2.12). */
export function normalUpperLog(z: number): number {
  if (z < 0) return Math.log1p(-tail(-z))
  if (z < 37) return Math.log(normalUpper(z))
  const s = 1 / (z * z)
  return -0.5 * z * z + Math.log(DENSITY_AT_ZERO / z) + Math.log1p(-s * (1 - 3 * s * (1 - 5 * s * (1 - 7 * s))))
}

/** log P(Z ≤ z). */
export function normalLowerLog(z: number): number {
  return normalUpperLog(-z)
}

/** z with P(Z ≤ z) = p, 0 < p < 1. */
export function normalQuantile(p: number): number {
  return -Math.SQRT2 * erfcinv(2 * p)
}

/**
 * P(Z > z) for z ≥ 0 by the rational approximations of W. J. Cody (Math. Comp. 23, 1969;
 * Algorithm 715, ACM TOMS 19, 1993), accurate to double precision. Written out here since
 * it stands in the innermost loop of the range and many-to-one integrals.
 */
function tail(z: number): number {
  if (!(z >= 0)) return NaN
  if (z <= 0.67448975) {
    const s = z * z
    const above =
      (((0.065682337918207449113 * s + 2.2352520354606839287) * s + 161.02823106855587881) * s + 1067.6894854603709582) * s +
      18154.981253343561249
    const below = (((s + 47.20258190468824187) * s + 976.09855173777669322) * s + 10260.932208618978205) * s + 45507.789335026729956
    return 0.5 - (z * above) / below
  }
  if (z > 38.6) return 0
  if (z <= 5.656854249492381) {
    const above =
      (((((((1.0765576773720192317e-8 * z + 0.39894151208813466764) * z + 8.8831497943883759412) * z + 93.506656132177855979) * z +
        597.27027639480026226) *
        z +
        2494.5375852903726711) *
        z +
        6848.1904505362823326) *
        z +
        11602.651437647350124) *
        z +
      9842.7148383839780218
    const below =
      (((((((z + 22.266688044328115691) * z + 235.38790178262499861) * z + 1519.377599407554805) * z + 6485.558298266760755) * z +
        18615.571640885098091) *
        z +
        34900.952721145977266) *
        z +
        38912.003286093271411) *
        z +
      19685.429676859990727
    return gauss(z) * (above / below)
  }
  const s = 1 / (z * z)
  const above =
    ((((0.02307344176494017303 * s + 0.21589853405795699) * s + 0.1274011611602473639) * s + 0.022235277870649807) * s +
      0.001421619193227893466) *
      s +
    2.9112874951168792e-5
  const below =
    ((((s + 1.28426009614491121) * s + 0.468238212480865118) * s + 0.0659881378689285515) * s + 0.00378239633202758244) * s +
    7.29751555083966205e-5
  return (gauss(z) * (DENSITY_AT_ZERO - (s * above) / below)) / z
}

/** exp(−z²/2) with the square split, so that large z loses no digits. */
function gauss(z: number): number {
  const coarse = Math.trunc(z * 16) / 16
  const rest = (z - coarse) * (z + coarse)
  return Math.exp(-coarse * coarse * 0.5) * Math.exp(-rest * 0.5)
}
