import type { AnovaRow, Classification, Comparison } from '../src/statistics/index.ts'
import type { ReferenceCase } from './fixture.ts'

export type Got = Map<string, number | string>

/** A column as a classification, its levels sorted as text (numbers as numbers) unless given. */
export function classify(rows: ReferenceCase['rows'], column: string, levels?: string[]): Classification {
  const own = levels ?? [...new Set(rows.map((row) => row[column]!))].sort((a, b) => Number(a) - Number(b) || (a < b ? -1 : 1))
  return { name: column, levels: own, codes: Int32Array.from(rows, (row) => own.indexOf(row[column]!)) }
}

export const respond = (rows: ReferenceCase['rows'], column: string) => Float64Array.from(rows, (row) => Number(row[column]))
export const meanOf = (values: ArrayLike<number>) => Array.from(values).reduce((sum, each) => sum + each, 0) / values.length

/** Puts rows of an analysis of variance under their names in the cases. */
export function putRows(got: Got, prefix: string, rows: readonly AnovaRow[], rename: Record<string, string> = {}): void {
  for (const row of rows) {
    const at = `${prefix}.${rename[row.term] ?? row.term}`
    got
      .set(`${at}.df`, row.df)
      .set(`${at}.ss`, row.ss)
      .set(`${at}.ms`, row.ms)
      .set(`${at}.F`, row.f)
      .set(`${at}.f`, row.f)
      .set(`${at}.p`, row.p)
  }
}

/** Puts an estimate with its test and limits. */
export function putEstimate(
  got: Got,
  at: string,
  of: { estimate: number; se: number; t: number; p: number; lower: number; upper: number },
): void {
  got
    .set(`${at}.estimate`, of.estimate)
    .set(`${at}.se`, of.se)
    .set(`${at}.t`, of.t)
    .set(`${at}.p`, of.p)
    .set(`${at}.ci_lo`, of.lower)
    .set(`${at}.ci_hi`, of.upper)
}

/** Puts a comparison under a pair's name both ways round: the cases name a pair in their own order. */
export function putPair(
  got: Got,
  at: string,
  [a, b]: readonly [string, string],
  { difference, sed, df, t, p, threshold }: Pick<Comparison, 'difference' | 'sed' | 'df' | 't' | 'p' | 'threshold'>,
): void {
  for (const [name, sign] of [
    [`${at}.${a}-${b}`, 1],
    [`${at}.${b}-${a}`, -1],
  ] as const)
    got
      .set(`${name}.diff`, sign * difference)
      .set(`${name}.sed`, sed)
      .set(`${name}.df`, df)
      .set(`${name}.t`, sign * t)
      .set(`${name}.p`, p)
      .set(`${name}.lsd`, threshold)
}
