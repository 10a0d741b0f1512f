import { z } from 'zod'
import { Structure, UnitKind, type Unit } from '../trial/index.ts'
import { FileError, readCsv, type TableRow } from './table.ts'

const PLAN_VERSION = 1

/** Names out of a table are freer than the keys of a trial; a colon joins the factors of an interaction. */
const Name = z
  .string()
  .max(60)
  .regex(/^\p{L}[^:]*$/u, { error: 'A factor’s name starts with a letter and has no colon in it.' })

const TableStructure = Structure.extend({
  factors: z.array(Structure.shape.factors.element.extend({ factor: Name })),
  controls: z.array(z.object({ factor: Name, level: z.string().min(1) })),
})

/** The unit structure with the names of columns: what turns a table of plots into a layout. */
export const PlanFile = z.object({
  canterPlan: z.literal(PLAN_VERSION, { error: `“canterPlan” must be ${PLAN_VERSION}, the version this Canter reads.` }),
  structure: TableStructure,
  columns: z.object({
    /** Columns whose values together name one unit of a kind. The finest kind may be left out: then each row is one. */
    units: z.partialRecord(UnitKind, z.array(z.string()).min(1)),
    factors: z.record(z.string(), z.string()),
    /** Position of a row's unit on a grid, and its turn in walking order: for the checks along them. */
    place: z.strictObject({ x: z.string(), y: z.string() }).optional(),
    walk: z.string().optional(),
  }),
  /** Order of the levels; as found, sorted, when not given. */
  levels: z.record(z.string(), z.array(z.string())).default({}),
  /** Amounts that levels stand for, by factor and level; levels that are numbers need none. */
  amounts: z.record(z.string(), z.record(z.string(), z.number())).default({}),
  /**
   * Where a factor names whole treatments, what they are combinations of: by factor, part and level the
   * level of the part. Levels without one stand outside the combinations.
   */
  parts: z.record(z.string(), z.record(Name, z.record(z.string(), z.string()))).default({}),
  /** Measure of a factor's amounts, and of what: levels are then spoken of by their amounts. */
  measures: z.record(z.string(), z.strictObject({ unit: z.string().min(1), of: z.string().min(1).optional() })).default({}),
  /** How levels are spoken of, by factor and level, where that is not as the table has them. */
  names: z.record(z.string(), z.record(z.string(), z.string().min(1))).default({}),
  /** Unit of each trait, and how its samples are brought together. */
  traits: z
    .record(
      z.string(),
      z
        .object({
          unit: z.string(),
          kind: z.enum(['continuous', 'count', 'share', 'score']).default('continuous'),
          /** Of counts and shares: the column that says how many, or how much, was looked at. */
          of: z.string().optional(),
          /** Which way is better, and the smallest difference worth knowing, in its unit. */
          better: z.enum(['more', 'less', 'neither']).optional(),
          smallestDifference: z.number().positive().optional(),
        })
        .refine(({ kind, of }) => of === undefined || kind === 'count' || kind === 'share', {
          error: '“of” belongs to counts and shares: say “kind”: “count” or “share”, or leave it out.',
        }),
    )
    .default({}),
})
export type PlanFile = z.infer<typeof PlanFile>

export interface PlanTable {
  readonly structure: Structure
  readonly units: readonly Unit[]
  readonly factors: readonly {
    readonly key: string
    readonly levels: readonly string[]
    readonly amounts?: Record<string, number>
    readonly measure?: string
    readonly said?: Record<string, Said>
    readonly parts?: readonly {
      readonly key: string
      readonly levels: readonly string[]
      readonly said?: Record<string, Said>
      readonly of: Record<string, string>
    }[]
  }[]
  /** With what was looked at, of counts and shares where the plan names its column. */
  readonly observations: readonly { readonly unit: string; readonly value: number; readonly exposure?: number }[]
  readonly covariates: ReadonlyMap<string, ReadonlyMap<string, number>>
  readonly trait: {
    readonly key: string
    readonly name: string
    readonly unit: string
    readonly kind: TraitKind
    readonly better?: 'more' | 'less' | 'neither'
    readonly smallest?: number
  }
}

interface Said {
  readonly name: string
  readonly amount?: { readonly value: number; readonly unit: string; readonly of?: string }
}

type TraitKind = PlanFile['traits'][string]['kind']

/** What somebody wrote under a name; never what every object has by itself. */
function own<T>(record: Readonly<Record<string, T>>, name: string): T | undefined {
  return Object.hasOwn(record, name) ? record[name] : undefined
}

/** Reads a plan. Throws FileError naming the field that is wrong. */
export function readPlan(file: string, text: string): PlanFile {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch (error) {
    throw new FileError(file, `it is not JSON (${error instanceof Error ? error.message.slice(0, 120) : 'unreadable'}).`)
  }
  const parsed = PlanFile.safeParse(json)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!
    throw new FileError(file, `${issue.path.join('.') || 'the plan'}: ${issue.message}`)
  }
  const plan = parsed.data
  const kinds = new Set(plan.structure.kinds.map((each) => each.kind))
  for (const { kind, in: within } of plan.structure.kinds) {
    const strange = within.find((each) => !kinds.has(each))
    if (strange) throw new FileError(file, `structure.kinds: ${kind} lies in ${strange}, which is not among the kinds.`)
  }
  rowKindOf(plan, file)
  for (const { factor, appliedTo } of plan.structure.factors) {
    if (!kinds.has(appliedTo))
      throw new FileError(file, `structure.factors: ${factor} is applied to ${appliedTo}, which is not among the kinds.`)
    if (own(plan.columns.factors, factor) === undefined) throw new FileError(file, `columns.factors: the column of ${factor} is not named.`)
  }
  const wholes = Object.keys(plan.parts)
  const stray = wholes.find((factor) => own(plan.columns.factors, factor) === undefined)
  if (stray !== undefined) throw new FileError(file, `parts: “${stray}” is not a factor of the plan.`)
  if (wholes.length > 0 && plan.structure.factors.length > 1)
    throw new FileError(file, 'parts: only a plan with one factor, which names whole treatments, can say what those are made of.')
  if (plan.structure.factors.length === 0) throw new FileError(file, 'structure.factors: no factor is named.')
  return plan
}

/** The kind a row is: the one no other lies in. */
function rowKindOf(plan: PlanFile, file: string): Unit['kind'] {
  const { kinds } = plan.structure
  const leaves = kinds.filter(({ kind }) => !kinds.some((other) => other.in.includes(kind)))
  if (leaves.length !== 1) {
    throw new FileError(
      file,
      `structure.kinds: exactly one kind must have no other inside it, the kind of a row; found ${leaves.map((each) => each.kind).join(', ') || 'none'}.`,
    )
  }
  if (hasRing(plan)) throw new FileError(file, 'structure.kinds: a kind lies in itself by way of others.')
  return leaves[0]!.kind
}

function hasRing({ structure }: PlanFile): boolean {
  const above = new Map(structure.kinds.map((each) => [each.kind, each.in]))
  const visit = (kind: Unit['kind'], path: readonly string[]): boolean =>
    path.includes(kind) || (above.get(kind) ?? []).some((each) => visit(each, [...path, kind]))
  return structure.kinds.some((each) => visit(each.kind, []))
}

/** Reads a table of plots by its plan. Throws FileError with file, row and column. */
export function readPlanTable(
  file: string,
  text: string,
  plan: PlanFile,
  trait: string,
  covariateColumns: readonly string[] = [],
): PlanTable {
  const rowKind = rowKindOf(plan, 'plan')
  const { place: placed, walk } = plan.columns
  const { unit = '', kind = 'continuous', of, better, smallestDifference } = own(plan.traits, trait) ?? {}
  const needed = [
    ...Object.values(plan.columns.units).flat(),
    ...Object.values(plan.columns.factors),
    ...(placed ? [placed.x, placed.y] : []),
    ...(walk ? [walk] : []),
    ...(of ? [of] : []),
    ...covariateColumns,
    trait,
  ]
  const rows = readCsv(file, text, [...new Set(needed)])
  if (rows.length === 0) throw new FileError(file, 'there is no row below the header.')
  const units = new Map<string, Unit>()
  const observations: { unit: string; value: number; exposure?: number }[] = []
  const covariates = new Map(covariateColumns.map((column) => [column, new Map<string, number>()]))
  const seenAt = new Map<string, number>()
  const at = (row: TableRow, column: string): string => `${file}, line ${row.line}, column “${column}”`
  const numberIn = (row: TableRow, column: string): number | null => {
    const typed = row.cell(column).trim()
    if (typed === '' || typed === 'NA') return null
    if (row.delimiter === ',' && /^[+-]?\d{1,3},\d{3}$/.test(typed))
      throw new FileError(
        at(row, column),
        `“${typed}” may mean ${typed.replace(',', '')} or ${typed.replace(',', '.')}. Write it without the comma.`,
      )
    const value = Number(typed.replace(',', '.'))
    if (!Number.isFinite(value))
      throw new FileError(at(row, column), `“${typed.slice(0, 30)}” is not a number. Leave the cell empty if the value is missing.`)
    return value
  }
  rows.forEach((row, i) => {
    const where = (column: string): string => at(row, column)
    const nameOf = (kind: Unit['kind']): string => {
      const columns = plan.columns.units[kind]
      if (!columns) {
        if (kind === rowKind) return String(i + 1)
        throw new FileError('plan', `columns.units: the columns that name a ${kind} are not given.`)
      }
      const cells = columns.map((column) => row.cell(column))
      const empty = cells.findIndex((cell) => cell === '')
      if (empty !== -1) throw new FileError(where(columns[empty]!), `is empty; it names the ${kind}.`)
      return cells.join('·')
    }
    const place = (kind: Unit['kind']): Unit => {
      // A unit is named within those that hold it: block 1 of one site is not block 1 of another.
      const holders = (plan.structure.kinds.find((each) => each.kind === kind)?.in ?? []).map(place)
      const code = nameOf(kind)
      const id = [...holders.map((each) => each.id), `${kind} ${code}`].join(' / ')
      const known = units.get(id)
      if (known) return known
      const made: Unit = {
        id,
        kind,
        code: code.slice(0, 20) || '?',
        in: holders.map((each) => each.id),
        planned: {},
        received: {},
        changes: {},
        at: null,
        place: kind === rowKind && placed ? placeOf(numberIn(row, placed.x), numberIn(row, placed.y)) : null,
        walk: kind === rowKind && walk ? numberIn(row, walk) : null,
      }
      units.set(id, made)
      return made
    }
    const unit = place(rowKind)
    if (seenAt.has(unit.id))
      throw new FileError(`${file}, line ${row.line}`, `${rowKind} ${unit.code} stands there twice (first on line ${seenAt.get(unit.id)}).`)
    seenAt.set(unit.id, row.line)
    for (const { factor, appliedTo } of plan.structure.factors) {
      const column = plan.columns.factors[factor]!
      const level = withoutColon(row.cell(column))
      if (level === '') throw new FileError(where(column), `is empty; it names the level of ${factor}.`)
      const holder = [unit, ...holdersOf(unit, units)].find((each) => each.kind === appliedTo)
      if (!holder) throw new FileError('plan', `structure.factors: ${factor} is applied to ${appliedTo}, which does not hold a ${rowKind}.`)
      const before = holder.received[factor]
      if (before !== undefined && before !== level)
        throw new FileError(
          where(column),
          `${appliedTo} ${holder.code} has both ${before} and ${level} of ${factor}, which was applied to the whole ${appliedTo}.`,
        )
      holder.received[factor] = level
      holder.planned[factor] = level
    }
    const value = numberIn(row, trait)
    const looked = of ? numberIn(row, of) : null
    if (value !== null) observations.push({ unit: unit.id, value, ...(looked === null ? {} : { exposure: looked }) })
    for (const [column, own] of covariates) {
      const found = numberIn(row, column)
      if (found !== null) own.set(unit.id, found)
    }
  })
  if (observations.length === 0) throw new FileError(`${file}, column “${trait}”`, 'every value is missing.')
  const factors = plan.structure.factors.map(({ factor }) => {
    const levels = own(plan.levels, factor)?.map(withoutColon) ?? levelsFound(factor, units)
    return {
      key: factor,
      levels,
      ...saidIn(plan, factor, levels),
      ...(own(plan.measures, factor) ? { measure: plan.measures[factor]!.unit } : {}),
      ...(own(plan.amounts, factor) ? { amounts: keysWithoutColon(plan.amounts[factor]!) } : {}),
      ...(own(plan.parts, factor) ? { parts: partsIn(plan, factor) } : {}),
    }
  })
  return {
    structure: {
      ...plan.structure,
      controls: plan.structure.controls.map((each) => ({ ...each, level: withoutColon(each.level) })),
    },
    units: [...units.values()],
    factors,
    observations,
    covariates,
    trait: {
      key: trait,
      name: trait,
      unit: kind === 'share' && of ? '%' : unit,
      kind,
      ...(better ? { better } : {}),
      ...(smallestDifference === undefined ? {} : { smallest: smallestDifference }),
    },
  }
}

function partsIn(
  plan: PlanFile,
  factor: string,
): { key: string; levels: string[]; said?: Record<string, Said>; of: Record<string, string> }[] {
  return Object.entries(plan.parts[factor]!).map(([key, given]) => {
    const of = Object.fromEntries(Object.entries(keysWithoutColon(given)).map(([whole, level]) => [whole, withoutColon(level)]))
    const levels = own(plan.levels, key)?.map(withoutColon) ?? [...new Set(Object.values(of))]
    return { key, levels, ...saidIn(plan, key, levels), of }
  })
}

/** A colon joins the factors of an interaction; in a name it is written as the sign of a ratio, and spoken as it was. */
function withoutColon(level: string): string {
  return level.replaceAll(':', COLON)
}

const COLON = '\u2236'

/** Names of a plan and its table in what is put out, as somebody wrote them. */
export function asWritten(text: string): string {
  return text.replaceAll(COLON, ':')
}

function keysWithoutColon<T>(record: Readonly<Record<string, T>>): Record<string, T> {
  return Object.fromEntries(Object.entries(record).map(([key, value]) => [withoutColon(key), value]))
}

/** How levels are spoken of: by their names, or by amounts in the measure of the factor. */
function saidIn(plan: PlanFile, factor: string, levels: readonly string[]): { said?: Record<string, Said> } {
  const names = keysWithoutColon(own(plan.names, factor) ?? {})
  const amounts = keysWithoutColon(own(plan.amounts, factor) ?? {})
  const measure = own(plan.measures, factor)
  const said = levels.flatMap((level): [string, Said][] => {
    const name = names[level] ?? level.replaceAll(COLON, ':')
    const value = amounts[level] ?? (level.trim() === '' ? NaN : Number(level))
    if (measure && Number.isFinite(value))
      return [[level, { name, amount: { value, unit: measure.unit, ...(measure.of ? { of: measure.of } : {}) } }]]
    return name === level ? [] : [[level, { name }]]
  })
  return said.length > 0 ? { said: Object.fromEntries(said) } : {}
}

/** A cell of a grid, as a plot of one by one; null when either place is missing. */
function placeOf(x: number | null, y: number | null): Unit['place'] {
  return x === null || y === null ? null : { x, y, width: 1, length: 1 }
}

function holdersOf(unit: Unit, units: ReadonlyMap<string, Unit>): Unit[] {
  return unit.in.flatMap((id) => {
    const holder = units.get(id)
    return holder ? [holder, ...holdersOf(holder, units)] : []
  })
}

function levelsFound(factor: string, units: ReadonlyMap<string, Unit>): string[] {
  const found = new Set<string>()
  for (const unit of units.values()) if (unit.received[factor] !== undefined) found.add(unit.received[factor])
  const levels = [...found]
  const numeric = levels.every((level) => Number.isFinite(Number(level)))
  return levels.sort((a, b) => (numeric ? Number(a) - Number(b) : a < b ? -1 : 1))
}
