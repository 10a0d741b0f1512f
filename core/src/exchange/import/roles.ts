import { findUnit } from '../../quantity/index.ts'
import type { Source } from './source-table.ts'

/** What a column can be. */
export interface Role {
  readonly key: RoleKey
  readonly name: string
  /** Names by which it is known, in small letters; the first that fits wins. */
  readonly known: RegExp | null
  /** Whether several columns may be it. */
  readonly several: boolean
}

export type RoleKey =
  | 'nothing'
  | 'site'
  | 'visit'
  | 'kind'
  | 'plot'
  | 'block'
  | 'bench'
  | 'main plot'
  | 'lies in'
  | 'row'
  | 'column'
  | 'x'
  | 'y'
  | 'width'
  | 'length'
  | 'turn'
  | 'walk'
  | 'treatment'
  | 'planned'
  | 'factor'
  | 'amount'
  | 'trait'
  | 'left out'
  | 'note'

/** All that a column can be; adding one is a line here and what it means in `layout.ts`. */
export const roles: readonly Role[] = [
  { key: 'site', name: 'Site', known: /^(?:site|location|field|farm|station|trial ?site)$/, several: false },
  { key: 'visit', name: 'Visit', known: /^(?:visit|occasion|sampling|reading date|harvest no\.?)$/, several: false },
  { key: 'kind', name: 'What it is (plot, pot …)', known: /^(?:kind|what|unit ?kind)$/, several: false },
  {
    key: 'plot',
    name: 'Number of the plot',
    known: /^(?:plot|pot|unit|bed|strip)(?: ?(?:no\.?|nr\.?|number|id|code|#))?$|^(?:no\.?|number|#)$/,
    several: false,
  },
  { key: 'main plot', name: 'Main plot', known: /^(?:main ?plot|whole ?plot|wp|mp)(?: ?(?:no\.?|number|id))?$/, several: false },
  { key: 'bench', name: 'Bench', known: /^(?:bench|table)(?: ?(?:no\.?|number|id))?$/, several: false },
  {
    key: 'block',
    name: 'Block',
    known: /^(?:block|blk|bl|bloc|rep|replicate|replication|repetition)(?: ?(?:no\.?|number|id))?$/,
    several: false,
  },
  { key: 'lies in', name: 'Lies in (block 1; row 2)', known: /^lies[ _]in$/, several: false },
  { key: 'row', name: 'Row', known: /^(?:row|range|tier)(?: ?(?:no\.?|number))?$/, several: false },
  { key: 'column', name: 'Column', known: /^(?:col|column|bay|pass|position|pos)(?: ?(?:no\.?|number))?$/, several: false },
  { key: 'x', name: 'Metres from the left', known: /^x(?: ?\[m\]| ?\(m\))?$/, several: false },
  { key: 'y', name: 'Metres from the front', known: /^y(?: ?\[m\]| ?\(m\))?$/, several: false },
  { key: 'width', name: 'Width of the plot, m', known: /^(?:plot )?width(?: ?\[m\]| ?\(m\))?$/, several: false },
  { key: 'length', name: 'Length of the plot, m', known: /^(?:plot )?length(?: ?\[m\]| ?\(m\))?$/, several: false },
  { key: 'turn', name: 'Turn of the plot, °', known: /^turn(?: ?\[°\])?$/, several: false },
  { key: 'walk', name: 'Order of the walk', known: /^(?:walk|order|walking order)$/, several: false },
  {
    key: 'treatment',
    name: 'Treatment',
    known: /^(?:treatment|treatments|trt|tmt|treat|entry|treatment ?(?:code|no\.?|number))$/,
    several: false,
  },
  { key: 'planned', name: 'Treatment as planned', known: /^(?:treatment[ _]planned|planned)$/, several: false },
  {
    key: 'factor',
    name: 'Something that is varied',
    known: /^(?:variety|cultivar|hybrid|genotype|rate|dose|level|product|source|irrigation|water|tillage|timing|(?:n|p|k) ?rate)\b/,
    several: true,
  },
  { key: 'amount', name: 'Amount of what is varied beside it', known: /_amount\b/, several: true },
  {
    key: 'trait',
    name: 'Measured',
    known: /(?:yield|weight|height|count|score|moisture|protein|mass|length|number of|density|%)/,
    several: true,
  },
  { key: 'left out', name: 'Left out, with the reason', known: /^left[ _]out$/, several: false },
  { key: 'note', name: 'Notes', known: /^(?:notes?|remarks?|comments?)$/, several: false },
  { key: 'nothing', name: 'Not taken over', known: null, several: true },
]

export interface Matched {
  readonly role: RoleKey
  /** How what is varied or measured is called. */
  readonly name: string
  /** Its measure, where numbers have one. */
  readonly unit: string
}

/** Whether a cell is a number as people write them. */
export function numberOf(cell: string): number | null {
  const text = cell.trim().replace(/[\s\u00a0\u202f]/g, '').replace('\u2212', '-') // prettier-ignore
  if (!/^[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?$/i.test(text)) return null
  const value = Number(text.replace(',', '.'))
  return Number.isFinite(value) ? value : null
}

export const DATE = /^\d{4}-\d{2}-\d{2}$/
export const YES_NO = /^(?:yes|no|y|n|true|false)$/i

/** Cells that say that there is nothing. */
export const NOTHING_THERE = /^(?:|\.|-|–|—|na|n\/a|nan|null|none|missing|\*)$/i

/** What each column is likely to be: from its name, and where that tells nothing from what stands in it. */
export function proposeRoles({ columns, rows }: Source): Matched[] {
  const taken = new Set<RoleKey>()
  const cells = columns.map((_, c) => rows.map((row) => row.cells[c]!).filter((cell) => !NOTHING_THERE.test(cell)))
  const named = columns.map((column): RoleKey | null => {
    const { name } = readHeading(column)
    const said = column.trim().toLowerCase()
    const found = roles.find(
      (role) => role.known && (role.known.test(said) || role.known.test(name.toLowerCase())) && (role.several || !taken.has(role.key)),
    )
    if (found) taken.add(found.key)
    return found?.key ?? null
  })
  return columns.map((column, c): Matched => {
    const { name, unit } = readHeading(column)
    const own = cells[c]!
    const guess = named[c] ?? guessed(own, rows.length)
    // A rate that is measured per plot differs in each; what is varied comes back.
    const few = new Set(own).size <= Math.max(2, own.length / 2)
    const role = guess === 'factor' && !few ? 'trait' : guess === 'trait' && own.length === 0 ? 'nothing' : guess
    return {
      role,
      name: role === 'factor' ? (NUTRIENTS[name.replace(/[\s-]*(?:rate|dose|level|amount)s?$/i, '').toLowerCase()] ?? name) : name,
      unit,
    }
  })
}

/** Rates of these are called by the nutrient. */
const NUTRIENTS: Readonly<Record<string, string>> = { n: 'Nitrogen', p: 'Phosphorus', k: 'Potassium', s: 'Sulphur', mg: 'Magnesium' }

/** From what stands in a column whose name tells nothing: numbers that differ are measured, words that come back are varied. */
function guessed(cells: readonly string[], rows: number): RoleKey {
  if (cells.length === 0) return 'nothing'
  // Days, and yes or no, are seen and not given.
  if ([DATE, YES_NO].some((each) => cells.every((cell) => each.test(cell)))) return 'trait'
  const distinct = new Set(cells.map((cell) => cell.toLowerCase())).size
  const numbers = cells.every((cell) => numberOf(cell.replace(/^[<>]\s*/, '')) !== null)
  if (numbers)
    return distinct > Math.max(8, cells.length / 4)
      ? 'trait'
      : distinct > 1 && distinct <= 12 && cells.length >= 2 * distinct
        ? 'factor'
        : 'trait'
  return distinct > 1 && distinct <= Math.max(2, rows / 2) ? 'factor' : distinct === 1 ? 'nothing' : 'note'
}

/** “Grain yield (t/ha)”, “yield_t/ha”, “sugar [%]”: the name, and the measure where one is known. */
function readHeading(column: string): { name: string; unit: string } {
  const parts = /^(.*?)[\s_]*(?:\[([^\]]*)\]|\(([^)]*)\))\s*$/.exec(column)
  const unit = findUnit((parts?.[2] ?? parts?.[3] ?? '').trim())
  const name = (unit && parts ? parts[1]! : column).replaceAll('_', ' ').trim() || column
  return { name: name === name.toLowerCase() ? name.charAt(0).toUpperCase() + name.slice(1) : name, unit: parts && unit ? unit.symbol : '' }
}
