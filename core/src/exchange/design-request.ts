import { z } from 'zod'
import {
  crossFactors,
  DesignChoice,
  Ground,
  UnitKind,
  type Factor,
  type Layout,
  type Site,
  type Treatments,
  type Unit,
  treatmentsOf,
} from '../trial/index.ts'
import type { PlanFile } from './plan-table.ts'
import { FileError, readJson, writeCsv } from './table.ts'

const REQUEST_VERSION = 1

/** Columns of the table beside those of the factors. */
const TAKEN: ReadonlySet<string> = new Set([...UnitKind.options, 'x', 'y', 'walk'])

/** Names as they stand in a table; the plan that is written can be read back. */
const Name = z
  .string()
  .trim()
  .max(60)
  .regex(/^\p{L}[^:]*$/u, { error: 'A factor’s name starts with a letter and has no colon in it.' })

const Treatment = z.string().overwrite((levels) =>
  levels
    .split(':')
    .map((each) => each.trim())
    .join(':'),
)

/** What is to be laid out, from a file: what is varied, by which design, on what ground. */
export const DesignRequestFile = z.strictObject({
  canterDesign: z.literal(REQUEST_VERSION, { error: `“canterDesign” must be ${REQUEST_VERSION}, the version this Canter reads.` }),
  design: z.string(),
  replicates: DesignChoice.shape.replicates,
  /** By name, the levels of each factor; every combination is a treatment. One factor is a plain list. */
  factors: z.record(Name, z.array(z.string().trim().min(1).max(40)).min(1).max(600)),
  /** Treatments that are checks, and the untreated control, by their levels joined with a colon. */
  checks: z.array(Treatment).default([]),
  control: Treatment.nullable().default(null),
  unit: UnitKind.default('plot'),
  placed: z.record(z.string(), z.array(z.string().trim())).default({}),
  settings: DesignChoice.shape.settings,
  /** Fields of the ground that are not as usual: plotWidth, plotLength, across, … */
  ground: z.record(z.string(), z.unknown()).default({}),
})
export type DesignRequestFile = z.infer<typeof DesignRequestFile>

/** Reads a request. Throws FileError naming the field that is wrong. */
export function readDesignRequest(file: string, text: string): DesignRequestFile {
  const raw = readJson(file, text)
  const parsed = DesignRequestFile.safeParse(raw)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    throw new FileError(file, `${issue.path.join('.') || 'the request'}: ${issue.message}`)
  }
  const typed = Object.keys((raw as DesignRequestFile).factors)
  const again = typed.find((name, i) => typed.findIndex((each) => each.trim() === name.trim()) !== i)
  if (again !== undefined) throw new FileError(file, `factors: “${again.trim()}” is there twice.`)
  for (const [factor, levels] of Object.entries(parsed.data.factors)) {
    if (TAKEN.has(factor.toLowerCase()))
      throw new FileError(
        file,
        `factors.${factor}: the table has a column “${factor.toLowerCase()}” of its own. Give this factor another name.`,
      )
    const twice = levels.find((level, i) => levels.indexOf(level) !== i)
    if (twice !== undefined) throw new FileError(file, `factors.${factor}: “${twice}” is listed twice.`)
  }
  return parsed.data
}

/** The same as a trial has it. Throws FileError where a check is no treatment, or something is put nowhere. */
export function requestedTrial(file: string, request: DesignRequestFile, from: Site): { treatments: Treatments; sites: Site[] } {
  const names = Object.keys(request.factors)
  const factors = names.map((name, f): Factor => ({
    key: `f${f + 1}`,
    name,
    kind: 'kind',
    measure: '',
    of: null,
    levels: request.factors[name]!.map((level, l) => ({ key: `l${l + 1}`, code: String(l + 1), name: level, amount: null })),
  }))
  const list = crossFactors(factors)
  const named = (levels: Readonly<Record<string, string>>): string =>
    factors.map((factor) => factor.levels.find((level) => level.key === levels[factor.key])!.name).join(':')
  const known = new Set(list.map((each) => named(each.levels)))
  const asked = [...request.checks, ...(request.control === null ? [] : [request.control])]
  const strange = asked.find((each) => !known.has(each))
  if (strange !== undefined)
    throw new FileError(file, `“${strange}” is no treatment of this request: name its levels, joined with a colon.`)
  const placed = Object.fromEntries(
    Object.entries(request.placed).map(([kind, own]) => [
      kind,
      own.map((name) => {
        const found = names.indexOf(name)
        if (found < 0) throw new FileError(file, `placed.${kind}: “${name}” is not varied here.`)
        return `f${found + 1}`
      }),
    ]),
  )
  const strangeGround = Object.keys(request.ground).find((each) => !Object.hasOwn(from.ground, each))
  if (strangeGround !== undefined)
    throw new FileError(file, `ground: there is no field “${strangeGround}”. Known: ${Object.keys(from.ground).join(', ')}.`)
  const ground = Ground.safeParse({ ...from.ground, ...request.ground })
  if (!ground.success) throw new FileError(file, `ground.${ground.error.issues[0]!.path.join('.')}: ${ground.error.issues[0]!.message}`)
  const { design: key, replicates, unit, settings } = request
  const roleOf = (name: string) => (name === request.control ? 'untreated control' : request.checks.includes(name) ? 'standard' : 'none')
  return {
    treatments: treatmentsOf(
      factors,
      list.map((each) => ({ ...each, role: roleOf(named(each.levels)) })),
    ),
    sites: [
      {
        ...from,
        ground: ground.data,
        design: { key, replicates, unit, plants: 0, walked: 'unit', placed, settings },
      },
    ],
  }
}

/** A laid-out site as a table, one row a treated unit, with room for what is measured; and the plan by which it is read back. */
export function laidOutTable({ structure, units }: Layout, { factors }: Treatments): { table: string; plan: PlanFile } {
  const index = new Map(units.map((unit) => [unit.id, unit]))
  const [treated] = structure.factors
    .map((each) => each.appliedTo)
    .filter((kind) => !structure.kinds.some((each) => each.in.includes(kind)))
  const finest = treated ?? structure.kinds.at(-1)!.kind
  const kinds = structure.kinds.filter((each) => each.kind !== 'site')
  const rows = units.filter((unit) => unit.kind === finest)
  const [xs, ys] = [places(rows, 'x'), places(rows, 'y')]
  const nameOf = (key: string): string => factors.find((factor) => factor.key === key)!.name
  const header = [...kinds.map((each) => each.kind), 'x', 'y', 'walk', ...factors.map((factor) => factor.name)]
  const lines = rows.map((unit) => {
    const above = holdersOf(unit, index)
    const marks = Object.assign({}, ...above.map((each) => each.planned), unit.planned) as Record<string, string>
    return [
      ...kinds.map(({ kind }) => (kind === finest ? unit.code : (above.find((each) => each.kind === kind)?.code ?? ''))),
      String(xs.indexOf(unit.place!.x) + 1),
      String(ys.indexOf(unit.place!.y) + 1),
      String(unit.walk ?? ''),
      ...factors.map((factor) => factor.levels.find((level) => level.key === marks[factor.key])!.name),
    ]
  })
  return {
    table: writeCsv(header, lines),
    plan: {
      canterPlan: 1,
      structure: {
        ...structure,
        kinds: kinds.map((each) => ({ kind: each.kind, in: each.in.filter((kind) => kind !== 'site') })),
        factors: structure.factors.map((each) => ({ ...each, factor: nameOf(each.factor) })),
        controls: structure.controls.map(({ factor, level }) => ({
          factor: nameOf(factor),
          level: factors.find((each) => each.key === factor)!.levels.find((each) => each.key === level)!.name,
        })),
      },
      measures: {},
      names: {},
      columns: {
        units: Object.fromEntries(kinds.map(({ kind }) => [kind, [kind]])),
        factors: Object.fromEntries(factors.map(({ name }) => [name, name])),
        place: { x: 'x', y: 'y' },
        walk: 'walk',
      },
      levels: Object.fromEntries(factors.map((factor) => [factor.name, factor.levels.map((level) => level.name)])),
      amounts: {},
      parts: {},
      traits: {},
    },
  }
}

function places(units: readonly Unit[], along: 'x' | 'y'): number[] {
  return [...new Set(units.map((unit) => unit.place![along]))].sort((a, b) => a - b)
}

function holdersOf(unit: Unit, index: ReadonlyMap<string, Unit>): Unit[] {
  return unit.in.flatMap((id) => {
    const above = index.get(id)
    return above ? [...holdersOf(above, index), above] : []
  })
}
