import { fUpper, type MixedInference } from '../../statistics/index.ts'
import type { LayoutFrame } from '../layout.ts'
import { OUTSIDE, partsOf, type Parts } from '../parts.ts'
import type { SimpleEffectRow, TestRow } from '../result.ts'
import type { TermMeans } from '../term-result.ts'
import { estimated, familyOf } from './estimates.ts'
import { combined, type Row, type Rows } from './rows.ts'

/**
 * The treatments of one factor taken apart as in `judgeParts`, where blocks or sites are a sample: those outside
 * against the rest, each part over every combination alike, and how the parts depend on each other. Tests are of
 * what all combinations inside say, so there are none where some were not grown. Null when the treatments have no parts.
 */
export function mixedParts(
  frame: LayoutFrame,
  method: MixedInference,
  rows: Rows,
  bySite: boolean,
  stratum: string,
): { tests: TestRow[]; terms: TermMeans[] } | null {
  const parts = partsOf(frame)
  if (!parts) return null
  const { whole, own, inside, beside, asked, complete } = parts
  const grown = own.levels.every((_, l) => rows.estimable({ [whole.key]: l }))
  if (!grown) return null
  const sites = bySite && frame.sites ? frame.sites.levels.map((_, s) => s) : []
  const meanOf = (levels: readonly string[], site?: number): Row =>
    combined(levels.map((level) => [1 / levels.length, rows.mean({ [whole.key]: own.levels.indexOf(level), ...(site === undefined ? {} : { site }) })] as const)) // prettier-ignore
  const contrasts = (term: readonly string[], site?: number): Row[] =>
    term[0] === OUTSIDE
      ? beside.map((level) => combined([[1, meanOf([level], site)], [-1, meanOf(inside, site)]])) // prettier-ignore
      : differencesOf(parts, term).map((signed) => combined(signed.map(([sign, levels]) => [sign, meanOf(levels, site)] as const)))
  const testOf = (name: string, own: readonly Row[]): TestRow => {
    const { f, numeratorDf, denominatorDf } = method.test(own)
    return {
      term: name,
      df: numeratorDf,
      ss: NaN,
      ms: NaN,
      f,
      p: fUpper(f, numeratorDf, denominatorDf),
      stratum,
      errorDf: denominatorDf,
      partOf: whole.key,
    }
  }
  const terms = [...(beside.length > 0 && inside.length > 0 ? [[OUTSIDE]] : []), ...(complete ? parts.crossed : [])]
  return {
    tests: terms.flatMap((term) => {
      const apart = sites.slice(1).flatMap((s) => {
        const [there, first] = [contrasts(term, s), contrasts(term, sites[0])]
        return there.map((each, i) => combined([[1, each], [-1, first[i]!]])) // prettier-ignore
      })
      return [testOf(term.join(':'), contrasts(term)), ...(apart.length > 0 ? [testOf(`site:${term.join(':')}`, apart)] : [])]
    }),
    terms: asked.map((term) => {
      const cells = parts.cells(term)
      const family = method.family(cells.map((cell) => meanOf(cell.members)))
      const means = cells.map(({ level, n }, i) => ({ level, n, ...estimated(family.at(i), frame.request.options.significance) }))
      return {
        frame: parts.frame,
        term,
        bySite: false,
        means,
        estimates: familyOf(family, means, stratum === frame.finest),
        ms: NaN,
        simpleEffects: term.length === 2 && complete ? bothWays(parts, term, method, meanOf) : [],
      }
    }),
  }
}

/** Differences of each level of the parts of a term from the first, and differences of these, over all combinations that have them. */
function differencesOf(parts: Parts, term: readonly string[]): (readonly [sign: number, levels: readonly string[]])[][] {
  const levels = term.map((key) => parts.levelsOf(key))
  const choices = levels.reduce<string[][]>((found, own) => found.flatMap((at) => own.slice(1).map((level) => [...at, level])), [[]])
  return choices.map((choice) =>
    Array.from({ length: 2 ** term.length }, (_, subset) => {
      const at = choice.map((level, p) => ((subset >> p) & 1 ? level : levels[p]![0]!))
      const sign = choice.reduce((product, _level, p) => ((subset >> p) & 1 ? product : -product), 1)
      return [sign, parts.members(term, at)] as const
    }),
  )
}

/** F of one part at each level of the other. */
function bothWays(
  parts: Parts,
  term: readonly string[],
  method: MixedInference,
  meanOf: (levels: readonly string[]) => Row,
): SimpleEffectRow[] {
  return [term, [...term].reverse()].flatMap(([factor, within]) =>
    parts.levelsOf(within!).map((level): SimpleEffectRow => {
      const [first, ...rest] = parts.levelsOf(factor!).map((each) => meanOf(parts.members([factor!, within!], [each, level])))
      const { f, numeratorDf, denominatorDf } = method.test(rest.map((each) => combined([[1, each], [-1, first!]]))) // prettier-ignore
      return {
        factor: factor!,
        within: within!,
        level,
        df: numeratorDf,
        errorDf: denominatorDf,
        f,
        p: fUpper(f, numeratorDf, denominatorDf),
      }
    }),
  )
}
