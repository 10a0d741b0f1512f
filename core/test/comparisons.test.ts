import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import * as s from '../src/statistics/index.ts'
import { classify, respond } from './classify.ts'
import { against } from './compare.ts'
import { referenceCase } from './fixture.ts'

describe('the general multivariate t', () => {
  it('agrees with Dunnett’s integral where the correlations have product form, within its stated error', () => {
    for (const lambda of [
      [0.5, 0.5, 0.5],
      [Math.SQRT1_2, Math.SQRT1_2, Math.SQRT1_2, Math.SQRT1_2],
      [0.9, 0.3, 0.6],
    ]) {
      const correlation = lambda.map((a, i) => lambda.map((b, j) => (i === j ? 1 : a * b)))
      for (const df of [5, 20, Infinity]) {
        const found = s.multivariateTUpper(2.3, correlation, df)
        expect(found.error).toBeLessThan(2e-3)
        expect(Math.abs(found.value - s.dunnettUpper(2.3, lambda, df))).toBeLessThan(Math.max(found.error, 1e-4))
      }
    }
  })

  it('is the normal square at no correlation, and the same for the same seed', () => {
    const none = [
      [1, 0],
      [0, 1],
    ]
    const inside = (s.normalLower(1.5) - s.normalLower(-1)) ** 2
    const found = s.multivariateT([-1, -1], [1.5, 1.5], none, Infinity)
    expect(Math.abs(found.value - inside)).toBeLessThan(Math.max(found.error, 1e-6))
    expect(s.multivariateT([-1, -1], [1.5, 1.5], none, 7, { seed: 5 })).toEqual(s.multivariateT([-1, -1], [1.5, 1.5], none, 7, { seed: 5 }))
  })
})

function oats() {
  const { rows: all } = referenceCase('rcbd-missing-oat')
  const rows = all.filter((row) => row['yield'] !== '')
  const y = respond(rows, 'yield')
  const fit = s.fitLinear(s.designMatrix([classify(rows, 'block'), classify(rows, 'variety')], [['block'], ['variety']], y.length), y)
  return { fit, means: s.marginalMeans(fit, 'variety'), ms: fit.residualMs, df: fit.residualDf, rows, y }
}

describe('comparisons', () => {
  it('with lost plots Dunnett’s p agrees with the general integral over the true correlations', () => {
    const { means, ms, df } = oats()
    const others = means.slice(1)
    const sd = others.map((mean) => Math.sqrt(s.differenceFactor(mean, means[0]!)))
    const inner = (a: Float64Array, b: Float64Array) => a.reduce((sum, each, k) => sum + each * b[k]!, 0)
    const minus = (mean: s.MarginalMean) => mean.root.map((each, k) => each - means[0]!.root[k]!)
    const rho = others.map((a, i) => others.map((b, j) => inner(minus(a), minus(b)) / (sd[i]! * sd[j]!)))
    for (const row of against(means, 0, ms, df)) {
      const exact = s.multivariateTUpper(Math.abs(row.t), rho, df, { points: 4001 })
      expect(Math.abs(row.p - exact.value)).toBeLessThan(Math.max(2 * exact.error, 1e-3))
    }
  })

  it('far from the product form the general integral gives p and limits alike, one-sided too', () => {
    // The control and three treatments in blocks of two: pairs of means share blocks to unlike degrees.
    const pairs = [[0, 1], [0, 1], [0, 1], [0, 2], [0, 2], [0, 3], [1, 2], [2, 3], [2, 3], [2, 3], [2, 3]] as const // prettier-ignore
    const treatment = pairs.flat()
    const codes = (values: readonly number[]) => ({ levels: [...new Set(values)].map(String), codes: Int32Array.from(values) })
    const block = { name: 'block', ...codes(pairs.flatMap((_, i) => [i, i])) }
    const rate = { name: 'rate', levels: ['0', '1', '2', '3'], codes: Int32Array.from(treatment) }
    const y = Float64Array.from(treatment, (t, i) => 5 + 0.9 * t + ((i * 7) % 5) / 4)
    const fit = s.fitLinear(s.designMatrix([block, rate], [['block'], ['rate']], y.length), y)
    const means = s.marginalMeans(fit, ['rate'])
    for (const side of ['two-sided', 'greater', 'less'] as const) {
      const rows = against(means, 0, fit.residualMs, fit.residualDf, side)
      const alone = against(means.slice(0, 2), 0, fit.residualMs, fit.residualDf, side)[0]!
      expect(rows[0]!.threshold).toBeGreaterThan(alone.threshold)
      for (const row of rows) {
        const beyond = side === 'greater' ? row.lower > 0 : side === 'less' ? row.upper < 0 : row.lower > 0 || row.upper < 0
        expect(row.p < 0.05).toBe(beyond)
        // At most as many times the plain p as there are comparisons.
        const plain =
          side === 'two-sided' ? s.tTwoSided(row.t, row.df) : side === 'greater' ? s.tUpper(row.t, row.df) : s.tLower(row.t, row.df)
        expect(row.p).toBeGreaterThanOrEqual(plain - 1e-3)
        expect(row.p).toBeLessThanOrEqual(3 * plain + 1e-3)
      }
    }
  })

  it('many comparisons in small blocks: the corrected product form agrees with the general integral', () => {
    // Twenty treatments in blocks of four by a cycle: some pairs share blocks, most do not.
    const treatment = Array.from({ length: 20 }, (_, b) => [b, (b + 1) % 20, (b + 4) % 20, (b + 11) % 20]).flat()
    const variable = (name: string, values: readonly number[], levels: number) => ({
      name,
      levels: Array.from({ length: levels }, (_, i) => String(i)),
      codes: Int32Array.from(values),
    })
    const block = variable('block', treatment.map((_, i) => i >> 2), 20) // prettier-ignore
    const y = Float64Array.from(treatment, (t, i) => 5 + 0.15 * t + ((i * 7) % 11) / 4)
    const fit = s.fitLinear(s.designMatrix([block, variable('line', treatment, 20)], [['block'], ['line']], y.length), y)
    const means = s.marginalMeans(fit, ['line'])
    const apart = means.slice(1).map((mean) => mean.root.map((each, k) => each - means[0]!.root[k]!))
    const inner = (a: Float64Array, b: Float64Array) => a.reduce((sum, each, k) => sum + each * b[k]!, 0)
    const rho = apart.map((a) => apart.map((b) => inner(a, b) / Math.sqrt(inner(a, a) * inner(b, b))))
    const rows = against(means, 0, fit.residualMs, fit.residualDf)
    const looked = [...rows].sort((a, b) => a.p - b.p).filter((_, i) => i % 5 === 0)
    for (const row of looked) {
      const exact = s.multivariateTUpper(Math.abs(row.t), rho, row.df, { points: 4001 }).value
      expect(Math.abs(row.p - exact)).toBeLessThan(0.02 * exact + 1e-4)
    }
    for (const row of rows) expect(row.p < 0.05).toBe(row.lower > 0 || row.upper < 0)
  })

  it('one-sided comparisons leave the other limit open and halve nothing blindly', () => {
    const { means, ms, df } = oats()
    const [two, up, down] = (['two-sided', 'greater', 'less'] as const).map((side) => against(means, 0, ms, df, side))
    two!.forEach((row, i) => {
      expect(up![i]!.upper).toBe(Infinity)
      expect(down![i]!.lower).toBe(-Infinity)
      expect(up![i]!.threshold).toBeLessThan(row.threshold)
      expect(Math.min(up![i]!.p, down![i]!.p)).toBeLessThanOrEqual(row.p + 1e-9)
    })
  })

  it('letters always agree with the tests: shared exactly when two means are not told apart', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 9 }), fc.infiniteStream(fc.boolean()), (k, coin) => {
        const differs = Array.from({ length: k }, () => new Array<boolean>(k).fill(false))
        for (let i = 0; i < k; i++) for (let j = i + 1; j < k; j++) differs[i]![j] = differs[j]![i] = coin.next().value as boolean
        const order = Array.from({ length: k }, (_, i) => i)
        const letters = s.compactLetters(order, (a, b) => differs[a]![b]!)!
        for (let i = 0; i < k; i++)
          for (let j = i + 1; j < k; j++) expect([...letters[i]!].some((letter) => letters[j]!.includes(letter))).toBe(!differs[i]![j]!)
      }),
    )
  })

  it('letters are left out, and soon, where more groups overlap than an alphabet can name', () => {
    const order = Array.from({ length: 60 }, (_, i) => i)
    // Pairs that are told apart from each other and from nobody else: the groups double with each.
    expect(s.compactLetters(order, (a, b) => Math.floor(a / 2) === Math.floor(b / 2))).toBeNull()
    expect(s.compactLetters(order, () => true)).toBeNull()
    expect(s.compactLetters(order.slice(0, 26), (a, b) => a !== b)!.join('')).toBe('abcdefghijklmnopqrstuvwxyz')
  })

  it('adjusted p values keep their order, never fall below the plain ones, and never pass 1', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 20 }),
        fc.constantFrom('bonferroni', 'sidak', 'holm', 'benjamini-hochberg'),
        (p, how) => {
          const adjusted = s.adjustP(p, how)
          p.forEach((each, i) => {
            expect(adjusted[i]!).toBeGreaterThanOrEqual(each - 1e-12)
            expect(adjusted[i]!).toBeLessThanOrEqual(1)
            p.forEach((other, j) => each < other && expect(adjusted[i]!).toBeLessThanOrEqual(adjusted[j]! + 1e-12))
          })
        },
      ),
    )
  })
})

it('simple effects add up to the factor and its interaction, and observed weights give the plain mean', () => {
  const { rows } = referenceCase('factorial-rcbd-lentil')
  const y = respond(rows, 'yield')
  const variables = ['block', 'inoculant', 'starter'].map((column) => classify(rows, column))
  const fit = s.fitLinear(s.designMatrix(variables, [['block'], ['inoculant'], ['starter'], ['inoculant', 'starter']], y.length), y)
  const table = s.sequentialAnova(fit)
  const effects = s.simpleEffects(fit, 'inoculant', 'starter')
  expect(effects.map((each) => [each.level, each.df])).toEqual([
    ['N0', 2],
    ['N20', 2],
  ])
  expect(effects.reduce((sum, each) => sum + each.ss, 0)).toBeCloseTo(table[1]!.ss + table[3]!.ss, 10)

  const { rows: lost, y: z } = oats()
  const plain = s.fitLinear(s.designMatrix([classify(lost, 'variety'), classify(lost, 'block')], [['variety'], ['block']], z.length), z)
  const observed = s.marginalMeans(plain, 'variety', { weights: 'observed' })
  const equal = s.marginalMeans(plain, 'variety')
  const total = observed.reduce((sum, mean) => sum + mean.estimate * mean.n, 0) / z.length
  expect(total).toBeCloseTo(z.reduce((sum, each) => sum + each, 0) / z.length, 10)
  expect(observed.map((mean) => mean.estimate)).not.toEqual(equal.map((mean) => mean.estimate))
})

describe('least squares', () => {
  it('on offsets 10¹² times the effect does as well as the digits left in the data allow', () => {
    const { rows } = referenceCase('rcbd-oat-screening')
    const variables = ['block', 'variety'].map((column) => classify(rows, column))
    const f = (y: Float64Array) => s.sequentialAnova(s.fitLinear(s.designMatrix(variables, [['block'], ['variety']], y.length), y))[1]!.f
    const stiff = respond(rows, 'yield').map((value) => value + 1e12)
    // What the rounding to 1e-4 left of the data, brought back exactly.
    const left = stiff.map((value) => value - 1e12)
    expect(f(stiff)).toBeCloseTo(f(left), 8)
  })

  it('weights count a row as often as they say', () => {
    const { rows, y } = oats()
    const weights = Float64Array.from(y, (_, i) => 1 + (i % 3))
    const twice = y.length === 0 ? [] : rows.flatMap((row, i) => new Array<typeof row>(weights[i]!).fill(row))
    const model = (of: typeof rows, w: Float64Array | null) => {
      const response = respond(of, 'yield')
      return s.fitLinear(
        s.designMatrix([classify(of, 'block'), classify(of, 'variety')], [['block'], ['variety']], response.length),
        response,
        w,
      )
    }
    const [weighed, repeated] = [model(rows, weights), model(twice, null)]
    weighed.coefficients.forEach((coefficient, i) => expect(coefficient).toBeCloseTo(repeated.coefficients[i]!, 10))
    expect(weighed.residualSs).toBeCloseTo(repeated.residualSs, 10)
    expect(s.leverages(weighed).reduce((sum, each) => sum + each, 0)).toBeCloseTo(weighed.qr.rank, 10)
  })

  it('recognises what a confounded layout cannot estimate, and estimates what it can', () => {
    const codes = (of: number[]) => Int32Array.from(of)
    const a = { name: 'a', levels: ['1', '2', '3'], codes: codes([0, 0, 1, 1, 2, 2]) }
    // Level 3 of a is all there is of level 2 of b: their effects cannot be told apart.
    const b = { name: 'b', levels: ['1', '2'], codes: codes([0, 0, 0, 0, 1, 1]) }
    const y = Float64Array.of(1, 2, 3, 4, 9, 10)
    const fit = s.fitLinear(s.designMatrix([a, b], [['a'], ['b']], 6), y)
    expect(fit.qr.rank).toBe(3)
    const means = s.marginalMeans(fit, 'a')
    expect(means.every((mean) => mean.estimable)).toBe(false)
    const difference = s.contrast(means.slice(0, 2), [1, -1], fit.residualMs, fit.residualDf)
    expect(difference.estimate).toBeCloseTo(-2, 12)
  })
})
