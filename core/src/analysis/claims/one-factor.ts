import { tTwoSided } from '../../statistics/index.ts'
import type { ComparisonRow, TermResult, TestRow } from '../result.ts'
import type { Claim, Difference, Reservation } from './claim.ts'
import { describedTerm, singleUnits } from './described-claims.ts'
import { ladderClaims } from './ladder-claims.ts'
import { alike, worth } from './margins.ts'
import {
  differenceOf,
  evident,
  limitsOf,
  logOrPlain,
  observedMean,
  pOf,
  reversed,
  rowClaim,
  signOf,
  strengthOf,
  type Analysed,
  type Source,
} from './size.ts'

/** Pairs up to which all are named. */
const FEW_PAIRS = 6

/** What one factor does: what leads, what else there is, how it goes along its amounts, and what that is worth. */
export function factorClaims(source: Source, term: TermResult, reservations: readonly Reservation[]): Claim[] {
  const { analysis } = source
  const test = analysis.tests.find((each) => each.term === term.term)
  const { rows, key } = leadingRows(term)
  const judged = rows.filter((row) => Number.isFinite(row.p))
  const sound = judged.filter((row) => row.evidence.kind !== 'look')
  if (sound.length === 0) {
    if (rows.length === 0 && analysis.options.protect && test && Number.isFinite(test.p) && term.means.length > 1)
      return [keptBack(source, term, test)]
    return [describedTerm(analysis, term)]
  }
  const against = key === 'dunnett'
  const asked: Asked = {
    analysis,
    term,
    rows: sound,
    family: judged.length,
    test: judged.length > sound.length ? undefined : test,
    reservations,
  }
  const main = against ? heldAgainst(asked) : amongAll(asked, key)
  const singles = judged.length > sound.length ? [singleUnits(analysis, term, judged)] : []
  const along = ladderClaims(source, term)
  // Steps along amounts are told as such, and not pair by pair.
  const told = along.length > 0 ? main.filter((each) => each.kind !== 'others' || each.against !== null) : main
  return [...told, ...along, ...alike(source, term, rows), ...worth(analysis, term, sound, against), ...singles]
}

/** The comparisons that lead: against the control where there is one, else of the method that allows for all pairs, or was asked for. */
function leadingRows({ comparisons }: TermResult): { rows: readonly ComparisonRow[]; key: string } {
  const key = comparisons.dunnett ? 'dunnett' : comparisons.tukey ? 'tukey' : (Object.keys(comparisons)[0] ?? '')
  return { rows: comparisons[key] ?? [], key }
}

interface Asked {
  readonly analysis: Analysed
  readonly term: TermResult
  /** Of levels that stood on several units. */
  readonly rows: readonly ComparisonRow[]
  /** Comparisons that the limits allow for. */
  readonly family: number
  /** Of all levels; undefined where some are only described. */
  readonly test: TestRow | undefined
  readonly reservations: readonly Reservation[]
}

/** Levels that stand in the rows. */
function levelsIn(rows: readonly ComparisonRow[]): number {
  return new Set(rows.flatMap((row) => [row.a, row.b])).size
}

function heldAgainst({ analysis, term, rows, family, test, reservations }: Asked): Claim[] {
  const { better } = analysis.vocabulary.trait
  const { side, significance } = analysis.options
  const oneSided: Reservation[] = side === 'two-sided' ? [] : [{ kind: 'one-sided', side }]
  const claims = rows.map((row) =>
    // What a one-sided question did not find is told with the limits of the pair both ways.
    rowClaim(
      analysis,
      term.term,
      side !== 'two-sided' && strengthOf(row.p, significance, row.evidence) === 'open' ? { ...row, lower: NaN, upper: NaN } : row,
      family,
      { origin: 'control', among: family, reservations: [...reservations, ...oneSided] },
      false,
    ),
  )
  const way = better === 'less' ? -1 : 1
  const up = (claim: Difference): number => signOf(claim) * Math.abs(logOrPlain(claim))
  const gain = (claim: Difference): number => (better === 'neither' ? Math.abs(up(claim)) : way * up(claim))
  const best = (of: readonly Difference[]): Difference => of.reduce((a, b) => (gain(b) > gain(a) ? b : a))
  const told = claims.filter((each) => each.strength === 'told')
  const narrow = claims.filter((each) => each.strength === 'narrow')
  const further = new Set(analysis.vocabulary.factors[term.term]?.controls ?? [])
  // The best gain leads, and where there is none the widest of what went the other way; a further control only by itself.
  const lead = (of: readonly Difference[]): Difference => {
    const own = of.some((each) => !further.has(each.what.levels[0]!)) ? of.filter((each) => !further.has(each.what.levels[0]!)) : of
    const top = best(own)
    return gain(top) > 0 ? top : own.reduce((a, b) => (Math.abs(logOrPlain(b)) > Math.abs(logOrPlain(a)) ? b : a))
  }
  const first = told.length > 0 ? lead(told) : narrow.length > 0 ? lead(narrow) : null
  const control = { term: term.term, levels: [term.control!] }
  // One-sided, what went the other way is judged by itself.
  const unasked =
    side === 'two-sided'
      ? []
      : rows.flatMap((row) => {
          const p = tTwoSided(row.t, row.df)
          return (side === 'greater' ? row.difference < 0 : row.difference > 0) && p < significance
            ? [
                differenceOf(
                  analysis,
                  term.term,
                  { ...row, evidence: row.evidence },
                  limitsOf(row, significance, 1),
                  p,
                  { origin: 'control', reservations },
                  false,
                ),
              ]
            : []
        })
  const rest = claims.filter((each) => each !== first)
  const others: Claim[] =
    (first && rest.length > 0) || unasked.length > 0
      ? [
          {
            kind: 'others',
            term: term.term,
            against: control,
            told: rest.filter((each) => each.strength === 'told'),
            narrow: rest.filter((each) => each.strength === 'narrow'),
            open: first
              ? rest.filter((each) => each.strength === 'open' && !unasked.some((one) => one.what.levels[0] === each.what.levels[0]))
              : [],
            unasked,
            controls: analysis.vocabulary.factors[term.term]?.controls.filter((each) => each !== term.control) ?? [],
            counts: null,
            ...evident(rows[0]!),
          },
        ]
      : []
  if (first) return [first, ...others]
  if (claims.length === 1) return unasked.length > 0 ? others : [claims[0]!, ...others]
  const away = new Set(unasked.map((each) => each.what.levels[0]))
  const open = claims.filter((each) => !away.has(each.what.levels[0]))
  return [
    {
      kind: 'whole',
      term: term.term,
      levels: levelsIn(rows),
      f: test?.f ?? NaN,
      p: test?.p ?? NaN,
      strength: 'open',
      pairs: claims.length,
      told: 0,
      against: control,
      side: side === 'two-sided' ? null : side,
      afterPlanned: false,
      kept: false,
      widest: open.length > 0 ? open.reduce((a, b) => (Math.abs(logOrPlain(b)) > Math.abs(logOrPlain(a)) ? b : a)) : null,
      ...evident(rows[0]!),
    },
    ...others,
  ]
}

function amongAll({ analysis, term, rows, family, test, reservations }: Asked, key: string): Claim[] {
  const { better } = analysis.vocabulary.trait
  const allowed = key !== 'lsd'
  const about = { origin: 'pair' as const, among: family, reservations }
  const claims = rows.map((row) => {
    const claim = rowClaim(analysis, term.term, row, allowed ? family : 1, about)
    // The better of the two comes first.
    return better === 'less' && signOf(claim) > 0 ? reversed(claim) : signOf(claim) < 0 && better !== 'less' ? reversed(claim) : claim
  })
  const widestOf = (of: readonly Difference[]): Difference =>
    of.reduce((a, b) => (Math.abs(logOrPlain(b)) > Math.abs(logOrPlain(a)) ? b : a))
  if (claims.length === 1) return [claims[0]!]
  const told = claims.filter((each) => each.strength === 'told')
  const narrow = claims.filter((each) => each.strength === 'narrow')
  const whole =
    test && Number.isFinite(test.p)
      ? strengthOf(test.p, analysis.significance, term.evidence.kind === 'look' ? rows[0]!.evidence : term.evidence)
      : null
  const found = told.length > 0 ? told : narrow
  const picked = widestOf(found.length > 0 ? found : claims)
  const widest: Difference = {
    ...picked,
    reservations: [
      ...picked.reservations,
      { kind: 'widest', pairs: family, allowed, byChance: allowed ? 0 : analysis.significance * family },
    ],
  }
  if (found.length === 0 || whole === 'open')
    return [
      {
        kind: 'whole',
        term: term.term,
        levels: levelsIn(rows),
        f: test?.f ?? NaN,
        p: test?.p ?? NaN,
        strength: whole ?? 'open',
        pairs: claims.length,
        told: told.length,
        against: null,
        side: null,
        afterPlanned: false,
        kept: false,
        widest: found.length === 0 ? picked : widest,
        ...evident(rows[0]!),
      },
    ]
  const rest = claims.filter((each) => each !== picked)
  const few = claims.length <= FEW_PAIRS
  return [
    widest,
    {
      kind: 'others',
      term: term.term,
      against: null,
      told: few ? rest.filter((each) => each.strength === 'told') : [],
      narrow: few ? rest.filter((each) => each.strength === 'narrow') : [],
      open: few ? rest.filter((each) => each.strength === 'open') : [],
      unasked: [],
      controls: [],
      counts: few ? null : { told: told.length, pairs: claims.length, ...besideTheBest(analysis, term, claims) },
      ...evident(rows[0]!),
    },
  ]
}

/** The best level, and those that are not told apart from it, in their order. */
function besideTheBest({ vocabulary }: Analysed, { means }: TermResult, claims: readonly Difference[]): { top: string; near: string[] } {
  const sign = vocabulary.trait.better === 'less' ? -1 : 1
  const stood = new Set(claims.flatMap((each) => [each.what.levels[0]!, each.against.levels[0]!]))
  const order = means.filter((each) => stood.has(each.level)).sort((a, b) => sign * (observedMean(b) - observedMean(a)))
  const top = order[0]!.level
  const told = claims.filter((each) => each.strength === 'told').map((each) => [each.what.levels[0]!, each.against.levels[0]!])
  const apart = new Set(told.filter((pair) => pair.includes(top)).flat())
  return { top, near: order.slice(1).flatMap(({ level }) => (apart.has(level) ? [] : [level])) }
}

/** Pairs that were not compared, as asked, since their F is not significant. */
function keptBack(source: Source, term: TermResult, test: TestRow): Claim {
  const { analysis } = source
  const sorted = [...term.means].sort((a, b) => observedMean(b) - observedMean(a))
  const pair = source.pair(term.term, sorted[0]!.level, sorted.at(-1)!.level)
  return {
    kind: 'whole',
    term: term.term,
    levels: term.means.length,
    f: test.f,
    p: test.p,
    strength: 'open',
    pairs: 0,
    told: 0,
    against: null,
    side: null,
    afterPlanned: false,
    kept: true,
    widest: pair && differenceOf(analysis, term.term, pair, limitsOf(pair, analysis.significance, 1), pOf(pair, 1)),
    ...evident(term),
  }
}
