import { readFileSync } from 'node:fs'
import { analyse as analyseRequest, AnalysisOptions, type Analysis, type AnalysisRequest } from '../src/analysis/index.ts'
import { readPlan, readPlanTable, type PlanFile } from '../src/exchange/index.ts'
import type { Structure, Unit, UnitKind } from '../src/trial/index.ts'

const folder = new URL('../fixtures/', import.meta.url)
const read = (path: string): string => readFileSync(new URL(path, folder), 'utf8')

type Options = Partial<typeof AnalysisOptions._zod.input>

export interface PlanCase {
  /** Another trait than the first of the plan. */
  readonly trait?: string
  readonly options?: Options
  /** What somebody did to the files by hand. */
  readonly plan?: (plan: PlanFile) => void
  readonly data?: (text: string) => string
}

/** A request with its values by unit, which tests can take apart and put together. */
export type ValueRequest = Omit<AnalysisRequest, 'observations'> & {
  readonly values: ReadonlyMap<string, number>
  readonly samples?: ReadonlyMap<string, number>
  readonly exposure?: ReadonlyMap<string, number> | undefined
}

export function asRequest({ values, samples, exposure, ...rest }: ValueRequest): AnalysisRequest {
  const observations = [...values].map(([unit, value]) => {
    const [n, looked] = [samples?.get(unit), exposure?.get(unit)]
    return { unit, value, ...(n === undefined ? {} : { samples: n }), ...(looked === undefined ? {} : { exposure: looked }) }
  })
  return { ...rest, observations }
}

export const analyse = (request: ValueRequest): Analysis => analyseRequest(asRequest(request))

/** A reference case as its plan and table make it. */
export function requestOf(name: string, { trait, options = {}, plan: edit, data = (text) => text }: PlanCase = {}): ValueRequest {
  const plan = readPlan(`${name}.json`, read(`plans/${name}.json`))
  edit?.(plan)
  const asked = AnalysisOptions.parse(options)
  const column = trait ?? Object.keys(plan.traits)[0]!
  const { observations, ...rest } = readPlanTable('data.csv', data(read(`reference/${name}/data.csv`)), plan, column, asked.covariates)
  const exposed = observations.flatMap(({ unit, exposure }) => (exposure === undefined ? [] : [[unit, exposure] as const]))
  return {
    ...rest,
    values: new Map(observations.map(({ unit, value }) => [unit, value])),
    ...(exposed.length > 0 ? { exposure: new Map(exposed) } : {}),
    options: asked,
  }
}

export const analysed = (name: string, of: PlanCase = {}): Analysis => analyse(requestOf(name, of))

export function unitOf(kind: UnitKind, id: string, within: string[] = [], got: Record<string, string> = {}): Unit {
  return { id, kind, code: id, in: within, planned: got, received: { ...got }, changes: {}, at: null, place: null, walk: null }
}

/** One factor on plots in blocks: a structure, its units, and a value for each plot by `yieldOf`. */
export function blocksOf(
  levels: readonly string[],
  blocks: number,
  yieldOf: (level: string, block: number) => number,
): ValueRequest & { units: Unit[]; values: Map<string, number>; structure: Structure } {
  const units: Unit[] = []
  const values = new Map<string, number>()
  for (let block = 1; block <= blocks; block++) {
    units.push(unitOf('block', `b${block}`))
    levels.forEach((level, i) => {
      const id = `${block}${String(i + 1).padStart(2, '0')}`
      units.push(unitOf('plot', id, [`b${block}`], { rate: level }))
      values.set(id, yieldOf(level, block))
    })
  }
  return {
    units,
    values,
    structure: {
      schema: 1,
      kinds: [
        { kind: 'block', in: [] },
        { kind: 'plot', in: ['block'] },
      ],
      factors: [{ factor: 'rate', appliedTo: 'plot', within: 'block', how: 'randomised' }],
      controls: [],
      seed: 1,
    },
    factors: [{ key: 'rate', levels: [...levels] }],
    trait: { key: 'y', name: 'Yield', unit: 't/ha', kind: 'continuous' },
    options: AnalysisOptions.parse({}),
  }
}
