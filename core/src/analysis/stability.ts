import {
  concordance,
  fUpper,
  kendall,
  marginalMeans,
  principalAxes,
  spearman,
  stability,
  type Axis,
  type LinearFit,
  type Stability,
  type TwoWay,
} from '../statistics/index.ts'
import { crossing, type LayoutFrame } from './layout.ts'
import { nesting } from './linear-model.ts'

/** How the entries of a term go along with the sites. */
export interface TermStability extends Stability {
  readonly sites: readonly string[]
  /** Of the interaction alone: with sums of squares of plots, and F against the error of plots on Gollob's degrees of freedom (1968). */
  readonly interactionAxes: readonly (Axis & { readonly ss: number; readonly df: number; readonly f: number; readonly p: number })[]
  /** Of entries and interaction together. */
  readonly entryAxes: readonly Axis[]
  /** How alike two sites rank the entries. */
  readonly ranks: readonly { readonly a: string; readonly b: string; readonly spearman: number; readonly kendall: number }[]
  /** How alike all sites rank them: Kendall's W. */
  readonly agreement: { readonly w: number; readonly chiSquared: number; readonly df: number; readonly p: number }
}

const FEWEST = 3
/** Principal axes of more entries are slow, and no picture shows them. */
const MOST_ENTRIES = 200

/** By term, where it has three levels at each of three sites, and every cell is known. */
export function stabilityByTerm(frame: LayoutFrame, fit: LinearFit | null): Record<string, TermStability> {
  const { sites, terms, factors, y } = frame
  if (!sites || !fit || sites.levels.length < FEWEST || frame.covariates.length > 0) return {}
  const found = terms.filter((term) => term.length === 1 || term.length === factors.length)
  return Object.fromEntries(
    found.flatMap((term) => {
      const entries = crossing(term, factors)
      if (entries.levels.length < FEWEST || entries.levels.length > MOST_ENTRIES) return []
      const cells = marginalMeans(fit, ['site', ...term], { at: {}, weights: 'equal', nested: nesting(frame.units) })
      const at = new Map(cells.filter((cell) => cell.estimable && cell.n > 0).map((cell) => [cell.level, cell]))
      const own = entries.levels.map((level) => sites.levels.map((site) => at.get(`${site}:${level}`)))
      if (own.some((row) => row.some((cell) => !cell))) return []
      const table: TwoWay = {
        entries: entries.levels,
        environments: sites.levels,
        means: own.map((row) => row.map((cell) => cell!.estimate)),
      }
      const counts = own.flat().map((cell) => 1 / cell!.n)
      const replicates = counts.length / counts.reduce((sum, each) => sum + each, 0)
      const scale = y.reduce((most, each) => Math.max(most, Math.abs(each)), 0)
      // Entries that do alike everywhere leave nothing to take apart.
      const of = stability(table, fit.residualMs / replicates)
      if (!(of.entries.reduce((sum, each) => sum + each.ecovalence, 0) > 1e-18 * scale ** 2)) return []
      const [g, e] = [entries.levels.length, sites.levels.length]
      const interactionAxes = principalAxes(table, 'interaction').map((axis, k) => {
        const ss = replicates * axis.singular ** 2
        const df = g + e - 1 - 2 * (k + 1)
        const f = ss / df / fit.residualMs
        return { ...axis, ss, df, f, p: fUpper(f, df, fit.residualDf) }
      })
      const columns = sites.levels.map((_, s) => table.means.map((row) => row[s]!))
      return [
        [
          term.join(':'),
          {
            ...of,
            sites: sites.levels,
            interactionAxes,
            entryAxes: principalAxes(table, 'entry and interaction'),
            ranks: sites.levels.flatMap((a, i) =>
              sites.levels.slice(i + 1).map((b, j) => ({
                a,
                b,
                spearman: spearman(columns[i]!, columns[i + 1 + j]!),
                kendall: kendall(columns[i]!, columns[i + 1 + j]!),
              })),
            ),
            agreement: concordance(columns),
          },
        ] as const,
      ]
    }),
  )
}
