import type { Unit } from '../trial/index.ts'
import { analyse } from './analyse.ts'
import { turnedBy } from './conclusions.ts'
import { unitsCalled, type Ended } from './happened.ts'
import { AnalysisError, type AnalysisRequest } from './request.ts'
import type { Analysis } from './result.ts'

export interface BothWays {
  /** With the units left out as recorded. */
  readonly without: Analysis
  /** With every unit that has a value; the same object when none was left out. */
  readonly all: Analysis
  /** The answer another way, where what happened could change it. */
  readonly others: readonly OtherWay[]
  /** How each treated unit ended. */
  readonly ends: readonly Ended[]
  /** Of what is only shown: the values it had, site by site. */
  readonly shown: readonly ShownRow[]
}

export interface OtherWay {
  /** In words that end with “:” before a sentence of that answer. */
  readonly about: string
  /** Null where there is nothing left to analyse that way. */
  readonly analysis: Analysis | null
  readonly changes: boolean
  /** What is concluded otherwise, or that nothing is, in words that go on after `about` and a comma. */
  readonly words: string
}

export interface ShownRow {
  readonly treatment: string
  readonly values: readonly { readonly site: string; readonly value: number }[]
}

/** Units to which something happened, by what is done with them. */
export interface Doubted {
  /** Compared all the same. */
  readonly kept: ReadonlySet<string>
  /** Left out, since what they got is no treatment. */
  readonly apart: ReadonlySet<string>
}

/**
 * The answer without the units that something happened to; and as planned, as if each had got what it
 * was to get. Each only where there are such units.
 */
export function otherWays(request: AnalysisRequest, answer: Analysis, { kept, apart }: Doubted): OtherWay[] {
  const own = new Set(request.observations.map((each) => each.unit))
  const index = new Map(request.units.map((unit) => [unit.id, unit]))
  const measured = (of: ReadonlySet<string>): Unit[] => [...of].flatMap((id) => (own.has(id) ? (index.get(id) ?? []) : []))
  const doubted = measured(kept).filter((unit) => !request.leftOut?.has(unit.id))
  const wrong = request.units.filter((unit) => Object.values(unit.changes).includes('misapplied'))
  const unlike = [...measured(apart), ...wrong.filter((unit) => !apart.has(unit.id))]
  const found: OtherWay[] = []
  if (doubted.length > 0)
    found.push(
      way(request, answer, `Without ${unitsCalled(doubted)}, to which something happened`, {
        leftOut: new Set([...(request.leftOut ?? []), ...doubted.map((unit) => unit.id)]),
      }),
    )
  if (unlike.length > 0)
    found.push(
      way(request, answer, `As planned, as if ${unitsCalled(unlike)} had got what ${unlike.length === 1 ? 'it was' : 'they were'} to get`, {
        units: request.units.map((unit): Unit =>
          Object.values(unit.changes).includes('misapplied') ? { ...unit, received: unit.planned, changes: {} } : unit,
        ),
        leftOut: new Set([...(request.leftOut ?? [])].filter((id) => !apart.has(id))),
      }),
    )
  return found
}

export function way(
  request: AnalysisRequest,
  answer: Analysis,
  about: string,
  other: Partial<Pick<AnalysisRequest, 'units' | 'leftOut'>>,
): OtherWay {
  request.onProgress?.({ doing: about.charAt(0).toLowerCase() + about.slice(1), step: null })
  let analysis: Analysis
  try {
    analysis = analyse({ ...request, ...other })
  } catch (error) {
    if (!(error instanceof AnalysisError)) throw error
    return { about, analysis: null, changes: true, words: `nothing can be analysed: ${error.message.replace(/\.$/, '')}` }
  }
  if (answer.kind !== 'tested' || analysis.kind !== 'tested') {
    const same = answer.kind === analysis.kind
    return {
      about,
      analysis,
      changes: !same,
      words: same ? 'nothing is tested either' : 'what can be tested is not the same',
    }
  }
  const { changes, words } = turnedBy(answer, analysis, request.factors)
  return { about, analysis, changes, words }
}
