import { findUnit } from '../../quantity/index.ts'
import {
  crossFactors,
  emptyFactor,
  levelsNamed,
  marksOf,
  RESERVED,
  treatmentsOf,
  type Factor,
  type Level,
  type Treatment,
  type Treatments,
} from '../../trial/index.ts'
import { numberOf, type Matched } from './roles.ts'

/** A plot of the table with what was varied on it, spelled as it is to be read. */
export interface VariedRow {
  /** By factor column; empty where nothing stands. */
  readonly levels: readonly string[]
  /** By factor column: the amount written beside. */
  readonly amounts: readonly (number | null)[]
  /** The whole treatment, where a column names it. */
  readonly treatment: string
}

export interface Varied {
  readonly treatments: Treatments
  /** What a plot is marked with. Null where nothing was varied on it. */
  readonly marks: (row: VariedRow) => Record<string, string> | null
  /** The treatment that a name of the treatment column means. */
  readonly called: (treatment: string) => Treatment | undefined
}

/** Names that say that nothing was given. */
const UNTREATED = /^(?:untreated(?: control)?|control|check|none|no .+|nil|zero|0|ut|utc)$/i

/** Factors, levels and treatments that a table holds; a row that lacks some of them stands outside their crossing under its own name. */
export function variedIn(columns: readonly Matched[], rows: readonly VariedRow[]): Varied {
  const whole = columns.length === 0
  const factors = whole
    ? [
        factorOf(
          { name: 'Treatment', unit: '' },
          rows.map((row) => row.treatment),
          null,
          new Set(),
        ),
      ]
    : made(columns, rows)
  const cells = (row: VariedRow): readonly string[] => (whole ? [row.treatment] : row.levels)
  const keyOf = factors.map(({ levels, written }) => new Map(levels.levels.map((level, i) => [written[i]!, level.key])))
  const bare = factors.map((each) => each.levels)
  const levelsOf = (row: VariedRow): Record<string, string> =>
    Object.fromEntries(bare.flatMap((factor, f) => (cells(row)[f] === '' ? [] : [[factor.key, keyOf[f]!.get(cells(row)[f]!)!]])))
  const inside = rows.filter((row) => cells(row).every((cell) => cell !== ''))
  const present = new Set(inside.map((row) => JSON.stringify(bare.map((factor) => levelsOf(row)[factor.key]))))
  const crossed = crossFactors(bare).filter((each) => present.has(JSON.stringify(bare.map((factor) => each.levels[factor.key]))))
  const names = new Map(inside.map((row) => [JSON.stringify(bare.map((factor) => levelsOf(row)[factor.key])), row.treatment]))
  const codes = new Set<string>()
  const free = (code: string): string => {
    let own = code.slice(0, 16)
    for (let n = 2; codes.has(own); n++) own = `${code.slice(0, 13)}.${n}`
    codes.add(own)
    return own
  }
  const outside = new Map<string, Treatment>()
  for (const row of rows) {
    if (cells(row).every((cell) => cell !== '') || row.treatment === '' || outside.has(row.treatment)) continue
    outside.set(row.treatment, {
      key: `outside-${outside.size + 1}`,
      code: row.treatment,
      name: row.treatment.slice(0, 200),
      colour: null,
      role: 'none',
      levels: levelsOf(row),
    })
  }
  const list = [
    // A name that the table gives a combination is its code, where it can be one.
    ...crossed.map((each) => {
      const named = whole ? '' : (names.get(JSON.stringify(bare.map((factor) => each.levels[factor.key]))) ?? '')
      return { ...each, code: free(named !== '' && named.length <= 16 ? named : each.code) }
    }),
    ...[...outside.values()].map((each) => ({ ...each, code: free(each.code) })),
  ]
  const control = list.find((each) => bare.length === 1 && bare[0]!.levels.find((level) => level.key === each.levels[bare[0]!.key])?.amount === 0) ?? list.find((each) => UNTREATED.test(each.name) || UNTREATED.test(each.code)) // prettier-ignore
  const treatments = treatmentsOf(
    bare,
    list.map((each) => (each === control ? { ...each, role: 'untreated control' as const } : each)),
  )
  const byName = new Map<string, Treatment>()
  for (const row of rows) {
    const found = treatmentOf(row)
    if (found && row.treatment !== '') byName.set(row.treatment, found)
  }
  function treatmentOf(row: VariedRow): Treatment | undefined {
    if (cells(row).some((cell) => cell === '')) return treatments.list.find((each) => each.key === outside.get(row.treatment)?.key)
    const levels = levelsOf(row)
    return treatments.list.find(
      (each) => bare.every((factor) => each.levels[factor.key] === levels[factor.key]) && !each.key.startsWith('outside-'),
    )
  }
  return {
    treatments,
    marks: (row) => {
      const found = treatmentOf(row)
      return found ? marksOf(found, bare) : null
    },
    called: (name) => byName.get(name) ?? treatments.list.find((each) => each.code === name),
  }
}

interface MadeFactor {
  readonly levels: Factor
  /** How each level stands in the table. */
  readonly written: readonly string[]
}

function made(columns: readonly Matched[], rows: readonly VariedRow[]): MadeFactor[] {
  const taken = new Set<string>()
  return columns.map((column, f) => {
    const amounts = new Map(
      rows.flatMap((row) => (row.amounts[f] === null || row.amounts[f] === undefined ? [] : [[row.levels[f]!, row.amounts[f]] as const])),
    )
    const own = rows.map((row) => row.levels[f]!)
    return factorOf(column, own, amounts.size > 0 && new Set(own.filter(Boolean)).size === amounts.size ? amounts : null, taken)
  })
}

function factorOf(
  { name, unit }: Pick<Matched, 'name' | 'unit'>,
  cells: readonly string[],
  amounts: ReadonlyMap<string, number> | null,
  taken: Set<string>,
): MadeFactor {
  const written = [...new Set(cells.filter(Boolean))]
  const numbers = written.map((cell) => amounts?.get(cell) ?? numberOf(cell))
  const measured = (unit !== '' || amounts !== null) && numbers.every((each) => each !== null && each >= 0) && findUnit(unit)
  const called = name.trim().slice(0, 80) || 'Treatment'
  // Room is left for a number: long names may begin alike.
  const begun = slug(called).slice(0, 36) || 'factor'
  let key = slug(called) || 'factor'
  for (let n = 2; taken.has(key) || RESERVED.has(key); n++) key = `${begun}-${n}`
  taken.add(key)
  const base: Factor =
    measured && unit !== ''
      ? { ...emptyFactor(key, 'rate'), name: called, measure: unit, of: nutrientIn(name) }
      : { ...emptyFactor(key, 'kind'), name: called }
  const order = written.map((cell, i) => ({ cell, number: numbers[i]! })).sort((a, b) => (numbers.every((each) => each !== null) ? a.number - b.number : a.cell.localeCompare(b.cell, 'en', { numeric: true }))) // prettier-ignore
  const named = levelsNamed(
    base,
    order.map(({ cell, number }) => (base.kind === 'rate' ? number : cell)),
  )
  // What stands in the table is the code, where it can be one and is no bare number.
  const coded = order.every(({ cell }) => cell.length <= 8 && (numberOf(cell) === null || base.kind === 'kind'))
  const levels = named.map((level, i): Level =>
    coded ? { ...level, code: order[i]!.cell } : UNTREATED.test(level.name) && base.kind === 'kind' ? { ...level, code: 'NONE' } : level,
  )
  return { levels: { ...base, levels }, written: order.map(({ cell }) => cell) }
}

/** A name as a key: small letters, digits and hyphens, beginning with a letter. */
export function slug(name: string): string {
  return name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '')
    .slice(0, 40)
    .replace(/-+$/, '')
}

/** The nutrient that a name is of: “N rate”, “nitrogen”. */
function nutrientIn(name: string): Factor['of'] {
  const found = ([['N', /^(?:n|nitrogen)\b/i], ['P', /^(?:p|phosphorus)\b/i], ['K', /^(?:k|potassium)\b/i], ['S', /^(?:s|sulphur|sulfur)\b/i], ['Mg', /^(?:mg|magnesium)\b/i]] as const).find(([, known]) => known.test(name)) // prettier-ignore
  return found ? { what: 'nutrient', nutrient: found[0] } : null
}
