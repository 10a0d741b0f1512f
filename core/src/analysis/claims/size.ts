import { tTwoSided, tUpperQuantile } from '../../statistics/index.ts'
import type { Evidence } from '../evidence.ts'
import type { Analysis, ComparisonRow, ContrastRow, MeanRow } from '../result.ts'
import type { Claim, Difference, Reservation, Size, Strength } from './claim.ts'

/** Two means of a term by themselves: their difference a minus b with its error and evidence. */
export interface Pair {
  readonly a: string
  readonly b: string
  readonly difference: number
  readonly sed: number
  readonly df: number
  readonly evidence: Evidence
}

export type Analysed = Omit<Analysis, 'sentences' | 'claims'>

/** What the claims of an analysis are drawn from. */
export interface Source {
  readonly analysis: Analysed
  /** Two means of a term by themselves; null where nothing is known of their error. */
  readonly pair: (term: string, a: string, b: string) => Pair | null
  /** From the scale of the analysis to that of the response. */
  readonly back: (x: number) => number
}

/** A p so near to the level that both sides of it read alike: within a fifth of it below, a quarter above. */
const NEAR = [0.8, 1.25] as const

export function strengthOf(p: number, significance: number, { kind }: Evidence): Strength {
  if (kind === 'look' || !Number.isFinite(p)) return 'described'
  if (p < NEAR[0] * significance) return 'told'
  return p <= NEAR[1] * significance ? 'narrow' : 'open'
}

/** As what a difference on the scale of the analysis is told, and by which function it is brought back there. */
export function manner({ scale }: Pick<Analysed, 'scale'>): { as: Size['as']; out: (x: number) => number } {
  if (!scale) return { as: 'difference', out: (x) => x }
  if (scale.name === 'log') return { as: 'ratio', out: Math.exp }
  return scale.name === 'log10' ? { as: 'ratio', out: (x) => 10 ** x } : { as: 'bent', out: (x) => x }
}

/** A mean on the scale of the response. */
export function observedMean(row: MeanRow | undefined): number {
  return row?.back?.mean ?? row?.mean ?? NaN
}

interface Limits {
  readonly lower: number
  readonly upper: number
  readonly allowsFor: number
}

/** Limits of some of `m` comparisons looked at together (Bonferroni); 1: of this one alone. */
export function limitsOf({ difference, sed, df }: Pair, significance: number, m: number): Limits {
  const half = tUpperQuantile(significance / 2 / m, df) * sed
  return { lower: difference - half, upper: difference + half, allowsFor: m }
}

export function pOf({ difference, sed, df }: Pair, m: number): number {
  return Math.min(1, m * tTwoSided(difference / sed, df))
}

function sizeOf(analysis: Analysed, pair: Pair, { lower, upper, allowsFor }: Limits, means: Size['means']): Size {
  const { as, out } = manner(analysis)
  return {
    as,
    estimate: out(pair.difference),
    se: pair.sed,
    df: pair.df,
    // What is open at an end stays open there.
    lower: lower === -Infinity ? (as === 'ratio' ? 0 : lower) : out(lower),
    upper: upper === Infinity ? upper : out(upper),
    means,
    allowsFor,
  }
}

export type About = Partial<Pick<Difference, 'origin' | 'name' | 'late' | 'at' | 'among' | 'picked' | 'reservations'>>

const PLAIN = {
  kind: 'difference' as const,
  origin: 'pair' as const,
  name: null,
  late: false,
  at: [],
  among: 1,
  picked: 1,
  reservations: [] as readonly Reservation[],
}

/** A claim of one pair of means, what is larger before what is smaller unless it is held against something. */
export function differenceOf(
  analysis: Analysed,
  term: string,
  pair: Pair,
  limits: Limits,
  p: number,
  about: About = {},
  turn = true,
): Difference {
  const means = analysis.terms[term]?.means ?? []
  const at = (level: string): number => observedMean(means.find((each) => each.level === level))
  const [own, inner] =
    turn && pair.difference < 0
      ? [
          { ...pair, a: pair.b, b: pair.a, difference: -pair.difference },
          { ...limits, lower: -limits.upper, upper: -limits.lower },
        ]
      : [pair, limits]
  return {
    ...PLAIN,
    what: { term, levels: [own.a] },
    against: { term, levels: [own.b] },
    size: sizeOf(analysis, own, inner, [at(own.a), at(own.b)]),
    p,
    strength: strengthOf(p, analysis.significance, pair.evidence),
    evidence: pair.evidence.kind,
    why: pair.evidence.why,
    ...about,
  }
}

/** A row of a method, as it was judged there; limits of the pair alone where the method has none. */
export function rowClaim(
  analysis: Analysed,
  term: string,
  row: ComparisonRow,
  allowsFor: number,
  about: About = {},
  turn = true,
): Difference {
  const pair = pairOfRow(row)
  const limits = Number.isNaN(row.lower) ? limitsOf(pair, analysis.significance, 1) : { lower: row.lower, upper: row.upper, allowsFor }
  return differenceOf(analysis, term, pair, limits, row.p, about, turn)
}

function pairOfRow({ a, b, difference, sed, df, evidence }: ComparisonRow): Pair {
  return { a, b, difference, sed, df, evidence }
}

/** A planned comparison, scaled so that each side counts one in all. */
export function contrastSize(analysis: Analysed, row: ContrastRow, scale: number, means: Size['means']): Size {
  const { as, out } = manner(analysis)
  return {
    as,
    estimate: out(row.estimate * scale),
    se: row.se * Math.abs(scale),
    df: row.df,
    lower: out(row.lower * scale),
    upper: out(row.upper * scale),
    means,
    allowsFor: 1,
  }
}

/** The same claim read the other way round. */
export function reversed(claim: Difference): Difference {
  const { size } = claim
  const turn = (x: number): number => (size.as === 'ratio' ? 1 / x : -x)
  return {
    ...claim,
    what: claim.against,
    against: claim.what,
    size: {
      ...size,
      estimate: turn(size.estimate),
      lower: turn(size.upper),
      upper: turn(size.lower),
      means: [size.means[1], size.means[0]],
    },
  }
}

/** A size on a scale where both ways count alike. */
export function logOrPlain({ size }: Difference): number {
  return size.as === 'ratio' ? Math.log(size.estimate) : size.estimate
}

/** Whether the trait is more on the first side: 1 or −1, on the scale of the response. */
export function signOf({ size }: Difference): number {
  if (size.as === 'ratio') return size.estimate >= 1 ? 1 : -1
  return (size.as === 'bent' ? size.means[0] - size.means[1] : size.estimate) >= 0 ? 1 : -1
}

export function evident({ evidence: { kind, why } }: { readonly evidence: { kind: Claim['evidence']; why: string } }): {
  evidence: Claim['evidence']
  why: string
} {
  return { evidence: kind, why }
}
