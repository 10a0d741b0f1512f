import { expect } from 'vitest'
import {
  codedValue,
  designMatrix,
  fUpper,
  kenwardRoger,
  reml,
  satterthwaite,
  tTwoSided,
  tUpperQuantile,
  type Classification,
  type MixedEstimate,
  type MixedFit,
} from '../src/statistics/index.ts'
import { classify, putPair, respond, type Got } from './classify.ts'
import { expectAgreement, referenceCase, type ReferenceCase } from './fixture.ts'

export const FACTORIAL = [['variety'], ['nitrogen'], ['variety', 'nitrogen']]

export interface Fitted {
  readonly fit: MixedFit
  readonly factors: readonly Classification[]
  readonly terms: readonly string[][]
  readonly design: ReturnType<typeof designMatrix>
}

export function fitted(
  y: Float64Array,
  factors: readonly Classification[],
  terms: readonly string[][],
  random: readonly Classification[],
): Fitted {
  const design = designMatrix(factors, terms, y.length, 'sum')
  return { fit: reml({ y, fixed: design.columns, random }), factors, terms, design }
}

/** The mean of some levels, equal weights for all others: sum coding leaves nothing of what is averaged over. */
export function meanRow({ factors, terms, design }: Fitted, levels: Readonly<Record<string, number>>): Float64Array {
  const row: number[] = [1]
  for (const term of terms) {
    const own = term.map((name) => factors.find((each) => each.name === name)!)
    const columns = own.reduce((count, each) => count * (each.levels.length - 1), 1)
    for (let c = 0; c < columns; c++) {
      let [rest, product] = [c, 1]
      for (const each of own) {
        const width = each.levels.length - 1
        const at = levels[each.name]
        product *= at === undefined ? 0 : codedValue('sum', each.levels.length, rest % width, at)
        rest = Math.floor(rest / width)
      }
      row.push(product)
    }
  }
  expect(row).toHaveLength(design.columns.length)
  return Float64Array.from(row)
}

export function testRows({ terms, design }: Fitted, term: readonly string[]): Float64Array[] {
  const at = 1 + terms.findIndex((each) => each.join() === term.join())
  return [...design.termOf.keys()].flatMap((c) =>
    design.termOf[c] === at ? [Float64Array.from(design.columns, (_, j) => (j === c ? 1 : 0))] : [],
  )
}

export function put(got: Got, at: string, { estimate, se, df }: MixedEstimate): void {
  const half = tUpperQuantile(0.025, df) * se
  got
    .set(`${at}.mean`, estimate)
    .set(`${at}.se`, se)
    .set(`${at}.df`, df)
    .set(`${at}.lower`, estimate - half)
    .set(`${at}.upper`, estimate + half)
}

/** Everything the cases tell of a mixed model, under their names. */
export function valuesOf(of: Fitted, random: readonly string[], prefix = ''): Got {
  const got: Got = new Map()
  const { fit, factors, terms } = of
  random.forEach((name, i) => got.set(`${prefix}varcomp.${name}`, fit.values[i]!))
  got.set(`${prefix}varcomp.residual`, fit.values.at(-1)!)
  for (const [key, method] of [
    ['sat', satterthwaite(fit)],
    ['kr', kenwardRoger(fit)],
  ] as const) {
    for (const term of terms) {
      const name = term.join(':')
      const { f, numeratorDf, denominatorDf } = method.test(testRows(of, term))
      const at = `${prefix}anova.${key}.${name}`
      got
        .set(`${at}.F`, f)
        .set(`${at}.numdf`, numeratorDf)
        .set(`${at}.dendf`, denominatorDf)
        .set(`${at}.p`, fUpper(f, numeratorDf, denominatorDf))
      const own = term.map((each) => factors.find((one) => one.name === each)!)
      const cells = own.reduce<{ name: string[]; at: Record<string, number> }[]>(
        (found, each) =>
          found.flatMap((cell) => each.levels.map((level, l) => ({ name: [...cell.name, level], at: { ...cell.at, [each.name]: l } }))),
        [{ name: [], at: {} }],
      )
      const rows = cells.map((cell) => meanRow(of, cell.at))
      cells.forEach((cell, i) => put(got, `${prefix}emm.${key}.${name}.${cell.name.join(':')}`, method.estimate(rows[i]!)))
      if (cells.length > 60) continue
      const seds: number[] = []
      const lsds: number[] = []
      cells.forEach((a, i) =>
        cells.slice(i + 1).forEach((b, j) => {
          const { estimate, se, df } = method.estimate(rows[i]!.map((each, c) => each - rows[i + 1 + j]![c]!))
          const t = estimate / se
          const threshold = tUpperQuantile(0.025, df) * se
          putPair(got, `${prefix}pair.${key}.${name}`, [a.name.join(':'), b.name.join(':')], {
            difference: estimate,
            sed: se,
            df,
            t,
            p: tTwoSided(t, df),
            threshold,
          })
          seds.push(se)
          lsds.push(threshold)
        }),
      )
      const mean = (values: number[]) => values.reduce((sum, each) => sum + each, 0) / values.length
      got
        .set(`${prefix}sed.${key}.${name}.mean`, mean(seds))
        .set(`${prefix}sed.${key}.${name}.rms`, Math.sqrt(mean(seds.map((each) => each ** 2))))
        .set(`${prefix}sed.${key}.${name}.min`, Math.min(...seds))
        .set(`${prefix}sed.${key}.${name}.max`, Math.max(...seds))
        .set(`${prefix}sed.${key}.${name}.mean_lsd`, mean(lsds))
    }
  }
  return got
}

/** The convention of the cases: the likelihood in reference-level coding. */
export const likelihood = (
  y: Float64Array,
  factors: readonly Classification[],
  terms: readonly string[][],
  random: readonly Classification[],
) => reml({ y, fixed: designMatrix(factors, terms, y.length, 'reference').columns, random }).minusTwoLogLikelihood

export const grown = (name: string) => {
  const { rows, info, expected } = referenceCase(name)
  const kept = rows.filter((row) => row[info.response] !== '')
  return { expected, y: respond(kept, info.response), column: (each: string) => classify(kept, each, info.levels[each]) }
}
export const told = (expected: ReferenceCase['expected'], got: Got, prefixes: RegExp) => {
  const asked = expected.filter((each) => prefixes.test(each.name))
  expectAgreement(asked, got)
  return asked.length
}
