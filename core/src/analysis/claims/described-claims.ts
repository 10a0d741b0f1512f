import type { ComparisonRow, TermResult } from '../result.ts'
import type { Described } from './claim.ts'
import { observedMean, type Analysed } from './size.ts'

/** Means with nothing to judge chance by. */
export function describedTerm(analysis: Analysed, term: TermResult): Described {
  const { notTested, tests, terms } = analysis
  const test = tests.find((each) => each.term === term.term)
  const most = Math.max(...Object.values(terms).map((each) => each.factors.length))
  const repeated = Object.values(terms).some((each) => each.factors.length === most && cellsOf(each).some((n) => n > 1))
  const reasons = {
    'no error df': repeated ? 'nothing left' : 'no replication',
    'no error': 'no error',
    constant: 'constant',
    'one level': 'one level',
    'unbalanced errors': 'nothing left',
  } as const
  const confounded = notTested === null && test?.df === 0
  return {
    kind: 'described',
    term: term.term,
    rows: [...term.means]
      .sort((a, b) => observedMean(b) - observedMean(a))
      .map((row) => ({ level: row.level, mean: observedMean(row), n: row.n })),
    all: term.means.length,
    unit: test?.stratum ?? analysis.unit,
    single: false,
    reason: notTested ? reasons[notTested.reason] : confounded ? 'confounded' : 'single',
    with: null,
    evidence: 'look',
    why: notTested ? WHY[reasons[notTested.reason]] : confounded ? 'nothing tells it from what it stood in' : WHY['no replication'],
  }
}

/** Units of each mean of the term of most factors: repeats of one treatment. */
function cellsOf({ means }: TermResult): number[] {
  return means.map((mean) => mean.n)
}

const WHY: Record<Exclude<Described['reason'], 'confounded' | 'single'>, string> = {
  'no replication': 'no replication to judge chance by',
  'nothing left': 'nothing left to judge chance by',
  'no spread': 'no error to judge chance by',
  'no error': 'no error to judge chance by',
  constant: 'all values are alike',
  'one level': 'one level only',
}

/** Levels that stood on one unit each, beside others that were repeated. */
export function singleUnits(analysis: Analysed, term: TermResult, rows: readonly ComparisonRow[]): Described {
  const sound = new Set(rows.filter((row) => row.evidence.kind !== 'look').flatMap((row) => [row.a, row.b]))
  const { why } = rows.find((row) => row.evidence.kind === 'look')!.evidence
  const own = term.means.filter((mean) => !sound.has(mean.level))
  return {
    kind: 'described',
    term: term.term,
    rows: [...own]
      .sort((a, b) => observedMean(b) - observedMean(a))
      .map((row) => ({ level: row.level, mean: observedMean(row), n: row.n })),
    all: own.length,
    unit: analysis.tests.find((each) => each.term === term.term)?.stratum ?? analysis.unit,
    single: true,
    reason: 'single',
    with: null,
    evidence: 'look',
    why,
  }
}
