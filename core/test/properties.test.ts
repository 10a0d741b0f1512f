import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { chanceFrom } from '../src/design/index.ts'
import * as s from '../src/statistics/index.ts'

// What must hold whatever the numbers: recurrences, inverses and symmetries that no table can give.

const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const shape = number(0.05, 500)
/** Close in relative terms; `floor` for what has cancelled away. */
const close = (got: number, wanted: number, rel = 1e-10, floor = 0): void =>
  expect(Math.abs(got - wanted)).toBeLessThanOrEqual(rel * Math.abs(wanted) + floor)

describe('incomplete gamma and beta', () => {
  it('climb by their recurrences (Abramowitz & Stegun 6.5.21, 26.5.16)', () => {
    fc.assert(
      fc.property(shape, number(-4, 3), (a, log) => {
        const x = a * 10 ** log
        // P(a, x) − P(a + 1, x) = x^a e^−x / Γ(a + 1), here the mass of a Poisson count carried to real a.
        const step = Math.exp(a * Math.log(x) - x - logGamma(a + 1))
        close(s.gammaLower(x, a, 1) - s.gammaLower(x, a + 1, 1), step, 1e-9, 1e-13)
        close(s.gammaUpper(x, a + 1, 1) - s.gammaUpper(x, a, 1), step, 1e-9, 1e-13)
      }),
    )
    fc.assert(
      fc.property(shape, shape, number(0.001, 0.999), (a, b, x) => {
        const step = Math.exp(a * Math.log(x) + b * Math.log1p(-x) - Math.log(a) - logGamma(a) - logGamma(b) + logGamma(a + b))
        close(s.betaLower(x, a, b) - s.betaLower(x, a + 1, b), step, 1e-9, 1e-13)
        close(s.betaLower(x, a, b), s.betaUpper(1 - x, b, a), 1e-9)
      }),
    )
  })

  it('agree among the distributions made of them', () => {
    fc.assert(
      fc.property(number(0.5, 200), number(0.001, 30), (df, t) => {
        close(s.tTwoSided(t, df), s.fUpper(t * t, 1, df))
        close(s.fUpper(t, 2, df), (1 + (2 * t) / df) ** (-df / 2), 1e-9)
        close(s.chiSquaredUpper(t, 2), Math.exp(-t / 2))
        close(s.tUpper(t, 1), Math.atan2(1, t) / Math.PI)
      }),
    )
  })
})

describe('quantiles', () => {
  const tail = number(-60, -0.01).map((log) => Math.exp(log))
  it('undo the tail they come from, however small', () => {
    fc.assert(
      // Smaller shapes put such tails beyond the smallest doubles.
      fc.property(tail, number(0.3, 500), number(0.3, 500), (p, a, b) => {
        close(s.tUpper(s.tUpperQuantile(p, a), a), p, 1e-9)
        close(s.chiSquaredLower(s.chiSquaredQuantile(p, 2 * a), 2 * a), p, 1e-9)
        close(s.fUpper(s.fUpperQuantile(p, a, b), a, b), p, 1e-9)
        const x = s.betaQuantile(p, a, b)
        // Next to 1 a double holds no more of the distance from it.
        if (x < 0.999) close(s.betaLower(x, a, b), p, 1e-8)
        close(s.normalLower(s.normalQuantile(p)), p, 1e-10)
      }),
    )
  })

  it('of counts are the first count that reaches the probability', () => {
    fc.assert(
      fc.property(number(0.001, 0.999), number(0.01, 3000), number(0.05, 50), (p, mean, size) => {
        for (const [quantile, lower] of [
          [s.poissonQuantile(p, mean), (k: number) => s.poissonLower(k, mean)],
          [s.negativeBinomialQuantile(p, size, mean), (k: number) => s.negativeBinomialLower(k, size, mean)],
          [s.binomialQuantile(p, 400, mean / 3001), (k: number) => s.binomialLower(k, 400, mean / 3001)],
        ] as const) {
          expect(lower(quantile)).toBeGreaterThanOrEqual(p * (1 - 1e-12))
          if (quantile > 0) expect(lower(quantile - 1)).toBeLessThan(p)
        }
      }),
    )
  })

  it('masses add up to the distribution', () => {
    fc.assert(
      fc.property(number(0.1, 60), number(0.1, 20), fc.integer({ min: 0, max: 60 }), (mean, size, k) => {
        const sum = (mass: (k: number) => number): number => Array.from({ length: k + 1 }, (_, j) => mass(j)).reduce((a, b) => a + b, 0)
        close(
          sum((j) => s.poissonMass(j, mean)),
          s.poissonLower(k, mean),
          1e-10,
        )
        close(
          sum((j) => s.negativeBinomialMass(j, size, mean)),
          s.negativeBinomialLower(k, size, mean),
          1e-10,
        )
        close(
          sum((j) => s.binomialMass(j, 60, mean / 61)),
          s.binomialLower(k, 60, mean / 61),
          1e-10,
        )
      }),
    )
  })
})

describe('ranges and comparisons with a control', () => {
  const means = fc.integer({ min: 2, max: 12 })
  const df = fc.constantFrom(2, 3, 5, 9, 20, 60, Infinity)
  it('grow with the number asked about, shrink with the error known, and lie between one pair and Bonferroni’s', () => {
    fc.assert(
      fc.property(means, df, number(0.3, 8), (k, f, q) => {
        const pairs = (k * (k - 1)) / 2
        const [p, more] = [s.studentizedRangeUpper(q, k, f), s.studentizedRangeUpper(q, k + 1, f)]
        const single = s.tTwoSided(q / Math.SQRT2, f)
        expect(p).toBeGreaterThanOrEqual(single * (1 - 1e-9))
        expect(p).toBeLessThanOrEqual(Math.min(1, pairs * single) * (1 + 1e-9))
        expect(more).toBeGreaterThanOrEqual(p * (1 - 1e-9))
        close(p + s.studentizedRangeLower(q, k, f), 1, 1e-9)
        const lambda = new Array<number>(k).fill(Math.SQRT1_2)
        const [two, one] = [s.dunnettUpper(q, lambda, f), s.dunnettUpperOneSided(q, lambda, f)]
        expect(one).toBeLessThan(two)
        expect(two).toBeGreaterThanOrEqual(s.tTwoSided(q, f) * (1 - 1e-9))
        expect(two).toBeLessThanOrEqual(k * s.tTwoSided(q, f) * (1 + 1e-9))
      }),
      { numRuns: 60 },
    )
  })

  it('a control that is known makes the comparisons independent, one that is all the error makes them one', () => {
    for (const k of [2, 5, 9]) {
      const free = s.dunnettUpper(2, new Array<number>(k).fill(1e-9), Infinity)
      close(free, 1 - (1 - s.tTwoSided(2, Infinity)) ** k, 1e-9)
      const bound = s.dunnettUpper(2, new Array<number>(k).fill(0.9999), Infinity)
      expect(bound).toBeGreaterThan(s.tTwoSided(2, Infinity))
      expect(bound).toBeLessThan(1.1 * s.tTwoSided(2, Infinity))
    }
  })
})

describe('other scales', () => {
  const scales: [string, s.Transformation, fc.Arbitrary<number>][] = [
    ['log', s.logarithm, number(1e-6, 1e6)],
    ['log10', s.logarithm10, number(1e-6, 1e6)],
    ['log(y + 1)', s.logarithmPlusOne, number(0, 1e6)],
    ['square root', s.squareRoot, number(0, 1e6)],
    ['square root plus half', s.squareRootPlusHalf, number(0, 1e6)],
    ['arcsine', s.arcsine, number(0, 100)],
    ['logit', s.logit([0, 12, 100]), number(0, 100)],
    ['power 1/3', s.power(1 / 3), number(1e-3, 1e6)],
    ['power −1', s.power(-1), number(1e-3, 1e3)],
  ]
  it.each(scales)('%s goes there and back, and keeps the order', (_, scale, values) => {
    fc.assert(
      fc.property(values, values, (a, b) => {
        close(scale.back(scale.forward(a)), a, 1e-8, 1e-8)
        // Nearer than this the scale itself cannot tell two doubles apart.
        if (b - a > 1e-6 * Math.abs(a) + 1e-9) expect(scale.forward(b)).toBeGreaterThan(scale.forward(a))
      }),
    )
  })

  it('the bias of the way back is corrected by what the bend adds', () => {
    // Means on the first scale of values that scatter normally on the other, averaged over a fine grid of the normal law.
    const grid = Array.from({ length: 4000 }, (_, i) => s.normalQuantile((i + 0.5) / 4000))
    for (const [scale, z, sd] of [
      [s.logarithm, 1.2, 0.4],
      [s.logarithm10, 0.7, 0.15],
      [s.logarithmPlusOne, 1.5, 0.3],
      [s.squareRoot, 3, 0.5],
      [s.squareRootPlusHalf, 3, 0.5],
    ] as const) {
      const mean = grid.reduce((sum, each) => sum + scale.back(z + sd * each), 0) / grid.length
      close(scale.biasCorrected!(z, sd * sd), mean, 1e-3)
      expect(Math.abs(scale.back(z) - mean)).toBeGreaterThan(5 * Math.abs(scale.biasCorrected!(z, sd * sd) - mean))
    }
  })

  it('the power that fits best is the same in any unit, a summit, and inside its own limits', () => {
    const codes = Int32Array.from({ length: 24 }, (_, i) => i % 4)
    const design = s.designMatrix([{ name: 't', levels: ['a', 'b', 'c', 'd'], codes }], [['t']], 24)
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), number(0.01, 100), (seed, unit) => {
        const chance = chanceFrom(seed)
        const y = Float64Array.from(codes, (code) => (1 + code) * Math.exp((chance.below(1000) - 500) / 800))
        const found = s.boxCox(design, y)
        close(
          s.boxCox(
            design,
            y.map((each) => each * unit),
          ).lambda,
          found.lambda,
          1e-4,
          1e-4,
        )
        const at = (lambda: number): number => s.boxCoxLogLikelihood(design, y, lambda)
        for (const step of [-0.5, -0.01, 0.01, 0.5]) expect(at(found.lambda + step)).toBeLessThan(found.logLikelihood + 1e-9)
        expect(found.lower).toBeLessThan(found.lambda)
        expect(found.upper).toBeGreaterThan(found.lambda)
        // The limits are where the test of that power meets the level.
        for (const limit of [found.lower, found.upper]) close(2 * (found.logLikelihood - at(limit)), s.chiSquaredQuantile(0.95, 1), 1e-6)
      }),
      { numRuns: 40 },
    )
  })
})

describe('checks of residuals', () => {
  const codes = Int32Array.from({ length: 20 }, (_, i) => i % 5)
  const design = s.designMatrix([{ name: 't', levels: ['a', 'b', 'c', 'd', 'e'], codes }], [['t']], 20)

  it('a deleted residual is that of a fit without the plot', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.nat({ max: 19 }), (seed, i) => {
        const chance = chanceFrom(seed)
        const y = Float64Array.from(codes, (code) => code + chance.below(1000) / 300)
        const { external, leverage, cook } = s.residualTable(s.fitLinear(design, y))
        const keep = [...y.keys()].filter((each) => each !== i)
        const less = s.designMatrix(
          [{ name: 't', levels: ['a', 'b', 'c', 'd', 'e'], codes: Int32Array.from(keep, (each) => codes[each]!) }],
          [['t']],
          19,
        )
        const without = s.fitLinear(
          less,
          Float64Array.from(keep, (each) => y[each]!),
        )
        const others = keep.filter((each) => codes[each] === codes[i]).map((each) => y[each]!)
        const predicted = others.reduce((sum, each) => sum + each, 0) / others.length
        close(external[i]!, (y[i]! - predicted) / Math.sqrt(without.residualMs * (1 + 1 / others.length)), 1e-8, 1e-10)
        close(leverage[i]!, 1 / 4, 1e-10)
        // Cook's distance: how far all fitted values move, in units of the error.
        const fit = s.fitLinear(design, y)
        const moved = 4 * (fit.fitted[i]! - predicted) ** 2
        close(cook[i]!, moved / (5 * fit.residualMs), 1e-8, 1e-12)
      }),
      { numRuns: 60 },
    )
  })

  it('tests of spread do not depend on the unit or on where zero is', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), number(0.01, 100), number(-100, 100), (seed, unit, shift) => {
        const chance = chanceFrom(seed)
        const groups = [5, 6, 7].map((n, g) => Float64Array.from({ length: n }, () => (1 + g) * (chance.below(1000) / 100)))
        const moved = groups.map((group) => group.map((each) => unit * each + shift))
        for (const about of ['mean', 'median'] as const) close(s.leveneTest(moved, about).p, s.leveneTest(groups, about).p, 1e-6)
        const w = s.shapiroWilk(groups[2]!)
        close(s.shapiroWilk(moved[2]!).w, w.w, 1e-8)
      }),
      { numRuns: 60 },
    )
  })
})

/** log Γ by Stirling's series above 30, carried down by the recurrence: apart from the library the product uses. */
function logGamma(x: number): number {
  let [z, log] = [x, 0]
  for (; z < 30; z++) log -= Math.log(z)
  const q = 1 / (z * z)
  return log + (z - 0.5) * Math.log(z) - z + 0.5 * Math.log(2 * Math.PI) + (1 / 12 - q * (1 / 360 - q * (1 / 1260 - q / 1680))) / z
}
