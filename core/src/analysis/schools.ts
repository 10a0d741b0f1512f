import { plural } from '../quantity/index.ts'
import type { UnitKind } from '../trial/index.ts'
import { analyse, analyseOnce } from './analyse.ts'
import { turnedBy } from './conclusions.ts'
import { layoutFrame, SITES_OF_A_REGION } from './layout.ts'
import { AnalysisError, type AnalysisOptions, type AnalysisRequest } from './request.ts'
import type { Analysis } from './result.ts'
import { capital, listed } from './words.ts'

/** A question on which practitioners differ, answered the other way beside the answer taken. */
export interface School {
  readonly question: 'blocks' | 'sites' | 'ground'
  /** What was taken, what the others take, and why this one. */
  readonly taken: string
  readonly other: string
  readonly because: string
  /** What changes in the conclusion. */
  readonly sentence: string
  readonly changes: boolean
  /** By term tested in both, as it was taken and the other way. */
  readonly tests: readonly { readonly term: string; readonly p: number; readonly otherP: number }[]
  /** What to ask the analysis for to have it the other way. */
  readonly options: Partial<AnalysisOptions>
  /** Of a model of the ground against blocks: Akaike's criterion, less is better; null for other questions. */
  readonly aic: { readonly taken: number; readonly other: number } | null
}

/** Plots of fewer than this tell little of how their ground goes. */
const FEWEST_PLOTS = 24

/**
 * The questions that this layout raises, each with the answer the other way: incomplete blocks as chance or
 * taken out, sites as a sample or as these very places, blocks or a model of the ground between plots.
 */
export function otherSchools(request: AnalysisRequest, answer: Analysis = analyse(request)): School[] {
  if (answer.kind !== 'tested') return []
  const frame = layoutFrame(request)
  const { options } = request
  const asked = (kind: string): boolean => options.random.includes(kind) || options.fixed.some((each) => each === kind)
  const found: School[] = []
  const blocks = frame.incomplete.filter((kind) => frame.random.has(kind))
  if (blocks.length > 0 && answer.mixed) {
    const named = listed(blocks.map((kind) => plural(kind)))
    found.push(
      ...judged(request, answer, {
        question: 'blocks',
        taken: `${named} as chance`,
        other: `${named} taken out`,
        because: `each ${listed(blocks)} holds a part of the treatments only, so what is known between ${named} is of use`,
        options: { fixed: [...options.fixed, ...blocks], random: options.random.filter((each) => !blocks.includes(each as UnitKind)) },
      }),
    )
  }
  const { sites } = frame
  if (sites && sites.levels.length >= 3 && request.observations.length > 0) {
    const random = frame.random.has('site')
    found.push(
      ...judged(request, answer, {
        question: 'sites',
        taken: random ? 'sites as a sample of many' : 'sites as these very places',
        other: random ? 'sites as these very places' : 'sites as a sample of many',
        because: asked('site')
          ? 'it was asked for'
          : random
            ? `${sites.levels.length} sites are enough to stand for others like them (${SITES_OF_A_REGION} or more)`
            : `${sites.levels.length} sites are too few to stand for others (fewer than ${SITES_OF_A_REGION})`,
        options: random
          ? { fixed: [...options.fixed, 'site'], random: options.random.filter((each) => each !== 'site') }
          : { random: [...options.random, 'site'], fixed: options.fixed.filter((each) => each !== 'site') },
      }),
    )
  }
  const placed = frame.observed.rows.every((row) => row.unit.place !== null)
  const oneSize = frame.random.size === blocks.length + Number(frame.random.has('site')) && request.structure.factors.every((each) => each.appliedTo === frame.finest) // prettier-ignore
  if (placed && oneSize && !sites && frame.raw.length >= FEWEST_PLOTS && options.ground === undefined) {
    found.push(
      ...judged(request, answer, {
        question: 'ground',
        taken: frame.units.length > 0 ? `${listed(frame.units.map((unit) => plural(unit.name)))} trusted` : 'plots as they lie apart',
        other: 'a model of the ground between plots (autoregression along rows and columns, with a nugget)',
        because: 'blocks were laid out for it, and need no model to hold',
        options: { ground: 'rows and columns with nugget' },
      }),
    )
  }
  return found
}

function judged(
  request: AnalysisRequest,
  answer: Analysis,
  { options, ...of }: Pick<School, 'question' | 'taken' | 'other' | 'because'> & { options: Partial<AnalysisOptions> },
): School[] {
  request.onProgress?.({ doing: `the answer with ${of.other}`, step: null })
  const other = answered({ ...request, options: { ...request.options, ...options } })
  if (!other || other.kind !== 'tested' || other.cautions.some((each) => each.kind === 'simpler model')) return []
  const { changes, tests, words } = turnedBy(answer, other, request.factors)
  const row = other.mixed?.models.find((each) => each.used)
  const blocks = other.mixed?.models.find((each) => each.key === 'blocks') ?? other.mixed?.models.find((each) => each.key === 'independent')
  const aic = of.question === 'ground' && row && blocks ? { taken: blocks.aic, other: row.aic } : null
  const evidence = aic
    ? aic.other < aic.taken - 2
      ? ` The model of the ground fits better, for what it costs (AIC ${(aic.taken - aic.other).toFixed(1)} less).`
      : aic.other > aic.taken + 2
        ? ` Blocks fit better, for what they cost (AIC ${(aic.other - aic.taken).toFixed(1)} less).`
        : ' Neither fits clearly better.'
    : ''
  const text = `With ${of.other}, ${words}.`
  return [{ ...of, options, sentence: `${capital(text)}${evidence}`, changes, tests, aic }]
}

function answered(request: AnalysisRequest): Analysis | null {
  try {
    return analyseOnce(request)
  } catch (error) {
    if (error instanceof AnalysisError) return null
    throw error
  }
}
