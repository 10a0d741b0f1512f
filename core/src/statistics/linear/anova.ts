import { fUpper } from '../distribution/f.ts'
import { designMatrix, type DesignMatrix, type Term } from './design-matrix.ts'
import { fitLinear, type LinearFit } from './least-squares.ts'

export interface AnovaRow {
  readonly term: string
  readonly df: number
  readonly ss: number
  readonly ms: number
  /** NaN where there is no error to test against. */
  readonly f: number
  readonly p: number
}

export function termName(term: Term): string {
  return term.join(':')
}

/** Tests of each term after those before it (Type I), against the residual. */
export function sequentialAnova(fit: LinearFit): AnovaRow[] {
  const { design, qr, effects } = fit
  return design.terms.slice(1).map((term, i) => {
    let ss = 0
    let df = 0
    for (let k = 0; k < qr.rank; k++) {
      if (design.termOf[qr.order[k]!] === i + 1) {
        ss += effects[k]! ** 2
        df++
      }
    }
    return row(term, df, ss, fit)
  })
}

/** Tests of each term after all others that do not contain it (Type II). */
export function marginalAnova(fit: LinearFit, response: Float64Array, weights: Float64Array | null = null): AnovaRow[] {
  const { design } = fit
  const variables = [...design.variables.values()]
  const terms = design.terms.slice(1)
  return terms.map((term) => {
    const others = terms.filter((other) => other !== term && !term.every((name) => other.includes(name)))
    const without = fitLinear(designMatrix(variables, others, design.rows), response, weights)
    const with_ = fitLinear(designMatrix(variables, [...others, term], design.rows), response, weights)
    return row(term, with_.qr.rank - without.qr.rank, without.residualSs - with_.residualSs, fit)
  })
}

/** Tests of each term after all others, in sum-to-zero coding (Type III). */
export function partialAnova(fit: LinearFit, response: Float64Array, weights: Float64Array | null = null): AnovaRow[] {
  const { design } = fit
  const coded = designMatrix([...design.variables.values()], design.terms.slice(1), design.rows, 'sum')
  const full = fitLinear(coded, response, weights)
  return design.terms.slice(1).map((term, i) => {
    const without = fitLinear(dropTerm(coded, i + 1), response, weights)
    return row(term, full.qr.rank - without.qr.rank, without.residualSs - full.residualSs, fit)
  })
}

function dropTerm(design: DesignMatrix, index: number): DesignMatrix {
  const kept = design.columns.map((_, c) => c).filter((c) => design.termOf[c] !== index)
  return { ...design, columns: kept.map((c) => design.columns[c]!), termOf: Int32Array.from(kept, (c) => design.termOf[c]!) }
}

function row(term: Term, df: number, ss: number, fit: LinearFit): AnovaRow {
  const ms = df > 0 ? ss / df : NaN
  const testable = df > 0 && fit.residualDf > 0 && fit.residualMs > 0
  const f = testable ? ms / fit.residualMs : NaN
  return { term: termName(term), df, ss, ms, f, p: testable ? fUpper(f, df, fit.residualDf) : NaN }
}

export interface NestedTest {
  readonly df: number
  readonly errorDf: number
  readonly f: number
  readonly p: number
}

/** F test of what the larger of two nested models explains beyond the smaller, against the larger one's error. */
export function nestedTest(smaller: LinearFit, larger: LinearFit): NestedTest {
  const df = larger.qr.rank - smaller.qr.rank
  const errorDf = larger.residualDf
  const f = (smaller.residualSs - larger.residualSs) / df / larger.residualMs
  return { df, errorDf, f, p: df > 0 && errorDf > 0 ? fUpper(f, df, errorDf) : NaN }
}
