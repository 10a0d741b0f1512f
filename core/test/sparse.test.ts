import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { chanceFrom } from '../src/design/index.ts'
import { SparseCholesky, SparsePattern } from '../src/statistics/matrix/sparse.ts'
import {
  crossed,
  designMatrix,
  fitField,
  fitStructured,
  groundModels,
  reml,
  remlSparse,
  satterthwaite,
  type Classification,
} from '../src/statistics/index.ts'

const noiseFrom = (seed: number) => {
  const chance = chanceFrom(seed)
  return { chance, noise: (): number => Array.from({ length: 12 }, () => chance.below(1_000_000) / 1_000_000).reduce((a, b) => a + b, -6) }
}
const classes = (name: string, codes: readonly number[]): Classification => {
  const levels = [...new Set(codes)].sort((a, b) => a - b)
  return { name, levels: levels.map(String), codes: Int32Array.from(codes, (each) => levels.indexOf(each)) }
}

describe('sparse matrices', () => {
  it('whatever the pattern: solutions, determinant, inverse at its places and whole columns of it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 24 }), fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(), (n, share, seed) => {
        const { chance, noise } = noiseFrom(seed)
        const a = Array.from({ length: n }, () => new Float64Array(n))
        const pattern = new SparsePattern(n, (meet) => {
          for (let i = 0; i < n; i++)
            for (let j = 0; j < i; j++) {
              if (chance.below(1000) / 1000 >= share) continue
              meet(i, j)
              a[i]![j] = a[j]![i] = noise()
            }
        })
        for (let i = 0; i < n; i++) a[i]![i] = 1 + a[i]!.reduce((sum, each) => sum + Math.abs(each), 0)
        const values = new Float64Array(pattern.rows.length)
        for (let j = 0; j < n; j++) for (let i = j; i < n; i++) if (i === j || a[i]![j] !== 0) values[pattern.at(i, j)] = a[i]![j]!
        const factor = new SparseCholesky(pattern)
        factor.factor(values)
        const b = Float64Array.from({ length: n }, noise)
        const x = factor.solve(b)
        a.forEach((row, i) => expect(row.reduce((sum, each, j) => sum + each * x[j]!, 0)).toBeCloseTo(b[i]!, 8))
        const columns = factor.inverseColumns([...b.keys()])
        columns.forEach((column, k) =>
          a.forEach((row, i) => expect(row.reduce((sum, each, j) => sum + each * column[j]!, 0)).toBeCloseTo(i === k ? 1 : 0, 8)),
        )
        const at = factor.inverse()
        for (let j = 0; j < n; j++)
          for (let k = pattern.starts[j]!; k < pattern.starts[j + 1]!; k++)
            expect(at(pattern.rows[k]!, j)).toBeCloseTo(columns[j]![pattern.rows[k]!]!, 9)
        // Elimination by hand, for the determinant.
        const left = a.map((row) => Float64Array.from(row))
        let log = 0
        for (let i = 0; i < n; i++) {
          log += Math.log(left[i]![i]!)
          for (let r = i + 1; r < n; r++) {
            const share = left[r]![i]! / left[i]![i]!
            for (let c = i; c < n; c++) left[r]![c]! -= share * left[i]![c]!
          }
        }
        expect(factor.logDeterminant).toBeCloseTo(log, 8)
      }),
      { numRuns: 80 },
    )
  })

  it('what is no covariance is refused', () => {
    const pattern = new SparsePattern(2, (meet) => meet(0, 1))
    const factor = new SparseCholesky(pattern)
    expect(() => factor.factor(Float64Array.of(1, 2, 1))).toThrow(RangeError)
  })
})

describe('two ways to one maximum', () => {
  it('many effects by sparse equations and all of them held: variances, means, degrees of freedom and predictions agree', () => {
    fc.assert(
      fc.property(fc.nat(), fc.integer({ min: 3, max: 7 }), fc.constantFrom(0, 0.6, 2), (seed, levels, spread) => {
        const { chance, noise } = noiseFrom(seed)
        const n = 60
        const treatment = classes(
          'treatment',
          Array.from({ length: n }, (_, i) => i % levels),
        )
        const block = classes(
          'block',
          Array.from({ length: n }, () => chance.below(9)),
        )
        const cell = crossed('cell', [block, treatment])
        const own = block.levels.map(noise)
        const y = Float64Array.from({ length: n }, (_, i) => treatment.codes[i]! + spread * own[block.codes[i]!]! + noise())
        const { columns } = designMatrix([treatment], [['treatment']], n, 'reference')
        const model = { y, fixed: columns, random: [block, cell] }
        const [whole, sparse] = [reml(model), remlSparse(model)]
        const total = whole.values.reduce((sum, each) => sum + each, 0)
        whole.values.forEach((each, i) => expect(sparse.values[i]! / total).toBeCloseTo(each / total, 3))
        expect(sparse.minusTwoLogLikelihood).toBeCloseTo(whole.minusTwoLogLikelihood, 4)
        if (whole.bounded.some(Boolean)) return
        const row = Float64Array.from(columns, (_, j) => (j === 1 ? 1 : 0))
        const [one, other] = [satterthwaite(whole).estimate(row), satterthwaite(sparse).estimate(row)]
        expect(other.estimate).toBeCloseTo(one.estimate, 3)
        expect(other.se / one.se).toBeCloseTo(1, 3)
        expect(other.df / one.df).toBeCloseTo(1, 2)
        whole.predictions().forEach(({ effects, errors }, r) => {
          const there = sparse.predictions()[r]!
          effects.forEach((each, i) => expect(there.effects[i]!).toBeCloseTo(each, 2))
          errors.forEach((each, i) => expect(there.errors[i]!).toBeCloseTo(each, 2))
        })
        const [a, b] = [whole.residuals(), sparse.residuals()]
        a.conditional.forEach((each, i) => expect(b.conditional[i]!).toBeCloseTo(each, 2))
      }),
      { numRuns: 40 },
    )
  })

  it('a field with gaps by its sparse inverse and plot by plot', () => {
    fc.assert(
      fc.property(fc.nat(), (seed) => {
        const { chance, noise } = noiseFrom(seed)
        const [height, width] = [7, 9]
        const ground: number[] = []
        for (let r = 0; r < height; r++)
          for (let c = 0; c < width; c++) {
            const at = (i: number, j: number): number => (i < 0 || j < 0 ? 0 : ground[i * width + j]!)
            ground.push(0.6 * at(r - 1, c) + 0.7 * at(r, c - 1) - 0.42 * at(r - 1, c - 1) + 0.57 * noise())
          }
        const places = ground.map((_, i) => i).filter(() => chance.below(10) > 0)
        const entry = classes(
          'entry',
          places.map(() => chance.below(4)),
        )
        const y = Float64Array.from(places, (i) => ground[i]! + 0.3 * noise())
        const { columns } = designMatrix([entry], [['entry']], y.length, 'reference')
        const [rows, across] = [places.map((i) => Math.floor(i / width)), places.map((i) => i % width)]
        const field = fitField({ y, fixed: columns, rows: Int32Array.from(rows), columns: Int32Array.from(across) })
        const nugget = groundModels.find((each) => each.key === 'rows and columns with nugget')!.model({ across, along: rows, apart: null })
        const whole = fitStructured({ y, fixed: columns, random: [], errors: nugget })
        // Where a parameter runs to its bound the likelihood is flat: the same height is all that is asked.
        expect(field.minusTwoLogLikelihood).toBeLessThan(whole.minusTwoLogLikelihood + 0.02)
        const inside =
          whole.converged &&
          !whole.bounded.some(Boolean) &&
          whole.values.every((each, i) => Math.abs(each) > 0.02 && (i === 0 || i === 3 || each < 0.97))
        if (!inside || Math.abs(field.minusTwoLogLikelihood - whole.minusTwoLogLikelihood) > 1e-5) return
        whole.values.forEach((each, i) => expect(field.values[i]! / each).toBeCloseTo(1, 2))
        const row = Float64Array.from(columns, (_, j) => (j === 1 ? 1 : 0))
        expect(satterthwaite(field).estimate(row).se / satterthwaite(whole).estimate(row).se).toBeCloseTo(1, 3)
      }),
      { numRuns: 25 },
    )
  })
})
