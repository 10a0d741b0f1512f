import { fUpper } from '../distribution/f.ts'
import { tTwoSided } from '../distribution/t.ts'

/** A table of means: entries by environments, every cell filled. */
export interface TwoWay {
  readonly entries: readonly string[]
  readonly environments: readonly string[]
  /** By entry, then environment. */
  readonly means: readonly (readonly number[])[]
}

export interface EntryStability {
  readonly entry: string
  readonly mean: number
  /** What it gains where the environment gains one: regression on the environment's index (Finlay & Wilkinson 1963). */
  readonly slope: number
  readonly slopeError: number
  /** Of the slope against one, on two degrees of freedom less than environments. */
  readonly t: number
  readonly p: number
  /** Mean square about its line (Eberhart & Russell 1966), and what of it is more than the error of a mean; NaN without one. */
  readonly deviation: number
  readonly deviationBeyondError: number
  readonly rSquared: number
  /** Its part of the interaction, as a sum of squares of cell means (Wricke 1962) and in % of all. */
  readonly ecovalence: number
  readonly ecovalenceShare: number
  /** Shukla's variance (1972); may come out below zero. */
  readonly stabilityVariance: number
  /** Mean square distance below the best of each environment, halved (Lin & Binns 1988): small is good. */
  readonly superiority: number
  /** Of its means over environments, %. */
  readonly cv: number
}

export interface Stability {
  /** By environment: its mean less the mean of all. */
  readonly index: readonly number[]
  readonly entries: readonly EntryStability[]
  /** The interaction's sum of squares of cell means in two: that entries differ in their slopes, and the rest. */
  readonly slopes: {
    readonly ss: number
    readonly rest: number
    readonly df: number
    readonly restDf: number
    readonly f: number
    readonly p: number
  }
}

/**
 * How each entry goes along with the environments. `errorOfMean`: error variance of a cell mean, NaN where
 * it is not known. Throws RangeError with fewer than three of either.
 */
export function stability({ entries, environments, means }: TwoWay, errorOfMean = NaN): Stability {
  const [g, e] = [entries.length, environments.length]
  if (g < 3 || e < 3) throw new RangeError('Stability needs three entries and three environments')
  const mean = (values: readonly number[]): number => values.reduce((sum, each) => sum + each, 0) / values.length
  const own = means.map(mean)
  const grand = mean(own)
  const environment = environments.map((_, j) => mean(means.map((row) => row[j]!)))
  const index = environment.map((each) => each - grand)
  const spread = index.reduce((sum, each) => sum + each ** 2, 0)
  const best = environments.map((_, j) => Math.max(...means.map((row) => row[j]!)))
  const ecovalences = means.map((row, i) => row.reduce((sum, each, j) => sum + (each - own[i]! - index[j]!) ** 2, 0))
  const interaction = ecovalences.reduce((sum, each) => sum + each, 0)
  const found = means.map((row, i): EntryStability => {
    const slope = row.reduce((sum, each, j) => sum + each * index[j]!, 0) / spread
    const total = row.reduce((sum, each) => sum + (each - own[i]!) ** 2, 0)
    const rest = total - slope ** 2 * spread
    const deviation = rest / (e - 2)
    const slopeError = Math.sqrt(deviation / spread)
    const t = (slope - 1) / slopeError
    return {
      entry: entries[i]!,
      mean: own[i]!,
      slope,
      slopeError,
      t,
      p: tTwoSided(t, e - 2),
      deviation,
      deviationBeyondError: deviation - errorOfMean,
      rSquared: (slope ** 2 * spread) / total,
      ecovalence: ecovalences[i]!,
      ecovalenceShare: (100 * ecovalences[i]!) / interaction,
      stabilityVariance: (g * (g - 1) * ecovalences[i]! - interaction) / ((e - 1) * (g - 1) * (g - 2)),
      superiority: row.reduce((sum, each, j) => sum + (each - best[j]!) ** 2, 0) / (2 * e),
      cv: (100 * Math.sqrt(total / (e - 1))) / own[i]!,
    }
  })
  const ss = found.reduce((sum, each) => sum + (each.slope - 1) ** 2 * spread, 0)
  const rest = interaction - ss
  const [df, restDf] = [g - 1, (g - 1) * (e - 2)]
  const f = ss / df / (rest / restDf)
  return { index, entries: found, slopes: { ss, rest, df, restDf, f, p: fUpper(f, df, restDf) } }
}
