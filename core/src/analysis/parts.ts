import {
  comparisonMethod,
  linearEstimates,
  marginalMeans,
  sequentialAnova,
  simpleEffectsOf,
  tUpperQuantile,
  varianceFactor,
  type Classification,
  type LinearFit,
  type MarginalMean,
  type MarginalOptions,
} from '../statistics/index.ts'
import { factorialTerms, type LayoutFrame } from './layout.ts'
import { linearFit, linearTerms } from './linear-model.ts'
import type { AnalysisOptions, TreatmentPart } from './request.ts'
import type { SimpleEffectRow, TestRow } from './result.ts'
import type { JudgedMean, TermMeans } from './term-result.ts'

/** The level of a part that treatments outside the combinations stand at, and the term that sets them against the rest. */
export const OUTSIDE = 'outside'

/** What the treatments of one factor come to, taken apart into the factors they are combinations of. */
export interface PartsJudged {
  readonly tests: readonly TestRow[]
  readonly terms: readonly TermMeans[]
}

/** How the treatments of one factor are combinations of others, whichever way they are judged. */
export interface Parts {
  readonly whole: LayoutFrame['request']['factors'][number]
  readonly parts: readonly TreatmentPart[]
  readonly own: Classification
  readonly split: readonly Classification[]
  /** Treatments that are combinations, and those that stand outside. */
  readonly inside: readonly string[]
  readonly beside: readonly string[]
  /** Every term of the parts; of these, those there are means of. */
  readonly crossed: readonly string[][]
  readonly asked: readonly string[][]
  /** Every combination was grown. */
  readonly complete: boolean
  readonly frame: LayoutFrame
  readonly levelsOf: (key: string) => readonly string[]
  /** Treatments inside that stand at these levels of these parts. */
  readonly members: (term: readonly string[], at: readonly string[]) => readonly string[]
  /** Of a term: its combinations that were grown, with how many values they have. */
  readonly cells: (
    term: readonly string[],
  ) => readonly { readonly level: string; readonly n: number; readonly members: readonly string[] }[]
}

/** Null when the treatments have no parts. */
export function partsOf(frame: LayoutFrame): Parts | null {
  const [whole, ...others] = frame.request.factors
  const parts = whole?.parts
  if (!whole || !parts || parts.length === 0 || others.length > 0) return null
  const own = frame.factors[0]!
  const split = parts.map((part) => classified(own, part))
  const beside = own.levels.filter((level) => parts.some((part) => part.of[level] === undefined))
  const inside = own.levels.filter((level) => !beside.includes(level))
  const crossed = factorialTerms(parts.map((part) => part.key))
  const complete = inside.length === split.reduce((product, part) => product * presentLevels(part).length, 1)
  const partOf = (key: string): number => parts.findIndex((part) => part.key === key)
  const levelsOf = (key: string): readonly string[] => presentLevels(split[partOf(key)]!)
  const members = (term: readonly string[], at: readonly string[]): readonly string[] =>
    inside.filter((level) => term.every((key, p) => parts[partOf(key)]!.of[level] === at[p]))
  return {
    whole,
    parts,
    own,
    split,
    inside,
    beside,
    crossed,
    asked: complete ? crossed : crossed.filter((term) => term.length === parts.length),
    complete,
    frame: partFrame(frame, split, parts),
    levelsOf,
    members,
    cells: (term) =>
      term
        .reduce<string[][]>((found, key) => found.flatMap((at) => levelsOf(key).map((level) => [...at, level])), [[]])
        .flatMap((at) => {
          const standing = members(term, at)
          const n = own.codes.filter((code) => standing.includes(own.levels[code]!)).length
          return standing.length > 0 ? [{ level: at.join(':'), n, members: standing }] : []
        }),
  }
}

/**
 * The line of the treatments split into those outside against the rest, each part, and how the parts
 * depend on each other, in this order; against the error of the whole. Together the rows use all its
 * degrees of freedom. Means of a part are over all combinations inside, so there are none where some
 * were not grown (Cochran & Cox 1957, 5.24). Null when the treatments have no parts.
 */
export function judgeParts(frame: LayoutFrame, fit: LinearFit, marginal: MarginalOptions): PartsJudged | null {
  const found = partsOf(frame)
  if (!found) return null
  const { whole, parts, split, own, beside, inside, crossed, asked } = found
  const apart: Classification | null =
    beside.length > 0 && inside.length > 0
      ? { name: OUTSIDE, levels: ['', ...beside], codes: own.codes.map((code) => 1 + beside.indexOf(own.levels[code]!)) }
      : null
  const factors = [...(apart ? [apart] : []), ...split]
  const terms = [...(apart ? [[OUTSIDE]] : []), ...crossed]
  const inParts = { ...frame, factors, terms }
  const { residualMs: ms, residualDf: df } = fit
  const rows = sequentialAnova(linearFit(inParts, linearTerms(inParts))).filter((row) =>
    terms.some((term) => row.term === term.join(':') || row.term === `site:${term.join(':')}`),
  )
  const tests = rows.filter((row) => row.df > 0).map((row): TestRow => ({ ...row, stratum: frame.finest, errorDf: df, partOf: whole.key }))
  const cells = marginalMeans(fit, [whole.key], marginal)
  const context = { frame: found.frame, parts, cells, inside, ms, df }
  return { tests, terms: asked.map((term) => meansOf(context, term)) }
}

function classified(own: Classification, part: TreatmentPart): Classification {
  const levels = [...part.levels.filter((level) => own.levels.some((each) => part.of[each] === level)), '–']
  return { name: part.key, levels, codes: own.codes.map((code) => levels.indexOf(part.of[own.levels[code]!] ?? '–')) }
}

function presentLevels({ levels }: Classification): readonly string[] {
  return levels.filter((level) => level !== '–')
}

/** The frame as the parts see it: each was dealt out with the whole treatment. */
function partFrame(frame: LayoutFrame, factors: readonly Classification[], parts: readonly TreatmentPart[]): LayoutFrame {
  const { request } = frame
  const dealt = request.structure.factors[0]!
  return {
    ...frame,
    factors,
    request: {
      ...request,
      options: { ...request.options, method: amongAll(request.options.method) },
      factors: parts.map(({ key, name, levels, amounts }) => ({ key, ...(name ? { name } : {}), levels, ...(amounts ? { amounts } : {}) })),
      structure: {
        ...request.structure,
        factors: parts.map(({ key, how }) => ({ ...dealt, ...(how ? { how } : {}), factor: key })),
        controls: [],
      },
    },
  }
}

/** Methods that compare every pair: the control stands outside the parts. */
function amongAll(asked: AnalysisOptions['method']): string[] {
  const methods = (asked === undefined ? ['tukey'] : [asked].flat()).filter((each) => comparisonMethod(each).pairs === 'all')
  return methods.length > 0 ? methods : ['tukey']
}

interface Context {
  readonly frame: LayoutFrame
  readonly parts: readonly TreatmentPart[]
  readonly cells: readonly MarginalMean[]
  readonly inside: readonly string[]
  readonly ms: number
  readonly df: number
}

/** Means of some of the parts, each over the combinations that have its levels. */
function meansOf({ frame, parts, cells, inside, ms, df }: Context, term: readonly string[]): TermMeans {
  const half = tUpperQuantile(frame.request.options.significance / 2, df)
  const own = term.map((key) => parts.find((part) => part.key === key)!)
  const grouped = own.reduce<string[][]>((found, part) => found.flatMap((at) => part.levels.map((level) => [...at, level])), [[]])
  const found = grouped.flatMap((at): MarginalMean[] => {
    const members = cells.filter((cell) => inside.includes(cell.level) && own.every((part, p) => part.of[cell.level] === at[p]))
    return members.length > 0 && members.every((each) => each.estimable && each.n > 0) ? [averaged(members, at.join(':'))] : []
  })
  return {
    frame,
    term,
    bySite: false,
    means: found.map((mean): JudgedMean => {
      const se = Math.sqrt(ms * varianceFactor(mean))
      const { level, n, estimate } = mean
      return { level, n, estimate, se, df, lower: estimate - half * se, upper: estimate + half * se }
    }),
    estimates: (among) =>
      linearEstimates(
        among.map((i) => found[i]!),
        ms,
        df,
      ),
    ms,
    simpleEffects: term.length === 2 && found.length === grouped.length ? bothWays(found, term, ms, df) : [],
  }
}

function averaged(members: readonly MarginalMean[], level: string): MarginalMean {
  const share = 1 / members.length
  return {
    level,
    n: members.reduce((sum, each) => sum + each.n, 0),
    estimate: members.reduce((sum, each) => sum + each.estimate * share, 0),
    root: members[0]!.root.map((_, k) => members.reduce((sum, each) => sum + each.root[k]! * share, 0)),
    estimable: true,
  }
}

function bothWays(cells: readonly MarginalMean[], [first, second]: readonly string[], ms: number, df: number): SimpleEffectRow[] {
  const turned = cells.map((cell) => ({ ...cell, level: cell.level.split(':').reverse().join(':') }))
  return [
    ...simpleEffectsOf(cells, ms, df).map((each) => ({ ...each, factor: first!, within: second! })),
    ...simpleEffectsOf(turned, ms, df).map((each) => ({ ...each, factor: second!, within: first! })),
  ]
}
